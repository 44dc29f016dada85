/* Boards as tables. Pin names are printed on the board; numbers are the port's. Times of the ATmega328P's
 * handlers are measured by './run bench chip'; those of others, without a port, are what a port must keep. */
#include "plan/board/boards.h"

#include <glib.h>
#include <stddef.h>
#include <string.h>

/* Name, number, PWM timer, what else it can do, group, other purpose. */
#define PIN(name, number, timer, can, group, note)                                                           \
    {                                                                                                        \
        name, number, timer, ((can)&LATCH) != 0, ((can)&STAMP) != 0, ((can)&CARRIER) != 0,                   \
            ((can)&EDGES) != 0, ((can)&INPUT) != 0, group, note                                              \
    }

/* The timer latches edges; an interrupt or other hardware stamps them; it has the carrier; it has timed
 * edges; it is an input only. */
enum { LATCH = 1 << 0, STAMP = 1 << 1, CARRIER = 1 << 2, EDGES = 1 << 3, INPUT = 1 << 4 };

static const char serial[] = "is for the serial line and uploads";
static const char blinking[] = "lights the board's LED, and blinks at each reset";
static const char boot[] = "decides at a reset how the chip starts";

/* ATmega48A/PA/88A/PA/168A/PA/328/P data sheet: "Pin Configurations" for OC0A to OC2B and ICP1; "Speed
 * Grades"; "DC Characteristics" (20 mA a pin at 5 V; 100 mA for ports C, B with D5 to D7, and D0 to D4 each);
 * "Absolute Maximum Ratings" (200 mA in all); "EEPROM Data Memory" (100,000 writes). The board's supply pin
 * passes on what USB gives, 500 mA. Boot loaders: 512 bytes, of older boards 2048. */
static const board_pin mega328_pins[] = {
    PIN("0", 0, NO_TIMER, STAMP | EDGES, 3, serial),
    PIN("1", 1, NO_TIMER, STAMP | EDGES, 3, serial),
    PIN("2", 2, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("3", 3, 2, STAMP | EDGES | CARRIER, 3, NULL),
    PIN("4", 4, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("5", 5, 0, STAMP | EDGES, 2, NULL),
    PIN("6", 6, 0, STAMP | EDGES, 2, NULL),
    PIN("7", 7, NO_TIMER, STAMP | EDGES, 2, NULL),
    PIN("8", 8, NO_TIMER, LATCH | STAMP | EDGES, 2, NULL),
    PIN("9", 9, 1, STAMP | EDGES, 2, NULL),
    PIN("10", 10, 1, STAMP | EDGES, 2, NULL),
    PIN("11", 11, 2, STAMP | EDGES, 2, NULL),
    PIN("12", 12, NO_TIMER, STAMP | EDGES, 2, NULL),
    PIN("13", 13, NO_TIMER, STAMP | EDGES, 2, blinking),
    PIN("A0", 14, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("A1", 15, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("A2", 16, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("A3", 17, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("A4", 18, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("A5", 19, NO_TIMER, STAMP | EDGES, 1, NULL),
    {0},
};

/* ATmega16U4/32U4 data sheet: "Pin Configurations" for OC0A, OC0B, OC1A, OC1B and OC3A, and ICP1 (4); "DC
 * Characteristics" (20 mA a pin, 100 mA for ports B, C, D, and E with F). Timer 4's pins have no PWM here. */
static const board_pin mega32u4_pins[] = {
    PIN("0", 0, NO_TIMER, STAMP | EDGES, 3, serial),
    PIN("1", 1, NO_TIMER, STAMP | EDGES, 3, serial),
    PIN("2", 2, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("3", 3, 0, STAMP | EDGES, 3, NULL),
    PIN("4", 4, NO_TIMER, LATCH | EDGES, 3, NULL),
    PIN("5", 5, 3, CARRIER, 2, NULL),
    PIN("6", 6, NO_TIMER, EDGES, 3, NULL),
    PIN("7", 7, NO_TIMER, STAMP | EDGES, 4, NULL),
    PIN("8", 8, NO_TIMER, STAMP | EDGES, 1, NULL),
    PIN("9", 9, 1, STAMP | EDGES, 1, NULL),
    PIN("10", 10, 1, STAMP | EDGES, 1, NULL),
    PIN("11", 11, 0, STAMP | EDGES, 1, NULL),
    PIN("12", 12, NO_TIMER, EDGES, 3, NULL),
    PIN("13", 13, NO_TIMER, 0, 2, blinking),
    PIN("A0", 18, NO_TIMER, EDGES, 4, NULL),
    PIN("A1", 19, NO_TIMER, EDGES, 4, NULL),
    PIN("A2", 20, NO_TIMER, EDGES, 4, NULL),
    PIN("A3", 21, NO_TIMER, EDGES, 4, NULL),
    PIN("A4", 22, NO_TIMER, EDGES, 4, NULL),
    PIN("A5", 23, NO_TIMER, EDGES, 4, NULL),
    {0},
};

/* ATmega640/V-1280/V-1281/V-2560/V-2561/V data sheet: "Pin Configurations" for OC0A to OC4C; "DC
 * Characteristics" (20 mA a pin at 5 V; 200 mA for each of ports A, J and G2; C, D, L and G0 to G1; B, H and
 * G3 to G4; 100 mA for E and G5, and for F and K: 100 is used for all). Timer 5's pins have no PWM here. */
static const board_pin mega2560_pins[] = {
    PIN("0", 0, NO_TIMER, 0, 4, serial),
    PIN("1", 1, NO_TIMER, 0, 4, serial),
    PIN("2", 2, 3, STAMP, 4, NULL),
    PIN("3", 3, 3, STAMP, 4, NULL),
    PIN("4", 4, 0, 0, 4, NULL),
    PIN("5", 5, 3, 0, 4, NULL),
    PIN("6", 6, 4, 0, 3, NULL),
    PIN("7", 7, 4, 0, 3, NULL),
    PIN("8", 8, 4, 0, 3, NULL),
    PIN("9", 9, 2, CARRIER, 3, NULL),
    PIN("10", 10, 2, STAMP | EDGES, 3, NULL),
    PIN("11", 11, 1, STAMP | EDGES, 3, NULL),
    PIN("12", 12, 1, STAMP | EDGES, 3, NULL),
    PIN("13", 13, 0, STAMP | EDGES, 3, blinking),
    PIN("14", 14, NO_TIMER, 0, 1, NULL),
    PIN("15", 15, NO_TIMER, 0, 1, NULL),
    PIN("16", 16, NO_TIMER, 0, 3, NULL),
    PIN("17", 17, NO_TIMER, 0, 3, NULL),
    PIN("18", 18, NO_TIMER, STAMP, 2, NULL),
    PIN("19", 19, NO_TIMER, STAMP, 2, NULL),
    PIN("20", 20, NO_TIMER, STAMP, 2, NULL),
    PIN("21", 21, NO_TIMER, STAMP, 2, NULL),
    PIN("22", 22, NO_TIMER, EDGES, 1, NULL),
    PIN("23", 23, NO_TIMER, EDGES, 1, NULL),
    PIN("24", 24, NO_TIMER, EDGES, 1, NULL),
    PIN("25", 25, NO_TIMER, EDGES, 1, NULL),
    PIN("26", 26, NO_TIMER, EDGES, 1, NULL),
    PIN("27", 27, NO_TIMER, EDGES, 1, NULL),
    PIN("28", 28, NO_TIMER, EDGES, 1, NULL),
    PIN("29", 29, NO_TIMER, EDGES, 1, NULL),
    PIN("30", 30, NO_TIMER, EDGES, 2, NULL),
    PIN("31", 31, NO_TIMER, EDGES, 2, NULL),
    PIN("32", 32, NO_TIMER, EDGES, 2, NULL),
    PIN("33", 33, NO_TIMER, EDGES, 2, NULL),
    PIN("34", 34, NO_TIMER, EDGES, 2, NULL),
    PIN("35", 35, NO_TIMER, EDGES, 2, NULL),
    PIN("36", 36, NO_TIMER, EDGES, 2, NULL),
    PIN("37", 37, NO_TIMER, EDGES, 2, NULL),
    PIN("38", 38, NO_TIMER, 0, 2, NULL),
    PIN("39", 39, NO_TIMER, 0, 1, NULL),
    PIN("40", 40, NO_TIMER, 0, 2, NULL),
    PIN("41", 41, NO_TIMER, 0, 2, NULL),
    PIN("42", 42, NO_TIMER, 0, 2, NULL),
    PIN("43", 43, NO_TIMER, 0, 2, NULL),
    PIN("44", 44, NO_TIMER, 0, 2, NULL),
    PIN("45", 45, NO_TIMER, 0, 2, NULL),
    PIN("46", 46, NO_TIMER, 0, 2, NULL),
    PIN("47", 47, NO_TIMER, 0, 2, NULL),
    PIN("48", 48, NO_TIMER, 0, 2, NULL),
    PIN("49", 49, NO_TIMER, 0, 2, NULL),
    PIN("50", 50, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("51", 51, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("52", 52, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("53", 53, NO_TIMER, STAMP | EDGES, 3, NULL),
    PIN("A0", 54, NO_TIMER, 0, 5, NULL),
    PIN("A1", 55, NO_TIMER, 0, 5, NULL),
    PIN("A2", 56, NO_TIMER, 0, 5, NULL),
    PIN("A3", 57, NO_TIMER, 0, 5, NULL),
    PIN("A4", 58, NO_TIMER, 0, 5, NULL),
    PIN("A5", 59, NO_TIMER, 0, 5, NULL),
    PIN("A6", 60, NO_TIMER, 0, 5, NULL),
    PIN("A7", 61, NO_TIMER, 0, 5, NULL),
    PIN("A8", 62, NO_TIMER, 0, 5, NULL),
    PIN("A9", 63, NO_TIMER, 0, 5, NULL),
    PIN("A10", 64, NO_TIMER, 0, 5, NULL),
    PIN("A11", 65, NO_TIMER, 0, 5, NULL),
    PIN("A12", 66, NO_TIMER, 0, 5, NULL),
    PIN("A13", 67, NO_TIMER, 0, 5, NULL),
    PIN("A14", 68, NO_TIMER, 0, 5, NULL),
    PIN("A15", 69, NO_TIMER, 0, 5, NULL),
    {0},
};

/* RP2040 data sheet: "GPIO functions" (each pair of pins has a PWM slice), "PIO" (any pin can be stamped and
 * can send pixels), "Electrical characteristics" (12 mA a pin, 50 mA in all). */
static const board_pin rp2040_pins[] = {
    PIN("GP0", 0, 0, LATCH | STAMP | EDGES | CARRIER, 0, serial),
    PIN("GP1", 1, 0, LATCH | STAMP | EDGES | CARRIER, 0, serial),
    PIN("GP2", 2, 1, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP3", 3, 1, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP4", 4, 2, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP5", 5, 2, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP6", 6, 3, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP7", 7, 3, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP8", 8, 4, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP9", 9, 4, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP10", 10, 5, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP11", 11, 5, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP12", 12, 6, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP13", 13, 6, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP14", 14, 7, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP15", 15, 7, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP16", 16, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP17", 17, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP18", 18, 1, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP19", 19, 1, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP20", 20, 2, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP21", 21, 2, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP22", 22, 3, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP26", 26, 5, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP27", 27, 5, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("GP28", 28, 6, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    {0},
};

/* ESP32 series data sheet: "IO MUX", "RMT" (any pin can be stamped and can send), "LED PWM", "Strapping
 * Pins"; "DC characteristics" (40 mA at most, half of which is used here). 34 to 39 are inputs only, without
 * resistors that pull them, and 6 to 11 belong to the flash. */
static const board_pin esp32_pins[] = {
    PIN("0", 0, 0, LATCH | STAMP | EDGES | CARRIER, 0, boot),
    PIN("2", 2, 0, LATCH | STAMP | EDGES | CARRIER, 0, boot),
    PIN("4", 4, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("5", 5, 0, LATCH | STAMP | EDGES | CARRIER, 0, boot),
    PIN("12", 12, 0, LATCH | STAMP | EDGES | CARRIER, 0, boot),
    PIN("13", 13, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("14", 14, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("15", 15, 0, LATCH | STAMP | EDGES | CARRIER, 0, boot),
    PIN("16", 16, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("17", 17, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("18", 18, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("19", 19, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("21", 21, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("22", 22, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("23", 23, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("25", 25, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("26", 26, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("27", 27, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("32", 32, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("33", 33, 0, LATCH | STAMP | EDGES | CARRIER, 0, NULL),
    PIN("34", 34, NO_TIMER, LATCH | STAMP | INPUT, 0, NULL),
    PIN("35", 35, NO_TIMER, LATCH | STAMP | INPUT, 0, NULL),
    PIN("36", 36, NO_TIMER, LATCH | STAMP | INPUT, 0, NULL),
    PIN("39", 39, NO_TIMER, LATCH | STAMP | INPUT, 0, NULL),
    {0},
};

/* What the AVR chips have in common; the voltage of the chip, and the current of its supply pin. */
#define AVR_AT(clock_mhz, volts, ma)                                                                         \
    .min_mhz = 1, .facts_mhz = 16, .slow_mhz = 8, .mhz = (clock_mhz), .clock_timer = 1, .port = "drom_avr",  \
    .masked_us = 32, .capture_us = 5, .alarm_us = 6.4, .pwm_bits = 8, .poll_us = 175,                        \
    .longest_poll_us = 500, .store_writes = 100000, .pin_ma = 20, .all_pins_ma = 200, .supply_ma = (ma),     \
    .pin_ohms = 25, .group_ma = 100, .logic_volts = (volts)

#define MEGA328_AT(clock_mhz, volts, ma)                                                                     \
    AVR_AT(clock_mhz, volts, ma),                                                                            \
        .chip = "ATmega328P", .source = "ATmega328P data sheet, and './run bench chip'",                     \
        .mcu = "atmega328p", .max_mhz = 20, .pins = mega328_pins, .pins_text = "0 to 13 and A0 to A5",       \
        .receiver = "8", .carrier_timer = 2, .ram = 2048, .flash = 32768, .ide_flash = 444,                  \
        .programmer = "arduino", .store = {.bytes = 1024, .page_bytes = 32}
#define MEGA328_FACTS MEGA328_AT(16, 5, 500)
#define SLOW_MEGA328_FACTS MEGA328_AT(8, 3.3, 150)

#define MEGA32U4_FACTS                                                                                       \
    AVR_AT(16, 5, 500), .chip = "ATmega32U4", .source = "ATmega32U4 data sheet", .mcu = "atmega32u4",        \
                        .max_mhz = 16, .pins = mega32u4_pins, .pins_text = "0 to 13 and A0 to A5",           \
                        .receiver = "4", .carrier_timer = 3, .ram = 2560, .flash = 32768, .ide_flash = 3620, \
                        .boot_bytes = 4096, .programmer = "avr109", .upload_baud = 57600,                    \
                        .store = {.bytes = 1024, .page_bytes = 32}, .has_usb = true, .hid_us = 31

#define MEGA2560_FACTS                                                                                       \
    AVR_AT(16, 5, 500), .chip = "ATmega2560", .source = "ATmega2560 data sheet", .mcu = "atmega2560",        \
                        .max_mhz = 16, .pins = mega2560_pins, .pins_text = "0 to 53 and A0 to A15",          \
                        .receiver = "2", .carrier_timer = 2, .ram = 8192, .flash = 262144, .ide_flash = 656, \
                        .boot_bytes = 8192, .programmer = "wiring", .upload_baud = 115200,                   \
                        .store = {.bytes = 4096, .page_bytes = 32}

#define RP2040_FACTS                                                                                         \
    .chip = "RP2040", .source = "RP2040 data sheet", .min_mhz = 10, .max_mhz = 133, .facts_mhz = 133,        \
    .mhz = 133, .pins = rp2040_pins, .pins_text = "GP0 to GP22 and GP26 to GP28", .clock_timer = NO_TIMER,   \
    .carrier_timer = NO_TIMER, .sends_by_itself = true, .masked_us = 5, .capture_us = 1, .alarm_us = 1,      \
    .pwm_bits = 16, .poll_us = 30, .ram = 270336, .pin_ma = 12, .all_pins_ma = 50, .has_usb = true,          \
    .supply_ma = 500, .pin_ohms = 40, .logic_volts = 3.3

#define ESP32_FACTS                                                                                          \
    .chip = "ESP32", .source = "ESP32 series data sheet", .min_mhz = 80, .max_mhz = 240, .facts_mhz = 240,   \
    .mhz = 240, .pins = esp32_pins,                                                                          \
    .pins_text = "0, 2, 4, 5, 12 to 19, 21 to 23, 25 to 27, 32 to 36 and 39", .clock_timer = NO_TIMER,       \
    .carrier_timer = NO_TIMER, .sends_by_itself = true, .masked_us = 50, .capture_us = 3, .alarm_us = 3,     \
    .pwm_bits = 16, .poll_us = 20, .ram = 327680, .pin_ma = 20, .all_pins_ma = 1200, .supply_ma = 500,       \
    .pin_ohms = 30, .logic_volts = 3.3

/* Ids are those of the common maker IDE's builder, and of chips. A board with two clocks has a row for each,
 * the usual one first. */
static const board boards[] = {
    {.id = "uno",
     MEGA328_FACTS,
     .ide = "arduino:avr:uno",
     .boot_bytes = 512,
     .upload_baud = 115200,
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "nano",
     MEGA328_FACTS,
     .ide = "arduino:avr:nano:cpu=atmega328old",
     .boot_bytes = 2048,
     .upload_baud = 57600,
     .left = "13 3V3 REF A0 A1 A2 A3 A4 A5 A6 A7 5V RST GND VIN",
     .right = "12 11 10 9 8 7 6 5 4 3 2 GND RST 0 1",
     .supply_pin = "5V",
     .logic_pin = "5V",
     .analog_only = "A6 A7"},
    {.id = "pro",
     MEGA328_FACTS,
     .has_adapter = true,
     .ide = "arduino:avr:pro:cpu=16MHzatmega328",
     .boot_bytes = 2048,
     .upload_baud = 57600,
     .left = "1 0 RST GND 2 3 4 5 6 7 8 9",
     .right = "RAW GND RST VCC A3 A2 A1 A0 13 12 11 10 A4 A5",
     .supply_pin = "VCC",
     .logic_pin = "VCC",
     .analog_only = "A6 A7"},
    {.id = "pro",
     SLOW_MEGA328_FACTS,
     .has_adapter = true,
     .ide = "arduino:avr:pro:cpu=8MHzatmega328",
     .boot_bytes = 2048,
     .upload_baud = 57600,
     .left = "1 0 RST GND 2 3 4 5 6 7 8 9",
     .right = "RAW GND RST VCC A3 A2 A1 A0 13 12 11 10 A4 A5",
     .supply_pin = "RAW",
     .logic_pin = "VCC",
     .analog_only = "A6 A7"},
    {.id = "mini",
     MEGA328_FACTS,
     .has_adapter = true,
     .ide = "arduino:avr:mini:cpu=atmega328",
     .boot_bytes = 4096,
     .upload_baud = 115200,
     .left = "1 0 RST GND 2 3 4 5 6 7 8 9",
     .right = "VIN GND RST 5V A3 A2 A1 A0 13 12 11 10 A4 A5",
     .supply_pin = "5V",
     .logic_pin = "5V",
     .analog_only = "A6 A7"},
    {.id = "leonardo",
     MEGA32U4_FACTS,
     .ide = "arduino:avr:leonardo",
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
     .right = "SCL SDA AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "micro",
     MEGA32U4_FACTS,
     .ide = "arduino:avr:micro",
     .left = "13 3V3 REF A0 A1 A2 A3 A4 A5 NC NC 5V RST GND VIN MISO SCK",
     .right = "12 11 10 9 8 7 6 5 4 3 2 GND RST 0 1 SS MOSI",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "mega",
     MEGA2560_FACTS,
     .ide = "arduino:avr:mega:cpu=atmega2560",
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5 A6 A7 A8 A9 A10 A11 A12 A13 A14 A15 5V "
             "22 24 26 28 30 32 34 36 38 40 42 44 46 48 50 52 GND",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0 14 15 16 17 18 19 20 21 5V "
              "23 25 27 29 31 33 35 37 39 41 43 45 47 49 51 53 GND",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "rpipico",
     RP2040_FACTS,
     .left = "GP0 GP1 GND GP2 GP3 GP4 GP5 GND GP6 GP7 GP8 GP9 GND GP10 GP11 GP12 GP13 GND GP14 GP15",
     .right = "VBUS VSYS GND 3V3_EN 3V3 ADC_VREF GP28 GND GP27 GP26 RUN GP22 GND GP21 GP20 GP19 GP18 GND "
              "GP17 GP16",
     .supply_pin = "VBUS",
     .logic_pin = "3V3"},
    {.id = "mega328",
     MEGA328_FACTS,
     .ide = "arduino:avr:uno",
     .boot_bytes = 512,
     .upload_baud = 115200,
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "mega328",
     SLOW_MEGA328_FACTS,
     .ide = "arduino:avr:pro:cpu=8MHzatmega328",
     .boot_bytes = 512,
     .upload_baud = 57600,
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
     .supply_pin = "5V",
     .logic_pin = "3V3"},
    {.id = "mega32u4",
     MEGA32U4_FACTS,
     .ide = "arduino:avr:leonardo",
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "mega2560",
     MEGA2560_FACTS,
     .ide = "arduino:avr:mega:cpu=atmega2560",
     .left = "RST 3V3 5V GND GND VIN A0 A1 A2 A3 A4 A5 A6 A7 A8 A9 A10 A11 A12 A13 A14 A15 5V "
             "22 24 26 28 30 32 34 36 38 40 42 44 46 48 50 52 GND",
     .right = "AREF GND 13 12 11 10 9 8 7 6 5 4 3 2 1 0 14 15 16 17 18 19 20 21 5V "
              "23 25 27 29 31 33 35 37 39 41 43 45 47 49 51 53 GND",
     .supply_pin = "5V",
     .logic_pin = "5V"},
    {.id = "rp2040",
     RP2040_FACTS,
     .left = "GP0 GP1 GND GP2 GP3 GP4 GP5 GND GP6 GP7 GP8 GP9 GND GP10 GP11 GP12 GP13 GND GP14 GP15",
     .right = "VBUS VSYS GND 3V3_EN 3V3 ADC_VREF GP28 GND GP27 GP26 RUN GP22 GND GP21 GP20 GP19 GP18 GND "
              "GP17 GP16",
     .supply_pin = "VBUS",
     .logic_pin = "3V3"},
    {.id = "esp32",
     ESP32_FACTS,
     .left = "3V3 EN 36 39 34 35 32 33 25 26 27 14 12 GND 13 D2 D3 CMD 5V",
     .right = "GND 23 22 TX RX 21 GND 19 18 5 17 16 4 0 2 15 D1 D0 CLK",
     .supply_pin = "5V",
     .logic_pin = "3V3"},
};

const board *board_by_id(const char *id, double mhz)
{
    const board *found = NULL;
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        if (strcmp(boards[i].id, id) == 0 && (found == NULL || boards[i].mhz == mhz)) {
            found = &boards[i];
        }
    }
    return found;
}

const char *const *board_ids(void)
{
    static const char *ids[G_N_ELEMENTS(boards) + 1];
    size_t count = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        if (count == 0 || strcmp(ids[count - 1], boards[i].id) != 0) {
            ids[count++] = boards[i].id;
        }
    }
    return ids;
}

/* Some boards print "D7" beside pin 7. */
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
