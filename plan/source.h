/* A plan as it is written: names not yet looked up, every word with its place. From the parser to the
 * checker. */
#ifndef DROMIKOS_PLAN_SOURCE_H
#define DROMIKOS_PLAN_SOURCE_H

#include "own.h"
#include "phrase.h"

#include "dromikos/internal/rules.h"

typedef struct output_kind output_kind; /* kinds.h */

typedef struct handset_line {
    word name;
    word path;       /* of its sheet; none: its keys are buttons */
    GArray *buttons; /* of button_line; NULL: it has a sheet */
    bool is_confirmed;
} handset_line;

typedef struct button_line {
    word key;
    word pin;
} button_line;

typedef struct switch_line {
    word name;
    word pin;
} switch_line;

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

enum { MAX_PINS = 4, MAX_MEMBERS = 2, MAX_CLAUSES = 8 };

typedef struct output_line {
    const output_kind *kind;
    word name;
    word pins[MAX_PINS];
    unsigned pin_count;
    word members[MAX_MEMBERS];         /* outputs that it joins */
    clause_given clauses[MAX_CLAUSES]; /* as the kind numbers them */
    clause_given driven;               /* something lies between its pins and the load */
    clause_given supply;               /* the load has one of its own: mV, and mA as the second */
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

/* What a plan can name. */
typedef enum thing {
    NO_THING,
    A_HANDSET,
    AN_OUTPUT,
    A_PALETTE,
    A_MODE,
    A_VALUE,
    A_TIMER,
    A_SCENE,
    AN_EVENT,
    A_GROUP,
    A_SWITCH,
    THINGS
} thing;

typedef struct mode_line {
    word name;
    uint32_t back_after_ms; /* 0: it doesn't end by itself */
} mode_line;

typedef struct value_line {
    word name;
    drom_value limits;
    place kept; /* where it is said that it is; line 0: it isn't */
} value_line;

/* A timer, a scene, an event. */
typedef struct named_line {
    word name;
    int passing_of; /* of a scene: 1 more than the row of the output that an order "for 2 s" is about; else 0
                     */
} named_line;

/* Outputs of which only one may be on. */
typedef struct only_line {
    GArray *members; /* of word */
    uint32_t pause_ms;
    place where;
} only_line;

/* One name for several outputs. */
typedef struct group_line {
    word name;
    GArray *members; /* of word */
} group_line;

/* An action: a name, or a word that stands for what is done, and what comes after it. */
typedef struct action_words {
    word name;
    wording order;      /* what comes after the name */
    bool is_while_held; /* undone when the key is let go */
    place where;
    /* Once all names are known. */
    drom_target target;
    int row;  /* of what it is about; -1: there is none of the name */
    int said; /* an order of the output's kind; -1: it isn't about an output, or there is none */
    phrase_value values[PHRASE_VALUES];
    /* Once it is checked: what the engine calls it. */
    uint8_t verb;
    uint8_t flags;
    bool is_matched;     /* what it is about, and its verb, are known */
    bool is_translation; /* its order is the one that sends a key, and values has that */
    bool is_of_digit;    /* what stands for a number in it is that of the rule's key */
    unsigned number;     /* 1 more than which of the values is it, where it isn't an output's; 0: none is */
    uint32_t value;
} action_words;

/* What a rule is about: one event, or a gesture of one key or of several in a row. */
typedef struct trigger {
    drom_source source;
    word name;     /* of the handset, mode, value and so on */
    word key;      /* of a handset; none: any that no rule names */
    word last_key; /* of "wand.0 to wand.9"; else none */
    uint8_t what;  /* DROM_BEGINS or DROM_ENDS, DROM_CLOSES or DROM_OPENS */
    gesture_word gesture;
    place where;
} trigger;

typedef struct condition_words {
    word name;
    word than;          /* a value, in the place of its number; none: that is a number */
    drom_condition row; /* once it is checked, whole */
    int said;
    place where;
} condition_words;

typedef struct rule_line {
    GArray *triggers;   /* of trigger */
    word mode;          /* in which alone it holds; none: in any */
    GArray *conditions; /* of condition_words */
    drom_again again;
    bool has_again;
    bool is_translation; /* other rules of its key go before it */
    GArray *actions;     /* of action_words */
    GArray *otherwise;   /* likewise; empty: nothing */
    place where;
} rule_line;

/* A file of the plan: its own, or one that it includes. */
typedef struct included_file {
    char *path;
    int file; /* as its places have it */
} included_file;

typedef struct plan_source {
    word title;
    word board;
    double board_mhz; /* less than 0: not given */
    place board_mhz_at;
    word receiver_pin;
    bool has_serial;
    uint32_t own_masks_us;  /* the maker's own code masks interrupts for so long */
    uint32_t own_blocks_ms; /* and keeps main from its poll */
    uint16_t key_ms[KEY_TIMES];
    GArray *tokens;    /* of token */
    GArray *files;     /* of included_file: its own, then those that it includes */
    GArray *includes;  /* of word: their names, as far as they are known */
    GArray *handsets;  /* of handset_line */
    GArray *protocols; /* of protocol_line */
    GArray *outputs;   /* of output_line */
    GArray *palettes;  /* of palette_line */
    GArray *modes;     /* of mode_line */
    GArray *values;    /* of value_line */
    GArray *timers;    /* of named_line */
    GArray *scenes;    /* of named_line */
    GArray *events;    /* of named_line */
    GArray *groups;    /* of group_line */
    GArray *onlies;    /* of only_line */
    GArray *switches;  /* of switch_line */
    GPtrArray *texts;  /* of char: names that the plan doesn't have itself */
    word block;        /* the mode that the rules hold in that are being read; none: they say it */
    GArray *rules;     /* of rule_line */
    report *faults;
} plan_source;

/* Parses `length` bytes of a file, and then those that it includes; faults go to `faults`, where the file was
 * named last. */
plan_source *plan_parse(const char *path, const char *text, gsize length, report *faults);

/* Parses a file, which was named last. */
void source_parse(plan_source *source, const char *path, const char *text, gsize length);

/* Then those that it includes; it has so many bytes itself. */
void source_include_all(plan_source *source, gsize length);

/* The path of the file in which something stands. */
const char *source_path(const plan_source *source, place where);

/* A path that stands in a file, as seen from where that is. To be freed. */
char *path_beside(const char *file, const char *path);

/* The tokens of a text, which ends with TOKEN_END; `where` is the place of its first one. To be unreferenced.
 */
GArray *plan_tokens(const char *text, report *faults, place where);

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

/* A statement as it stands: its first word, the segments up to a ':', those after it, and those after
 * 'otherwise:'. The last two are NULL where there are none. */
typedef struct statement {
    guint head; /* token */
    const GArray *segments;
    const GArray *after;
    const GArray *otherwise;
} statement;

/* Takes a statement. What is wrong with it is reported. */
void source_take_statement(plan_source *source, const statement *given);

/* The same for the head of a block of rules, and for each of them. */
void source_begin_block(plan_source *source, guint head, const GArray *segments);

/* Reports what is more than fits, and leaves it out. */
void source_limit(plan_source *source);

/* Finds what each action orders, once all names are known. */
void source_match_orders(plan_source *source);

/* What has a name, and its row; and the name of a row. */
thing source_find(const plan_source *source, const char *name, int *row);
const word *source_name(const plan_source *source, thing kind, guint row);
guint source_count(const plan_source *source, thing kind);

/* "a mode" */
const char *thing_text(thing kind);

/* The row of a thing of that kind, -1 and reported where there is none. */
int source_look_up(const plan_source *source, thing kind, const word *name);

#endif
