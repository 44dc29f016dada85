/* Phrases: how a piece of a statement may be worded. A phrase is a row of words, of which those in capitals
 * stand for something: "fade to LEVEL over TIME".
 *
 *     NAME    a name             N       a whole number        TIME   500 ms, 2 s, nap min
 *     KEY     wand.power         INT     one that may be < 0   WAY    3 turns, 90 degrees, 512 steps
 *     COLOUR  red, 0xff8000      TEXT    "in quotes"           CLOCK  16 MHz
 *     PIN     7, A0              LEVEL   40 %, cue %           COUNT  12, cue
 *     CHORD   ctrl+alt+t, f5, 1  AMOUNT  12, 2.5               NUMBER  -12, cue
 *
 * In an action a value may stand for the number of a LEVEL, COUNT, NUMBER, WAY and TIME, and `digit` for a
 * KEY's key, a CHORD or a TEXT.
 *
 * Literal words beat what stands for something, and the longest phrase wins. No word is reserved but those
 * that join what a plan says. */
#ifndef DROMIKOS_PLAN_PHRASE_H
#define DROMIKOS_PLAN_PHRASE_H

#include "plan/text/report.h"

#include <stdint.h>

typedef enum token_kind {
    TOKEN_WORD,
    TOKEN_NUMBER,
    TOKEN_HEX,
    TOKEN_TEXT,
    TOKEN_TIME,
    TOKEN_CLOCK,
    TOKEN_CHORD, /* ctrl+alt+t */
    TOKEN_KEY,   /* the word after a '.' */
    TOKEN_MARK,  /* , ; : . % < <= = != >= > */
    TOKEN_END,   /* of a line, or of the plan */
} token_kind;

typedef struct token {
    token_kind kind;
    char *text;
    uint32_t ms;
    double mhz;
    place where;
} token;

/* A word of the file, owned by the tokens. `text` is NULL if the plan doesn't have it. */
typedef struct word {
    const char *text;
    place where;
} word;

/* Consecutive tokens; the token at `end`, which always exists, follows them. */
typedef struct wording {
    const GArray *tokens;
    guint from;
    guint end;
    bool has_values; /* names may stand for numbers */
} wording;

enum way_unit { WAY_STEPS, WAY_TURNS, WAY_DEGREES };

/* The values of a phrase's placeholders. */
typedef struct phrase_value {
    double amount;   /* of LEVEL, WAY, CLOCK, AMOUNT */
    uint32_t number; /* N, INT as an int32_t; TIME in ms, CLOCK in kHz; AMOUNT in thousandths */
    enum way_unit unit;
    word name; /* NAME, TEXT, PIN, COLOUR, and a KEY's handset; or the name that stands for a number */
    word key;
    bool is_named; /* `name` stands for the number; for a TIME, the number is its unit in ms */
    bool is_digit; /* "digit" stands for a KEY's key, a CHORD or a TEXT */
    place where;
} phrase_value;

/* Limits of a phrase. */
enum { PHRASE_VALUES = 5, PHRASE_ELEMENTS = 16 };

/* True if a phrase keeps these limits. */
bool phrase_fits(const char *phrase);

/* Returns the number of the phrase (of a list ending with NULL) that matches the words, with its placeholders
 * in `values`. Else returns -1 and reports what was found, and all that could have stood there. `about`
 * precedes the message if not even the first word matches; `then` (ending with NULL) is what may follow a
 * phrase. */
int phrase_match(report *faults, wording given, const char *const *phrases, const char *about,
                 const char *const *then, phrase_value *values);

/* True if some words could match both phrases, and neither has priority. */
bool phrases_are_alike(const char *a, const char *b);

/* True for a letter of any script, and '_'. */
bool plan_is_letter(gunichar letter);

/* True for a word that joins statements, and so can't be a name. */
bool word_is_reserved(const char *text);

/* Returns the place from the first word to the last, on the first one's line. */
place wording_place(wording given);

#endif
