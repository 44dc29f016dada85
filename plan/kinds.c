/* What kinds of outputs share. */
#include "kinds.h"

#include <math.h>

gpointer plan_keep(plan *made, gsize size)
{
    gpointer memory = g_malloc0(size);
    g_ptr_array_add(made->kept, memory);
    return memory;
}

const output_line *plan_line(const plan *made, guint output)
{
    return &g_array_index(made->source->outputs, output_line, output);
}

uint8_t plan_pin(const plan *made, const output_line *line, unsigned pin)
{
    return board_pin_by_name(made->board, line->pins[pin].text)->number;
}

const bool *plan_switch(const plan *made, const word *name)
{
    int row = -1;
    if (name->text == NULL || source_find(made->source, name->text, &row) != A_SWITCH) {
        return NULL;
    }
    return &made->touches[made->contacts->len - made->source->switches->len + (guint)row].is_closed;
}

guint plan_touch_of(const plan *loaded, const bool *is_closed)
{
    guint touch = 0;
    while (&loaded->touches[touch].is_closed != is_closed) {
        touch++;
    }
    return touch;
}

const char *const driven_by_driver[] = {"through driver", "through a driver", NULL};
const char *const driven_on_board[] = {"on a relay board", "through driver", "through a driver", NULL};

uint32_t line_value(const output_line *line, unsigned clause, uint32_t usual)
{
    return line->clauses[clause].is_given ? line->clauses[clause].value : usual;
}

uint32_t level_of(double percent)
{
    return (uint32_t)lround(MIN(percent, 100) * DROM_FULL_LEVEL / 100);
}

unsigned percent_of(uint32_t level)
{
    return (level * 100 + DROM_FULL_LEVEL / 2) / DROM_FULL_LEVEL;
}

uint32_t order_level(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    if (action->values[0].is_named) {
        action->flags |= DROM_AS_PERCENT;
        return 0;
    }
    if (action->values[0].amount > 100) {
        report_error(made->source->faults, action->values[0].where, "there is nothing past 100 %%");
    }
    return level_of(action->values[0].amount);
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

uint32_t order_time_above(const plan *made, action_words *action, const phrase_value *given)
{
    if (given->is_named) {
        action->flags |= DROM_AS_TIME;
    }
    if (given->number > (given->is_named ? UINT16_MAX : DROM_LONGEST_MS)) {
        report_error(made->source->faults, given->where, "this time may be up to 30 min");
        return 0;
    }
    return given->is_named ? given->number << 8 : given->number;
}

uint32_t order_ms(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return order_time(made, action, &action->values[0], DROM_LONGEST_MS);
}

activity always_idle(const drom_output *output)
{
    (void)output;
    return IDLE;
}

bool always(const output_line *line)
{
    (void)line;
    return true;
}

bool line_is_guarded(const output_line *line)
{
    return line->kind->is_guarded != NULL && line->kind->is_guarded(line);
}

const char *c_bool(bool is_so)
{
    return is_so ? "true" : "false";
}
