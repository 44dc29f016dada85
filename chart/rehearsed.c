#include "chart/rehearsed.h"

#include "chart/reading.h"
#include "plan/model/plan.h"

/* Lanes of states precede those of outputs, and are made first. */
static void make_event_lanes(reading *in, const GArray *rows)
{
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        if (at->kind != ROW_EVENT) {
            continue;
        }
        g_autofree char *state = NULL;
        g_autofree char *name = reading_state_of(at->text, &state);
        if (name != NULL && lanes_find(in->made->lanes, name) == NULL) {
            lane *const track = lanes_add(in->made->lanes, LANE_WORDS, "state", name);
            char *const first = plan_first_state(in->plan, name);
            if (first != NULL) {
                lane_mark_add(track,
                              (lane_mark){.text = first, .is_end = plan_is_limit(in->plan, name, first)});
            }
        }
    }
}

static void make_timer_lanes(reading *in, const GArray *rows)
{
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        if (at->kind == ROW_TIMER && lanes_find(in->made->lanes, at->subject) == NULL) {
            (void)lanes_add(in->made->lanes, LANE_BOXES, "state", at->subject);
        }
    }
}

/* The board's chip of a rehearsal. */
static void make_chip_lanes(reading *in, const GArray *rows)
{
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        if (at->kind == ROW_CHIP) {
            const double stretch_us = (double)(at->until_us - at->at_us);
            in->max_poll_us = MAX(in->max_poll_us, (double)at->data.chip.poll_us);
            in->max_masked = MAX(in->max_masked, (double)at->data.chip.masked_us / MAX(stretch_us, 1));
        }
    }
    if (in->max_poll_us > 0) {
        in->polls = lanes_add(in->made->lanes, LANE_LEVEL, "board", "from poll to poll");
    }
    if (in->max_masked > 0) {
        in->masked = lanes_add(in->made->lanes, LANE_LEVEL, "board", "interrupts off");
    }
}

/* In words, after the board's name; "" for an ideal chip. To be freed. */
static char *chip_text(const reading *in)
{
    if (in->max_poll_us <= 0) {
        return g_strdup("");
    }
    return g_strdup_printf(" (polls up to %.2f ms apart, interrupts off up to %.0f %% of 20 ms)",
                           in->max_poll_us / 1000, in->max_masked * 100);
}

/* Returns how often an output has changed in the drawing. */
static unsigned changes_of(const char *output, const GArray *rows)
{
    unsigned changes = 0;
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        const bool is_drawn = at->kind == ROW_DRAWN || at->kind == ROW_LIT;
        changes += is_drawn && strcmp(at->subject, output) == 0;
    }
    return changes;
}

static lane_shape shape_of(drawing how)
{
    switch (how) {
    case DRAWN_AS_LEVELS:
        return LANE_LEVELS;
    case DRAWN_AS_LEVEL:
        return LANE_LEVEL;
    case DRAWN_AS_SIGNED:
        return LANE_SIGNED;
    case DRAWN_AS_PLACE:
        return LANE_PLACE;
    case DRAWN_AS_COLOURS:
        return LANE_COLOURS;
    case DRAWN_AS_WORDS:
        return LANE_WORDS;
    case DRAWN_AS_BURSTS:
    case DRAWN_AS_NOTHING:
        break;
    }
    return LANE_BOXES;
}

/* Outputs that never change have no lane; their names are in the second line. To be freed. */
static char *make_output_lanes(reading *in, const GArray *rows)
{
    GString *const still = g_string_new(NULL);
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drawing how = plan_output_kind(in->plan, i)->bench.drawn_as;
        const char *const name = plan_output_name(in->plan, i);
        const unsigned changes = how != DRAWN_AS_NOTHING ? changes_of(name, rows) : 0;
        if (changes > 1) {
            lane *const added = lanes_add(in->made->lanes, shape_of(how), "output", name);
            lane_note(added, plan_parts_text(in->plan, i));
        } else if (how != DRAWN_AS_NOTHING) {
            g_string_append_printf(still, "%s%s", still->len > 0 ? ", " : "; unchanged: ", name);
        }
    }
    return g_string_free(still, FALSE);
}

/* What is still active at the end. To be freed. */
static char *going_on_text(const GArray *rows)
{
    const timeline_row *const last = rows->len > 0 ? rows_at(rows, rows->len - 1) : NULL;
    return last != NULL && last->kind == ROW_END ? g_strdup_printf("; still going on: %s", last->text)
                                                 : g_strdup("");
}

static char *heading_of(const reading *in)
{
    if (in->expected == 0) {
        return g_strdup_printf("%s: %u press%s", plan_title(in->plan), in->presses,
                               in->presses == 1 ? "" : "es");
    }
    if (in->first_missed == NULL) {
        return g_strdup_printf("%s: all %u expectations met", plan_title(in->plan), in->expected);
    }
    return g_strdup_printf("%s: %u of %u expectations met; the first missed at %s", plan_title(in->plan),
                           in->met, in->expected, in->first_missed);
}

rehearsed rehearsed_of(const plan *rehearsal, const GArray *rows)
{
    enum { MORE_PERCENT = 2, MIN_US = 100000 };
    rehearsed made = {.lanes = lanes_new(), .presses = g_array_new(FALSE, FALSE, sizeof(uint64_t))};
    reading in = {.plan = rehearsal,
                  .made = &made,
                  .ruled_us = UINT64_MAX,
                  .ordered = g_hash_table_new_full(NULL, NULL, NULL, g_free)};
    in.finger = lanes_add(made.lanes, LANE_BOXES, "finger", "finger");
    in.air = lanes_add(made.lanes, LANE_BOXES, "air", "air");
    in.gesture = lanes_add(made.lanes, LANE_BOXES, "gesture", "key");
    in.rule = lanes_add(made.lanes, LANE_BOXES, "rule", "rule");
    make_event_lanes(&in, rows);
    make_timer_lanes(&in, rows);
    g_autofree char *still = make_output_lanes(&in, rows);
    make_chip_lanes(&in, rows);
    uint64_t last_us = MIN_US;
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        reading_take(&in, at);
        last_us = MAX(last_us, MAX(at->at_us, at->until_us));
    }
    made.until_us = last_us + last_us * MORE_PERCENT / 100;
    made.heading = heading_of(&in);
    g_autofree char *chip = chip_text(&in);
    g_autofree char *going_on = going_on_text(rows);
    made.below = g_strdup_printf("%u press%s in %.1f s, on the board %s%s%s%s", in.presses,
                                 in.presses == 1 ? "" : "es", (double)last_us / 1e6,
                                 plan_board(rehearsal)->id, chip, going_on, still);
    g_free(in.first_missed);
    g_hash_table_unref(in.ordered);
    return made;
}

void rehearsed_clear(rehearsed *unwanted)
{
    lanes_free(unwanted->lanes);
    g_free(unwanted->heading);
    g_free(unwanted->below);
    g_array_unref(unwanted->presses);
}
