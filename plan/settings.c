/* An output's line, without faults, becomes a row of the engine's table: its settings, and memory for its
 * state. */
#include "outputs.h"

#include <math.h>

enum {
    USUAL_STEPS_S = 200,
    USUAL_RAMP_MS = 500,
    USUAL_PAUSE_MS = 10, /* between refreshes of a strip */
};

static const uint32_t usual_palette[] = {0xff0000, 0xff7000, 0x00ff00, 0x0000ff};

/* Memory that the plan lets go of in the end. */
static gpointer keep(plan *made, gsize size)
{
    gpointer memory = g_malloc0(size);
    g_ptr_array_add(made->kept, memory);
    return memory;
}

static uint8_t pin_of(const plan *made, const output_line *output, unsigned pin)
{
    return board_pin_by_name(made->board, output->pins[pin].text)->number;
}

static drom_output stepper_row(plan *made, const output_line *line)
{
    drom_stepper_settings *const settings = keep(made, sizeof *settings);
    const double speed = (line->given & 1u << CLAUSE_SPEED) != 0 ? line->values[CLAUSE_SPEED] : USUAL_STEPS_S;
    const double ramp_s = (line->within_ms != 0 ? line->within_ms : USUAL_RAMP_MS) / 1000.0;
    const double first_us = 676000 * sqrt(2 * ramp_s / speed);
    settings->fastest_us = (uint16_t)MIN(ceil(1e6 / speed), UINT16_MAX);
    settings->first_us = (uint16_t)CLAMP(first_us, settings->fastest_us, UINT16_MAX);
    settings->holds_still = line->values[CLAUSE_STILL] != 0;
    for (unsigned i = 0; i < 4; i++) {
        settings->pins[i] = pin_of(made, line, i);
    }
    drom_stepper_state *const state = keep(made, sizeof *state);
    return (drom_output)DROM_STEPPER(*settings, *state);
}

/* All strips share the plan's palettes. */
static void fill_palettes(plan *made)
{
    if (made->palettes->len > 0) {
        return;
    }
    for (guint i = 0; i < made->source->palettes->len; i++) {
        const GArray *const words = g_array_index(made->source->palettes, palette_line, i).colours;
        uint32_t *const list = keep(made, words->len * sizeof *list);
        for (guint j = 0; j < words->len; j++) {
            (void)colour_by_name(g_array_index(words, word, j).text, &list[j]);
        }
        const drom_strip_palette palette = {{list, (uint8_t)words->len}};
        g_array_append_val(made->palettes, palette);
    }
    if (made->palettes->len == 0) {
        const drom_strip_palette palette = {DROM_ROWS(usual_palette)};
        g_array_append_val(made->palettes, palette);
    }
}

static drom_output strip_row(plan *made, const output_line *line)
{
    drom_strip_settings *const settings = keep(made, sizeof *settings);
    drom_strip_state *const state = keep(made, sizeof *state);
    fill_palettes(made);
    *settings = (drom_strip_settings){
        .bytes = keep(made, line->values[CLAUSE_PIXELS] * (gsize)3),
        .count = (uint8_t)line->values[CLAUSE_PIXELS],
        .pin = pin_of(made, line, 0),
        .every_ms =
            (uint8_t)((line->given & 1u << CLAUSE_PAUSE) != 0 ? line->values[CLAUSE_PAUSE] : USUAL_PAUSE_MS),
        .effects = {(const drom_strip_effect_ref *)(void *)made->effect_refs->data,
                    (uint8_t)made->effect_refs->len},
        .palettes = {(const drom_strip_palette *)(void *)made->palettes->data, (uint8_t)made->palettes->len},
    };
    (void)pixel_order(line->order.text != NULL ? line->order.text : "grb", settings->order);
    return (drom_output)DROM_STRIP(*settings, *state);
}

static drom_output sender_row(plan *made, const output_line *line, guint index)
{
    const GArray *const sent = g_ptr_array_index(made->sent, index);
    drom_sender_key *const keys = keep(made, MAX(sent->len, 1) * sizeof *keys);
    for (guint i = 0; i < sent->len; i++) {
        keys[i] = g_array_index(sent, sent_key, i).key_sent;
    }
    drom_sender_settings *const settings = keep(made, sizeof *settings);
    drom_sender_state *const state = keep(made, sizeof *state);
    settings->keys.rows = keys;
    settings->keys.count = (uint8_t)sent->len;
    settings->pin = pin_of(made, line, 0);
    settings->is_shielded = line->values[CLAUSE_SHIELDED] != 0;
    return (drom_output)DROM_SENDER(*settings, *state);
}

drom_output output_row(plan *made, guint index)
{
    const output_line *const line = &g_array_index(made->source->outputs, output_line, index);
    if (line->kind == KIND_STEPPER) {
        return stepper_row(made, line);
    }
    if (line->kind == KIND_STRIP) {
        return strip_row(made, line);
    }
    if (line->kind == KIND_SENDER) {
        return sender_row(made, line, index);
    }
    if (line->kind == KIND_LAMP) {
        drom_lamp_settings *const settings = keep(made, sizeof *settings);
        drom_lamp_state *const state = keep(made, sizeof *state);
        *settings = (drom_lamp_settings){pin_of(made, line, 0), line->values[CLAUSE_ACTIVE_LOW] != 0};
        return (drom_output)DROM_LAMP(*settings, *state);
    }
    drom_relay_settings *const settings = keep(made, sizeof *settings);
    drom_relay_state *const state = keep(made, sizeof *state);
    *settings = (drom_relay_settings){
        .min_on_ms = line->values[CLAUSE_MIN_ON],
        .min_off_ms = line->values[CLAUSE_MIN_OFF],
        .pin = pin_of(made, line, 0),
        .is_active_low = line->values[CLAUSE_ACTIVE_LOW] != 0,
        .rests_on = line->values[CLAUSE_REST_ON] != 0,
    };
    return (drom_output)DROM_RELAY(*settings, *state);
}
