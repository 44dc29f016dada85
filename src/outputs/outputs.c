/* A plan's outputs, each through the functions of its kind. */
#include "dromikos/outputs.h"

void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port)
{
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        output.kind->rest(&output, port);
    }
}

void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port,
                      const drom_action *action)
{
    const drom_output output = plan->outputs.rows[action->output];
    output.kind->act(&output, port, action->verb, action->value);
}

drom_us drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port)
{
    drom_us wait = DROM_NEVER;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        wait = drom_sooner(wait, output.kind->poll(&output, port));
    }
    return wait;
}
