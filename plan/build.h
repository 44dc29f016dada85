/* A plan on its way from source to tables. Private to plan/. */
#ifndef DROMIKOS_PLAN_BUILD_H
#define DROMIKOS_PLAN_BUILD_H

#include "plan.h"
#include "sheet.h"
#include "source.h"

enum {
    PLAN_MAX_ROWS = 255,
    PLAN_MAX_HANDSETS = DROM_NONE,
    PLAN_USUAL_HOLD_MS = 500,
    PLAN_MAX_COLOURS = 16, /* of a palette */
};

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
    guint each_ms; /* held, it is sent in presses, one each so often; 0: in one */
} sent_key;

struct plan {
    char *text;
    plan_source *source;
    const board *board;
    GPtrArray *sheets; /* of sheet, one a handset; NULL where it couldn't be read */

    guint heard_handsets; /* the others are only sent */

    GPtrArray *waveforms;   /* of drom_waveform: those of the plan's own protocols */
    GPtrArray *sheet_paths; /* of char, one a handset */

    drom_plan tables;
    /* What the tables point to. */
    GArray *protocols;  /* of drom_protocol_ref */
    GArray *handsets;   /* of drom_handset */
    GPtrArray *codes;   /* of drom_code arrays, one a handset */
    GPtrArray *listed;  /* of GArray of uint8_t, likewise: their rows by code */
    GArray *hold_ms;    /* of uint16_t */
    GArray *doubles;    /* of drom_key_ref */
    GArray *rules;      /* of drom_rule */
    GArray *placed;     /* of placed_rule: the same rows */
    GArray *outputs;    /* of drom_output */
    GPtrArray *sent;    /* of sent_key arrays, one an output */
    GHashTable *shared; /* by kind: what all outputs of it share, as the kind has it */
    GPtrArray *kept;    /* settings and states */
    drom_decoder *decoders;
    drom_hold *holds;
    drom_hand *hands;
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
    bool has_unknown; /* some key is known by its fingerprint alone */
};

/* Looks everything up that the source names, and shows what is wrong. */
void plan_check_source(plan *made);

/* Finds the events that each rule is about, and reports rules that are about the same. */
void plan_place_rules(plan *made);

/* What such a row comes from. */
rule_line *plan_rule_of(const plan *made, const placed_rule *placed);
const trigger *plan_trigger_of(const plan *made, const placed_rule *placed);

/* The tables of the rules in C; and the gestures that they need. */
void plan_bake_rules(GString *out, const plan *loaded);
uint8_t plan_bake_gestures(const drom_rules_plan *rules);

/* Has a rule waits? */
bool rule_waits(const rule_line *rule);

/* The same for its rules; which outputs they drive goes to `is_driven`. */
void plan_check_rules(plan *made, bool *is_driven, bool is_all_read);

/* Is each order right whatever number stands in it? Once the tables are filled. */
void plan_check_numbers(plan *made);

/* Fills the tables. Only for a source without errors. */
void plan_fill_tables(plan *made);

/* The row of a handset, -1 when there is none. */
int source_find_handset(const plan_source *source, const char *name);

/* The row of an action's key among those that its output sends, which is made where it is new. Reports keys
 * that can't be sent. */
uint32_t plan_sent_row(plan *made, const action_words *action, guint each_ms);
/* How often a key is sent while it is held, in ms; 0: once. */
guint plan_sent_each(const plan *made, guint output, guint row);

/* The code of such a row; and "hall.mute", to be freed. */
const drom_code *plan_sent_code(const plan *made, guint output, guint row);
char *plan_sent_name(const plan *made, guint output, guint row);

/* Is the switch of that name closed, as the looks at its contact have it? NULL where there is none. And the
 * contact's row. */
const bool *plan_switch(const plan *made, const word *name);
guint plan_touch_of(const plan *loaded, const bool *is_closed);

/* Keeps what all outputs of a kind share. */
void plan_share(plan *made, const output_kind *kind, gpointer data, GDestroyNotify let_go);
gpointer plan_shared(const plan *made, const output_kind *kind);

#endif
