/* The rules, by hand and against the reference: random tables, random events, the same orders. */
#include "support.h"

#include "reference/reference.h"

#include "dromikos/internal/rules.h"
#include "dromikos/internal/queue.h"

#include <stdlib.h>

enum {
    OUTPUTS = 4,
    HANDSETS = 2,
    KEYS = 3,
    SWITCHES = 2,
    TICK_MS = 10,
    HELD = 64,
    SEQUENCES = 16,
    RULES = 24
};

/* The verbs of the outputs here: off, on, and busy for a number of ms. */
enum { OFF, ON, BUSY };

/* The outputs' state of one of the two implementations. */
typedef struct outcome {
    gint64 now;
    GString *log;
    bool is_on[OUTPUTS];
    gint64 busy_until[OUTPUTS];
} outcome;

static void give(void *context, uint8_t output, uint8_t verb, uint32_t value)
{
    outcome *const seen = context;
    seen->is_on[output] = verb != OFF;
    seen->busy_until[output] = verb == BUSY ? seen->now + (gint64)(value % 64) * TICK_MS : seen->now;
    g_string_append_printf(seen->log, "%" G_GINT64_FORMAT " output %u verb %u value %u\n", seen->now, output,
                           verb, value);
}

static bool ask_on(void *context, uint8_t output)
{
    return ((outcome *)context)->is_on[output];
}

static bool ask_busy(void *context, uint8_t output)
{
    const outcome *const from = context;
    return from->now < from->busy_until[output];
}

/* The same as an output of the engine. */
typedef struct recorder {
    outcome *seen;
    uint8_t output;
} recorder;

static void record_rest(const void *settings, void *state, drom_timing *timing)
{
    (void)settings;
    (void)state;
    (void)timing;
}

static void record_act(const void *settings, void *state, drom_timing *timing, uint8_t verb, uint32_t value)
{
    const recorder *const recording = state;
    (void)settings;
    (void)timing;
    give(recording->seen, recording->output, verb, value);
}

static bool record_is_on(const void *state)
{
    const recorder *const recording = state;
    return ask_on(recording->seen, recording->output);
}

static bool record_is_busy(const void *state)
{
    const recorder *const recording = state;
    return ask_busy(recording->seen, recording->output);
}

static const drom_output_kind recording_kind = {
    .undo = OFF, .rest = record_rest, .act = record_act, .is_on = record_is_on, .is_busy = record_is_busy};

/* A plan's rules with their memory, and their outputs. */
typedef struct house {
    drom_rule rules[RULES];
    drom_action actions[256];
    drom_condition conditions[64];
    unsigned action_count;
    unsigned condition_count;
    drom_mode modes[3];
    drom_value values[3];
    drom_last_press last_presses[HANDSETS];
    drom_sequence sequences[SEQUENCES];
    drom_held held[HELD];
    drom_timer timers[2];
    bool switches[SWITCHES];
    int16_t numbers[3];
    drom_rules_plan plan;
    recorder recorders[OUTPUTS];
    drom_output rows[OUTPUTS];
    drom_outputs_plan outputs;
    drom_timing timing;
    drom_events events;
    drom_rules real;
    outcome done;
    outcome meant;
    drom_observer observer;
    unsigned fired;
    unsigned overdue; /* waits that ended though their output was busy */
    reference *reference;
    gint64 wake_at; /* until then no timer or wait was due */
} house;

static void count_rule(void *context, uint8_t row)
{
    house *const in = context;
    ck_assert_uint_lt(row, in->plan.rules.count);
    in->fired++;
}

static void count_overdue(void *context, uint8_t row)
{
    house *const in = context;
    ck_assert_uint_ne(in->rules[row].sequence, 0);
    in->overdue++;
}

static void move_in(house *in, unsigned rule_count)
{
    in->plan.rules.rows = in->rules;
    in->plan.rules.count = (uint8_t)rule_count;
    in->plan.last_presses.rows = in->last_presses;
    in->plan.last_presses.count = HANDSETS;
    in->plan.held.rows = in->held;
    in->plan.held.count = HELD;
    in->plan.sequences.rows = in->sequences;
    in->plan.timers.rows = in->timers;
    in->plan.switches.rows = in->switches;
    in->plan.switches.count = SWITCHES;
    in->plan.numbers = in->numbers;
    in->plan.modes.rows = in->modes;
    in->plan.values.rows = in->values;
    for (uint8_t i = 0; i < OUTPUTS; i++) {
        in->recorders[i] = (recorder){&in->done, i};
        in->rows[i] = (drom_output){&recording_kind, &recording_kind, &in->recorders[i]};
    }
    in->outputs.outputs.rows = in->rows;
    in->outputs.outputs.count = OUTPUTS;
    in->done.log = g_string_new(NULL);
    in->meant.log = g_string_new(NULL);
    in->timing.now = UINT32_C(0xffffffff) - 700000; /* it wraps on the way */
    in->real = (drom_rules){
        .plan = &in->plan, .outputs = &in->outputs, .events = &in->events, .timing = &in->timing};
    in->observer = (drom_observer){.context = in, .rule = count_rule, .wait_ended = count_overdue};
    in->real.observer = &in->observer;
    drom_rules_init(&in->real);
    in->reference = reference_new(&in->plan, OFF, (reference_world){&in->meant, give, ask_on, ask_busy});
}

static void move_out(house *from)
{
    g_string_free(from->done.log, TRUE);
    g_string_free(from->meant.log, TRUE);
    reference_free(from->reference);
}

/* The core's rules do everything that is due. False if they did something for which they would have slept too
 * long. */
static bool settle(house *in, bool is_woken)
{
    const gsize before = in->done.log->len;
    drom_wait wait = 0;
    while (wait == 0) {
        drom_event event;
        if (drom_rules_act(&in->real)) {
            continue;
        }
        ck_assert(drom_rules_are_done(&in->real));
        if (drom_events_take(&in->events, &event)) {
            drom_rules_take(&in->real, &event);
        } else {
            wait = drom_rules_pass(&in->real);
        }
    }
    const bool is_late = !is_woken && in->done.log->len > before && in->done.now < in->wake_at;
    in->wake_at = wait == DROM_LONG ? G_MAXINT64 : in->done.now + wait / 1000;
    return !is_late;
}

/* Both implementations handle a moment with these events. */
static void live(house *in, const drom_event *events, unsigned count, const char *about)
{
    for (unsigned i = 0; i < count; i++) {
        (void)drom_events_post(&in->events, &events[i]);
    }
    reference_live(in->reference, in->meant.now, events, count);
    ck_assert_msg(settle(in, count > 0), "%s: it would have slept too long at %" G_GINT64_FORMAT ":\n%s",
                  about, in->done.now, in->done.log->str);
    ck_assert_msg(strcmp(in->done.log->str, in->meant.log->str) == 0, "%s: done:\n%smeant:\n%s", about,
                  in->done.log->str, in->meant.log->str);
    ck_assert_msg(in->real.mode == (unsigned)in->reference->mode, "%s: mode %u, not %u", about, in->real.mode,
                  (unsigned)in->reference->mode);
    for (unsigned i = 0; i < in->plan.values.count; i++) {
        ck_assert_msg(in->numbers[i] == in->reference->values[i], "%s: value %u is %d, not %d", about, i,
                      in->numbers[i], in->reference->values[i]);
    }
    ck_assert_uint_eq(in->events.dropped, in->reference->dropped);
    in->done.now += TICK_MS;
    in->meant.now += TICK_MS;
    in->timing.now += TICK_MS * 1000;
}

/* Random tables. A rule's effects rank lower than its event, so that no chain is endless. */

static unsigned below(GRand *dice, unsigned number)
{
    return (unsigned)g_rand_int_range(dice, 0, (gint32)number);
}

enum { SCENES = 2 };

static uint8_t draw_row(house *in, GRand *dice, uint8_t target)
{
    switch (target) {
    case DROM_TO_MODE:
        return (uint8_t)below(dice, in->plan.modes.count);
    case DROM_TO_VALUE:
        return (uint8_t)below(dice, in->plan.values.count);
    case DROM_TO_TIMER:
        return (uint8_t)below(dice, in->plan.timers.count);
    case DROM_TO_SCENE:
        return (uint8_t)below(dice, SCENES);
    default:
        return (uint8_t)below(dice, OUTPUTS);
    }
}

/* True if a rule about this source may have that action. */
static bool is_allowed(const house *in, const drom_rule *rule, const drom_action *action)
{
    const uint8_t source = rule->source;
    switch (action->target) {
    case DROM_TO_MODE:
        return in->plan.modes.count > 0 && source != DROM_SOURCE_MODE && source != DROM_SOURCE_VALUE;
    case DROM_TO_VALUE:
        return in->plan.values.count > 0 && source != DROM_SOURCE_VALUE;
    case DROM_TO_TIMER:
        return in->plan.timers.count > 0;
    case DROM_TO_SCENE:
        return action->verb == DROM_SCENE_STOP ||
               (source != DROM_SOURCE_SCENE && source != DROM_SOURCE_MODE && source != DROM_SOURCE_VALUE);
    default:
        return true;
    }
}

static void draw_numbers(house *in, GRand *dice, const drom_rule *rule, drom_action *action)
{
    const bool is_output = action->target == DROM_TO_OUTPUT;
    switch (action->target) {
    case DROM_TO_OUTPUT:
        action->verb = (uint8_t)below(dice, BUSY + 1);
        action->value = below(dice, 2) == 0 ? below(dice, 64) : (uint32_t)g_rand_int(dice);
        action->flags = rule->source == DROM_SOURCE_KEY && below(dice, 3) == 0 ? DROM_WHILE_HELD : 0;
        break;
    case DROM_TO_VALUE:
        action->verb = (uint8_t)below(dice, DROM_VALUE_VERBS);
        action->value = (uint16_t)(int16_t)g_rand_int_range(dice, -9, 9);
        action->flags = (uint8_t)(below(dice, 4) * DROM_INTO_SUM);
        break;
    default:
        action->value = (1 + below(dice, 20)) * TICK_MS;
        break;
    }
    const bool counts = action->target == DROM_TO_VALUE;
    const bool is_time = action->target == DROM_TO_WAIT || action->target == DROM_TO_TIMER;
    if ((is_output || counts || is_time) && in->plan.values.count > 0 && below(dice, 4) == 0) {
        static const uint8_t forms[] = {DROM_AS_COUNT,    DROM_AS_PERCENT, DROM_AS_SIGNED, DROM_AS_DEGREES,
                                        DROM_AS_MULTIPLE, DROM_AS_TURN,    DROM_AS_TIME};
        const uint8_t form = is_output ? forms[below(dice, G_N_ELEMENTS(forms))]
                             : is_time ? (uint8_t)DROM_AS_MULTIPLE
                                       : (uint8_t)DROM_AS_COUNT;
        const uint32_t row = below(dice, in->plan.values.count);
        if (is_time && in->values[row].min < 0) {
            return; /* such a plan is refused */
        }
        action->flags |= DROM_OF_VALUE | form;
        action->value = is_time                ? TICK_MS << 8 | row
                        : form == DROM_AS_TIME ? (action->value & 0xffff00ff) | row << 8
                        : form == DROM_AS_COUNT || form == DROM_AS_SIGNED
                            ? (action->value & 0xffff0000) | row
                            : (action->value & 0xffffff00) | row;
        action->value &= counts ? 0xffff : UINT32_MAX;
    } else if ((is_output || counts) && (action->flags & DROM_WHILE_HELD) == 0 && below(dice, 6) == 0) {
        action->flags |= DROM_OF_EVENT;
    }
}

static uint8_t draw_actions(house *in, GRand *dice, drom_rule *rule, drom_action **rows)
{
    const unsigned count = 1 + below(dice, 5);
    *rows = &in->actions[in->action_count];
    for (unsigned i = 0; i < count; i++) {
        drom_action *const action = &in->actions[in->action_count++];
        do {
            *action =
                (drom_action){.target = (uint8_t)below(dice, DROM_TARGETS), .verb = (uint8_t)below(dice, 2)};
            if (below(dice, 3) == 0) {
                action->target = DROM_TO_OUTPUT;
            }
        } while (!is_allowed(in, rule, action));
        if (action->target == DROM_TO_WAIT_FOR) {
            action->verb = (uint8_t)below(dice, DROM_UNTILS);
        }
        action->row = action->target == DROM_TO_WAIT_FOR && action->verb != DROM_UNTIL_IDLE
                          ? (uint8_t)below(dice, SWITCHES)
                          : draw_row(in, dice, action->target);
        draw_numbers(in, dice, rule, action);
        if ((action->target == DROM_TO_WAIT || action->target == DROM_TO_WAIT_FOR) && rule->sequence == 0) {
            rule->sequence = ++in->plan.sequences.count;
        }
    }
    return (uint8_t)count;
}

static void draw_condition(house *in, GRand *dice, drom_condition *condition)
{
    const unsigned rows[] = {in->plan.values.count, OUTPUTS, SWITCHES, in->plan.timers.count,
                             in->plan.modes.count};
    do {
        condition->subject = (uint8_t)below(dice, DROM_SUBJECTS);
    } while (rows[condition->subject] == 0);
    condition->row = (uint8_t)below(dice, rows[condition->subject]);
    condition->compare = (uint8_t)(1 + below(dice, 6));
    condition->number = (int16_t)below(dice, condition->subject == DROM_IF_VALUE ? 5 : 2);
    if (in->plan.values.count > 0 && below(dice, 4) == 0) {
        condition->compare |= DROM_THAN_VALUE;
        condition->number = (int16_t)below(dice, in->plan.values.count);
    }
}

static void draw_rule(house *in, GRand *dice, drom_rule *rule)
{
    static const uint8_t sources[] = {
        DROM_SOURCE_KEY,   DROM_SOURCE_KEY,    DROM_SOURCE_KEY,   DROM_SOURCE_KEY,    DROM_SOURCE_MODE,
        DROM_SOURCE_VALUE, DROM_SOURCE_SWITCH, DROM_SOURCE_TIMER, DROM_SOURCE_POSTED, DROM_SOURCE_SCENE,
        DROM_SOURCE_START, DROM_SOURCE_HEARD,  DROM_SOURCE_LOST};
    rule->source = sources[below(dice, G_N_ELEMENTS(sources))];
    rule->row = (uint8_t)below(dice, 2);
    if (rule->source == DROM_SOURCE_KEY) {
        rule->key = (uint8_t)(below(dice, 6) == 0 ? DROM_ANY_OTHER_KEY : below(dice, KEYS));
        rule->gestures = (uint8_t)(below(dice, 3) > 0 ? DROM_PRESS : 1 + below(dice, DROM_ANY_GESTURE));
        rule->hold = (uint8_t)below(dice, 2);
    } else if (rule->source == DROM_SOURCE_MODE || rule->source == DROM_SOURCE_SWITCH) {
        rule->key = (uint8_t)below(dice, 2);
    } else if (rule->source == DROM_SOURCE_START || rule->source == DROM_SOURCE_HEARD) {
        rule->row = 0;
    }
    rule->mode = (uint8_t)(below(dice, 3) == 0 ? below(dice, in->plan.modes.count + 1u) : 0);
    rule->again = (uint8_t)below(dice, DROM_AGAINS);
    rule->conditions.rows = &in->conditions[in->condition_count];
    rule->conditions.count = (uint8_t)(below(dice, 3) == 0 ? 1 + below(dice, 2) : 0);
    for (unsigned i = 0; i < rule->conditions.count; i++) {
        draw_condition(in, dice, &in->conditions[in->condition_count++]);
    }
    drom_action *rows = NULL;
    rule->actions.count = draw_actions(in, dice, rule, &rows);
    rule->actions.rows = rows;
    if (rule->conditions.count > 0 && below(dice, 2) == 0) {
        rule->otherwise.count = draw_actions(in, dice, rule, &rows);
        rule->otherwise.rows = rows;
    }
}

static gint by_subject(gconstpointer left, gconstpointer right)
{
    const drom_rule *const a = left;
    const drom_rule *const b = right;
    return a->source != b->source ? a->source - b->source
           : a->row != b->row     ? a->row - b->row
                                  : a->key - b->key;
}

static void draw_house(house *in, GRand *dice)
{
    in->plan.modes.count = (uint8_t)below(dice, 4);
    for (unsigned i = 1; i < in->plan.modes.count; i++) {
        in->modes[i].back_after_ms = below(dice, 3) * 10 * TICK_MS;
    }
    in->plan.values.count = (uint8_t)below(dice, 4);
    for (unsigned i = 0; i < in->plan.values.count; i++) {
        const int16_t min = (int16_t) - (int)below(dice, 3);
        const int16_t max = (int16_t)(1 + below(dice, 4));
        in->values[i] = (drom_value){min, max, min, below(dice, 2) == 0};
    }
    in->plan.timers.count = (uint8_t)below(dice, 3);
    const unsigned count = 1 + below(dice, 14);
    GArray *const rules = g_array_new(FALSE, TRUE, sizeof(drom_rule));
    g_array_set_size(rules, count);
    for (unsigned i = 0; i < count; i++) {
        draw_rule(in, dice, &g_array_index(rules, drom_rule, i));
    }
    g_array_sort(rules, by_subject); /* it keeps the order of equal ones */
    memcpy(in->rules, rules->data, count * sizeof(drom_rule));
    for (unsigned i = 1; i < count; i++) { /* some equal ones share a sequence */
        const drom_rule *const other = &in->rules[below(dice, i)];
        drom_rule *const rule = &in->rules[i];
        if (rule->sequence != 0 && other->sequence != 0 && rule->again == other->again &&
            rule->source != DROM_SOURCE_SCENE && other->source != DROM_SOURCE_SCENE && below(dice, 2) == 0) {
            rule->sequence = other->sequence;
        }
    }
    g_array_unref(rules);
    move_in(in, count);
}

static drom_event draw_event(house *in, GRand *dice, uint8_t *down)
{
    static const uint8_t sources[] = {DROM_SOURCE_SWITCH, DROM_SOURCE_POSTED, DROM_SOURCE_HEARD};
    static const uint8_t while_down[] = {DROM_REPEAT, DROM_REPEAT, DROM_HOLD, DROM_RELEASE, DROM_RELEASE};
    static const uint8_t while_up[] = {DROM_PRESS, DROM_PRESS, DROM_PRESS, DROM_TAP, DROM_DOUBLE};
    const uint8_t row = (uint8_t)below(dice, HANDSETS);
    const int16_t value = (int16_t)g_rand_int_range(dice, -5, 200);
    (void)in;
    if (below(dice, 4) == 0) {
        const uint8_t source = sources[below(dice, G_N_ELEMENTS(sources))];
        return (drom_event){.source = source,
                            .row = source == DROM_SOURCE_HEARD ? 0 : row,
                            .key = (uint8_t)(source == DROM_SOURCE_SWITCH ? below(dice, 2) : 0),
                            .value = value};
    }
    if (below(dice, 40) == 0) {
        down[row] = DROM_ANY_OTHER_KEY;
        return (drom_event){.source = DROM_SOURCE_LOST, .row = row};
    }
    drom_event event = {
        .source = DROM_SOURCE_KEY, .row = row, .value = value, .hold = (uint8_t)below(dice, 2)};
    if (down[row] == DROM_ANY_OTHER_KEY) {
        event.key = (uint8_t)below(dice, KEYS);
        event.gesture = while_up[below(dice, G_N_ELEMENTS(while_up))];
        down[row] = event.gesture == DROM_PRESS ? event.key : DROM_ANY_OTHER_KEY;
    } else {
        event.key = down[row];
        event.gesture = while_down[below(dice, G_N_ELEMENTS(while_down))];
        down[row] = event.gesture == DROM_RELEASE ? DROM_ANY_OTHER_KEY : down[row];
    }
    return event;
}

TEST(random_rules_do_what_is_meant)
{
    const char *const asked = g_getenv("RULES_PLANS");
    const unsigned plans = asked != NULL ? (unsigned)atoi(asked) : 2500;
    gsize orders = 0;
    unsigned fired = 0;
    unsigned overdue = 0;
    for (unsigned seed = 0; seed < plans; seed++) {
        g_autofree house *in = g_new0(house, 1);
        g_autofree char *about = g_strdup_printf("plan %u", seed);
        GRand *const dice = g_rand_new_with_seed(seed);
        uint8_t down[HANDSETS] = {DROM_ANY_OTHER_KEY, DROM_ANY_OTHER_KEY};
        draw_house(in, dice);
        const unsigned seldom = below(dice, 2) == 0 ? 3 : 15; /* one moment in this many has an event */
        const drom_event start = {.source = DROM_SOURCE_START};
        live(in, &start, 1, about);
        for (unsigned tick = 0; tick < 120; tick++) {
            drom_event events[12];
            const unsigned count = below(dice, 20) == 0 && seldom == 3 ? 12
                                   : below(dice, seldom) == 0          ? 1 + below(dice, 2)
                                                                       : 0;
            for (unsigned i = 0; i < count; i++) {
                events[i] = draw_event(in, dice, down);
            }
            live(in, events, count, about);
        }
        orders += in->done.log->len;
        fired += in->fired;
        overdue += in->overdue;
        move_out(in);
        g_rand_free(dice);
    }
    ck_assert_uint_gt(orders, plans * 50);
    ck_assert_uint_gt(fired, plans);
    ck_assert_uint_gt(overdue, plans / 50);
}

/* The following tests call the rules in ways that the reference lacks. */

TEST(timers_count_to_a_day_and_no_farther)
{
    static const drom_us starts[] = {0, UINT32_C(0xfffff000)};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        drom_timer timer = {0};
        drom_us now = starts[i];
        unsigned minutes = 0;
        drom_timer_start(&timer, now, DROM_TIMER_LONGEST_MS);
        drom_timer_add(&timer, now, 1800000); /* which a day has no room for */
        while (!drom_timer_passed(&timer, now)) {
            now += 60000000;
            minutes++;
            ck_assert_uint_le(minutes, 1440);
        }
        ck_assert_uint_eq(minutes, 1440);
        ck_assert(!drom_timer_passed(&timer, now));
        drom_timer_start(&timer, now, DROM_TIMER_LONGEST_MS - 1000);
        drom_timer_add(&timer, now, 500);
        drom_timer_add(&timer, now, 1000); /* a day and half a second */
        drom_timer_add(&timer, now, DROM_TIMER_LONGEST_MS);
        ck_assert_uint_eq(timer.more_parts, DROM_TIMER_LONGEST_MS / DROM_TIMER_PART_MS);
        ck_assert_uint_eq(timer.part.at - now, DROM_TIMER_LONGEST_MS % DROM_TIMER_PART_MS * 1000);
        timer.part.is_armed = false;
        drom_timer_add(&timer, now, 60000);
        drom_timer_add(&timer, now, 1020000); /* 18 minutes in all, a part and some */
        for (minutes = 0; !drom_timer_passed(&timer, now); minutes++) {
            now += 60000000;
        }
        ck_assert_uint_eq(minutes, 18);
    }
}

TEST(full_queue_drops_repeats_first_and_counts)
{
    const drom_event repeat = {.source = DROM_SOURCE_KEY, .gesture = DROM_REPEAT};
    const drom_event release = {.source = DROM_SOURCE_KEY, .gesture = DROM_RELEASE};
    drom_events events = {0};
    drom_event event;
    for (unsigned i = 0; i < DROM_EVENTS; i++) {
        ck_assert(drom_events_have_room(&events) == (i < DROM_EVENTS - DROM_EVENTS_SPARE));
        ck_assert(drom_events_post(&events, i == 2 ? &repeat : &release));
    }
    ck_assert(drom_events_post(&events, &release));
    ck_assert_uint_eq(events.dropped, 1);
    ck_assert(!drom_events_post(&events, &repeat));
    ck_assert_uint_eq(events.dropped, 2);
    for (unsigned i = 0; i < DROM_EVENTS; i++) {
        ck_assert(drom_events_take(&events, &event));
        ck_assert_uint_eq(event.gesture, DROM_RELEASE);
    }
    ck_assert(!drom_events_take(&events, &event));
}

SUITE("rules")
