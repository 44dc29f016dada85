#include "chart/reading.h"

#include <string.h>

static void read_finger(reading *in, const timeline_row *read)
{
    lane_mark_add(in->finger, (lane_mark){.at_us = read->at_us,
                                          .until_us = read->until_us,
                                          .text = row_key_text(read),
                                          .ink = INK_HANDSET});
    const uint64_t at_us = read->at_us;
    g_array_append_val(in->made->presses, at_us);
}

/* A frame's text is at the first frame of its press. */
static void read_frame(reading *in, const timeline_row *read)
{
    lane_mark *const newest = lane_newest(in->air);
    const drom_frame *const frame = &read->data.frame;
    if (newest == NULL || newest->text != NULL || frame->protocol == &drom_unknown ||
        frame->kind == DROM_FRAME_REPEAT) {
        return;
    }
    GArray *const presses = in->made->presses;
    for (guint i = 0; i < presses->len; i++) {
        if (g_array_index(presses, uint64_t, i) == newest->at_us) {
            newest->text = row_frame_text(frame);
        }
    }
}

/* A key is down from its press to its release: a bar. */
static void read_key(reading *in, const timeline_row *read)
{
    const uint8_t gesture = read->data.pressed.gesture;
    const uint64_t at_us = read->at_us;
    g_autofree char *key = row_key_text(read);
    lane_mark *const newest = lane_newest(in->gesture);
    if (gesture == DROM_PRESS) {
        lane_mark_add(in->gesture, (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_steal_pointer(&key),
                                               .ink = INK_HANDSET});
        in->presses++;
        return;
    }
    if (newest == NULL || !g_str_has_prefix(newest->text, key)) {
        return;
    }
    newest->until_us = gesture == DROM_TAP || gesture == DROM_DOUBLE ? newest->until_us : at_us;
    if (gesture == DROM_HOLD || gesture == DROM_DOUBLE) {
        g_free(newest->text);
        newest->text = g_strconcat(key, gesture == DROM_HOLD ? " held" : " tapped twice", NULL);
    }
}

static void read_rule(reading *in, const timeline_row *read)
{
    lane_mark *const newest = lane_newest(in->rule);
    const uint64_t at_us = read->at_us;
    const int line = read->data.rule.line;
    in->ruled_us = at_us;
    if (newest != NULL && newest->at_us == at_us) {
        char *const longer = g_strdup_printf("%s, %d", newest->text, line);
        g_free(newest->text);
        newest->text = longer;
        return;
    }
    lane_mark_add(in->rule, (lane_mark){.at_us = at_us,
                                        .until_us = at_us,
                                        .text = g_strdup_printf("line %d", line),
                                        .ink = INK_PLAIN});
}

/* Returns what replaces `ending` in "rigging begins", or precedes it: the lane and the state of an event. */
typedef struct sentence {
    const char *ending;
    const char *lane;  /* NULL: the text before the ending */
    const char *state; /* NULL: the text before or after it */
} sentence;

static const sentence sentences[] = {
    {" begins", "mode", NULL}, {" closes", NULL, "closed"}, {" opens", NULL, "open"}, {" is ", NULL, NULL}};

char *reading_state_of(const char *event, char **state)
{
    for (gsize i = 0; i < G_N_ELEMENTS(sentences); i++) {
        const sentence *const known = &sentences[i];
        const char *const at = strstr(event, known->ending);
        if (at == NULL) {
            continue;
        }
        const char *const behind = at + strlen(known->ending);
        g_autofree char *before = g_strndup(event, (gsize)(at - event));
        *state = g_strdup(known->state != NULL ? known->state : behind[0] != '\0' ? behind : before);
        return g_strdup(known->lane != NULL ? known->lane : before);
    }
    return NULL;
}

static void read_event(reading *in, const timeline_row *read)
{
    g_autofree char *state = NULL;
    g_autofree char *name = reading_state_of(read->text, &state);
    lane *const track = name != NULL ? lanes_find(in->made->lanes, name) : NULL;
    if (track != NULL) {
        const bool is_end = plan_is_limit(in->plan, name, state);
        lane_mark_add(track,
                      (lane_mark){.at_us = read->at_us, .text = g_steal_pointer(&state), .is_end = is_end});
    }
}

/* A timer runs from now on, longer or shorter than before, or no more. Its text is its whole duration. */
static void read_timer(reading *in, const timeline_row *read)
{
    lane *const track = lanes_find(in->made->lanes, read->subject);
    lane_mark *const newest = lane_newest(track);
    const uint64_t at_us = read->at_us;
    const uint64_t until_us = read->until_us;
    const bool goes_on = newest != NULL && newest->until_us > at_us;
    const uint64_t from_us = goes_on ? newest->at_us : at_us;
    if (!goes_on && until_us <= at_us) { /* it has ended */
        return;
    }
    char *const text = g_strdup_printf("%.3g s", (double)(until_us - from_us) / 1e6);
    if (goes_on) {
        g_free(newest->text);
        newest->text = text;
        newest->until_us = until_us;
        return;
    }
    lane_mark_add(track, (lane_mark){.at_us = at_us, .until_us = until_us, .text = text, .ink = INK_PLAIN});
}

static void read_drawn(reading *in, const timeline_row *read)
{
    lane *const track = lanes_find(in->made->lanes, read->subject);
    if (track == NULL) {
        return;
    }
    lane_mark_add(track, (lane_mark){.at_us = read->at_us,
                                     .value = read->data.drawn.value,
                                     .text = g_strdup(read->text),
                                     .is_end = read->data.drawn.is_end,
                                     .is_waiting = read->data.drawn.is_waiting,
                                     .colour_count = read->data.drawn.colour_count,
                                     .colours = g_memdup2(read->data.drawn.colours,
                                                          read->data.drawn.colour_count * sizeof(uint32_t))});
}

/* A burst is lit and dark many times; a pause separates it from the next one. */
static void read_lit(reading *in, const timeline_row *read)
{
    enum { PAUSE_US = 20000 };
    lane *const lanes_of[] = {in->air, lanes_find(in->made->lanes, read->subject)};
    const uint64_t at_us = read->at_us;
    for (gsize i = 0; i < G_N_ELEMENTS(lanes_of); i++) {
        lane_mark *const newest = lanes_of[i] != NULL ? lane_newest(lanes_of[i]) : NULL;
        if (newest != NULL && newest->ink == INK_OURS && at_us < newest->until_us + PAUSE_US) {
            newest->until_us = at_us;
        } else if (lanes_of[i] != NULL) {
            char *name = NULL;
            if (i > 0) {
                (void)g_hash_table_steal_extended(in->ordered, lanes_of[i], NULL, (gpointer *)&name);
            }
            lane_mark_add(lanes_of[i],
                          (lane_mark){.at_us = at_us, .until_us = at_us, .text = name, .ink = INK_OURS});
        }
    }
}

static void read_action(reading *in, const timeline_row *read)
{
    const lane *const track = lanes_find(in->made->lanes, read->subject);
    const uint64_t at_us = read->at_us;
    if (track != NULL) {
        g_hash_table_insert(in->ordered, (gpointer)track, g_strdup(read->text));
    }
    if (track != NULL && at_us == in->ruled_us) {
        lanes_thread(in->made->lanes, at_us, in->rule, track);
    }
}

static lane *missed_lane(reading *in)
{
    if (in->missed == NULL) {
        in->missed = lanes_add(in->made->lanes, LANE_BOXES, "missed", "missed");
    }
    return in->missed;
}

static void read_expected(reading *in, const timeline_row *read)
{
    in->expected++;
    if (read->data.expected.is_met) {
        in->met++;
        return;
    }
    const uint64_t at_us = read->at_us;
    if (in->first_missed == NULL) {
        in->first_missed = g_strdup_printf("%.3f s", (double)at_us / 1e6);
    }
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s; but %s", read->text, read->found),
                                               .is_alert = true});
}

static void read_happening(reading *in, const timeline_row *read)
{
    if (in->outside == NULL) {
        in->outside = lanes_add(in->made->lanes, LANE_BOXES, "outside", "outside");
    }
    lane_mark_add(in->outside, (lane_mark){.at_us = read->at_us,
                                           .until_us = read->until_us,
                                           .text = g_strdup(read->text),
                                           .ink = INK_PLAIN});
}

static void read_unheard(reading *in, const timeline_row *read)
{
    g_autofree char *key = row_key_text(read);
    const uint64_t at_us = read->at_us;
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s wasn't heard", key),
                                               .is_alert = true});
}

static void read_air(reading *in, const timeline_row *read)
{
    lane_mark_add(in->air, (lane_mark){.at_us = read->at_us, .until_us = read->until_us, .ink = INK_HANDSET});
}

/* Sets a state from now on, if it is new. The text is taken over. */
static void put_level(lane *level, uint64_t at_us, double value, char *text)
{
    const lane_mark *const newest = lane_newest(level);
    if (newest != NULL && strcmp(newest->text, text) == 0) {
        g_free(text);
        return;
    }
    lane_mark_add(level, (lane_mark){.at_us = at_us, .value = value, .text = text});
}

/* The load of the board's chip: shares of its maximum. */
static void read_chip(reading *in, const timeline_row *read)
{
    const uint64_t at_us = read->at_us;
    const double stretch_us = (double)(read->until_us - at_us);
    const double poll_us = (double)read->data.chip.poll_us;
    const double masked = (double)read->data.chip.masked_us / MAX(stretch_us, 1);
    const unsigned lost = read->data.chip.lost;
    put_level(in->polls, at_us, poll_us / in->max_poll_us,
              poll_us < 1000 ? g_strdup_printf("%.0f µs", poll_us)
                             : g_strdup_printf("%.2f ms", poll_us / 1000));
    if (in->masked != NULL) {
        put_level(in->masked, at_us, masked / in->max_masked, g_strdup_printf("%.0f %%", masked * 100));
    }
    if (lost > 0) {
        lane_mark_add(missed_lane(in),
                      (lane_mark){.at_us = at_us,
                                  .until_us = at_us,
                                  .text = g_strdup_printf("%u edge%s lost", lost, lost == 1 ? "" : "s"),
                                  .is_alert = true});
    }
}

static void (*const readers[ROW_KINDS])(reading *in, const timeline_row *read) = {
    [ROW_FINGER] = read_finger,   [ROW_AIR] = read_air,
    [ROW_FRAME] = read_frame,     [ROW_KEY] = read_key,
    [ROW_RULE] = read_rule,       [ROW_ACTION] = read_action,
    [ROW_EVENT] = read_event,     [ROW_DRAWN] = read_drawn,
    [ROW_LIT] = read_lit,         [ROW_EXPECTED] = read_expected,
    [ROW_UNHEARD] = read_unheard, [ROW_CHIP] = read_chip,
    [ROW_TIMER] = read_timer,     [ROW_HAPPENING] = read_happening,
};

void reading_take(reading *in, const timeline_row *read)
{
    if (readers[read->kind] != NULL) {
        readers[read->kind](in, read);
    }
}
