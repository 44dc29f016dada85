/* A plan on the bench, with its input. */
#ifndef DROMIKOS_CLI_REHEARSAL_H
#define DROMIKOS_CLI_REHEARSAL_H

#include "cli/rehearse/board_chip.h"

#include "cli/rehearse/timeline.h"
#include "plan/model/plan.h"
#include "plan/script/script.h"

#include "sim.h"

/* For an option of the verbs that rehearse. */
#define CHIP_HELP "Simulate the board's chip: the time of polls, pixels and interrupts"

/* Begin with verb, seed, jitter_us, is_on_chip and is_in_sight; the rest is 0. */
typedef struct rehearsal {
    const char *verb; /* for messages */
    uint64_t seed;
    double jitter_us;
    plan *plan;
    sim_bench *bench;
    drom_engine engine;
    timeline *view;
    const char *input; /* the first word after the plan's; NULL: none */
    GArray *script;    /* of script_press; NULL for a capture */
    GArray *expected;  /* of script_expectation */
    guint expected_done;
    guint happened;   /* rows of the script, except those that are on the bench from the start */
    bool is_on_chip;  /* the board's chip, whose work takes time; else an ideal one */
    bool is_in_sight; /* senders' targets receive the handset */
    chip_watch chip;
    uint64_t own_code_us; /* of own code, after each poll of rehearsal_pass() */
} rehearsal;

/* Loads the plan, and puts it on a bench without input. Returns an exit code; errors are reported. */
int rehearsal_load(rehearsal *run, const char *path);

/* Loads the plan and its input: a script or a capture, presses in words, or each key that a rule names.
 * `inputs` are the plan's path and those words, ending with NULL. Returns an exit code; errors are reported.
 */
int rehearsal_open(rehearsal *run, char **inputs, const char *signal, bool is_idle_low);

/* Runs it to its end, and reports to the view. EXIT_NO if a press wasn't received, or an expectation wasn't
 * met. */
int rehearsal_play(rehearsal *run, timeline *view);

/* Or step by step: starts it (an exit code), and runs it up to a time. */
int rehearsal_start(rehearsal *run, timeline *view);
void rehearsal_pass(rehearsal *run, uint64_t until_us);

/* Like rehearsal_play(); returns all rows by their times, with the rows for drawing, to be unreferenced.
 * `code` is the answer of rehearsal_play(). */
GArray *rehearsal_record(rehearsal *run, int *code);

/* Returns the end of the input: a script's, or a capture's. */
uint64_t rehearsal_last_us(const rehearsal *run);

void rehearsal_close(rehearsal *run);

#endif
