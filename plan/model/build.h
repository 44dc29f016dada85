/* A plan on its way from source to tables. For plan/, and tests. */
#ifndef DROMIKOS_PLAN_BUILD_H
#define DROMIKOS_PLAN_BUILD_H

#include "plan/handset/sheet.h"
#include "plan/language/kind.h"
#include "plan/model/plan.h"

/* A rule of the source, for one event. */
typedef struct placed_rule {
    guint rule; /* of the source */
    guint trigger;
    uint8_t row; /* as in a drom_rule */
    uint8_t key;
    int digit; /* of a key in a row of keys */
} placed_rule;

/* A key that an output sends. */
typedef struct sent_key {
    guint handset;
    guint key;
    guint each_ms; /* time between the presses of a held key; 0: one press */
} sent_key;

struct plan {
    char *text;
    plan_source *source;
    const board *board;
    GPtrArray *sheets; /* of sheet, one per handset; NULL if it couldn't be read */

    guint heard_handsets; /* the other handsets are only sent */

    GPtrArray *waveforms;   /* of drom_waveform: the plan's own protocols */
    GPtrArray *sheet_paths; /* of char, one per handset */

    drom_plan tables;
    /* The memory of the tables. */
    GArray *protocols;  /* of drom_protocol_ref */
    GArray *handsets;   /* of drom_handset */
    GPtrArray *codes;   /* of drom_code arrays, one per handset */
    GPtrArray *listed;  /* of GArray of uint8_t, likewise: their rows by code */
    GArray *hold_ms;    /* of uint16_t */
    GArray *doubles;    /* of drom_key_ref */
    GArray *rules;      /* of drom_rule */
    GArray *placed;     /* of placed_rule: the same rows */
    GArray *outputs;    /* of drom_output */
    GPtrArray *sent;    /* of sent_key arrays, one per output */
    GHashTable *shared; /* by kind: memory shared by its outputs */
    GPtrArray *kept;    /* settings and states */
    drom_decoder *decoders;
    drom_hold *holds;
    drom_last_press *last_presses;
    drom_held *held;
    GArray *interlocks;  /* of drom_interlock */
    GArray *guarded;     /* of drom_rest_pin */
    GArray *kept_values; /* of uint8_t: their rows */
    GArray *contacts;    /* of drom_contact */
    drom_touch *touches;
    drom_deadline look_at;
    bool *switches;
    GArray *modes;  /* of drom_mode */
    GArray *values; /* of drom_value */
    int16_t *numbers;
    drom_timer *timers;
    drom_sequence *sequences;
    drom_tapped *taps;
    drom_ticking *ticks;
    drom_fingerprint fingerprint;
    drom_filter fine;
    bool has_unknown; /* some key is known by its fingerprint only */
};

/* Resolves all names of the source, and reports errors. */
void plan_check_source(plan *made);

/* Finds the events of each rule, and reports rules with the same event. */
void plan_place_rules(plan *made);

/* What such a row was made from. */
rule_line *plan_rule_of(const plan *made, const placed_rule *placed);
const trigger *plan_trigger_of(const plan *made, const placed_rule *placed);

/* Writes the tables of the rules in C; and returns the gestures that they need. */
void plan_bake_rules(GString *out, const plan *loaded);
uint8_t plan_bake_gestures(const drom_rules_plan *rules);

/* True if a rule has waits. */
bool rule_waits(const rule_line *rule);

/* Resolves the rules; `is_driven` gets the outputs that they order. */
void plan_check_rules(plan *made, bool *is_driven, bool is_all_read);

/* Checks each order with all numbers that it may have; call it when the tables are filled. */
void plan_check_numbers(plan *made);

/* Fills the tables, from a source without errors. */
void plan_fill_tables(plan *made);

/* Returns the row of a handset, -1 if there is none. */
int source_find_handset(const plan_source *source, const char *name);

/* Returns the row of an action's key among those that its output sends, and adds it if it is new. Reports
 * keys that can't be sent. */
uint32_t plan_sent_row(plan *made, const action_words *action, guint each_ms);
/* Returns how often a key is sent while it is held, in ms; 0: once. */
guint plan_sent_each(const plan *made, guint output, guint row);

/* Returns the debounced state of the switch of that name; NULL if there is none. And its contact's row. */
const bool *plan_switch(const plan *made, const word *name);
guint plan_touch_of(const plan *loaded, const bool *is_closed);

/* Allocates memory that the plan frees. */
gpointer plan_keep(plan *made, gsize size);

/* The line of an output, and the number of one of its pins on the board. */
const output_line *plan_line(const plan *made, guint output);
uint8_t plan_pin(const plan *made, const output_line *line, unsigned pin);

/* Returns the value of a clause, or the default. */
uint32_t line_value(const output_line *line, unsigned clause, uint32_t usual);

/* True if it rests when the program hangs. */
bool line_is_guarded(const output_line *line);

/* Adds memory that all outputs of a kind share. */
void plan_share(plan *made, const output_kind *kind, gpointer data, GDestroyNotify let_go);
gpointer plan_shared(const plan *made, const output_kind *kind);

#endif
