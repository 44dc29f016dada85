/* The theatre's own program in a simulated ATmega328P: keys of the wand and of the drawer go to its pin;
 * relay, stepper, strip and bursts are read from its pins, each by a model of its device. Prints a line per
 * check; exit code 1 if one is wrong. */
#include "chip.h"
#include "press.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { CYCLES_PER_MS = 16000, SPOT = 0, BELL = 1 };

static unsigned failures;
static uint8_t newest[3 * CHIP_PIXELS];

static void check(bool is_right, const char *what)
{
    (void)printf("%-8s %s\n", is_right ? "right" : "WRONG", what);
    failures += !is_right;
}

/* True if the theatre shows its chase of three colours, one colour, or nothing. */
static unsigned count_wrong(const uint8_t *bytes)
{
    static const uint8_t grb[3][3] = {{0x40, 0xff, 0x00}, {0x00, 0x80, 0xff}, {0x00, 0x20, 0x40}};
    unsigned fewest = CHIP_PIXELS;
    memcpy(newest, bytes, sizeof newest);
    for (unsigned shift = 0; shift < 12; shift++) {
        unsigned wrong = 0;
        for (unsigned i = 0; i < CHIP_PIXELS; i++) {
            wrong += memcmp(&bytes[(size_t)3 * i], grb[(i + shift) / 4 % 3], 3) != 0;
        }
        fewest = wrong < fewest ? wrong : fewest;
    }
    unsigned others = 0;
    for (unsigned i = 1; i < CHIP_PIXELS; i++) {
        others += memcmp(bytes, &bytes[(size_t)3 * i], 3) != 0;
    }
    return others == 0 ? 0 : fewest;
}

static void wait_ms(chip *mcu, unsigned ms)
{
    chip_run(mcu, chip_now(mcu) + (uint64_t)ms * CYCLES_PER_MS);
}

static bool is_all(uint8_t red, uint8_t green, uint8_t blue)
{
    bool is_so = true;
    for (unsigned i = 0; i < CHIP_PIXELS; i++) {
        is_so &= newest[3 * i] == green && newest[3 * i + 1] == red && newest[3 * i + 2] == blue;
    }
    return is_so;
}

int main(int argc, char **argv)
{
    if (argc != 5 && argc != 6) {
        fprintf(
            stderr,
            "theatre: say which program, the receiver's pin, how many bytes of flash are wanted, how many "
            "are borne, and how many of RAM are not ours\n");
        return 2;
    }
    const unsigned max_flash = (unsigned)strtoul(argv[4], NULL, 10);
    enum { WANTED_RAM = 640, BORNE_RAM = 816 };
    const unsigned max_ram = BORNE_RAM + (argc == 6 ? (unsigned)strtoul(argv[5], NULL, 10) : 0);
    chip *const mcu = chip_open(argv[1], (unsigned)strtoul(argv[2], NULL, 10), 4, 7, count_wrong);
    chip_observed *const spot = chip_relay_of(mcu, SPOT);
    chip_observed *const bell = chip_relay_of(mcu, BELL);
    double runs_us[256];
    wait_ms(mcu, 2300);
    check(spot->count == 2, "spot rests dark, and is lit when its lamp has cooled for 2 s");
    press(mcu, &drom_nec_waveform, 0x21, 0x43, 0);
    wait_ms(mcu, 1000);
    const double pulse_ms =
        (double)(bell->at[(bell->count - 1) % 64] - bell->at[(bell->count - 2) % 64]) / CYCLES_PER_MS;
    (void)printf("the bell rang for %.2f ms\n", pulse_ms);
    check(bell->count >= 2 && pulse_ms > 795 && pulse_ms < 806, "play rings the bell for 800 ms");
    press(mcu, &drom_nec_waveform, 0x21, 0x45, 0);
    wait_ms(mcu, 300);
    check(spot->count == 3, "power toggles the spot");
    press(mcu, &drom_nec_waveform, 0x21, 0x0c, 0);
    wait_ms(mcu, 300);
    check(is_all(0xff, 0, 0), "red fills the footlights red");
    press(mcu, &drom_nec_waveform, 0x21, 0x08, 0);
    press(mcu, &drom_nec_waveform, 0x21, 0x18, 0);
    wait_ms(mcu, 8500);
    check(chip_stepper_of(mcu)->position == 2048 && chip_stepper_of(mcu)->bad_steps == 0,
          "up turns the stage once");
    (void)chip_take_burst(mcu, runs_us, 256);
    press(mcu, &drom_nec_waveform, 0x21, 0x09, 0);
    wait_ms(mcu, 400);
    const unsigned count = chip_take_burst(mcu, runs_us, 256);
    uint32_t bits = 0;
    for (unsigned i = 0; i < 32 && count == 67; i++) {
        bits |= (uint32_t)(runs_us[3 + 2 * i] > 1100) << i;
    }
    check(count == 67 && runs_us[0] > 4400 && runs_us[0] < 4600 && bits == UINT32_C(0xf8070707),
          "vol_up sends the amplifier its volume_up");
    static const struct {
        const drom_waveform *waveform;
        uint32_t address;
        uint16_t command;
    } drawer[] = {{&drom_samsung32_waveform, 0x1c, 0x2a}, {&drom_jvc_waveform, 0x61, 0x17},
                  {&drom_kaseikyo_waveform, 0x40, 0x35},  {&drom_sirc12_waveform, 0x0b, 0x25},
                  {&drom_rc5_waveform, 0x11, 0x23},       {&drom_lg28_waveform, 0x5d, 0x1c3},
                  {&drom_rca_waveform, 0x0c, 0x6e}};
    for (size_t i = 0; i < sizeof drawer / sizeof drawer[0]; i++) {
        const unsigned before = bell->count;
        press(mcu, drawer[i].waveform, drawer[i].address, drawer[i].command, 0);
        wait_ms(mcu, 600);
        check(bell->count == before + 2, drawer[i].waveform->protocol->id);
    }
    press(mcu, &drom_nec_waveform, 0x21, 0x46, 0);
    wait_ms(mcu, 300);
    check(is_all(0, 0, 0), "exit darkens the footlights");
    check(chip_strip_of(mcu)->wrong_pixels == 0 && chip_strip_of(mcu)->cut == 0 &&
              chip_strip_of(mcu)->hasty == 0 && chip_strip_of(mcu)->refreshes > 500,
          "no pixel was ever wrong, and no picture came too soon");
    const unsigned ram = chip_static(mcu) - chip_size_of(mcu, "pixels_");
    const double poll_us = (double)chip_worst_poll(mcu) / 16;
    check((double)chip_strip_of(mcu)->longest_gap / 16 < 9 && chip_worst_capture(mcu) <= 80 &&
              poll_us <= 500 && chip_deepest_stack(mcu) <= 256,
          "the budgets of time and stack hold");
    check(ram <= max_ram && chip_flash(mcu) <= max_flash, "RAM and flash are no more than they have been");
    (void)printf(
        "strip: %u refreshes, longest gap %.2f us of 9; capture interrupt: %llu cycles of 80; poll: %.0f us "
        "of 500\nRAM: %u bytes, where %u are wanted and %u borne; stack: %u of 256; flash: %u, where %s are "
        "wanted and %u borne\n",
        chip_strip_of(mcu)->refreshes, (double)chip_strip_of(mcu)->longest_gap / 16,
        (unsigned long long)chip_worst_capture(mcu), poll_us, ram, max_ram - BORNE_RAM + WANTED_RAM, max_ram,
        chip_deepest_stack(mcu), chip_flash(mcu), argv[3], max_flash);
    check(chip_is_alive(mcu), "the program is still running");
    chip_close(mcu);
    return failures > 0 ? 1 : 0;
}
