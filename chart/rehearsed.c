#include "rehearsed.h"

#include "kinds.h"

#include <string.h>

/* Each row of a rehearsal goes into one lane, or is counted. */
typedef struct reading {
    const plan *plan;
    rehearsed *made;
    lane *finger;
    lane *air;
    lane *gesture;
    lane *rule;
    lane *missed;
    lane *polls;  /* of the board's chip; NULL: it was an ideal one */
    lane *masked; /* NULL: interrupts were never off */
    double max_poll_us;
    double max_masked; /* as a share of the time */
    uint64_t ruled_us; /* a rule has fired at that time */
    unsigned presses;
    unsigned met;
    unsigned expected;
    char *first_missed;
    char *ordered; /* the newest order, until a burst has its name */
} reading;

static const char *text_in(const json_t *row, const char *member)
{
    const char *const text = json_string_value(json_object_get(row, member));
    return text != NULL ? text : "";
}

static uint64_t us_in(const json_t *row, const char *member)
{
    return (uint64_t)json_integer_value(json_object_get(row, member));
}

static bool is_kind(const json_t *row, const char *kind)
{
    return strcmp(text_in(row, "kind"), kind) == 0;
}

/* "wand.play" */
static char *key_in(const json_t *row)
{
    const char *const handset = text_in(row, "handset");
    return handset[0] != '\0' ? g_strdup_printf("%s.%s", handset, text_in(row, "key"))
                              : g_strdup(text_in(row, "key"));
}

static void read_finger(reading *in, const json_t *row)
{
    lane_mark_add(in->finger, (lane_mark){.at_us = us_in(row, "t_us"),
                                          .until_us = us_in(row, "until_us"),
                                          .text = key_in(row),
                                          .ink = INK_HANDSET});
    const uint64_t at_us = us_in(row, "t_us");
    g_array_append_val(in->made->presses, at_us);
}

/* What a frame says stands at the first of its press: repeats say nothing new. */
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
                g_strdup_printf("%s %" G_GUINT64_FORMAT " %" G_GUINT64_FORMAT, text_in(row, "protocol"),
                                us_in(row, "address"), us_in(row, "command"));
        }
    }
}

/* A key is down from its press to its release, and a bar says so. */
static void read_key(reading *in, const json_t *row)
{
    const char *const gesture = text_in(row, "gesture");
    const uint64_t at_us = us_in(row, "t_us");
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
    const uint64_t at_us = us_in(row, "t_us");
    const uint64_t line = us_in(row, "line");
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

/* What is in the place of `ending` in "rigging begins", or before it: of an event, the lane and the state. */
typedef struct sentence {
    const char *ending;
    const char *lane;  /* NULL: what stands before the ending */
    const char *state; /* NULL: what stands before, or behind it */
} sentence;

static const sentence sentences[] = {
    {" begins", "mode", NULL}, {" closes", NULL, "closed"}, {" opens", NULL, "open"}, {" is ", NULL, NULL}};

/* The lane of an event, and the state that it brings about; NULL: it is none that lasts. To be freed. */
static char *state_of(const char *event, char **state)
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

/* The lanes of states stand before those of the outputs: so they are made first. */
static void make_event_lanes(reading *in, const json_t *rows)
{
    size_t i;
    const json_t *row;
    json_array_foreach((json_t *)rows, i, row)
    {
        if (!is_kind(row, "event")) {
            continue;
        }
        g_autofree char *state = NULL;
        g_autofree char *name = state_of(text_in(row, "event"), &state);
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

static void read_event(reading *in, const json_t *row)
{
    g_autofree char *state = NULL;
    g_autofree char *name = state_of(text_in(row, "event"), &state);
    lane *const track = name != NULL ? lanes_find(in->made->lanes, name) : NULL;
    if (track != NULL) {
        const bool is_end = plan_is_limit(in->plan, name, state);
        lane_mark_add(
            track,
            (lane_mark){.at_us = us_in(row, "t_us"), .text = g_steal_pointer(&state), .is_end = is_end});
    }
}

static void make_timer_lanes(reading *in, const json_t *rows)
{
    size_t i;
    const json_t *row;
    json_array_foreach((json_t *)rows, i, row)
    {
        if (is_kind(row, "timer") && lanes_find(in->made->lanes, text_in(row, "timer")) == NULL) {
            (void)lanes_add(in->made->lanes, LANE_BOXES, "state", text_in(row, "timer"));
        }
    }
}

/* It runs from now on, for longer or shorter than it was to, or no more. Its text is how long in all. */
static void read_timer(reading *in, const json_t *row)
{
    lane *const track = lanes_find(in->made->lanes, text_in(row, "timer"));
    lane_mark *const newest = lane_newest(track);
    const uint64_t at_us = us_in(row, "t_us");
    const uint64_t until_us = us_in(row, "until_us");
    const bool goes_on = newest != NULL && newest->until_us > at_us;
    const uint64_t from_us = goes_on ? newest->at_us : at_us;
    if (!goes_on && until_us <= at_us) { /* it has come to its end */
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
    lane *const track = lanes_find(in->made->lanes, text_in(row, "output"));
    if (track == NULL) {
        return;
    }
    const json_t *const colours = json_object_get(row, "colours");
    const json_t *const text = json_object_get(row, "text");
    lane_mark mark = {.at_us = us_in(row, "t_us"),
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

/* A burst is lit and dark many times; a pause parts it from the next one. */
static void read_lit(reading *in, const json_t *row)
{
    enum { PAUSE_US = 20000 };
    lane *const lanes_of[] = {in->air, lanes_find(in->made->lanes, text_in(row, "output"))};
    const uint64_t at_us = us_in(row, "t_us");
    for (gsize i = 0; i < G_N_ELEMENTS(lanes_of); i++) {
        lane_mark *const newest = lanes_of[i] != NULL ? lane_newest(lanes_of[i]) : NULL;
        if (newest != NULL && newest->ink == INK_OURS && at_us < newest->until_us + PAUSE_US) {
            newest->until_us = at_us;
        } else if (lanes_of[i] != NULL) {
            lane_mark_add(lanes_of[i], (lane_mark){.at_us = at_us,
                                                   .until_us = at_us,
                                                   .text = i > 0 ? g_steal_pointer(&in->ordered) : NULL,
                                                   .ink = INK_OURS});
        }
    }
}

static void read_action(reading *in, const json_t *row)
{
    const lane *const track = lanes_find(in->made->lanes, text_in(row, "output"));
    const uint64_t at_us = us_in(row, "t_us");
    g_free(in->ordered);
    in->ordered = g_strdup(text_in(row, "action"));
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
    const uint64_t at_us = us_in(row, "t_us");
    if (in->first_missed == NULL) {
        in->first_missed = g_strdup_printf("%.3f s", (double)at_us / 1e6);
    }
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s; but %s", text_in(row, "expect"),
                                                                       text_in(row, "found")),
                                               .is_alert = true});
}

static void read_unheard(reading *in, const json_t *row)
{
    g_autofree char *key = key_in(row);
    const uint64_t at_us = us_in(row, "t_us");
    lane_mark_add(missed_lane(in), (lane_mark){.at_us = at_us,
                                               .until_us = at_us,
                                               .text = g_strdup_printf("%s wasn't heard", key),
                                               .is_alert = true});
}

static void read_air(reading *in, const json_t *row)
{
    lane_mark_add(
        in->air,
        (lane_mark){.at_us = us_in(row, "t_us"), .until_us = us_in(row, "until_us"), .ink = INK_HANDSET});
}

/* From now on it is so, where that is new. The text is taken over. */
static void put_level(lane *level, uint64_t at_us, double value, char *text)
{
    const lane_mark *const newest = lane_newest(level);
    if (newest != NULL && strcmp(newest->text, text) == 0) {
        g_free(text);
        return;
    }
    lane_mark_add(level, (lane_mark){.at_us = at_us, .value = value, .text = text});
}

/* What the board's chip was busy with: shares of the most that it was. */
static void read_chip(reading *in, const json_t *row)
{
    const uint64_t at_us = us_in(row, "t_us");
    const double stretch_us = (double)(us_in(row, "until_us") - at_us);
    const double poll_us = (double)us_in(row, "poll_us");
    const double masked = (double)us_in(row, "interrupts_off_us") / MAX(stretch_us, 1);
    const uint64_t lost = us_in(row, "lost_edges");
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
    {"finger", read_finger}, {"air", read_air},           {"frame", read_frame},     {"key", read_key},
    {"rule", read_rule},     {"action", read_action},     {"event", read_event},     {"drawn", read_drawn},
    {"lit", read_lit},       {"expected", read_expected}, {"unheard", read_unheard}, {"chip", read_chip},
    {"timer", read_timer},
};

/* Where a rehearsal was on the board's chip. */
static void make_chip_lanes(reading *in, const json_t *rows)
{
    size_t i;
    const json_t *row;
    json_array_foreach((json_t *)rows, i, row)
    {
        if (is_kind(row, "chip")) {
            const double stretch_us = (double)(us_in(row, "until_us") - us_in(row, "t_us"));
            in->max_poll_us = MAX(in->max_poll_us, (double)us_in(row, "poll_us"));
            in->max_masked =
                MAX(in->max_masked, (double)us_in(row, "interrupts_off_us") / MAX(stretch_us, 1));
        }
    }
    if (in->max_poll_us > 0) {
        in->polls = lanes_add(in->made->lanes, LANE_LEVEL, "board", "from poll to poll");
    }
    if (in->max_masked > 0) {
        in->masked = lanes_add(in->made->lanes, LANE_LEVEL, "board", "interrupts off");
    }
}

/* In words, behind the board's name; "" where it was an ideal chip. To be freed. */
static char *chip_text(const reading *in)
{
    if (in->max_poll_us <= 0) {
        return g_strdup("");
    }
    return g_strdup_printf(" (polls up to %.2f ms apart, interrupts off up to %.0f %% of 20 ms)",
                           in->max_poll_us / 1000, in->max_masked * 100);
}

/* How often an output has changed how it is drawn. */
static unsigned changes_of(const char *output, const json_t *rows)
{
    unsigned changes = 0;
    size_t i;
    const json_t *row;
    json_array_foreach((json_t *)rows, i, row)
    {
        const bool is_drawn = is_kind(row, "drawn") || is_kind(row, "lit");
        changes += is_drawn && strcmp(text_in(row, "output"), output) == 0;
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

/* Those that stay as they are have no lane; their names are in the second line. To be freed. */
static char *make_output_lanes(reading *in, const json_t *rows)
{
    GString *const still = g_string_new(NULL);
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drawing how = plan_output_kind(in->plan, i)->drawn_as;
        const char *const name = plan_output_name(in->plan, i);
        const unsigned changes = how != DRAWN_AS_NOTHING ? changes_of(name, rows) : 0;
        if (changes > 1) {
            (void)lanes_add(in->made->lanes, shape_of(how), "output", name);
        } else if (how != DRAWN_AS_NOTHING) {
            g_string_append_printf(still, "%s%s", still->len > 0 ? ", " : "; unchanged: ", name);
        }
    }
    return g_string_free(still, FALSE);
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

rehearsed rehearsed_of(const plan *rehearsal, const json_t *rows)
{
    enum { MORE_PERCENT = 2, MIN_US = 100000 };
    rehearsed made = {.lanes = lanes_new(), .presses = g_array_new(FALSE, FALSE, sizeof(uint64_t))};
    reading in = {.plan = rehearsal, .made = &made, .ruled_us = UINT64_MAX};
    in.finger = lanes_add(made.lanes, LANE_BOXES, "finger", "finger");
    in.air = lanes_add(made.lanes, LANE_BOXES, "air", "air");
    in.gesture = lanes_add(made.lanes, LANE_BOXES, "gesture", "key");
    in.rule = lanes_add(made.lanes, LANE_BOXES, "rule", "rule");
    make_event_lanes(&in, rows);
    make_timer_lanes(&in, rows);
    g_autofree char *still = make_output_lanes(&in, rows);
    make_chip_lanes(&in, rows);
    size_t i;
    const json_t *row;
    uint64_t last_us = MIN_US;
    json_array_foreach((json_t *)rows, i, row)
    {
        for (gsize j = 0; j < G_N_ELEMENTS(readers); j++) {
            if (is_kind(row, readers[j].kind)) {
                readers[j].read(&in, row);
            }
        }
        last_us = MAX(last_us, MAX(us_in(row, "t_us"), us_in(row, "until_us")));
    }
    made.until_us = last_us + last_us * MORE_PERCENT / 100;
    made.heading = heading_of(&in);
    g_autofree char *chip = chip_text(&in);
    made.below =
        g_strdup_printf("%u press%s in %.1f s, on the board %s%s%s", in.presses, in.presses == 1 ? "" : "es",
                        (double)last_us / 1e6, plan_board(rehearsal)->id, chip, still);
    g_free(in.first_missed);
    g_free(in.ordered);
    return made;
}

void rehearsed_clear(rehearsed *unwanted)
{
    lanes_free(unwanted->lanes);
    g_free(unwanted->heading);
    g_free(unwanted->below);
    g_array_unref(unwanted->presses);
}
