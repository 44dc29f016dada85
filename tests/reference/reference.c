/* The numbers in comments are those of docs/meaning.md. */
#include "reference.h"

#include <math.h>

enum { NEVER = -1, NOTHING = -1, PLACES = 8, PLACES_OF_KEYS = 13 };

/* A list of actions in progress. */
typedef struct run {
    int rule;
    bool is_otherwise;
    unsigned next;
    drom_event cause;
    int mode;     /* in which it began */
    gint64 from;  /* of its wait, */
    gint64 until; /* at the latest */
    int output;   /* or switch that it waits for, or NOTHING */
    int awaited;  /* a drom_awaited */
    bool is_over; /* held orders are to be undone */
} run;

#define RUN_AT(runs, i) (&g_array_index(runs, run, i))

static const drom_rule *rule_of(const reference *ref, const run *about)
{
    return &ref->plan->rules.rows[about->rule];
}

/* Its action of a number, or NULL after the last. */
static const drom_action *action_of(const reference *ref, const run *about, unsigned number)
{
    const drom_rule *const rule = rule_of(ref, about);
    const unsigned count = about->is_otherwise ? rule->otherwise.count : rule->actions.count;
    return number < count ? &(about->is_otherwise ? rule->otherwise.rows : rule->actions.rows)[number] : NULL;
}

/* Events 4: a repeat makes room; a change of a value is posted once. */
static void post(reference *ref, drom_event event)
{
    const bool is_keys = event.source == DROM_SOURCE_KEY || event.source == DROM_SOURCE_LOST ||
                         event.source == DROM_SOURCE_SWITCH || event.source == DROM_SOURCE_HEARD;
    const guint places = is_keys ? PLACES_OF_KEYS : PLACES;
    for (guint i = 0; i < ref->events->len; i++) {
        const drom_event *const other = &g_array_index(ref->events, drom_event, i);
        if (event.source == DROM_SOURCE_VALUE && other->source == event.source && other->row == event.row) {
            return;
        }
    }
    for (guint i = 0; ref->events->len >= places && i < ref->events->len; i++) {
        const drom_event *const other = &g_array_index(ref->events, drom_event, i);
        if (other->source == DROM_SOURCE_KEY && other->gesture == DROM_REPEAT) {
            g_array_remove_index(ref->events, i);
            ref->dropped++;
            break;
        }
    }
    if (ref->events->len >= places) {
        ref->dropped++;
    } else {
        g_array_append_val(ref->events, event);
    }
}

/* Modes 2: their time stands still while a key is down or what began in the mode waits. */
static void pass_mode_time(reference *ref)
{
    bool stands = !ref->has_end;
    for (unsigned i = 0; i < ref->plan->last_presses.count; i++) {
        stands |= ref->last_presses[i].is_down;
    }
    for (guint i = 0; i < ref->waiting->len; i++) {
        stands |= RUN_AT(ref->waiting, i)->mode == ref->mode;
    }
    ref->left -= stands ? 0 : ref->now - ref->left_at;
    ref->left_at = ref->now;
}

static void restart_mode_time(reference *ref)
{
    const uint32_t ms = ref->plan->modes.count > 0 ? ref->plan->modes.rows[ref->mode].back_after_ms : 0;
    ref->has_end = ms > 0;
    ref->left = ms;
    ref->left_at = ref->now;
    ref->back_to = ms > 0 ? ref->back_to : ref->mode;
}

/* Numbers in actions: Sequences 5, Values 2, 9. */
static uint32_t value_of(const reference *ref, const drom_action *action, const drom_event *cause)
{
    const bool is_of_value = (action->flags & DROM_OF_VALUE) != 0;
    if (!is_of_value && (action->flags & DROM_OF_EVENT) == 0) {
        return action->value;
    }
    const drom_number_form form = (drom_number_form)(action->flags & DROM_FORM);
    const unsigned row = form == DROM_AS_TIME ? action->value / 256 % 256 : action->value % 256;
    const int meant = is_of_value ? ref->values[row] : cause->value;
    const uint32_t number = (uint32_t)MAX(meant, 0);
    const gint64 unit = (gint64)(action->value / 256) - (action->value >> 31) * (1 << 24);
    switch (form) {
    case DROM_AS_PERCENT:
        return action->value / 256 * 256 + MIN(number, 100) * DROM_FULL_LEVEL / 100;
    case DROM_AS_DEGREES:
        return action->value / 256 * 256 + MIN(number, 255);
    case DROM_AS_TIME:
        return action->value % 256 + 256 * (uint32_t)MIN((guint64)number * (action->value / 65536), 1800001);
    case DROM_AS_MULTIPLE:
        return (uint32_t)CLAMP(meant * unit, -INT32_MAX, INT32_MAX);
    case DROM_AS_TURN:
        return (uint32_t)(gint64)round((double)(meant * unit) / 360);
    case DROM_AS_SIGNED:
        return (action->value & 0xffff0000) + (uint16_t)(int16_t)meant;
    default:
        return action->value / 65536 * 65536 + number;
    }
}

/* A value's change, or its new number; may be below 0. */
static int16_t change_of(const reference *ref, const drom_action *action, const drom_event *cause)
{
    return (int16_t)((action->flags & DROM_OF_VALUE) != 0   ? ref->values[action->value & 0xff]
                     : (action->flags & DROM_OF_EVENT) != 0 ? cause->value
                                                            : (int16_t)(uint16_t)action->value);
}

static const drom_action *held_order(const reference *ref, guint number)
{
    const run *const held = RUN_AT(ref->held, number);
    return action_of(ref, held, held->next - 1);
}

/* While a key is held 1, 2: of the orders to one output the newest counts; with none left it is undone. */
static void undo_what_is_over(reference *ref)
{
    for (guint i = 0; i < ref->held->len;) {
        if (!RUN_AT(ref->held, i)->is_over) {
            i++;
            continue;
        }
        const uint8_t output = held_order(ref, i)->row;
        int newest = NOTHING;
        g_array_remove_index(ref->held, i);
        for (guint j = 0; j < ref->held->len; j++) {
            newest = held_order(ref, j)->row == output ? (int)j : newest;
        }
        if (newest == NOTHING) {
            ref->world.order(ref->world.context, output, ref->undo, 0);
        } else if (newest < (int)i) {
            const drom_action *const order = held_order(ref, (guint)newest);
            ref->world.order(ref->world.context, output, order->verb,
                             value_of(ref, order, &RUN_AT(ref->held, newest)->cause));
        }
    }
}

static void enter(reference *ref, int mode)
{
    const int before = ref->mode;
    ref->mode = mode;
    restart_mode_time(ref);
    if (before == mode) {
        return;
    }
    for (guint i = 0; i < ref->held->len; i++) { /* While a key is held 5 */
        RUN_AT(ref->held, i)->is_over |= rule_of(ref, RUN_AT(ref->held, i))->mode == before + 1;
    }
    post(ref, (drom_event){.source = DROM_SOURCE_MODE, .row = (uint8_t)before, .key = DROM_ENDS});
    post(ref, (drom_event){.source = DROM_SOURCE_MODE, .row = (uint8_t)mode, .key = DROM_BEGINS});
    undo_what_is_over(ref);
}

/* While a key is held 2, 3, 6. */
static void order_an_output(reference *ref, const run *giving, const drom_action *action)
{
    const bool is_held = (action->flags & DROM_WHILE_HELD) != 0;
    const reference_press *const press = &ref->last_presses[giving->cause.row];
    if (is_held &&
        (giving->cause.source != DROM_SOURCE_KEY || !press->is_down || press->key != giving->cause.key)) {
        return;
    }
    for (guint i = ref->held->len; i-- > 0;) {
        const run *const held = RUN_AT(ref->held, i);
        const bool is_same = held->rule == giving->rule && held->is_otherwise == giving->is_otherwise &&
                             held->next == giving->next;
        if (is_held ? is_same : held_order(ref, i)->row == action->row) {
            g_array_remove_index(ref->held, i);
        }
    }
    if (is_held) {
        g_array_append_vals(ref->held, giving, 1);
    }
    ref->world.order(ref->world.context, action->row, action->verb, value_of(ref, action, &giving->cause));
}

/* Values 1, 7. */
static void change_value(reference *ref, const drom_action *action, int change)
{
    const uint8_t row = action->row;
    const drom_value *const value = &ref->plan->values.rows[row];
    const int before = ref->values[row];
    const int beginning = (action->flags & DROM_OF_SUM) != 0 ? ref->sum : before;
    int until = action->verb == DROM_VALUE_UP      ? beginning + change
                : action->verb == DROM_VALUE_DOWN  ? beginning - change
                : action->verb == DROM_VALUE_TIMES ? beginning * change
                : action->verb == DROM_VALUE_TO    ? change
                : change == 0                      ? beginning
                                                   : beginning / change;
    if ((action->flags & DROM_INTO_SUM) != 0) {
        ref->sum = CLAMP(until, INT16_MIN, INT16_MAX);
        return;
    }
    const double size = value->max - value->min + 1;
    if (value->wraps) {
        until -= (int)(size * floor((until - value->min) / size));
    }
    ref->values[row] = CLAMP(until, value->min, value->max);
    if (ref->values[row] != before) {
        post(ref, (drom_event){.source = DROM_SOURCE_VALUE, .row = row});
    }
}

/* Values 3. */
static void change_timer(const reference *ref, gint64 *ends, uint8_t verb, uint32_t ms)
{
    /* A running timer may have ended since the last look. */
    const gint64 from = verb == DROM_TIMER_ADD ? MAX(*ends, ref->now) : ref->now;
    *ends = verb == DROM_TIMER_CANCEL ? NEVER : MIN(from + MAX(ms, 1), ref->now + DROM_TIMER_LONGEST_MS);
}

/* Returns the first run of a rule in a list, or of a rule that shares its sequence; or NOTHING. */
static int find_run(const reference *ref, const GArray *runs, int rule)
{
    for (guint i = 0; i < runs->len; i++) {
        if (rule_of(ref, RUN_AT(runs, i))->sequence == ref->plan->rules.rows[rule].sequence) {
            return (int)i;
        }
    }
    return NOTHING;
}

static bool remove_run(const reference *ref, GArray *runs, int rule)
{
    const int found = find_run(ref, runs, rule);
    if (found != NOTHING) {
        g_array_remove_index(runs, (guint)found);
    }
    return found != NOTHING;
}

/* Sequences 4. True when `going` is part of the scene. */
static bool stop_scene(reference *ref, uint8_t scene, const run *going)
{
    for (int i = 0; i < ref->plan->rules.count; i++) {
        const drom_rule *const rule = &ref->plan->rules.rows[i];
        if (rule->source == DROM_SOURCE_SCENE && rule->row == scene) {
            (void)remove_run(ref, ref->waiting, i);
            (void)remove_run(ref, ref->queued, i);
        }
    }
    return rule_of(ref, going)->source == DROM_SOURCE_SCENE && rule_of(ref, going)->row == scene;
}

/* Continues a run until it waits or ends; then the one that was queued behind it. */
static void go_on(reference *ref, run going)
{
    for (const drom_action *action; (action = action_of(ref, &going, going.next)) != NULL;) {
        going.next++;
        switch (action->target) {
        case DROM_TO_OUTPUT:
            order_an_output(ref, &going, action);
            break;
        case DROM_TO_WAIT:
        case DROM_TO_WAIT_FOR:
            going.output = action->target == DROM_TO_WAIT_FOR ? action->row : NOTHING;
            going.awaited = action->target == DROM_TO_WAIT_FOR ? action->verb : DROM_UNTIL_IDLE;
            going.from = ref->now;
            going.until = ref->now + MAX(value_of(ref, action, &going.cause), 1);
            g_array_append_val(ref->waiting, going);
            return;
        case DROM_TO_MODE:
            enter(ref, action->row);
            break;
        case DROM_TO_VALUE:
            change_value(ref, action, change_of(ref, action, &going.cause));
            break;
        case DROM_TO_TIMER:
            change_timer(ref, &ref->timers[action->row], action->verb, value_of(ref, action, &going.cause));
            break;
        default:
            if (action->verb == DROM_SCENE_BEGIN) {
                post(ref, (drom_event){.source = DROM_SOURCE_SCENE, .row = action->row});
            } else if (stop_scene(ref, action->row, &going)) {
                return;
            }
            break;
        }
    }
    const int behind = find_run(ref, ref->queued, going.rule);
    if (behind != NOTHING) {
        going = *RUN_AT(ref->queued, behind);
        going.mode = ref->mode;
        g_array_remove_index(ref->queued, (guint)behind);
        go_on(ref, going);
    }
}

/* Sequences 3: `again` applies to a rule that still waits. */
static void fire(reference *ref, run fired)
{
    const uint8_t again = rule_of(ref, &fired)->again;
    const bool waits = find_run(ref, ref->waiting, fired.rule) != NOTHING;
    fired.mode = ref->mode;
    if (waits && again == DROM_AGAIN_QUEUED && find_run(ref, ref->queued, fired.rule) == NOTHING) {
        g_array_append_val(ref->queued, fired);
    }
    if (waits && (again == DROM_AGAIN_STOPS || again == DROM_AGAIN_RESTARTS)) {
        (void)remove_run(ref, ref->waiting, fired.rule);
    }
    if (!waits || again == DROM_AGAIN_RESTARTS) {
        go_on(ref, fired);
    }
}

/* Values 4. */
static bool is_met(const reference *ref, const drom_condition *condition)
{
    const int number = condition->subject == DROM_IF_VALUE ? ref->values[condition->row]
                       : condition->subject == DROM_IF_OUTPUT
                           ? ref->world.is_on(ref->world.context, condition->row)
                       : condition->subject == DROM_IF_SWITCH ? ref->is_closed[condition->row]
                       : condition->subject == DROM_IF_MODE   ? ref->mode == condition->row
                                                              : ref->timers[condition->row] >= 0;
    const int than =
        (condition->compare & DROM_THAN_VALUE) != 0 ? ref->values[condition->number] : condition->number;
    return (number < than && (condition->compare & DROM_LESS) != 0) ||
           (number == than && (condition->compare & DROM_EQUAL) != 0) ||
           (number > than && (condition->compare & DROM_GREATER) != 0);
}

/* True if a rule is about an event, or about its key under that name, and may fire in a mode. */
static bool is_about(const drom_rule *rule, const drom_event *event, uint8_t key, int mode)
{
    return rule->source == event->source && rule->row == event->row && rule->key == key &&
           (rule->mode == 0 || rule->mode == mode + 1);
}

/* Events 2, Modes 1, Values 5: all conditions are read first; then the rules act in the plan's order. */
static void answer(reference *ref, const drom_event *event)
{
    const bool is_key = event->source == DROM_SOURCE_KEY;
    const int mode = is_key ? ref->last_presses[event->row].mode : ref->mode;
    g_autoptr(GArray) fired = g_array_new(FALSE, FALSE, sizeof(run));
    bool is_named = false;
    for (int i = 0; i < ref->plan->rules.count; i++) {
        is_named |= is_about(&ref->plan->rules.rows[i], event, event->key, mode);
    }
    for (int i = 0; i < ref->plan->rules.count; i++) {
        const drom_rule *const rule = &ref->plan->rules.rows[i];
        const bool has_gesture = !is_key || ((rule->gestures & event->gesture) != 0 &&
                                             (event->gesture != DROM_HOLD || rule->hold == event->hold));
        run one = {.rule = i, .cause = *event};
        if (!has_gesture ||
            !is_about(rule, event, is_key && !is_named ? DROM_ANY_OTHER_KEY : event->key, mode)) {
            continue;
        }
        for (unsigned j = 0; j < rule->conditions.count; j++) {
            one.is_otherwise |= !is_met(ref, &rule->conditions.rows[j]);
        }
        if (action_of(ref, &one, 0) != NULL) {
            g_array_append_val(fired, one);
        }
    }
    for (guint i = 0; i < fired->len; i++) {
        fire(ref, *RUN_AT(fired, i));
    }
}

static void take(reference *ref, const drom_event *event)
{
    const bool is_key = event->source == DROM_SOURCE_KEY;
    const bool is_lost = event->source == DROM_SOURCE_LOST;
    const bool is_let_go = is_lost || (is_key && event->gesture == DROM_RELEASE);
    ref->has_resumed = false;
    if (is_key && event->gesture == DROM_PRESS) {
        ref->last_presses[event->row] = (reference_press){event->key, ref->mode, true};
    }
    if (is_let_go) {
        ref->last_presses[event->row].is_down = false;
    }
    if (is_key) {
        restart_mode_time(ref);
    }
    if (event->source == DROM_SOURCE_SWITCH) {
        ref->is_closed[event->row] = event->key == DROM_CLOSES;
    }
    for (guint i = 0; is_let_go && i < ref->held->len; i++) {
        run *const held = RUN_AT(ref->held, i);
        held->is_over |= held->cause.row == event->row && (is_lost || held->cause.key == event->key);
    }
    undo_what_is_over(ref);
    answer(ref, event);
}

static bool is_reached(const reference *ref, const run *waiting)
{
    return waiting->awaited == DROM_UNTIL_IDLE
               ? !ref->world.is_busy(ref->world.context, (uint8_t)waiting->output)
               : ref->is_closed[waiting->output] == (waiting->awaited == DROM_UNTIL_CLOSED);
}

/* Sequences 2: a wait for an output or a switch lasts a millisecond at least. */
static bool is_over(const reference *ref, const run *waiting)
{
    const bool is_looked_for = waiting->output != NOTHING && ref->now > waiting->from;
    return (is_looked_for && is_reached(ref, waiting)) || ref->now >= waiting->until;
}

/* Events 3: a wait that is over continues, in turn with the events in the queue. Sequences take turns in
 * their order; false if no wait is over. */
static bool resume(reference *ref)
{
    const unsigned count = ref->plan->sequences.count;
    if (ref->has_resumed && ref->events->len > 0) {
        return false;
    }
    for (unsigned tries = 0; tries < count; tries++) {
        const unsigned sequence = 1 + (ref->resumed + tries) % count;
        for (guint i = 0; i < ref->waiting->len; i++) {
            const run waiting = *RUN_AT(ref->waiting, i);
            if (rule_of(ref, &waiting)->sequence == sequence && is_over(ref, &waiting)) {
                g_array_remove_index(ref->waiting, i);
                ref->resumed = sequence;
                ref->has_resumed = true;
                go_on(ref, waiting);
                return true;
            }
        }
    }
    ref->resumed = 0;
    return false;
}

/* Events 3: timers and the mode's time, when nothing else is left. */
static void pass(reference *ref)
{
    for (unsigned i = 0; i < ref->plan->timers.count; i++) {
        if (ref->timers[i] >= 0 && ref->now >= ref->timers[i]) {
            ref->timers[i] = NEVER;
            post(ref, (drom_event){.source = DROM_SOURCE_TIMER, .row = (uint8_t)i});
        }
    }
    if (ref->has_end && ref->left <= 0) {
        enter(ref, ref->back_to);
    }
}

void reference_live(reference *ref, gint64 now_ms, const drom_event *events, unsigned count)
{
    ref->now = now_ms;
    pass_mode_time(ref);
    for (unsigned i = 0; i < count; i++) {
        post(ref, events[i]);
    }
    do {
        while (resume(ref) || ref->events->len > 0) {
            while (resume(ref)) {
            }
            if (ref->events->len > 0) {
                const drom_event event = g_array_index(ref->events, drom_event, 0);
                g_array_remove_index(ref->events, 0);
                take(ref, &event);
            }
        }
        pass(ref);
    } while (ref->events->len > 0);
}

reference *reference_new(const drom_rules_plan *plan, uint8_t undo, reference_world world)
{
    reference *const made = g_new0(reference, 1);
    *made = (reference){.plan = plan,
                        .world = world,
                        .undo = undo,
                        .held = g_array_new(FALSE, FALSE, sizeof(run)),
                        .waiting = g_array_new(FALSE, FALSE, sizeof(run)),
                        .queued = g_array_new(FALSE, FALSE, sizeof(run)),
                        .events = g_array_new(FALSE, FALSE, sizeof(drom_event))};
    for (unsigned i = 0; i < G_N_ELEMENTS(made->timers); i++) {
        made->timers[i] = NEVER;
        made->values[i] = i < plan->values.count ? plan->values.rows[i].start : 0;
    }
    return made;
}

void reference_free(reference *unwanted)
{
    g_array_unref(unwanted->held);
    g_array_unref(unwanted->waiting);
    g_array_unref(unwanted->queued);
    g_array_unref(unwanted->events);
    g_free(unwanted);
}
