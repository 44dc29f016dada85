/* What every kind of output has in common, and the table of a plan's outputs.
 *
 * A kind is a const row of functions, reached through the plan's own table alone: a kind that no plan names
 * is not linked. */
#ifndef DROMIKOS_OUTPUTS_H
#define DROMIKOS_OUTPUTS_H

#include "port.h"

typedef struct drom_output_kind drom_output_kind;

/** An output of a plan. Write it with the kind's macro (DROM_RELAY), which checks the types. */
typedef struct drom_output {
    const drom_output_kind DROM_FLASH *kind;
    const void DROM_FLASH *settings;
    void *state;
} drom_output;

/** What an output is asked to do. The verbs are those of its kind, such as DROM_RELAY_ON. */
typedef struct drom_action {
    uint8_t output; /**< row of the plan's outputs */
    uint8_t verb;
    uint32_t value; /**< what the verb needs, else 0 */
} drom_action;

/** A kind of output. */
struct drom_output_kind {
    /** True when the settings make sense. */
    bool (*accepts_settings)(const void DROM_FLASH *settings);

    /** True when the kind has this verb and can do it with this value. */
    bool (*accepts_action)(uint8_t verb, uint32_t value);

    /** Enters the rest state, at once and whatever went before. */
    void (*rest)(const drom_output *output, const drom_port *port);

    /** Begins an action, and never waits for its end. */
    void (*act)(const drom_output *output, const drom_port *port, uint8_t verb, uint32_t value);

    /** Does what is due, and gives the wait in µs until there is more to do; DROM_NEVER when there is
     * nothing. */
    drom_us (*poll)(const drom_output *output, const drom_port *port);
};

/** What a plan says to the outputs. */
typedef struct drom_outputs_plan {
    DROM_TABLE(drom_output) outputs;
} drom_outputs_plan;

/** Puts every output into its rest state. Main only. */
void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port);

/** Begins an action. Main only. */
void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port,
                      const drom_action *action);

/** Lets every output do what is due. The wait in µs until the next; DROM_NEVER when nothing is. Main only. */
drom_us drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, const drom_port *port);

#endif
