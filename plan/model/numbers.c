/* Numbers in actions. A digit is replaced by its number, as each key has a rule row of its own. Values and
 * events are read when the order is given; the action holds their row. */
#include "plan/model/numbers.h"

#include <string.h>

static bool is_digit(const plan *made, const phrase_value *given)
{
    int row;
    return given->is_digit || (given->is_named && strcmp(given->name.text, "digit") == 0 &&
                               source_find(made->source, "digit", &row) == NO_THING);
}

static const phrase_value *first_digit(const plan *made, const action_words *action)
{
    for (unsigned i = 0; i < PHRASE_VALUES; i++) {
        if (is_digit(made, &action->values[i])) {
            return &action->values[i];
        }
    }
    return NULL;
}

static uint32_t whole_number(const plan *made, const phrase_value *given)
{
    const int32_t number = (int32_t)given->number;
    if (!given->is_named && (number < INT16_MIN || number > INT16_MAX)) {
        report_error(made->source->faults, given->where, "a value is a number from -32768 to 32767");
    }
    return given->is_named ? 0 : (uint16_t)number;
}

/* The engine's verb and value. For a name, the form is known. */
static void evaluate(plan *made, action_words *action)
{
    const phrase_value *const given = action->number > 0 ? &action->values[action->number - 1] : NULL;
    action->flags &= DROM_INTO_SUM | DROM_OF_SUM;
    if (action->target == DROM_TO_OUTPUT && action->said >= 0) {
        const kind_order *const order =
            &plan_line(made, (guint)action->row)->kind->words.orders[action->said];
        action->verb = order->verb;
        action->value = order->value != NULL ? order->value(made, action, order) : order->fixed;
    } else if (given != NULL && (action->target == DROM_TO_WAIT || action->target == DROM_TO_WAIT_FOR)) {
        action->value = order_time(made, action, given, DROM_LONGEST_MS);
    } else if (given != NULL && action->target == DROM_TO_TIMER) {
        action->value = order_time(made, action, given, DROM_TIMER_LONGEST_MS);
    } else if (given != NULL && action->target == DROM_TO_VALUE) {
        action->value = whole_number(made, given);
        if (action->verb == DROM_VALUE_OVER && !given->is_named && given->number == 0) {
            report_error(made->source->faults, given->where, "nothing can be divided by 0");
        }
    }
}

static bool is_about_event(const rule_line *rule, const char *event)
{
    bool is_so = true;
    for (guint i = 0; i < rule->triggers->len; i++) {
        const trigger *const about = &g_array_index(rule->triggers, trigger, i);
        is_so &= about->source == DROM_SOURCE_POSTED && strcmp(about->name.text, event) == 0;
    }
    return is_so;
}

/* A percentage past 100 is limited to 100, which may not be intended. */
static void warn_of_limits(const plan *made, const action_words *action, const phrase_value *given, int row)
{
    const drom_value *const limits = &g_array_index(made->source->values, value_line, row).limits;
    if ((action->flags & DROM_FORM) == DROM_AS_PERCENT && (limits->min < 0 || limits->max > 100)) {
        report_warning(
            made->source->faults, given->where,
            "'%s' goes from %d to %d; what is below 0 %% is 0 %%, and what is past 100 %% is 100 %%",
            given->name.text, limits->min, limits->max);
    }
}

/* The row of a value takes the place of the number. */
static void name_number(const plan *made, const rule_line *rule, action_words *action,
                        const phrase_value *given)
{
    report *const faults = made->source->faults;
    const char *const name = given->name.text;
    const unsigned shift = (action->flags & DROM_FORM) == DROM_AS_TIME ? 8 : 0;
    int row;
    const thing found = source_find(made->source, name, &row);
    if (found == A_VALUE) {
        action->flags |= DROM_OF_VALUE;
        action->value |= (uint32_t)row << shift;
        warn_of_limits(made, action, given, row);
    } else if (found == AN_EVENT && !is_about_event(rule, name)) {
        report_error(faults, given->name.where, "only a rule about '%s' alone knows its number", name);
    } else if (found == AN_EVENT) {
        action->flags |= DROM_OF_EVENT;
    } else {
        (void)source_look_up(made->source, A_VALUE, &given->name);
    }
    if (action->is_while_held && (action->flags & DROM_OF_EVENT) != 0) {
        report_error(faults, action->where, "an event's number isn't kept for as long as a key is held");
    }
}

static void name_numbers(const plan *made, const rule_line *rule, action_words *action)
{
    const phrase_value *first = NULL;
    for (unsigned i = 0; i < PHRASE_VALUES; i++) {
        const phrase_value *const given = &action->values[i];
        if (!given->is_named) {
            continue;
        }
        if (first != NULL) {
            report_error(made->source->faults, given->where,
                         "an order has one number that isn't fixed, and here that is '%s'", first->name.text);
            return;
        }
        first = given;
        name_number(made, rule, action, given);
    }
}

action_words number_for_digit(plan *made, const action_words *given, int digit)
{
    action_words action = *given;
    for (unsigned i = 0; i < PHRASE_VALUES && given->is_of_digit; i++) {
        phrase_value *const value = &action.values[i];
        if (!is_digit(made, value)) {
            continue;
        }
        char *const text = g_strdup_printf("%d", digit);
        g_ptr_array_add(made->source->texts, text);
        if (value->is_digit) {
            (value->key.text != NULL ? &value->key : &value->name)->text = text;
        }
        value->amount = digit;
        value->number = (uint32_t)MIN((guint64)digit * MAX(value->number, 1), INT32_MAX);
        value->is_named = false;
        value->is_digit = false;
    }
    if (given->is_of_digit) {
        evaluate(made, &action);
    }
    return action;
}

/* True if a rule has keys only, each with its digit. */
static bool has_digits(const rule_line *rule)
{
    bool has = true;
    for (guint i = 0; i < rule->triggers->len; i++) {
        has &= g_array_index(rule->triggers, trigger, i).last_key.text != NULL;
    }
    return has;
}

static void try_digits(plan *made, const rule_line *rule, const action_words *action)
{
    const unsigned before = report_errors(made->source->faults);
    int digit = 0;
    for (guint i = 0; i < made->placed->len && report_errors(made->source->faults) == before; i++) {
        const placed_rule *const placed = &g_array_index(made->placed, placed_rule, i);
        if (plan_rule_of(made, placed) == rule && placed->digit >= 0) {
            action_words one = number_for_digit(made, action, placed->digit);
            name_numbers(made, rule, &one);
            digit = placed->digit;
        }
    }
    if (report_errors(made->source->faults) > before) {
        report_error(made->source->faults, first_digit(made, action)->where,
                     "'digit' is %d here for one of this rule's keys", digit);
    }
}

void number_take(plan *made, const rule_line *rule, action_words *action)
{
    const phrase_value *const digit = first_digit(made, action);
    if (digit == NULL) {
        evaluate(made, action);
        name_numbers(made, rule, action);
        return;
    }
    action->is_of_digit = true;
    if (has_digits(rule)) {
        try_digits(made, rule, action);
    } else {
        report_error(made->source->faults, digit->where,
                     "only a rule about a row of keys has a digit, as in: when wand.0 to wand.9 pressed");
    }
}

uint32_t order_time(const plan *made, action_words *action, const phrase_value *given, uint32_t most)
{
    if (given->is_named) {
        action->flags |= DROM_AS_MULTIPLE;
        return given->number << 8;
    }
    if (given->number < 1 || given->number > most) {
        report_error(made->source->faults, given->where, "this time may be 1 ms to %s",
                     most == DROM_LONGEST_MS ? "30 min" : "24 h");
        return 1;
    }
    return given->number;
}
