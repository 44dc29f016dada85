/* The timeline of a rehearsal, as a table for people or as JSON Lines. */
#ifndef DROMIKOS_CLI_TIMELINE_H
#define DROMIKOS_CLI_TIMELINE_H

#include "cli/io/io.h"
#include "cli/rehearse/board_chip.h"
#include "plan/model/plan.h"
#include "plan/script/script.h"

#include "sim.h"

typedef struct timeline timeline;

/* Begins a timeline, and wires the plan's outputs to the bench. */
timeline *timeline_new(const plan *loaded, sim_bench *bench, output_format format);

/* Shows the presses of a script, and the delay of key events: of script_press, by their times; NULL if no key
 * is pressed. */
void timeline_show_fingers(timeline *view, const GArray *script);

/* Writes the row of an event, a power cut or a cable in JSON Lines. */
void timeline_put_happening(const timeline *view, const script_press *happened);

/* Reports the values and the mode that differ from these, after the board has restarted. */
void timeline_put_values(timeline *view, const int16_t *before, uint8_t mode);

/* Also shows relays' contacts and their bounces. */
void timeline_show_contacts(timeline *view);

/* Keeps the rows instead of writing them as JSON, with the rows for drawing. Call it before the rehearsal;
 * the array of rows_new() is the caller's. */
void timeline_keep(timeline *view, GArray *rows);
void timeline_free(timeline *view);

/* Observes the engine that runs the plan. */
void timeline_observe_engine(timeline *view, drom_engine *engine);

/* The engine has been polled, and waits for this time: an action that has changed nothing by now is delayed.
 */
void timeline_settle(timeline *view, drom_us wait_us);

/* Reports the chip's load, if it is new. */
void timeline_put_chip(timeline *view, const chip_stretch *stretch);

/* Reports the final state of each output, and what is still active; NULL: nothing. */
void timeline_end(timeline *view, const char *going_on);

/* True if it is met now; reports it. */
bool timeline_is_met(const timeline *view, const script_expectation *row, const drom_engine *engine);
void timeline_put_expected(timeline *view, const script_expectation *expected, const drom_engine *engine);

/* Returns the current state, as expectations_now() does. */
GPtrArray *timeline_states(const timeline *view, const drom_engine *engine, bool of_outputs);

/* Returns the number of expectations that were met, and of those that were not. */
unsigned timeline_met(const timeline *view);
unsigned timeline_missed(const timeline *view);

/* Returns the number of presses received. */
unsigned timeline_presses(const timeline *view);

/* True if a press of a key was received between two times; each answers once. */
bool timeline_has_heard(timeline *view, unsigned handset, unsigned key, uint64_t from_us, uint64_t until_us);

/* Reports outputs whose appliance counted other presses than were sent. True: there are none. */
bool timeline_put_miscounts(const timeline *view);

/* Reports, at the end, a row of the script that was not received, and why. */
void timeline_put_unheard(const timeline *view, const script_press *press, const char *why);

#endif
