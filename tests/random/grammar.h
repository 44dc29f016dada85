/* Sentences at random. A pattern is text in which
 *
 *     [3-9]        is a number,
 *     {a|b|c}      one of these, of which each may be a pattern, or nothing,
 *     <new relay>  a new name of that sort: "relay1",
 *     <relay>      a name of that sort that there is,
 *     <that>       the newest name of this sentence,
 *     <pin>        a pin that is free, <pwm> one with PWM, <carrier> and <latch> likewise,
 *     <order>      whatever the patterns of that name say. */
#ifndef DROMIKOS_TESTS_GRAMMAR_H
#define DROMIKOS_TESTS_GRAMMAR_H

#include "plan/board/boards.h"

#include <glib.h>

/* Patterns with names, up to one without. */
typedef struct grammar_pattern {
    const char *name;
    const char *pattern;
} grammar_pattern;

typedef struct grammar grammar;

grammar *grammar_new(GRand *dice, const board *chosen, const grammar_pattern *patterns);
void grammar_free(grammar *unwanted);

/* Adds a name of a sort; <this> is the newest of the sort "this". */
void grammar_name(grammar *in, const char *sort, const char *name);

/* Returns a sentence of the pattern; NULL if a name or pin that it needs is missing. To be freed. */
char *grammar_draw(grammar *in, const char *pattern);

/* A number, and one chance of a hundred. */
unsigned draw(GRand *dice, unsigned min, unsigned max);
bool chance(GRand *dice, unsigned percent);

#endif
