/* What kinds of outputs share. */
#include "plan/kinds/kinds.h"

#include <math.h>

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

const char *c_bool(bool is_so)
{
    return is_so ? "true" : "false";
}
