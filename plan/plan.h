/* A plan file, checked and turned into the tables that the engine runs; and the names behind the numbers. */
#ifndef DROMIKOS_PLAN_PLAN_H
#define DROMIKOS_PLAN_PLAN_H

#include "boards.h"
#include "report.h"
#include "sheet.h"
#include "source.h"

#include "dromikos/dromikos.h"
#include "dromikos/encode.h"

typedef struct plan plan;
typedef struct sim_bench sim_bench; /* sim.h */

/* Reads a plan and the sheets that it names. Faults go to `faults`; NULL when there was an error among them.
 */
plan *plan_load(const char *path, report *faults);

void plan_free(plan *unwanted);

/* The tables, with memory of their own: one engine at a time. */
const drom_plan *plan_tables(const plan *loaded);

/* How a protocol is sent, the plan's own ones too; NULL for what is known by its fingerprint alone. */
const drom_waveform *plan_waveform(const plan *loaded, uint8_t number);

/* The protocol of a code that the plan listens for. */
const drom_protocol *plan_protocol(const plan *loaded, uint8_t number);

/* The protocols that the plan declares. */
unsigned plan_own_count(const plan *loaded);
const drom_waveform *plan_own_waveform(const plan *loaded, unsigned own);

/* Has the plan declared this one itself? */
bool plan_is_own(const plan *loaded, drom_protocol_ref protocol);

const char *plan_title(const plan *loaded);
const board *plan_board(const plan *loaded);
/* The same, with the times of the plan's own clock. */
board plan_board_at_its_clock(const plan *loaded);
/* For how long the maker's own code masks interrupts, and how long it blocks, at most, as the plan says. */
double plan_own_masks_us(const plan *loaded);
double plan_own_blocks_us(const plan *loaded);
/* True where a timer or another machine stamps the receiver's edges. */
bool plan_has_latch(const plan *loaded);
unsigned plan_handset_count(const plan *loaded);
unsigned plan_output_count(const plan *loaded);
const char *plan_handset_name(const plan *loaded, unsigned handset);
/* The path of a handset's sheet, from where the tool was started. */
const char *plan_sheet_path(const plan *loaded, unsigned handset);
/* Those of all files that it was read from, which are the plan's own; to be freed. */
GPtrArray *plan_paths(const plan *loaded);
/* A handset's sheet, to be freed with sheet_free(). */
sheet *plan_copy_sheet(const plan *loaded, unsigned handset);
const char *plan_key_name(const plan *loaded, unsigned handset, unsigned key);
const char *plan_output_name(const plan *loaded, unsigned output);
/* A row of the tables. */
const drom_output *plan_output(const plan *loaded, unsigned output);
const output_kind *plan_output_kind(const plan *loaded, unsigned output);

/* True when some output is doing what never ends by itself. */
bool plan_is_endless(const plan *loaded);

/* True when some output is doing what does. */
bool plan_is_ending(const plan *loaded);

/* The board's power is cut on the bench: no output does anything any more. The engine is lost until it is
 * initialised again, with plan_has_power() before that. */
void plan_lose_power(const plan *loaded, drom_engine *engine, sim_bench *bench);
void plan_has_power(sim_bench *bench);

/* The parts of an output, with their pixels: "shelf 0-3, rim 4-7". NULL: it has none. To be freed. */
char *plan_parts_text(const plan *loaded, unsigned output);

unsigned plan_timer_count(const plan *loaded);
const char *plan_timer_name(const plan *loaded, unsigned timer);
/* False where it doesn't run; else how long still. */
bool plan_timer_runs(const plan *loaded, unsigned timer, drom_us now, uint64_t *left_us);

/* Is a value at one of its limits when it is so, as an event says it ("9")? */
bool plan_is_limit(const plan *loaded, const char *value, const char *number);

/* True when a timer runs, a rule waits, or a mode is going to fall back; and how long the longest of them has
 * still to go. */
bool plan_waits(const plan *loaded, const drom_engine *engine, uint64_t *left_us);

/* What goes on: "the timer nap (12 s to go), the scene wave, footlights". NULL: nothing does; to be freed. */
char *plan_going_on(const plan *loaded, const drom_engine *engine);

/* Does its engine wake now and then though nothing happens: for buttons, switches, a guard? */
bool plan_never_sleeps(const plan *loaded);

/* The pin of a button; -1: the key is a handset's. That of a switch. */
int plan_button_pin(const plan *loaded, unsigned handset, unsigned key);
uint8_t plan_switch_pin(const plan *loaded, unsigned which);

unsigned plan_switch_count(const plan *loaded);
const char *plan_switch_name(const plan *loaded, unsigned which);
const char *plan_event_name(const plan *loaded, unsigned which);

/* The row of a switch, of an event, and of the output that is a computer's keyboard; -1 when there is none.
 */
int plan_find_switch(const plan *loaded, const char *name);
int plan_find_event(const plan *loaded, const char *name);
int plan_find_keyboard(const plan *loaded, const char *name);

/* The line of the file on which a rule of the tables stands; 0: what is done at start. */
int plan_rule_line(const plan *loaded, unsigned rule);

/* The name of the file in which that is, where the plan includes it; else NULL. */
const char *plan_rule_file(const plan *loaded, unsigned rule);

/* The row of a handset, and of its key; -1 when there is none. */
int plan_find_handset(const plan *loaded, const char *name);
int plan_find_key(const plan *loaded, unsigned handset, const char *name);

/* "; did you mean 'X'?" among the handsets or a handset's keys. To be freed. */
char *plan_hint_handset(const plan *loaded, const char *name);
char *plan_hint_key(const plan *loaded, unsigned handset, const char *name);

/* What a rule of the tables is about: "wand.power". To be freed. */
char *plan_rule_text(const plan *loaded, unsigned rule);

/* What has come about, where it is no gesture of a key: "rigging begins", "cue is 4". NULL: it goes without
 * saying. To be freed. */
char *plan_event_text(const plan *loaded, const drom_event *event);

/* How it is at the start: the number of a value, of "mode" the first one; of a switch "open". NULL: it is
 * none of these. To be freed. */
char *plan_first_state(const plan *loaded, const char *name);

/* "pulse for 500 ms", of an output. To be freed. */
char *plan_order_text(const plan *loaded, const drom_action *action);

/* "bell pulse for 500 ms", "mode show". To be freed. */
char *plan_action_text(const plan *loaded, const drom_action *action);

#endif
