/* A plan on the bench, and what comes to it. */
#ifndef DROMIKOS_CLI_REHEARSAL_H
#define DROMIKOS_CLI_REHEARSAL_H

#include "chip.h"

#include "plan.h"
#include "script.h"
#include "timeline.h"

#include "sim.h"

/* Of an option that the verbs have which rehearse. */
#define CHIP_HELP "Simulate the board's chip: the time of polls, pixels and interrupts"

/* Begin with verb, seed, jitter_us, is_on_chip and is_in_sight; the rest is 0. */
typedef struct rehearsal {
    const char *verb; /* in whose name it is complained */
    uint64_t seed;
    double jitter_us;
    plan *plan;
    sim_bench *bench;
    drom_engine engine;
    timeline *view;
    const char *input; /* the first word after the plan's; NULL: none */
    GArray *script;    /* of script_press; NULL where a capture is heard */
    GArray *expected;  /* of script_expectation */
    guint expected_done;
    guint happened;   /* rows of the script, but for those that are on the bench from the start */
    bool is_on_chip;  /* the board's, whose work takes its time; else an ideal one */
    bool is_in_sight; /* the handset, of the appliances that senders send to */
    chip_watch chip;
    uint64_t own_code_us; /* of the maker's own, after each poll that rehearsal_pass() makes */
} rehearsal;

/* Loads the plan, and puts it on a bench that hears nothing yet. An exit code; what is wrong is reported. */
int rehearsal_load(rehearsal *run, const char *path);

/* Loads the plan, and takes what the bench is to hear: a script or a capture, presses in words, or every key
 * that a rule names. `inputs` are the plan's path and those words, ending with NULL. An exit code; what is
 * wrong is reported. */
int rehearsal_open(rehearsal *run, char **inputs, const char *signal, bool is_idle_low);

/* Plays it to its end, and reports to the view. EXIT_NO where something wasn't heard, or not as expected. */
int rehearsal_play(rehearsal *run, timeline *view);

/* Or part by part: it starts (an exit code), and goes on up to a moment. */
int rehearsal_start(rehearsal *run, timeline *view);
void rehearsal_pass(rehearsal *run, uint64_t until_us);

/* The same as rehearsal_play(), with all that is drawn of it: the rows of the JSON Lines, and those of
 * "finger", "air", "drawn", "lit" and "timer", by their times. To be let go of with json_decref(). `code` is
 * what rehearsal_play() answers. */
json_t *rehearsal_record(rehearsal *run, int *code);

/* When the last of the input is over: a script's, or a capture's. */
uint64_t rehearsal_last_us(const rehearsal *run);

void rehearsal_close(rehearsal *run);

#endif
