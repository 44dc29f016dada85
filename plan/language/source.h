/* A plan as written: names aren't resolved, and each word has its place. From the parser to the checker. */
#ifndef DROMIKOS_PLAN_SOURCE_H
#define DROMIKOS_PLAN_SOURCE_H

#include "plan/handset/declared.h"
#include "plan/text/phrase.h"

#include "dromikos/internal/rules.h"

typedef struct output_kind output_kind; /* kinds.h */

enum {
    PLAN_MAX_ROWS = 255,
    PLAN_MAX_HANDSETS = DROM_NONE,
    PLAN_USUAL_HOLD_MS = 500,
    PLAN_MAX_COLOURS = 16, /* of a palette */
};

typedef struct handset_line {
    word name;
    word path;       /* place of its sheet; none: its keys are buttons */
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
    declared_protocol *own; /* the rows point to it, so it must not move */
} protocol_line;

/* A clause of an output. */
typedef struct clause_given {
    bool is_given;
    uint32_t value;  /* its fixed value, or its first number */
    uint32_t second; /* its second number */
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
    clause_given clauses[MAX_CLAUSES]; /* number of the kind */
    clause_given driven;               /* a driver is between its pins and the load */
    clause_given supply;               /* the load's own supply: mV, and mA as the second */
} output_line;

typedef struct palette_line {
    word name;
    GArray *colours; /* of word */
} palette_line;

/* The times of gestures; 0: not given. */
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
    uint32_t hold_ms; /* of a hold; 0: the default time */
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
    uint32_t back_after_ms; /* 0: it has no end */
} mode_line;

typedef struct value_line {
    word name;
    drom_value limits;
    place kept; /* place of `kept`; line 0: not kept */
} value_line;

/* A timer, a scene, an event. */
typedef struct named_line {
    word name;
    int passing_of; /* of a scene: row + 1 of the output of an order "for 2 s"; else 0 */
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

/* An action: a name, or a word for what is done, and what follows. */
typedef struct action_words {
    word name;
    wording order;      /* what follows the name */
    bool is_while_held; /* undone when the key is released */
    place where;
    /* When all names are known. */
    drom_target target;
    int row;  /* row of its subject; -1: no such name */
    int said; /* an order of the output's kind; -1: not an output's, or no such order */
    phrase_value values[PHRASE_VALUES];
    /* When it is checked: the engine's form. */
    uint8_t verb;
    uint8_t flags;
    bool is_matched;     /* subject and verb are known */
    bool is_translation; /* its order sends a key, which is in `values` */
    bool is_of_digit;    /* its number is the digit of the rule's key */
    unsigned number;     /* which of the values is the number + 1, if it isn't an output's; 0: none */
    uint32_t value;
} action_words;

/* The event of a rule: one event, or a gesture of one key or of a row of keys. */
typedef struct trigger {
    drom_source source;
    word name;     /* of the handset, mode, value and so on */
    word key;      /* of a handset; none: any key that no rule names */
    word last_key; /* of "wand.0 to wand.9"; else none */
    uint8_t what;  /* DROM_BEGINS or DROM_ENDS, DROM_CLOSES or DROM_OPENS */
    gesture_word gesture;
    place where;
} trigger;

typedef struct condition_words {
    word name;
    word than;          /* a value in place of the number; none: a number */
    drom_condition row; /* when it is checked: complete */
    int said;
    place where;
} condition_words;

typedef struct rule_line {
    GArray *triggers;   /* of trigger */
    word mode;          /* in which it fires; none: in any */
    GArray *conditions; /* of condition_words */
    drom_again again;
    bool has_again;
    bool is_translation; /* other rules of its key have priority */
    GArray *actions;     /* of action_words */
    GArray *otherwise;   /* likewise; empty: none */
    place where;
} rule_line;

/* A file of the plan: the plan itself, or an included one. */
typedef struct included_file {
    char *path;
    int file; /* its name in messages */
} included_file;

typedef struct plan_source {
    word title;
    word board;
    double board_mhz; /* less than 0: not given */
    place board_mhz_at;
    word receiver_pin;
    bool has_serial;
    uint32_t own_masks_us;  /* time for which own code masks interrupts */
    uint32_t own_blocks_ms; /* and blocks the poll */
    uint16_t key_ms[KEY_TIMES];
    GArray *tokens;    /* of token */
    GArray *files;     /* of included_file: the plan itself first */
    GArray *includes;  /* of word: the included files that are known so far */
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
    GPtrArray *texts;  /* of char: names made by the plan itself */
    word block;        /* mode of the block that is being read; none: the rules say it */
    GArray *rules;     /* of rule_line */
    report *faults;
} plan_source;

/* Parses `length` bytes of a file, then the files that it includes; faults go to `faults`, whose newest file
 * this is. */
plan_source *plan_parse(const char *path, const char *text, gsize length, report *faults);

/* Parses a file, the newest of the faults. */
void source_parse(plan_source *source, const char *path, const char *text, gsize length);

/* Parses the included files; the plan itself has this many bytes. */
void source_include_all(plan_source *source, gsize length);

/* Returns the path of the file that contains a place. */
const char *source_path(const plan_source *source, place where);

/* Returns a path that is relative to such a file. To be freed. */
char *path_beside(const char *file, const char *path);

/* Returns the tokens of a text, ending with TOKEN_END; `where` is the place of the first one. To be
 * unreferenced. */
GArray *plan_tokens(const char *text, report *faults, place where);

/* Returns NULL if a text can be a name in a plan; else the reason. */
const char *plan_misnamed(const char *text);

void plan_source_free(plan_source *source);

/* A segment of a statement: the words between two separators. */
typedef struct segment {
    wording words;
    wording held; /* what follows 'while' */
    bool has_while;
    guint before; /* the separator before it */
} segment;

/* A statement: its first word, the segments before ':', those after it, and those after 'otherwise:'. The
 * last two are NULL if there are none. */
typedef struct statement {
    guint head; /* token */
    const GArray *segments;
    const GArray *after;
    const GArray *otherwise;
} statement;

/* Handles a statement, and reports errors. */
void source_take_statement(plan_source *source, const statement *given);

/* The same for the head of a block of rules, and for each rule in it. */
void source_begin_block(plan_source *source, guint head, const GArray *segments);

/* Reports what exceeds a limit, and leaves it out. */
void source_limit(plan_source *source);

/* Finds the order of each action, when all names are known. */
void source_match_orders(plan_source *source);

/* The row of a name, and the name of a row. */
thing source_find(const plan_source *source, const char *name, int *row);
const word *source_name(const plan_source *source, thing kind, guint row);
guint source_count(const plan_source *source, thing kind);

/* "a mode" */
const char *thing_text(thing kind);

/* Returns the row of a thing of that kind; reports an error and returns -1 if there is none. */
int source_look_up(const plan_source *source, thing kind, const word *name);

#endif
