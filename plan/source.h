/* A plan as it is written: names not yet looked up, every word with its place. From the parser to the
 * checker. */
#ifndef DROMIKOS_PLAN_SOURCE_H
#define DROMIKOS_PLAN_SOURCE_H

#include "own.h"
#include "phrase.h"

typedef struct output_kind output_kind; /* kinds.h */

typedef struct handset_line {
    word name;
    word path;
    bool is_confirmed;
} handset_line;

typedef struct protocol_line {
    word name;
    own_protocol *own; /* the rows point into it, so that it stays where it is */
} protocol_line;

/* A clause of an output. */
typedef struct clause_given {
    bool is_given;
    uint32_t value;  /* what it fixes, or its first number */
    uint32_t second; /* its second one */
    word name;
    place where;
} clause_given;

enum { MAX_PINS = 4, MAX_CLAUSES = 6 };

typedef struct output_line {
    const output_kind *kind;
    word name;
    word pins[MAX_PINS];
    unsigned pin_count;
    clause_given clauses[MAX_CLAUSES]; /* as the kind numbers them */
} output_line;

typedef struct palette_line {
    word name;
    GArray *colours; /* of word */
} palette_line;

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

/* An action: an output's name, and a phrase that its kind must know. */
typedef struct action_words {
    word output;
    wording order;      /* what comes after the name */
    bool is_while_held; /* undone when the key is let go */
    place where;
    int row;  /* of the outputs; -1: there is none of the name */
    int said; /* which order of the kind it is; -1: none */
    phrase_value values[PHRASE_VALUES];
    uint8_t verb; /* once it is checked: what the engine calls it */
    uint32_t value;
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
    double board_mhz; /* less than 0: not given */
    place board_mhz_at;
    word receiver_pin;
    uint32_t own_masks_us;  /* the maker's own code masks interrupts for so long */
    uint32_t own_blocks_ms; /* and keeps main from its poll */
    uint16_t key_ms[KEY_TIMES];
    GArray *tokens;    /* of token */
    GArray *handsets;  /* of handset_line */
    GArray *protocols; /* of protocol_line */
    GArray *outputs;   /* of output_line */
    GArray *palettes;  /* of palette_line */
    GArray *rules;     /* of rule_line */
    GArray *at_start;  /* of action_words */
    report *faults;
} plan_source;

/* Parses `length` bytes of text; faults go to `faults`. */
plan_source *plan_parse(const char *text, gsize length, report *faults);

/* NULL where a text can be a name in a plan, or why it can't. */
const char *plan_misnamed(const char *text);

void plan_source_free(plan_source *source);

/* A segment of a statement: what stands between two separators. */
typedef struct segment {
    wording words;
    wording held; /* what follows 'while' */
    bool has_while;
    guint before; /* the token that separates it from the one before it */
} segment;

/* Takes a statement: the token of its first word, the segments up to a ':', and those after it; NULL
 * where there is no ':'. What is wrong with it is reported. */
void source_take_statement(plan_source *source, guint head, const GArray *segments, const GArray *after);

/* Finds what each action orders, once all outputs are known. */
void source_match_orders(plan_source *source);

#endif
