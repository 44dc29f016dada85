#include "chart/reading.h"

#include "chart/rows.h"

/* "wand.play" */
static char *key_in(const json_t *row)
{
    const char *const handset = row_text(row, "handset");
    return handset[0] != '\0' ? g_strdup_printf("%s.%s", handset, row_text(row, "key"))
                              : g_strdup(row_text(row, "key"));
}

static void read_finger(reading *in, const json_t *row)
{
    lane_mark_add(in->finger, (lane_mark){.at_us = row_us(row, "t_us"),
                                          .until_us = row_us(row, "until_us"),
                                          .text = key_in(row),
                                          .ink = INK_HANDSET});
    const uint64_t at_us = row_us(row, "t_us");
    g_array_append_val(in->made->presses, at_us);
}

/* A frame's text is at the first frame of its press. */
static void read_frame(reading *in, const json_t *row)
{
    lane_mark *const newest = lane_newest(in->air);
    const json_t *const command = json_object_get(row, "command");
    if (newest == NULL || newest->text != NULL || command == NULL) {
        return;
    }
    GArray *const presses = in->made->presses;
    for (guint i = 0; i < presses->len; i++) {
        if (g_array_index(presses, uint64_t, i) == newest->at_us) {
            newest->text =
                g_strdup_printf("%s %" G_GUINT64_FORMAT " %" G_GUINT64_FORMAT, row_text(row, "protocol"),
                                row_us(row, "address"), row_us(row, "command"));
        }
    }
}

/* A key is down from its press to its release: a bar. */
static void read_key(reading *in, const json_t *row)
{
    const char *const gesture = row_text(row, "gesture");
    const uint64_t at_us = row_us(row, "t_us");
    g_autofree char *key = key_in(row);
    lane_mark *const newest = lane_newest(in->gesture);
    if (strcmp(gesture, "press") == 0) {
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
    newest->until_us =
        strcmp(gesture, "tap") == 0 || strcmp(gesture, "double") == 0 ? newest->until_us : at_us;
    if (strcmp(gesture, "hold") == 0 || strcmp(gesture, "double") == 0) {
        g_free(newest->text);
        newest->text = g_strconcat(key, strcmp(gesture, "hold") == 0 ? " held" : " tapped twice", NULL);
    }
}

static void read_rule(reading *in, const json_t *row)
{
    lane_mark *const newest = lane_newest(in->rule);
    const uint64_t at_us = row_us(row, "t_us");
    const uint64_t line = row_us(row, "line");
    in->ruled_us = at_us;
    if (newest != NULL && newest->at_us == at_us) {
        char *const longer = g_strdup_printf("%s, %" G_GUINT64_FORMAT, newest->text, line);
        g_free(newest->text);
        newest->text = longer;
        return;
    }
    lane_mark_add(in->rule, (lane_mark){.at_us = at_us,
                                        .until_us = at_us,
                                        .text = line > 0 ? g_strdup_printf("line %" G_GUINT64_FORMAT, line)
                                                         : g_strdup("at start"),
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

static void read_event(reading *in, const json_t *row)
{
    g_autofree char *state = NULL;
    g_autofree char *name = reading_state_of(row_text(row, "event"), &state);
    lane *const track = name != NULL ? lanes_find(in->made->lanes, name) : NULL;
    if (track != NULL) {
        const bool is_end = plan_is_limit(in->plan, name, state);
        lane_mark_add(
            track,
            (lane_mark){.at_us = row_us(row, "t_us"), .text = g_steal_pointer(&state), .is_end = is_end});
    }
}

/* A timer runs from now on, longer or shorter than before, or no more. Its text is its whole duration. */
static void read_timer(reading *in, const json_t *row)
{
    lane *const track = lanes_find(in->made->lanes, row_text(row, "timer"));
    lane_mark *const newest = lane_newest(track);
    const uint64_t at_us = row_us(row, "t_us");
    const uint64_t until_us = row_us(row, "until_us");
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

static void read_drawn(reading *in, const json_t *row)
{
    lane *const track = lanes_find(in->made->lanes, row_text(row, "output"));
    if (track == NULL) {
        return;
    }
    const json_t *const colours = json_object_get(row, "colours");
    const json_t *const text = json_object_get(row, "text");
    lane_mark mark = {.at_us = row_us(row, "t_us"),
                      .value = json_real_value(json_object_get(row, "value")),
                      .text = g_strdup(json_string_value(text)),
                      .is_end = json_is_true(json_object_get(row, "ends")),
                      .is_waiting = json_is_true(json_object_get(row, "waits")),
                      .colour_count = (unsigned)json_array_size(colours)};
    mark.colours = g_new0(uint32_t, mark.colour_count + 1);
    for (unsigned i = 0; i < mark.colour_count; i++) {
        mark.colours[i] = (uint32_t)json_integer_value(json_array_get(colours, i));
    }
    lane_mark_add(track, mark);
}

/* A burst is lit and dark many times; a pause separates it from the next one. */
static void read_lit(reading *in, const json_t *row)
{
    enum { PAUSE_US = 20000 };
    lane *const lanes_of[] = {in->air, lanes_find(in->made->lanes, row_text(row, "output"))};
    const uint64_t at_us = row_us(row, "t_us");
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

static void read_action(reading *in, const json_t *row)
{
    const lane *const track = lanes_find(in->made->lanes, row_text(row, "output"));
    const uint64_t at_us = row_us(row, "t_us");
    if (track != NULL) {
        g_hash_table_insert(in->ordered, (gpointer)track, g_strdup(row_text(row, "action")));
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

static void read_expected(reading *in, const json_t *row)
{
    in->expected++;
    if (json_is_true(json_object_get(row, "met"))) {
        in->met++;
        return;
    }
    const uint64_t at_us = row_us(row, "t_us");
    if (in->first_missed == NULL) {
        in->first_missed = g_strdup_printf("%.3f s", (double)at_us / 1e6);
    }
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s; but %s", row_text(row, "expect"),
                                                                       row_text(row, "found")),
                                               .is_alert = true});
}

static void read_happening(reading *in, const json_t *row)
{
    if (in->outside == NULL) {
        in->outside = lanes_add(in->made->lanes, LANE_BOXES, "outside", "outside");
    }
    lane_mark_add(in->outside, (lane_mark){.at_us = row_us(row, "t_us"),
                                           .until_us = row_us(row, "until_us"),
                                           .text = g_strdup(row_text(row, "what")),
                                           .ink = INK_PLAIN});
}

static void read_unheard(reading *in, const json_t *row)
{
    g_autofree char *key = key_in(row);
    const uint64_t at_us = row_us(row, "t_us");
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s wasn't heard", key),
                                               .is_alert = true});
}

static void read_air(reading *in, const json_t *row)
{
    lane_mark_add(
        in->air,
        (lane_mark){.at_us = row_us(row, "t_us"), .until_us = row_us(row, "until_us"), .ink = INK_HANDSET});
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
static void read_chip(reading *in, const json_t *row)
{
    const uint64_t at_us = row_us(row, "t_us");
    const double stretch_us = (double)(row_us(row, "until_us") - at_us);
    const double poll_us = (double)row_us(row, "poll_us");
    const double masked = (double)row_us(row, "interrupts_off_us") / MAX(stretch_us, 1);
    const uint64_t lost = row_us(row, "lost_edges");
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
                                  .text = g_strdup_printf("%" G_GUINT64_FORMAT " edge%s lost", lost,
                                                          lost == 1 ? "" : "s"),
                                  .is_alert = true});
    }
}

static const struct {
    const char *kind;
    void (*read)(reading *in, const json_t *row);
} readers[] = {
    {"finger", read_finger},   {"air", read_air},
    {"frame", read_frame},     {"key", read_key},
    {"rule", read_rule},       {"action", read_action},
    {"event", read_event},     {"drawn", read_drawn},
    {"lit", read_lit},         {"expected", read_expected},
    {"unheard", read_unheard}, {"chip", read_chip},
    {"timer", read_timer},     {"happening", read_happening},
};

void reading_take(reading *in, const json_t *row)
{
    for (gsize i = 0; i < G_N_ELEMENTS(readers); i++) {
        if (row_is(row, readers[i].kind)) {
            readers[i].read(in, row);
        }
    }
}
