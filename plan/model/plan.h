/* A plan file, checked and converted to the tables that the engine runs; and the names of their rows. */
#ifndef DROMIKOS_PLAN_PLAN_H
#define DROMIKOS_PLAN_PLAN_H

#include "plan/board/boards.h"
#include "plan/handset/sheet.h"
#include "plan/language/kind.h"
#include "plan/text/report.h"

#include "dromikos/dromikos.h"
#include "dromikos/encode.h"

typedef struct plan plan;
typedef struct sim_bench sim_bench; /* sim.h */

/* Reads a plan and its sheets. Faults go to `faults`; NULL if there was an error. */
plan *plan_load(const char *path, report *faults);

void plan_free(plan *unwanted);

/* Returns the tables, with their memory: for one engine at a time. */
const drom_plan *plan_tables(const plan *loaded);

/* Returns how a code's protocol is sent, the plan's own included; NULL for a fingerprint. */
const drom_waveform *plan_waveform(const plan *loaded, uint8_t number);

/* Returns the protocol of a code that the plan receives. */
const drom_protocol *plan_protocol(const plan *loaded, uint8_t number);

/* Returns the protocols that the plan declares. */
unsigned plan_declared_count(const plan *loaded);
const drom_waveform *plan_declared_waveform(const plan *loaded, unsigned own);

/* True if the plan declares this protocol. */
bool plan_is_declared(const plan *loaded, drom_protocol_ref protocol);

const char *plan_title(const plan *loaded);
const board *plan_board(const plan *loaded);
/* Returns the board, with the times of the plan's clock. */
board plan_board_at_its_clock(const plan *loaded);

/* Returns the clock of the chip. */
double plan_mhz(const plan *loaded);
/* Return how long own code masks interrupts, and blocks, at most. */
double plan_own_masks_us(const plan *loaded);
double plan_own_blocks_us(const plan *loaded);
/* True if a timer or other hardware stamps the receiver's edges. */
bool plan_has_latch(const plan *loaded);
unsigned plan_handset_count(const plan *loaded);
unsigned plan_output_count(const plan *loaded);
const char *plan_handset_name(const plan *loaded, unsigned handset);
/* Returns the path of a handset's sheet, as seen by the tool. */
const char *plan_sheet_path(const plan *loaded, unsigned handset);
/* Returns the paths of all files that were read; the strings are the plan's; the array is to be freed. */
GPtrArray *plan_paths(const plan *loaded);
/* Returns a handset's sheet, to be freed with sheet_free(). */
sheet *plan_copy_sheet(const plan *loaded, unsigned handset);
const char *plan_key_name(const plan *loaded, unsigned handset, unsigned key);
const char *plan_output_name(const plan *loaded, unsigned output);
/* A row of the tables. */
const drom_output *plan_output(const plan *loaded, unsigned output);
const output_kind *plan_output_kind(const plan *loaded, unsigned output);
output_view plan_output_view(const plan *loaded, unsigned output, const void *device);

/* True while an output does something that never ends by itself. */
bool plan_is_endless(const plan *loaded);

/* True while an output does something that ends by itself. */
bool plan_is_ending(const plan *loaded);

/* Cuts the board's power on the bench: no output does anything. The engine must be initialised again, after
 * plan_has_power(). */
void plan_lose_power(const plan *loaded, drom_engine *engine, sim_bench *bench);
void plan_has_power(sim_bench *bench);

/* Returns the parts of a strip with their pixels: "shelf 0-3, rim 4-7". NULL: none. To be freed. */
char *plan_parts_text(const plan *loaded, unsigned output);

unsigned plan_timer_count(const plan *loaded);
const char *plan_timer_name(const plan *loaded, unsigned timer);
/* False if the timer isn't running; else the time left. */
bool plan_timer_runs(const plan *loaded, unsigned timer, drom_us now, uint64_t *left_us);

/* True if a value of this number ("9") is at one of its limits. */
bool plan_is_limit(const plan *loaded, const char *value, const char *number);

/* True while a timer runs, a rule waits, or a mode will fall back; and the longest time left. */
bool plan_waits(const plan *loaded, const drom_engine *engine, uint64_t *left_us);

/* Returns what is active: "the timer nap (12 s to go), the scene wave, footlights". NULL: nothing; to be
 * freed. */
char *plan_going_on(const plan *loaded, const drom_engine *engine);

/* True if the engine wakes periodically without an event: for buttons, switches, a guard. */
bool plan_never_sleeps(const plan *loaded);

/* Returns the pin of a button; -1: the key is a handset's. And the pin of a switch. */
int plan_button_pin(const plan *loaded, unsigned handset, unsigned key);
uint8_t plan_switch_pin(const plan *loaded, unsigned which);

unsigned plan_switch_count(const plan *loaded);
const char *plan_switch_name(const plan *loaded, unsigned which);
const char *plan_event_name(const plan *loaded, unsigned which);

/* Returns the row of a switch, of an event, and of the keyboard's output; -1 if there is none. */
int plan_find_switch(const plan *loaded, const char *name);
int plan_find_event(const plan *loaded, const char *name);
int plan_find_keyboard(const plan *loaded, const char *name);

/* Returns the line of the file that contains a rule; 0: actions at the start. */
int plan_rule_line(const plan *loaded, unsigned rule);

/* Returns the name of that file if the plan includes it; else NULL. */
const char *plan_rule_file(const plan *loaded, unsigned rule);

/* Returns the row of a handset, and of its key; -1 if there is none. */
int plan_find_handset(const plan *loaded, const char *name);
int plan_find_key(const plan *loaded, unsigned handset, const char *name);

/* Returns "; did you mean 'X'?" for a handset or a handset's key. To be freed. */
char *plan_hint_handset(const plan *loaded, const char *name);
char *plan_hint_key(const plan *loaded, unsigned handset, const char *name);

/* Returns the subject of a rule: "wand.power". To be freed. */
char *plan_rule_text(const plan *loaded, unsigned rule);

/* Returns an event that is no gesture in words: "rigging begins", "cue is 4". NULL: not needed. To be freed.
 */
char *plan_event_text(const plan *loaded, const drom_event *event);

/* Returns the code of a key that an output sends, by its row; and "hall.mute", to be freed. */
const drom_code *plan_sent_code(const plan *loaded, guint output, guint row);
char *plan_sent_name(const plan *loaded, guint output, guint row);

/* Returns a state at the start: the number of a value, the first mode, "open" for a switch. NULL: none of
 * these. To be freed. */
char *plan_first_state(const plan *loaded, const char *name);

/* Returns an output's action: "pulse for 500 ms". To be freed. */
char *plan_order_text(const plan *loaded, const drom_action *action);

/* Returns an action with its subject: "bell pulse for 500 ms", "mode show". To be freed. */
char *plan_action_text(const plan *loaded, const drom_action *action);

#endif
