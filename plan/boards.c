/* Boards as tables. Pin names are those printed on the board; the numbers, as the port counts them. */
#include "boards.h"

#include <glib.h>
#include <stddef.h>
#include <string.h>

/* ATmega328P in the common board form: D0 to D13, then A0 to A5 as digital pins 14 to 19. Speed grades:
 * ATmega48A/PA/88A/PA/168A/PA/328/P data sheet, section "Speed Grades" (20 MHz at 4.5 V and more). */
static const board_pin mega328_pins[] = {
    {"0", 0},   {"1", 1},   {"2", 2},   {"3", 3},   {"4", 4},   {"5", 5},   {"6", 6},
    {"7", 7},   {"8", 8},   {"9", 9},   {"10", 10}, {"11", 11}, {"12", 12}, {"13", 13},
    {"A0", 14}, {"A1", 15}, {"A2", 16}, {"A3", 17}, {"A4", 18}, {"A5", 19}, {NULL, 0},
};

static const board boards[] = {
    {.id = "mega328", .chip = "ATmega328P", .least_mhz = 1, .most_mhz = 20, .pins = mega328_pins},
};

static const char *const ids[] = {"mega328", NULL};

G_STATIC_ASSERT(G_N_ELEMENTS(ids) == G_N_ELEMENTS(boards) + 1);

const board *board_by_id(const char *id)
{
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

const board_pin *board_pin_by_name(const board *on, const char *name)
{
    for (const board_pin *pin = on->pins; pin->name != NULL; pin++) {
        if (g_ascii_strcasecmp(pin->name, name) == 0) {
            return pin;
        }
    }
    return NULL;
}
