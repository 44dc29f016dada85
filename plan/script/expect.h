/* Expectations of a script: "bell is on", "house at 40 % within 500 ms", "cue is not 3". */
#ifndef DROMIKOS_PLAN_EXPECT_H
#define DROMIKOS_PLAN_EXPECT_H

#include "plan/model/plan.h"

typedef struct expectation expectation;

/* Parses an expectation. Faults go to `faults`, at places from `where` on; NULL if there was one. */
expectation *expectation_read(const plan *loaded, const char *text, report *faults, place where);
void expectation_free(expectation *unwanted);

/* Returns how long it may take to become true; 0: it must be true at once. */
uint32_t expectation_within_ms(const expectation *expected);

/* True if it is met. `devices` are those wired to the outputs, one each, or NULL. */
bool expectation_is_met(const expectation *expected, const drom_engine *engine, void *const *devices);

/* Returns what is found instead: "bell is off". To be freed. */
char *expectation_actual(const expectation *expected, const drom_engine *engine, void *const *devices);

/* Returns the current state as texts for expectation_read(): the mode, each value and timer, and, with
 * `of_outputs`, each output that has a state. An array of char *, to be unreferenced. */
GPtrArray *expectations_now(const plan *loaded, const drom_engine *engine, void *const *devices,
                            bool of_outputs);

#endif
