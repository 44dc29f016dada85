/* Boards as tables. Pin names are those printed on the board; the numbers, as a port counts them. The times
 * of the ATmega328P's handlers are measured by './run bench chip'; those of the others, which have no port
 * yet, are what such a port has to keep to. */
#include "boards.h"

#include <glib.h>
#include <stddef.h>
#include <string.h>

#define PLAIN(name, number)                                                                                  \
    {                                                                                                        \
        name, number, NO_TIMER, false, false                                                                 \
    }
#define PWM(name, number, timer)                                                                             \
    {                                                                                                        \
        name, number, timer, false, false                                                                    \
    }

/* ATmega48A/PA/88A/PA/168A/PA/328/P data sheet: "Pin Configurations" for OC0A to OC2B and ICP1; "Speed
 * Grades"; "Absolute Maximum Ratings" (40 mA a pin, 200 mA in all); "EEPROM Data Memory" (100,000 writes).
 * The board's supply pin passes on what USB gives, 500 mA. */
static const board_pin mega328_pins[] = {
    PLAIN("0", 0),
    PLAIN("1", 1),
    PLAIN("2", 2),
    {"3", 3, 2, false, true},
    PLAIN("4", 4),
    PWM("5", 5, 0),
    PWM("6", 6, 0),
    PLAIN("7", 7),
    {"8", 8, NO_TIMER, true, false},
    PWM("9", 9, 1),
    PWM("10", 10, 1),
    PWM("11", 11, 2),
    PLAIN("12", 12),
    PLAIN("13", 13),
    PLAIN("A0", 14),
    PLAIN("A1", 15),
    PLAIN("A2", 16),
    PLAIN("A3", 17),
    PLAIN("A4", 18),
    PLAIN("A5", 19),
    {0},
};

/* ATmega16U4/32U4 data sheet: "Pin Configurations" for OC0A to OC4D, ICP1 (4) and ICP3 (13); same ratings. */
static const board_pin mega32u4_pins[] = {
    PLAIN("0", 0),
    PLAIN("1", 1),
    PLAIN("2", 2),
    PWM("3", 3, 0),
    {"4", 4, NO_TIMER, true, false},
    PWM("5", 5, 3),
    {"6", 6, 4, false, true},
    PLAIN("7", 7),
    PLAIN("8", 8),
    PWM("9", 9, 1),
    PWM("10", 10, 1),
    PWM("11", 11, 0),
    PLAIN("12", 12),
    {"13", 13, 4, true, false},
    PLAIN("A0", 18),
    PLAIN("A1", 19),
    PLAIN("A2", 20),
    PLAIN("A3", 21),
    PLAIN("A4", 22),
    PLAIN("A5", 23),
    {0},
};

/* RP2040 data sheet: "GPIO functions" (each pair of pins has a PWM slice), "PIO" (any pin can be stamped and
 * can send pixels), "Electrical characteristics" (12 mA a pin, 50 mA in all). */
static const board_pin rp2040_pins[] = {
    {"GP0", 0, 0, true, true},   {"GP1", 1, 0, true, true},   {"GP2", 2, 1, true, true},
    {"GP3", 3, 1, true, true},   {"GP4", 4, 2, true, true},   {"GP5", 5, 2, true, true},
    {"GP6", 6, 3, true, true},   {"GP7", 7, 3, true, true},   {"GP8", 8, 4, true, true},
    {"GP9", 9, 4, true, true},   {"GP10", 10, 5, true, true}, {"GP11", 11, 5, true, true},
    {"GP12", 12, 6, true, true}, {"GP13", 13, 6, true, true}, {"GP14", 14, 7, true, true},
    {"GP15", 15, 7, true, true}, {"GP16", 16, 0, true, true}, {"GP17", 17, 0, true, true},
    {"GP18", 18, 1, true, true}, {"GP19", 19, 1, true, true}, {"GP20", 20, 2, true, true},
    {"GP21", 21, 2, true, true}, {"GP22", 22, 3, true, true}, {"GP26", 26, 5, true, true},
    {"GP27", 27, 5, true, true}, {"GP28", 28, 6, true, true}, {0},
};

/* ESP32 series data sheet: "IO MUX", "RMT" (any pin can be stamped and can send), "LED PWM", "DC
 * characteristics" (40 mA a pin). 34 to 39 are inputs only, and 6 to 11 belong to the flash. */
static const board_pin esp32_pins[] = {
    {"0", 0, 0, true, true},
    {"2", 2, 0, true, true},
    {"4", 4, 0, true, true},
    {"5", 5, 0, true, true},
    {"12", 12, 0, true, true},
    {"13", 13, 0, true, true},
    {"14", 14, 0, true, true},
    {"15", 15, 0, true, true},
    {"16", 16, 0, true, true},
    {"17", 17, 0, true, true},
    {"18", 18, 0, true, true},
    {"19", 19, 0, true, true},
    {"21", 21, 0, true, true},
    {"22", 22, 0, true, true},
    {"23", 23, 0, true, true},
    {"25", 25, 0, true, true},
    {"26", 26, 0, true, true},
    {"27", 27, 0, true, true},
    {"32", 32, 0, true, true},
    {"33", 33, 0, true, true},
    {"34", 34, NO_TIMER, true, false},
    {"35", 35, NO_TIMER, true, false},
    {"36", 36, NO_TIMER, true, false},
    {"39", 39, NO_TIMER, true, false},
    {0},
};

static const board boards[] = {
    {
        .id = "mega328",
        .chip = "ATmega328P",
        .source = "ATmega328P data sheet, and './run bench chip'",
        .min_mhz = 1,
        .max_mhz = 20,
        .facts_mhz = 16,
        .pins = mega328_pins,
        .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
        .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
        .supply_pin = "5V",
        .logic_pin = "5V",
        .pins_text = "0 to 13 and A0 to A5",
        .clock_timer = 1,
        .carrier_timer = 2,
        .port = "drom_avr",
        .masked_us = 32,
        .capture_us = 5,
        .alarm_us = 6.4,
        .pwm_bits = 8,
        .poll_us = 175,
        .ram = 2048,
        .longest_poll_us = 500,
        .store = {.bytes = 1024, .page_bytes = 32},
        .store_writes = 100000,
        .pin_ma = 40,
        .all_pins_ma = 200,
        .supply_ma = 500,
    },
    {
        .id = "mega32u4",
        .chip = "ATmega32U4",
        .source = "ATmega32U4 data sheet",
        .min_mhz = 1,
        .max_mhz = 16,
        .facts_mhz = 16,
        .pins = mega32u4_pins,
        .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
        .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
        .supply_pin = "5V",
        .logic_pin = "5V",
        .pins_text = "0 to 13 and A0 to A5",
        .clock_timer = 1,
        .carrier_timer = 4,
        .masked_us = 32,
        .capture_us = 5,
        .alarm_us = 6.4,
        .pwm_bits = 8,
        .poll_us = 175,
        .ram = 2560,
        .longest_poll_us = 500,
        .store = {.bytes = 1024, .page_bytes = 32},
        .store_writes = 100000,
        .pin_ma = 40,
        .all_pins_ma = 200,
        .has_usb = true,
        .supply_ma = 500,
    },
    {
        .id = "rp2040",
        .chip = "RP2040",
        .source = "RP2040 data sheet",
        .min_mhz = 10,
        .max_mhz = 133,
        .facts_mhz = 133,
        .pins = rp2040_pins,
        .left = "GP0 GP1 GND GP2 GP3 GP4 GP5 GND GP6 GP7 GP8 GP9 GND GP10 GP11 GP12 GP13 GND GP14 GP15",
        .right = "VBUS VSYS GND 3V3_EN 3V3 ADC_VREF GP28 GND GP27 GP26 RUN GP22 GND GP21 GP20 GP19 GP18 GND "
                 "GP17 GP16",
        .supply_pin = "VBUS",
        .logic_pin = "3V3",
        .pins_text = "GP0 to GP22 and GP26 to GP28",
        .clock_timer = NO_TIMER,
        .carrier_timer = NO_TIMER,
        .sends_by_itself = true,
        .masked_us = 5,
        .capture_us = 1,
        .alarm_us = 1,
        .pwm_bits = 16,
        .poll_us = 30,
        .ram = 270336,
        .pin_ma = 12,
        .all_pins_ma = 50,
        .has_usb = true,
        .supply_ma = 500,
    },
    {
        .id = "esp32",
        .chip = "ESP32",
        .source = "ESP32 series data sheet",
        .min_mhz = 80,
        .max_mhz = 240,
        .facts_mhz = 240,
        .pins = esp32_pins,
        .left = "3V3 EN 36 39 34 35 32 33 25 26 27 14 12 GND 13 D2 D3 CMD 5V",
        .right = "GND 23 22 TX RX 21 GND 19 18 5 17 16 4 0 2 15 D1 D0 CLK",
        .supply_pin = "5V",
        .logic_pin = "3V3",
        .pins_text = "0, 2, 4, 5, 12 to 19, 21 to 23, 25 to 27, 32 to 36 and 39",
        .clock_timer = NO_TIMER,
        .carrier_timer = NO_TIMER,
        .sends_by_itself = true,
        .masked_us = 50,
        .capture_us = 3,
        .alarm_us = 3,
        .pwm_bits = 16,
        .poll_us = 20,
        .ram = 327680,
        .pin_ma = 40,
        .all_pins_ma = 1200,
        .supply_ma = 500,
    },
};

static const char *const ids[] = {"mega328", "mega32u4", "rp2040", "esp32", NULL};

G_STATIC_ASSERT(G_N_ELEMENTS(ids) == G_N_ELEMENTS(boards) + 1);

/* The same boards, as the common maker IDE's builder calls them. */
static const char *const aliases[][2] = {
    {"uno", "mega328"},       {"nano", "mega328"},   {"pro", "mega328"},
    {"leonardo", "mega32u4"}, {"micro", "mega32u4"}, {"rpipico", "rp2040"},
};

const board *board_by_id(const char *id)
{
    for (size_t i = 0; i < G_N_ELEMENTS(aliases); i++) {
        id = strcmp(aliases[i][0], id) == 0 ? aliases[i][1] : id;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        if (strcmp(boards[i].id, id) == 0) {
            return &boards[i];
        }
    }
    return NULL;
}

const char *const *board_ids(void)
{
    return ids;
}

/* "D7" is what some print beside pin 7. */
const board_pin *board_pin_by_name(const board *chosen, const char *name)
{
    const bool has_letter = g_ascii_toupper(name[0]) == 'D' && g_ascii_isdigit(name[1]);
    name += has_letter ? 1 : 0;
    for (const board_pin *pin = chosen->pins; pin->name != NULL; pin++) {
        if (g_ascii_strcasecmp(pin->name, name) == 0) {
            return pin;
        }
    }
    return NULL;
}
