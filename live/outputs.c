#include "live/outputs.h"

#include "live/screen.h"

#include <string.h>

static void clear_output(gpointer data)
{
    live_output *const unwanted = data;
    g_free(unwanted->text);
    g_free(unwanted->colours);
}

GArray *live_outputs_new(const plan *loaded)
{
    GArray *const made = g_array_new(FALSE, TRUE, sizeof(live_output));
    g_array_set_clear_func(made, clear_output);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (plan_output_kind(loaded, i)->bench.drawn_as == DRAWN_AS_NOTHING) { /* shown at other outputs */
            continue;
        }
        const live_output output = {.name = plan_output_name(loaded, i),
                                    .drawn_as = plan_output_kind(loaded, i)->bench.drawn_as};
        g_array_append_val(made, output);
    }
    return made;
}

static void take_text(live_output *output, const char *text)
{
    if (text != NULL) {
        g_free(output->text);
        output->text = g_strdup(text);
    }
}

static void take_drawn(live_output *output, const timeline_row *taken)
{
    const unsigned count = taken->data.drawn.colour_count;
    output->value = taken->data.drawn.has_value ? taken->data.drawn.value : output->value;
    output->low = MIN(output->low, output->value);
    output->high = MAX(output->high, output->value);
    take_text(output, taken->text);
    if (count > 0) {
        g_free(output->colours);
        output->colours = g_memdup2(taken->data.drawn.colours, count * sizeof(uint32_t));
        output->colour_count = count;
    }
}

void live_outputs_take(GArray *outputs, const timeline_row *taken)
{
    for (guint i = 0; taken->subject != NULL && i < outputs->len; i++) {
        live_output *const output = &g_array_index(outputs, live_output, i);
        if (strcmp(output->name, taken->subject) != 0) {
            continue;
        }
        if (taken->kind == ROW_LIT) {
            output->is_lit = taken->data.is_on;
        } else if (taken->kind == ROW_BURST) {
            take_text(output, taken->found[0] != '\0' ? taken->found : taken->text);
        } else if (taken->kind == ROW_DRAWN) {
            take_drawn(output, taken);
        }
        return;
    }
}

/* "is on" is "on" beside the name. */
static const char *state_of(const live_output *output)
{
    const char *const text = output->text != NULL                  ? output->text
                             : output->drawn_as == DRAWN_AS_BURSTS ? "has sent nothing"
                                                                   : "";
    return g_str_has_prefix(text, "is ") ? text + strlen("is ") : text;
}

/* Speed, to both sides of a standstill. */
static void put_signed(int row, int column, int width, double value)
{
    const int half = (width - 1) / 2;
    screen_bar(row, column, half, value < 0 ? 1 + value : 1, 1, INK_PLAIN);
    screen_bar(row, column + half + 1, half, 0, MAX(value, 0), INK_PLAIN);
    screen_put(row, column + half, 1, (screen_style){.ink = INK_PLAIN}, "|");
}

static void put_place(const live_output *output, int row, int column, int width)
{
    const double span = MAX(output->high - output->low, 1);
    screen_place(row, column, width, (output->value - output->low) / span, INK_PLAIN);
}

/* A lamp in colour has a coloured bar. */
static void put_light(const live_output *output, int row, int column, int width)
{
    enum { MAX_CELLS = 80 };
    uint32_t rgb[2 * MAX_CELLS];
    const int cells = MIN((int)(output->value * width + 0.5), MAX_CELLS);
    for (int i = 0; output->colour_count > 0 && i < 2 * cells; i++) {
        rgb[i] = output->colours[0];
    }
    if (output->colour_count > 0 && cells > 0) {
        (void)screen_pixels(row, column, cells, rgb, 2 * (unsigned)cells);
    }
}

void live_output_put(const live_output *output, int row, int column, int width, int name_width)
{
    enum { MIN_STATE = 14, MAX_STATE = 22, MAX_LIGHTS = 60 };
    const int room = width - name_width - 1;
    const int state_width = CLAMP(room / 2, MIN_STATE, MAX_STATE);
    const int state_at = column + name_width + 1;
    const int bar_at = state_at + state_width + 1;
    const int bar_width = column + width - bar_at;
    const bool is_on = output->drawn_as == DRAWN_AS_LEVELS && output->value > 0;
    screen_put(row, column, name_width, (screen_style){.ink = INK_PLAIN, .is_bold = is_on}, output->name);
    if (output->drawn_as == DRAWN_AS_COLOURS) {
        const int lights = MIN(room - 2, MAX_LIGHTS);
        const int used = screen_pixels(row, state_at + 1, lights, output->colours, output->colour_count);
        screen_put(row, state_at, 1, (screen_style){.ink = INK_PLAIN},
                   "["); /* a frame, as lights may look like the background */
        screen_put(row, state_at + 1 + used, 1, (screen_style){.ink = INK_PLAIN}, "]");
        return;
    }
    const bool has_bar = output->drawn_as != DRAWN_AS_WORDS && output->drawn_as != DRAWN_AS_BURSTS;
    const bool is_sending = output->drawn_as == DRAWN_AS_BURSTS;
    const screen_style style = {.ink = is_sending ? INK_OURS : INK_PLAIN,
                                .is_inverted = is_sending && output->is_lit};
    screen_put(row, state_at, has_bar ? state_width : room, style, state_of(output));
    if (!has_bar || bar_width < 3) {
        return;
    }
    if (output->drawn_as == DRAWN_AS_SIGNED) {
        put_signed(row, bar_at, bar_width, output->value);
    } else if (output->drawn_as == DRAWN_AS_PLACE) {
        put_place(output, row, bar_at, bar_width);
    } else {
        screen_bar(row, bar_at, bar_width, 0, output->value, INK_PLAIN);
        put_light(output, row, bar_at, bar_width);
    }
}
