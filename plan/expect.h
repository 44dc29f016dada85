/* What a script expects at some moment: "bell is on", "house at 40 % within 500 ms", "cue is not 3". */
#ifndef DROMIKOS_PLAN_EXPECT_H
#define DROMIKOS_PLAN_EXPECT_H

#include "plan.h"

typedef struct expectation expectation;

/* Reads one. Faults go to `faults`, at places from `where` on; NULL when there was one. */
expectation *expectation_read(const plan *loaded, const char *text, report *faults, place where);
void expectation_free(expectation *unwanted);

/* For how long it may still come true; 0: it must be so at once. */
uint32_t expectation_within_ms(const expectation *expected);

/* Is it so? `devices` are those that are wired to the outputs, one each, NULL where nothing is. */
bool expectation_is_met(const expectation *expected, const drom_engine *engine, void *const *devices);

/* What is so instead: "bell is off". To be freed. */
char *expectation_actual(const expectation *expected, const drom_engine *engine, void *const *devices);

/* What is so now, as texts that expectation_read() takes: of the mode, each value and timer, and, with
 * `of_outputs`, each output of which something can be said. An array of char *, to be unreferenced. */
GPtrArray *expectations_now(const plan *loaded, const drom_engine *engine, void *const *devices,
                            bool of_outputs);

#endif
