/* A plan as it is written: names not yet looked up, every word with its place. From the parser to the
 * checker. */
#ifndef DROMIKOS_PLAN_SOURCE_H
#define DROMIKOS_PLAN_SOURCE_H

#include "own.h"
#include "report.h"

#include <stdint.h>

/* A word of the file. `text` is NULL where the plan doesn't have it. */
typedef struct word {
    char *text;
    place where;
} word;

typedef struct handset_line {
    word name;
    word path;
    bool is_confirmed;
} handset_line;

typedef struct protocol_line {
    word name;
    own_protocol *own; /* the rows point into it, so that it stays where it is */
} protocol_line;

typedef struct relay_line {
    word name;
    word pin;
    uint32_t least_on_ms;
    uint32_t least_off_ms;
    bool is_active_low;
    bool rests_on;
    unsigned given; /* which clauses have been given: bits of enum relay_clause */
} relay_line;

enum relay_clause {
    RELAY_ACTIVE = 1,
    RELAY_REST = 2,
    RELAY_LEAST_ON = 4,
    RELAY_LEAST_OFF = 8,
};

/* The times of gestures; 0 where the plan doesn't give one. */
enum key_time {
    HOLDS_AFTER,
    TAPS_WITHIN,
    DOUBLES_WITHIN,
    REPEATS_AFTER,
    REPEATS_EVERY,
    REPEATS_FASTEST,
    KEY_TIMES
};

typedef struct gesture_word {
    uint8_t gesture;  /* a drom_gesture */
    uint32_t hold_ms; /* of a hold; 0: the usual time */
    place where;
} gesture_word;

typedef struct action_words {
    word output;
    uint8_t verb; /* a drom_relay_verb */
    uint32_t value;
    place where;
} action_words;

typedef struct rule_line {
    word handset;
    word key;
    GArray *gestures; /* of gesture_word */
    GArray *actions;  /* of action_words */
    place where;
} rule_line;

typedef struct plan_source {
    word title;
    word board;
    double board_mhz; /* 0: not given */
    place board_mhz_at;
    word receiver_pin;
    uint16_t key_ms[KEY_TIMES];
    GArray *handsets;  /* of handset_line */
    GArray *protocols; /* of protocol_line */
    GArray *relays;    /* of relay_line */
    GArray *rules;     /* of rule_line */
    GArray *at_start;  /* of action_words */
    report *told;
    const char *text;
} plan_source;

/* Parses `length` bytes of text; faults go to `told`. The text must outlive the source. */
plan_source *plan_parse(const char *text, gsize length, report *told);

void plan_source_free(plan_source *source);

/* For the parser's actions. Each takes over the words that it gets. */
void source_take_title(plan_source *source, word title);
void source_take_board(plan_source *source, word name, double mhz, place mhz_at);
void source_take_receiver(plan_source *source, word pin);
void source_take_relay_clause(plan_source *source, relay_line *relay, unsigned clause, uint32_t value,
                              place where);

void source_take_key_time(plan_source *source, enum key_time which, uint32_t ms, place where);

/* A protocol that is being declared takes a figure; a second one of a kind is told. */
void source_take_figure(plan_source *source, uint32_t *figure, uint32_t value, place where);

void word_free(word *unwanted);
GArray *actions_new(void);

#endif
