/* ATmega328P: "Pin Configurations" and "Register Summary" of the data sheet; ATmega32U4 and ATmega2560
 * likewise. */
#include "mcus.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const mcu mcus[] = {
    {.name = "atmega328p",
     .pins = 20,
     .places = "D0 D1 D2 D3 D4 D5 D6 D7 B0 B1 B2 B3 B4 B5 C0 C1 C2 C3 C4 C5",
     .pwm = {{5, 0x44, 5, 0x48}, {6, 0x44, 7, 0x47}, {3, 0xb0, 5, 0xb4}, {11, 0xb0, 7, 0xb3}}},
    {.name = "atmega32u4",
     .pins = 24,
     .places = "D2 D3 D1 D0 D4 C6 D7 E6 B4 B5 B6 B7 D6 C7 B3 B1 B2 B0 F7 F6 F5 F4 F1 F0",
     .pwm = {{3, 0x44, 5, 0x48}, {11, 0x44, 7, 0x47}, {5, 0x90, 7, 0x98}},
     .carrier = {5, 0x90, 7, 0x98}}, /* the simulated timer 3 has no mode with a top of ICR3 */
    {.name = "atmega2560",
     .pins = 70,
     .places = "E0 E1 E4 E5 G5 E3 H3 H4 H5 H6 B4 B5 B6 B7 J1 J0 H1 H0 D3 D2 D1 D0 A0 A1 A2 A3 A4 A5 A6 A7 "
               "C7 C6 C5 C4 C3 C2 C1 C0 D7 G2 G1 G0 L7 L6 L5 L4 L3 L2 L1 L0 B3 B2 B1 B0 F0 F1 F2 F3 F4 F5 "
               "F6 F7 K0 K1 K2 K3 K4 K5 K6 K7",
     .pwm = {{4, 0x44, 5, 0x48},
             {13, 0x44, 7, 0x47},
             {9, 0xb0, 5, 0xb4},
             {10, 0xb0, 7, 0xb3},
             {5, 0x90, 7, 0x98},
             {2, 0x90, 5, 0x9a},
             {3, 0x90, 3, 0x9c},
             {6, 0xa0, 7, 0xa8},
             {7, 0xa0, 5, 0xaa},
             {8, 0xa0, 3, 0xac}}},
};

const mcu *mcu_by_name(const char *name)
{
    for (size_t i = 0; i < sizeof mcus / sizeof mcus[0]; i++) {
        if (strcmp(mcus[i].name, name) == 0) {
            return &mcus[i];
        }
    }
    fprintf(stderr, "there is no chip '%s' here; known are atmega328p, atmega32u4 and atmega2560\n", name);
    exit(2);
}

char mcu_port(const mcu *chip, unsigned pin)
{
    return chip->places[3 * pin];
}

unsigned mcu_bit(const mcu *chip, unsigned pin)
{
    return (unsigned)(chip->places[3 * pin + 1] - '0');
}

unsigned mcu_port_address(const mcu *chip, unsigned pin)
{
    static const char letters[] = "ABCDEFGHJKL";
    const unsigned number = (unsigned)(strchr(letters, mcu_port(chip, pin)) - letters);
    return number < 7 ? 0x22 + 3 * number : 0x102 + 3 * (number - 7);
}
