/* Carries rules out: one action per call, so that polls stay short however much an event causes. Held orders
 * that are over are undone first; then come the actions of the event, sequences whose wait is over, and the
 * next event. */
#include "../compiler.h"

#include "rules_shared.h"

#include <string.h>

static drom_us now_of(const drom_rules *rules)
{
    return rules->timing->now;
}

static void clear(void *memory, size_t size)
{
    if (size > 0) {
        memset(memory, 0, size);
    }
}

DROM_NOINLINE void drom_rules_init(drom_rules *rules)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    clear(&rules->back, sizeof *rules - offsetof(drom_rules, back)); /* from here on: its state */
    rules->passed_at = now_of(rules);
    clear(plan->last_presses.rows, plan->last_presses.count * sizeof(drom_last_press));
    clear(plan->sequences.rows, plan->sequences.count * sizeof(drom_sequence));
    clear(plan->timers.rows, plan->timers.count * sizeof(drom_timer));
    if (DROM_WITH_INPUTS) {
        clear(plan->switches.rows, plan->switches.count * sizeof(bool));
    }
    for (uint8_t i = 0; i < plan->values.count; i++) {
        plan->numbers[i] = plan->values.rows[i].start;
    }
}

/* True while the time of the mode stands still: a key is held, or a sequence of the mode is in progress. */
static bool is_busy(const drom_rules *rules)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    bool is_so = false;
    for (uint8_t i = 0; i < plan->last_presses.count; i++) {
        is_so |= plan->last_presses.rows[i].is_down;
    }
    for (uint8_t i = 0; i < plan->sequences.count; i++) {
        is_so |= plan->sequences.rows[i].is_waiting && plan->sequences.rows[i].mode == rules->mode;
    }
    return is_so;
}

/* Advances the time of the mode. */
DROM_NOINLINE static void pass_mode(drom_rules *rules)
{
    if (DROM_WITH_MODES) {
        if (rules->back.part.is_armed && is_busy(rules)) {
            rules->back.part.at += now_of(rules) - rules->passed_at;
        }
        rules->passed_at = now_of(rules);
    }
}

static void restart_mode(drom_rules *rules)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    if (!DROM_WITH_MODES) {
        return;
    }
    const uint32_t ms = plan->modes.count > 0 ? plan->modes.rows[rules->mode].back_after_ms : 0;
    if (ms > 0) {
        drom_timer_start(&rules->back, now_of(rules), ms);
    } else {
        rules->back.part.is_armed = false;
        rules->back_to = rules->mode;
    }
}

enum {
    MIN_WAIT_US = 1000,
    LOOK_US = 2000, /* while a sequence waits for an output */
};

DROM_NOINLINE static void post(drom_rules *rules, uint8_t source, uint8_t row, uint8_t key)
{
    (void)drom_events_post(rules->events, &(drom_event){.source = source, .row = row, .key = key});
}

static void enter(drom_rules *rules, uint8_t mode)
{
    const uint8_t before = rules->mode;
    pass_mode(rules);
    rules->mode = mode;
    restart_mode(rules);
    if (mode != before) {
        drom_rules_leave(rules, before);
        post(rules, DROM_SOURCE_MODE, before, DROM_ENDS);
        post(rules, DROM_SOURCE_MODE, mode, DROM_BEGINS);
    }
}

/* Limits a number to a value's range, or wraps it. */
static int16_t limit(const drom_value *value, int32_t number)
{
    const int32_t size = (int32_t)value->max - value->min + 1;
    if (number >= value->min && number <= value->max) {
        return (int16_t)number;
    }
    if (value->wraps) {
        const int32_t beyond = (number - value->min) % size;
        return (int16_t)(value->min + beyond + (beyond < 0 ? size : 0));
    }
    if (number < value->min) {
        return value->min;
    }
    return value->max;
}

static int32_t reckon(uint8_t verb, int16_t before, int16_t change)
{
    return verb == DROM_VALUE_UP                        ? (int32_t)before + change
           : verb == DROM_VALUE_DOWN                    ? (int32_t)before - change
           : DROM_WITH_SUMS && verb == DROM_VALUE_TIMES ? (int32_t)before * change
           : DROM_WITH_SUMS && verb == DROM_VALUE_OVER  ? (change != 0 ? (int32_t)before / change : before)
                                                        : change;
}

/* `given`: the event's number. */
static void count_value(drom_rules *rules, const drom_action *action, int16_t given)
{
    const uint8_t row = action->row;
    const drom_value value = drom_rules_plan_of(rules)->values.rows[row];
    int16_t *const number = &drom_rules_plan_of(rules)->numbers[row];
    int16_t change = (int16_t)(uint16_t)action->value;
    if (DROM_WITH_NUMBERS && (action->flags & DROM_OF_VALUE) != 0) {
        change = drom_rules_plan_of(rules)->numbers[(uint8_t)action->value];
    } else if (DROM_WITH_NUMBERS && (action->flags & DROM_OF_EVENT) != 0) {
        change = given;
    }
    const int16_t before = *number;
    const bool is_of_sum = DROM_WITH_SUMS && (action->flags & DROM_OF_SUM) != 0;
    const int16_t *const begins_with = is_of_sum ? &rules->sum : &before;
    const int32_t result = reckon(action->verb, *begins_with, change);
    if (DROM_WITH_SUMS && (action->flags & DROM_INTO_SUM) != 0) {
        rules->sum = limit(&(drom_value){.min = INT16_MIN, .max = INT16_MAX}, result);
        return;
    }
    *number = limit(&value, result);
    if (*number != before) {
        post(rules, DROM_SOURCE_VALUE, row, 0);
    }
}

/* A timer lasts at least a millisecond, so that a timer that starts itself delays nothing else. */
static void set_timer(const drom_rules *rules, drom_timer *timer, uint8_t verb, uint32_t given_ms)
{
    const uint32_t ms = given_ms > 0 ? given_ms : 1;
    switch ((drom_timer_verb)verb) {
    case DROM_TIMER_START:
        drom_timer_start(timer, now_of(rules), ms);
        break;
    case DROM_TIMER_ADD:
        drom_timer_add(timer, now_of(rules), ms);
        break;
    case DROM_TIMER_CANCEL:
        timer->part.is_armed = false;
        break;
    }
}

/* Begins a scene by an event; or cancels its remaining actions. */
static void direct_scene(drom_rules *rules, uint8_t scene, uint8_t verb)
{
    if (verb == DROM_SCENE_BEGIN) {
        post(rules, DROM_SOURCE_SCENE, scene, 0);
        return;
    }
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    for (uint8_t row = drom_rules_find(rules, DROM_SOURCE_SCENE, scene, 0); row < plan->rules.count; row++) {
        const drom_rule DROM_FLASH *const rule = &plan->rules.rows[row];
        if (rule->source != DROM_SOURCE_SCENE || rule->row != scene) {
            break;
        }
        if (rule->sequence != 0) {
            pass_mode(rules);
            plan->sequences.rows[rule->sequence - 1].is_waiting = false;
            plan->sequences.rows[rule->sequence - 1].queued.is_going = false;
        }
        rules->run.is_going &= rules->run.rule != row;
    }
}

/* Returns the value of an action, with a number placed in it if it has one. */
static uint32_t value_of(const drom_rules *rules, const drom_action *action, int16_t number)
{
    if (!DROM_WITH_NUMBERS || (action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) == 0) {
        return action->value;
    }
    const int16_t *const found = (action->flags & DROM_OF_VALUE) != 0
                                     ? &drom_rules_plan_of(rules)->numbers[drom_rules_row_of_number(action)]
                                     : &number;
    return drom_rules_with_number(action, *found);
}

void drom_rules_order(drom_rules *rules, const drom_action *action, int16_t number)
{
    const drom_observer *const observer = drom_observer_of(rules);
    const drom_action order = DROM_ORDER(action->row, action->verb, value_of(rules, action, number));
    if (observer != NULL && observer->action != NULL) {
        observer->action(observer->context, &order);
    }
    drom_outputs_act(drom_rules_outputs(rules), rules->timing, order.row, order.verb, order.value);
}

/* True while the key of the run's rule is down. */
static bool is_owner_down(const drom_rules *rules, const drom_run *run)
{
    const drom_rule DROM_FLASH *const rule = &drom_rules_plan_of(rules)->rules.rows[run->rule];
    const drom_last_press *const press = &drom_rules_plan_of(rules)->last_presses.rows[rule->row];
    return press->is_down && press->key == run->owner.key;
}

static void order_output(drom_rules *rules, const drom_action *action)
{
    const drom_run *const run = &rules->run;
    if (!DROM_WITH_HOLDS || (action->flags & DROM_WHILE_HELD) == 0) {
        drom_rules_forget_held(rules, action->row);
    } else if (is_owner_down(rules, run)) {
        drom_rules_hold(rules, run, action->row);
    } else {
        return; /* the key was released during a wait */
    }
    drom_rules_order(rules, action, run->owner.number);
}

static drom_sequence *sequence_of(const drom_rules *rules, uint8_t rule)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    const uint8_t sequence = plan->rules.rows[rule].sequence;
    return DROM_WITH_WAITS && sequence != 0 ? &plan->sequences.rows[sequence - 1] : NULL;
}

/* Delays the rest of the run by at least a millisecond, so that a loop over waits that end at once delays
 * nothing else. */
static void wait(drom_rules *rules, uint8_t row, uint8_t until, uint32_t ms)
{
    drom_run *const run = &rules->run;
    drom_sequence *const sequence = sequence_of(rules, run->rule);
    pass_mode(rules);
    sequence->run = *run;
    sequence->waits_for = row;
    sequence->is_for_switch = until != DROM_UNTIL_IDLE;
    sequence->is_for_closed = until == DROM_UNTIL_CLOSED;
    sequence->is_waiting = true;
    sequence->from = (uint16_t)now_of(rules);
    drom_deadline_arm(&sequence->until, now_of(rules), ms > 0 ? ms * 1000 : MIN_WAIT_US);
    run->is_going = false;
}

/* Does the next action of the run. */
static void go_on(drom_rules *rules)
{
    drom_run *const run = &rules->run;
    const drom_rule DROM_FLASH *const rule = &drom_rules_plan_of(rules)->rules.rows[run->rule];
    const uint8_t number = run->done++;
    const drom_action action = (run->is_otherwise ? rule->otherwise.rows : rule->actions.rows)[number];
    run->is_going = run->done < (run->is_otherwise ? rule->otherwise.count : rule->actions.count);
    if (DROM_WITH_WAITS && action.target == DROM_TO_WAIT) {
        wait(rules, DROM_NONE, DROM_UNTIL_IDLE, value_of(rules, &action, run->owner.number));
    } else if (DROM_WITH_WAITS && action.target == DROM_TO_WAIT_FOR) {
        wait(rules, action.row, action.verb, value_of(rules, &action, run->owner.number));
    } else if (DROM_WITH_MODES && action.target == DROM_TO_MODE) {
        enter(rules, action.row);
    } else if (DROM_WITH_VALUES && action.target == DROM_TO_VALUE) {
        count_value(rules, &action, run->owner.number);
    } else if (DROM_WITH_TIMERS && action.target == DROM_TO_TIMER) {
        set_timer(rules, &drom_rules_plan_of(rules)->timers.rows[action.row], action.verb,
                  value_of(rules, &action, run->owner.number));
    } else if (DROM_WITH_SCENES && action.target == DROM_TO_SCENE) {
        direct_scene(rules, action.row, action.verb);
    } else {
        order_output(rules, &action);
    }
}

/* Begins a rule with its first action. */
static void begin(drom_rules *rules, const drom_run *run)
{
    const drom_observer *const observer = drom_observer_of(rules);
    drom_sequence *const sequence = sequence_of(rules, run->rule);
    rules->run = *run;
    if (sequence != NULL) {
        pass_mode(rules);
        sequence->is_waiting = false;
        sequence->queued.is_going = false;
        sequence->mode = rules->mode;
    }
    if (observer != NULL && observer->rule != NULL) {
        observer->rule(observer->context, rules->run.rule);
    }
}

/* Begins the queued run of a rule that has ended. */
static void begin_queued(drom_rules *rules)
{
    const drom_sequence *const sequence = sequence_of(rules, rules->run.rule);
    if (!rules->run.is_going && sequence != NULL && !sequence->is_waiting && sequence->queued.is_going) {
        begin(rules, &sequence->queued);
    }
}

/* Handles a rule that fires while it waits; true if it starts from the beginning. */
static bool is_begun_again(drom_rules *rules, drom_sequence *sequence, const drom_run *run)
{
    const uint8_t again = drom_rules_plan_of(rules)->rules.rows[run->rule].again;
    if (again == DROM_AGAIN_QUEUED && !sequence->queued.is_going) {
        sequence->queued = *run;
    }
    if (again == DROM_AGAIN_STOPS) {
        pass_mode(rules);
        sequence->is_waiting = false;
    }
    return again == DROM_AGAIN_RESTARTS;
}

/* Begins the next rule that has fired; false if there is none. */
static bool begin_next(drom_rules *rules)
{
    while (rules->answers_done < rules->answer_count) {
        const uint8_t number = rules->answers_done++;
        const drom_run run = {.owner = {.number = rules->event.value, .key = rules->event.key},
                              .rule = rules->answers[number],
                              .is_otherwise = (rules->otherwise >> number & 1) != 0,
                              .is_going = true};
        drom_sequence *const sequence = sequence_of(rules, run.rule);
        if (sequence == NULL || !sequence->is_waiting || is_begun_again(rules, sequence, &run)) {
            begin(rules, &run);
            return true;
        }
    }
    return false;
}

/* True if the awaited state is reached. */
static bool is_reached(const drom_rules *rules, const drom_sequence *sequence)
{
    if (DROM_WITH_INPUTS && sequence->is_for_switch) {
        return drom_rules_plan_of(rules)->switches.rows[sequence->waits_for] == sequence->is_for_closed;
    }
    const drom_output DROM_FLASH *const output =
        &drom_rules_outputs(rules)->outputs.rows[sequence->waits_for];
    return output->kind->is_busy == NULL || !output->kind->is_busy(output->state);
}

/* True if a wait is over. (At some times, 66 ms apart, a wait for an output seems to have begun just now.) */
static bool is_over(const drom_rules *rules, const drom_sequence *sequence)
{
    const drom_us now = now_of(rules);
    const bool is_looked_for =
        sequence->waits_for != DROM_NONE && (uint16_t)((uint16_t)now - sequence->from) >= MIN_WAIT_US;
    return (is_looked_for && is_reached(rules, sequence)) || drom_is_due(now, sequence->until.at);
}

static void resume(drom_rules *rules, drom_sequence *sequence)
{
    const drom_observer *const observer = drom_observer_of(rules);
    pass_mode(rules);
    sequence->is_waiting = false;
    rules->run = sequence->run;
    if (sequence->waits_for != DROM_NONE && drom_is_due(now_of(rules), sequence->until.at) &&
        observer != NULL && observer->wait_ended != NULL) {
        observer->wait_ended(observer->context, rules->run.rule);
    }
}

/* Resumes a rule whose wait is over; false if there is none, or if it is an event's turn. Sequences are
 * resumed in turn, so that none is starved. */
static bool resume_next(drom_rules *rules)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    if (!DROM_WITH_WAITS || (rules->has_resumed && rules->events->count > 0)) {
        return false;
    }
    for (uint8_t i = 0; i < plan->sequences.count; i++) {
        const uint8_t row = rules->resumes_from;
        drom_sequence *const sequence = &plan->sequences.rows[row];
        rules->resumes_from = (uint8_t)(row + 1 < plan->sequences.count ? row + 1 : 0);
        if (sequence->is_waiting && is_over(rules, sequence)) {
            rules->has_resumed = true;
            resume(rules, sequence);
            return true;
        }
    }
    rules->resumes_from = 0;
    return false;
}

bool drom_rules_are_done(const drom_rules *rules)
{
    return !rules->run.is_going && rules->answers_done == rules->answer_count &&
           !(DROM_WITH_HOLDS && (rules->has_over || rules->has_event));
}

bool drom_rules_have_fired(const drom_rules *rules)
{
    return rules->answer_count > 0 && rules->answers_done == 0;
}

DROM_NOINLINE bool drom_rules_act(drom_rules *rules)
{
    if (drom_rules_undo(rules)) {
        return true;
    }
    if (DROM_WITH_HOLDS && rules->has_event) {
        rules->has_event = false;
        drom_rules_answer(rules);
        return true;
    }
    if (!rules->run.is_going && !begin_next(rules) && !resume_next(rules)) {
        return false;
    }
    if (rules->run.is_going) {
        go_on(rules);
    }
    begin_queued(rules);
    return true;
}

DROM_NOINLINE void drom_rules_take(drom_rules *rules, const drom_event *event)
{
    drom_last_press *const presses = drom_rules_plan_of(rules)->last_presses.rows;
    const drom_observer *const observer = drom_observer_of(rules);
    rules->has_resumed = false;
    if (event->source != DROM_SOURCE_KEY && observer != NULL && observer->event != NULL) {
        observer->event(observer->context, event);
    }
    switch (event->source) {
    case DROM_SOURCE_KEY:
        pass_mode(rules);
        if (!(DROM_WITH_HOLDS || DROM_WITH_MODES)) {
            break;
        }
        if (event->gesture == DROM_PRESS) {
            presses[event->row] = (drom_last_press){.key = event->key, .mode = rules->mode, .is_down = true};
        } else if (event->gesture == DROM_RELEASE) {
            presses[event->row].is_down = false;
            drom_rules_let_go(rules, event->row, event->key);
        }
        restart_mode(rules);
        break;
    case DROM_SOURCE_LOST:
        pass_mode(rules);
        presses[event->row].is_down = false;
        drom_rules_let_go(rules, event->row, DROM_ANY_OTHER_KEY);
        break;
    case DROM_SOURCE_SWITCH:
        drom_rules_plan_of(rules)->switches.rows[event->row] = event->key == DROM_CLOSES;
        break;
    default:
        break;
    }
    rules->event = *event;
    if (DROM_WITH_HOLDS && rules->has_over) {
        rules->has_event = true;
    } else {
        drom_rules_answer(rules);
    }
}

drom_wait drom_rules_pass(drom_rules *rules)
{
    enum { MODE_EVENTS = 2 };
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    drom_wait wait = DROM_LONG;
    if (!(DROM_WITH_WAITS || DROM_WITH_TIMERS || DROM_WITH_MODES)) {
        return wait;
    }
    const bool is_idle = drom_rules_are_done(rules) && rules->events->count == 0;
    for (uint8_t i = 0; DROM_WITH_TIMERS && i < plan->timers.count; i++) {
        drom_timer *const timer = &plan->timers.rows[i];
        if (drom_events_have_room(rules->events) && drom_timer_passed(timer, now_of(rules))) {
            post(rules, DROM_SOURCE_TIMER, i, 0);
        }
        wait = drom_shorter(wait, drom_deadline_wait(&timer->part, now_of(rules)));
    }
    for (uint8_t i = 0; DROM_WITH_WAITS && i < plan->sequences.count; i++) {
        const drom_sequence *const sequence = &plan->sequences.rows[i];
        if (sequence->is_waiting) {
            wait = drom_shorter(wait, sequence->waits_for != DROM_NONE
                                          ? LOOK_US
                                          : drom_until(now_of(rules), sequence->until.at));
        }
    }
    pass_mode(rules);
    if (DROM_WITH_MODES && is_idle && rules->events->count + MODE_EVENTS <= DROM_EVENTS - DROM_EVENTS_SPARE &&
        drom_timer_passed(&rules->back, now_of(rules))) {
        enter(rules, rules->back_to);
    }
    wait = drom_shorter(wait, drom_deadline_wait(&rules->back.part, now_of(rules)));
    return rules->events->count > 0 ? 0 : wait;
}
