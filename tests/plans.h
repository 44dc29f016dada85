/* For the suites about plans: loads a plan from a text. */
#ifndef DROMIKOS_TESTS_PLANS_H
#define DROMIKOS_TESTS_PLANS_H

#include "plan/model/plan.h"

/* A stage, which more lines may follow. */
#define STAGE_SHEET                                                                                          \
    "key,protocol,address,command\n"                                                                         \
    "up,nec,4,1\ndown,nec,4,2\nplay,nec,4,3\nexit,nec,4,4\nred,nec,4,5\n"                                    \
    "n8,nec,4,8\nn9,nec,4,9\nn10,nec,4,10\nn11,nec,4,11\n"

#define STAGE_HEAD                                                                                           \
    "plan \"Stage\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"                     \
    "relay spot on pin 4\nrelay bell on pin 7, rest on\nlamp house on pin 5\nstrip foot on pin 6, 9 "        \
    "pixels\n"
enum { STAGE_LINES = 8 };

/* Loads a plan whose sheet is "wand.csv". `reported` gets its faults, without the folder of the files; to be
 * freed. NULL if there was an error. */
plan *load_plan(const char *text, const char *csv, char **reported);

/* Loads the stage with these lines. */
plan *load_stage(const char *lines, char **reported);

#endif
