/* The protocols of the library: one line each. DROM_PROTOCOL(NAME, name, number)
 *
 * The number identifies the protocol in codes and never changes: a stored code keeps its meaning in any
 * firmware. `name` gives the rows drom_NAME and drom_NAME_waveform of src/protocols/. */

/* clang-format off */
DROM_PROTOCOL(NEC, nec, 1)
DROM_PROTOCOL(NEC_EXTENDED, nec_extended, 2)
DROM_PROTOCOL(NEC_UNCHECKED, nec_unchecked, 3)
DROM_PROTOCOL(SAMSUNG32, samsung32, 4)
DROM_PROTOCOL(LG28, lg28, 5)
DROM_PROTOCOL(JVC, jvc, 6)
DROM_PROTOCOL(KASEIKYO, kaseikyo, 7)
DROM_PROTOCOL(DENON, denon, 8)
DROM_PROTOCOL(SHARP, sharp, 9)
DROM_PROTOCOL(RCA, rca, 10)
DROM_PROTOCOL(MITSUBISHI, mitsubishi, 11)
DROM_PROTOCOL(DISH, dish, 12)
DROM_PROTOCOL(THOMSON, thomson, 13)
DROM_PROTOCOL(RECS80, recs80, 14)
DROM_PROTOCOL(SIRC12, sirc12, 15)
DROM_PROTOCOL(SIRC15, sirc15, 16)
DROM_PROTOCOL(SIRC20, sirc20, 17)
DROM_PROTOCOL(RC5, rc5, 18)
DROM_PROTOCOL(RC6, rc6, 19)
DROM_PROTOCOL(RC6A, rc6a, 20)
DROM_PROTOCOL(NRC17, nrc17, 21)
DROM_PROTOCOL(RCMM12, rcmm12, 22)
DROM_PROTOCOL(RCMM24, rcmm24, 23)
DROM_PROTOCOL(RCMM32, rcmm32, 24)
/* clang-format on */

#undef DROM_PROTOCOL
