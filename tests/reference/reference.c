#include "reference.h"

enum { NEVER = -1, NOTHING = -1 };

/* A key that is down, or was last. */
typedef struct hand {
    int key;
    int mode;
    bool is_down;
} hand;

/* An action list that is under way, and what caused it. */
typedef struct running {
    int rule;
    bool is_otherwise;
    unsigned next;
    int handset; /* NOTHING: no key caused it */
    int key;
    int number;
    int mode;
    gint64 until; /* of its wait */
    int output;   /* that it waits for, or NOTHING */
} running;

/* An order that is held. */
typedef struct hold {
    int rule;
    bool is_otherwise;
    unsigned action;
    int handset;
    int key;
    int number;
    bool is_over;
} hold;

struct reference {
    const drom_rules_plan *plan;
    reference_world world;
    uint8_t undo;
    gint64 now;
    int mode;
    int back_to;
    gint64 left; /* ms of the mode's time; NEVER: it has no end */
    gint64 left_at;
    hand hands[8];
    int values[8];
    gint64 timers[8]; /* when they end, or NEVER */
    bool is_closed[8];
    GArray *holds;   /* of hold, the newest last */
    GArray *waiting; /* of running: those that wait */
    GArray *queued;  /* of running: those that begin when the rule that they are of has ended */
    GArray *events;  /* of drom_event, the oldest first */
    unsigned dropped;
};

static const drom_rule *rule_at(const reference *of, int row)
{
    return &of->plan->rules.rows[row];
}

static const drom_action *action_at(const reference *of, int rule, bool is_otherwise, unsigned number)
{
    const drom_rule *const about = rule_at(of, rule);
    return is_otherwise ? &about->otherwise.rows[number] : &about->actions.rows[number];
}

static unsigned length_of(const reference *of, const running *run)
{
    return run->is_otherwise ? rule_at(of, run->rule)->otherwise.count
                             : rule_at(of, run->rule)->actions.count;
}

/* 2: eight places; a repeat makes room; the change of a value is worth saying once. */
static void post(reference *of, drom_event event)
{
    for (guint i = 0; i < of->events->len; i++) {
        const drom_event *const other = &g_array_index(of->events, drom_event, i);
        if (event.source == DROM_SOURCE_VALUE && other->source == event.source && other->row == event.row) {
            return;
        }
    }
    for (guint i = 0; of->events->len == 8 && i < of->events->len; i++) {
        const drom_event *const other = &g_array_index(of->events, drom_event, i);
        if (other->source == DROM_SOURCE_KEY && other->gesture == DROM_REPEAT) {
            g_array_remove_index(of->events, i);
            of->dropped++;
        }
    }
    if (of->events->len == 8) {
        of->dropped++;
        return;
    }
    g_array_append_val(of->events, event);
}

/* 3: a mode's time stands still while a key is down or what began in it waits. */
static void pass_mode_time(reference *of)
{
    bool stands = false;
    for (unsigned i = 0; i < of->plan->hands.count; i++) {
        stands |= of->hands[i].is_down;
    }
    for (guint i = 0; i < of->waiting->len; i++) {
        stands |= g_array_index(of->waiting, running, i).mode == of->mode;
    }
    if (of->left != NEVER && !stands) {
        of->left -= of->now - of->left_at;
    }
    of->left_at = of->now;
}

static void restart_mode_time(reference *of)
{
    const uint32_t ms = of->plan->modes.count > 0 ? of->plan->modes.rows[of->mode].back_after_ms : 0;
    of->left = ms > 0 ? (gint64)ms : NEVER;
    of->left_at = of->now;
    if (ms == 0) {
        of->back_to = of->mode;
    }
}

static void enter(reference *of, int mode)
{
    const int before = of->mode;
    of->mode = mode;
    restart_mode_time(of);
    if (before == mode) {
        return;
    }
    for (guint i = 0; i < of->holds->len; i++) { /* 4: what the mode's rules hold ends with it */
        hold *const held = &g_array_index(of->holds, hold, i);
        held->is_over |= rule_at(of, held->rule)->mode == before + 1;
    }
    post(of, (drom_event){.source = DROM_SOURCE_MODE, .row = (uint8_t)before, .key = DROM_ENDS});
    post(of, (drom_event){.source = DROM_SOURCE_MODE, .row = (uint8_t)mode, .key = DROM_BEGINS});
}

/* 6: a number in the place of what was written. */
static uint32_t value_of(const reference *of, const drom_action *action, int number)
{
    uint32_t value = action->value;
    if ((action->flags & DROM_OF_VALUE) != 0) {
        number = of->values[action->value & 0xff];
    }
    if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) != 0) {
        const int from = MAX(number, 0);
        value = (action->flags & DROM_AS_PERCENT) != 0
                    ? value / 256 * 256 + (uint32_t)(MIN(from, 100) * 255 + 50) / 100
                    : value / 65536 * 65536 + (uint32_t)from;
    }
    return value;
}

static void give_order(const reference *of, const drom_action *action, int number)
{
    of->world.order(of->world.context, action->row, action->verb, value_of(of, action, number));
}

/* 4: of the holds of one output the newest counts; with none left it is undone. */
static void undo_what_is_over(reference *of)
{
    for (;;) {
        guint first = 0;
        while (first < of->holds->len && !g_array_index(of->holds, hold, first).is_over) {
            first++;
        }
        if (first == of->holds->len) {
            return;
        }
        const hold over = g_array_index(of->holds, hold, first);
        const uint8_t output = action_at(of, over.rule, over.is_otherwise, over.action)->row;
        g_array_remove_index(of->holds, first);
        const hold *newest = NULL;
        bool was_newest = true;
        for (guint i = 0; i < of->holds->len; i++) {
            const hold *const other = &g_array_index(of->holds, hold, i);
            if (action_at(of, other->rule, other->is_otherwise, other->action)->row == output) {
                newest = other;
                was_newest &= i < first;
            }
        }
        if (was_newest && newest != NULL) {
            give_order(of, action_at(of, newest->rule, newest->is_otherwise, newest->action), newest->number);
        } else if (was_newest) {
            of->world.order(of->world.context, output, of->undo, 0);
        }
    }
}

static void end_holds_of_output(reference *of, uint8_t output)
{
    for (guint i = of->holds->len; i-- > 0;) {
        const hold *const held = &g_array_index(of->holds, hold, i);
        if (action_at(of, held->rule, held->is_otherwise, held->action)->row == output) {
            g_array_remove_index(of->holds, i);
        }
    }
}

static void order_an_output(reference *of, const running *run, const drom_action *action, unsigned number)
{
    if ((action->flags & DROM_WHILE_HELD) == 0) {
        end_holds_of_output(of, action->row);
    } else {
        if (run->handset == NOTHING || !of->hands[run->handset].is_down ||
            of->hands[run->handset].key != run->key) {
            return; /* 4: after a wait only while the key is still down */
        }
        for (guint i = 0; i < of->holds->len; i++) {
            const hold *const held = &g_array_index(of->holds, hold, i);
            if (held->rule == run->rule && held->is_otherwise == run->is_otherwise &&
                held->action == number) {
                g_array_remove_index(of->holds, i);
            }
        }
        const hold held = {run->rule, run->is_otherwise, number, run->handset, run->key, run->number, false};
        g_array_append_val(of->holds, held);
    }
    give_order(of, action, run->number);
}

/* 6: at its limits a value stops, or goes on at the other one. */
static void change_value(reference *of, unsigned row, uint8_t verb, int16_t by)
{
    const drom_value *const value = &of->plan->values.rows[row];
    const int before = of->values[row];
    int to = verb == DROM_VALUE_UP ? before + by : verb == DROM_VALUE_DOWN ? before - by : by;
    const int size = value->max - value->min + 1;
    while (value->wraps && to > value->max) {
        to -= size;
    }
    while (value->wraps && to < value->min) {
        to += size;
    }
    of->values[row] = CLAMP(to, value->min, value->max);
    if (of->values[row] != before) {
        post(of, (drom_event){.source = DROM_SOURCE_VALUE, .row = (uint8_t)row});
    }
}

static void change_timer(reference *of, unsigned row, uint8_t verb, uint32_t ms)
{
    gint64 *const ends = &of->timers[row];
    if (verb == DROM_TIMER_CANCEL) {
        *ends = NEVER;
    } else {
        *ends = MIN((verb == DROM_TIMER_ADD && *ends != NEVER ? *ends : of->now) + ms,
                    of->now + DROM_TIMER_LONGEST_MS);
    }
}

static void remove_runs_of(GArray *runs, int rule)
{
    for (guint i = runs->len; i-- > 0;) {
        if (g_array_index(runs, running, i).rule == rule) {
            g_array_remove_index(runs, i);
        }
    }
}

/* 5: nothing of a scene goes on. True when `run` is part of it. */
static bool stop_scene(reference *of, uint8_t scene, const running *run)
{
    bool is_own = false;
    for (int i = 0; i < of->plan->rules.count; i++) {
        if (rule_at(of, i)->source == DROM_SOURCE_SCENE && rule_at(of, i)->row == scene) {
            remove_runs_of(of->waiting, i);
            remove_runs_of(of->queued, i);
            is_own |= run->rule == i;
        }
    }
    return is_own;
}

/* 5: goes on with a list until it waits or ends; then with the one that was queued behind it. */
static void go_on(reference *of, running run)
{
    while (run.next < length_of(of, &run)) {
        const unsigned number = run.next++;
        const drom_action *const action = action_at(of, run.rule, run.is_otherwise, number);
        switch (action->target) {
        case DROM_TO_OUTPUT:
            order_an_output(of, &run, action, number);
            break;
        case DROM_TO_WAIT:
        case DROM_TO_WAIT_FOR:
            run.output = action->target == DROM_TO_WAIT_FOR ? action->row : NOTHING;
            run.until = of->now + value_of(of, action, run.number);
            g_array_append_val(of->waiting, run);
            return;
        case DROM_TO_MODE:
            enter(of, action->row);
            undo_what_is_over(of);
            break;
        case DROM_TO_VALUE:
            change_value(of, action->row, action->verb, (int16_t)(uint16_t)value_of(of, action, run.number));
            break;
        case DROM_TO_TIMER:
            change_timer(of, action->row, action->verb, action->value);
            break;
        default:
            if (action->verb == DROM_SCENE_BEGIN) {
                post(of, (drom_event){.source = DROM_SOURCE_SCENE, .row = action->row});
            } else if (stop_scene(of, action->row, &run)) {
                return;
            }
            break;
        }
    }
    for (guint i = 0; i < of->queued->len; i++) {
        running behind = g_array_index(of->queued, running, i);
        if (behind.rule == run.rule) {
            g_array_remove_index(of->queued, i);
            behind.mode = of->mode;
            go_on(of, behind);
            return;
        }
    }
}

static bool has_run_of(const GArray *runs, int rule)
{
    bool has = false;
    for (guint i = 0; i < runs->len; i++) {
        has |= g_array_index(runs, running, i).rule == rule;
    }
    return has;
}

/* 5: what `again` says concerns a rule that still waits. */
static void fire(reference *of, running run)
{
    run.mode = of->mode;
    if (has_run_of(of->waiting, run.rule)) {
        switch (rule_at(of, run.rule)->again) {
        case DROM_AGAIN_IGNORED:
            return;
        case DROM_AGAIN_QUEUED:
            if (!has_run_of(of->queued, run.rule)) {
                g_array_append_val(of->queued, run);
            }
            return;
        case DROM_AGAIN_STOPS:
            remove_runs_of(of->waiting, run.rule);
            return;
        default:
            remove_runs_of(of->waiting, run.rule);
            break;
        }
    }
    go_on(of, run);
}

static bool is_met(const reference *of, const drom_condition *condition)
{
    int number = 0;
    switch (condition->subject) {
    case DROM_IF_VALUE:
        number = of->values[condition->row];
        break;
    case DROM_IF_OUTPUT:
        number = of->world.is_on(of->world.context, condition->row);
        break;
    case DROM_IF_SWITCH:
        number = of->is_closed[condition->row];
        break;
    default:
        number = of->timers[condition->row] != NEVER;
        break;
    }
    return (number < condition->number && (condition->compare & DROM_LESS) != 0) ||
           (number == condition->number && (condition->compare & DROM_EQUAL) != 0) ||
           (number > condition->number && (condition->compare & DROM_GREATER) != 0);
}

static bool is_in_mode(const drom_rule *rule, int mode)
{
    return rule->mode == 0 || rule->mode == mode + 1;
}

static bool is_about(const drom_rule *rule, const drom_event *event, int mode)
{
    return rule->source == event->source && rule->row == event->row && rule->key == event->key &&
           is_in_mode(rule, mode);
}

static bool has_gesture(const drom_rule *rule, const drom_event *event)
{
    return event->source != DROM_SOURCE_KEY || ((rule->gestures & event->gesture) != 0 &&
                                                (event->gesture != DROM_HOLD || rule->hold == event->hold));
}

/* 1: all conditions are read first; then the rules act in the order of the plan. */
static void answer(reference *of, const drom_event *event)
{
    const bool is_key = event->source == DROM_SOURCE_KEY;
    const int mode = is_key ? of->hands[event->row].mode : of->mode; /* 3 */
    drom_event about = *event;
    bool is_named = false;
    for (int i = 0; i < of->plan->rules.count; i++) {
        is_named |= is_about(rule_at(of, i), event, mode);
    }
    if (!is_named && is_key) { /* 9 */
        about.key = DROM_ANY_OTHER_KEY;
    }
    g_autoptr(GArray) fired = g_array_new(FALSE, FALSE, sizeof(running));
    for (int i = 0; i < of->plan->rules.count; i++) {
        const drom_rule *const rule = rule_at(of, i);
        if (!is_about(rule, &about, mode) || !has_gesture(rule, event)) {
            continue;
        }
        bool holds = true;
        for (unsigned j = 0; j < rule->conditions.count; j++) {
            holds &= is_met(of, &rule->conditions.rows[j]);
        }
        const running run = {.rule = i,
                             .is_otherwise = !holds,
                             .handset = is_key ? event->row : NOTHING,
                             .key = event->key,
                             .number = event->value};
        if (holds || rule->otherwise.count > 0) {
            g_array_append_val(fired, run);
        }
    }
    for (guint i = 0; i < fired->len; i++) {
        fire(of, g_array_index(fired, running, i));
    }
}

static void take(reference *of, const drom_event *event)
{
    if (event->source == DROM_SOURCE_KEY) {
        hand *const pressing = &of->hands[event->row];
        if (event->gesture == DROM_PRESS) {
            *pressing = (hand){event->key, of->mode, true};
        }
        pressing->is_down &= event->gesture != DROM_RELEASE;
        restart_mode_time(of);
    }
    if (event->source == DROM_SOURCE_LOST) {
        of->hands[event->row].is_down = false;
    }
    if (event->source == DROM_SOURCE_SWITCH) {
        of->is_closed[event->row] = event->key == DROM_CLOSES;
    }
    for (guint i = 0; i < of->holds->len; i++) {
        hold *const held = &g_array_index(of->holds, hold, i);
        held->is_over |=
            held->handset == event->row &&
            (event->source == DROM_SOURCE_LOST ||
             (event->source == DROM_SOURCE_KEY && event->gesture == DROM_RELEASE && held->key == event->key));
    }
    undo_what_is_over(of);
    answer(of, event);
}

/* Waits that are over, in the order of the sequences; true when there was one. */
static bool resume(reference *of)
{
    for (unsigned sequence = 1; sequence <= of->plan->sequences.count; sequence++) {
        for (guint i = 0; i < of->waiting->len; i++) {
            const running run = g_array_index(of->waiting, running, i);
            const bool is_idle =
                run.output != NOTHING && !of->world.is_busy(of->world.context, (uint8_t)run.output);
            if (rule_at(of, run.rule)->sequence == sequence && (is_idle || of->now >= run.until)) {
                g_array_remove_index(of->waiting, i);
                go_on(of, run);
                return true;
            }
        }
    }
    return false;
}

/* Timers and the mode's time, looked at when nothing else is left. */
static void pass(reference *of)
{
    for (unsigned i = 0; i < of->plan->timers.count; i++) {
        if (of->timers[i] != NEVER && of->now >= of->timers[i]) {
            of->timers[i] = NEVER;
            post(of, (drom_event){.source = DROM_SOURCE_TIMER, .row = (uint8_t)i});
        }
    }
    if (of->left != NEVER && of->left <= 0) {
        of->left = NEVER;
        enter(of, of->back_to);
        undo_what_is_over(of);
    }
}

void reference_live(reference *of, gint64 now_ms, const drom_event *events, unsigned count)
{
    of->now = now_ms;
    pass_mode_time(of);
    for (unsigned i = 0; i < count; i++) {
        post(of, events[i]);
    }
    do {
        while (resume(of) || of->events->len > 0) {
            if (of->events->len > 0 && !resume(of)) {
                const drom_event event = g_array_index(of->events, drom_event, 0);
                g_array_remove_index(of->events, 0);
                take(of, &event);
            }
        }
        pass(of);
    } while (of->events->len > 0);
}

reference *reference_new(const drom_rules_plan *plan, uint8_t undo, reference_world world)
{
    reference *const made = g_new0(reference, 1);
    *made = (reference){.plan = plan,
                        .world = world,
                        .undo = undo,
                        .left = NEVER,
                        .holds = g_array_new(FALSE, FALSE, sizeof(hold)),
                        .waiting = g_array_new(FALSE, FALSE, sizeof(running)),
                        .queued = g_array_new(FALSE, FALSE, sizeof(running)),
                        .events = g_array_new(FALSE, FALSE, sizeof(drom_event))};
    for (unsigned i = 0; i < 8; i++) {
        made->timers[i] = NEVER;
        made->values[i] = i < plan->values.count ? plan->values.rows[i].start : 0;
    }
    return made;
}

void reference_free(reference *unwanted)
{
    g_array_unref(unwanted->holds);
    g_array_unref(unwanted->waiting);
    g_array_unref(unwanted->queued);
    g_array_unref(unwanted->events);
    g_free(unwanted);
}

unsigned reference_mode(const reference *of)
{
    return (unsigned)of->mode;
}

int reference_value(const reference *of, unsigned value)
{
    return of->values[value];
}

unsigned reference_dropped(const reference *of)
{
    return of->dropped;
}
