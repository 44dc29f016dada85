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

enum output_kind { KIND_RELAY, KIND_LAMP, KIND_STEPPER, KIND_STRIP, KIND_SENDER, OUTPUT_KINDS };

/* What is said of an output, after commas. */
enum clause {
    CLAUSE_ACTIVE_LOW,
    CLAUSE_REST_ON,
    CLAUSE_MIN_ON,  /* ms */
    CLAUSE_MIN_OFF, /* ms */
    CLAUSE_STEPS,   /* of a turn */
    CLAUSE_SPEED,   /* steps/s, and in `within_ms` how soon */
    CLAUSE_STILL,
    CLAUSE_PIXELS,
    CLAUSE_ORDER, /* a word */
    CLAUSE_PAUSE, /* ms */
    CLAUSE_SHIELDED,
    CLAUSES
};

typedef struct clause_words {
    enum clause clause;
    uint32_t value;
    uint32_t within_ms;
    word order;
    place where;
} clause_words;

typedef struct output_line {
    enum output_kind kind;
    word name;
    word pins[4];
    unsigned pin_count;
    unsigned given;           /* which clauses: a bit each */
    uint32_t values[CLAUSES]; /* 0 where it isn't given */
    place places[CLAUSES];
    uint32_t within_ms; /* of the speed; 0: the usual time */
    word order;
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

/* The orders of outputs; which kind knows which is in outputs.c. */
enum order_word {
    SAY_OFF,
    SAY_ON,
    SAY_TOGGLE,
    SAY_PULSE,
    SAY_RUN,
    SAY_RUN_BACK,
    SAY_STOP,
    SAY_TURN,
    SAY_TURN_BACK,
    SAY_GO,
    SAY_GO_BACK,
    SAY_FILL,
    SAY_SHOW,
    SAY_BRIGHTNESS,
    SAY_BRIGHTER,
    SAY_DIMMER,
    SAY_PALETTE,
    SAY_EFFECT,
    SAY_FADE,
    SAY_SEND,
    SAY_HOLD,
    SAY_LET_GO,
};

enum way_unit { WAY_STEPS, WAY_TURNS, WAY_DEGREES };

typedef struct action_words {
    word output;
    enum order_word say;
    double amount; /* %, pixels, ms, times, or of `unit` */
    enum way_unit unit;
    uint32_t over_ms;   /* of a fade */
    word name;          /* a colour, palette, effect or handset */
    word key;           /* of that handset */
    bool is_while_held; /* undone when the key is let go */
    place where;
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
    GArray *handsets;  /* of handset_line */
    GArray *protocols; /* of protocol_line */
    GArray *outputs;   /* of output_line */
    GArray *palettes;  /* of palette_line */
    GArray *rules;     /* of rule_line */
    GArray *at_start;  /* of action_words */
    report *faults;
    const char *text;
} plan_source;

/* Parses `length` bytes of text; faults go to `faults`. The text must outlive the source. */
plan_source *plan_parse(const char *text, gsize length, report *faults);

/* NULL where a text can be a name in a plan, or why it can't. */
const char *plan_misnamed(const char *text);

void plan_source_free(plan_source *source);

/* For the parser's actions. Each takes over the words that it gets. */
void source_take_title(plan_source *source, word title);
void source_take_board(plan_source *source, word name, double mhz, place mhz_at);
void source_take_receiver(plan_source *source, word pin);
/* Reports a clause that the output has already, or that its kind does not know. */
void source_take_clause(plan_source *source, output_line *output, clause_words given);

void source_take_key_time(plan_source *source, enum key_time which, uint32_t ms, place where);

/* A protocol that is being declared takes a figure; a second one of a kind is reported. */
void source_take_figure(plan_source *source, uint32_t *figure, uint32_t value, place where);

void word_free(word *unwanted);
void action_free(action_words *unwanted);
void output_free(output_line *unwanted);
GArray *actions_new(void);

#endif
