/* The timeline of a rehearsal, as a table for people or as JSON Lines. */
#ifndef DROMIKOS_CLI_TIMELINE_H
#define DROMIKOS_CLI_TIMELINE_H

#include "chip.h"
#include "cli.h"
#include "plan.h"
#include "script.h"

#include "sim.h"

typedef struct timeline timeline;

/* Begins a timeline, and wires the plan's outputs to the bench. */
timeline *timeline_new(const plan *loaded, sim_bench *bench, output_format format);

/* Shows when the fingers of a script go down, and how long after them keys are known: of script_press, by
 * their times; NULL where no key is pressed. */
void timeline_show_fingers(timeline *view, const GArray *script);

/* Writes the row of an event, a power cut or a cable in JSON Lines. */
void timeline_put_happening(const timeline *view, const script_press *row);

/* Reports the values and the mode that differ from these, after the board has restarted. */
void timeline_put_values(timeline *view, const int16_t *before, uint8_t mode);

/* Shows relays' contacts, too, and how they bounce. */
void timeline_show_contacts(timeline *view);

/* Keeps the rows of the JSON Lines instead of writing them, with more of them, on how each output is to be
 * drawn, of the kinds "drawn", "lit" and "timer". Call it before the rehearsal; the array is the caller's. */
void timeline_keep(timeline *view, json_t *rows);
void timeline_free(timeline *view);

/* Looks on at the engine that runs the plan. */
void timeline_observe_engine(timeline *view, drom_engine *engine);

/* The engine has been polled, and waits for so long: what an action has not done by now, it puts off. */
void timeline_settle(timeline *view, drom_us wait_us);

/* Reports what the board's chip was busy with, where that is new. */
void timeline_put_chip(timeline *view, const chip_stretch *stretch);

/* Reports what is left to report: how each output ended, and what still goes on; NULL: nothing does. */
void timeline_end(timeline *view, const char *going_on);

/* Is it so now? And reports whether it is. */
bool timeline_is_met(const timeline *view, const script_expectation *row, const drom_engine *engine);
void timeline_put_expected(timeline *view, const script_expectation *row, const drom_engine *engine);

/* What is so now, as expectations_now() says it. */
GPtrArray *timeline_states(const timeline *view, const drom_engine *engine, bool of_outputs);

/* How many that were expected were met, and were not. */
unsigned timeline_met(const timeline *view);
unsigned timeline_missed(const timeline *view);

/* How many presses were heard. */
unsigned timeline_presses(const timeline *view);

/* True where a press of a key was heard at some time from one to another; each answers once. */
bool timeline_has_heard(timeline *view, unsigned handset, unsigned key, uint64_t from_us, uint64_t until_us);

/* Reports, after the end, that a row of the script was not heard, and why. */
/* Says which outputs sent other presses than they were asked for, as the appliance counts them. True: none
 * did. */
bool timeline_put_miscounts(const timeline *view);
void timeline_put_unheard(const timeline *view, const script_press *row, const char *why);

#endif
