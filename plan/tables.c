/* From a source without errors to the tables of the engine: the same that a maker would write by hand. */
#include "kinds.h"

static void add_protocol(plan *made, drom_protocol_ref protocol)
{
    made->has_unknown |= protocol == &drom_unknown;
    if (protocol == &drom_unknown) {
        return;
    }
    for (guint i = 0; i < made->protocols->len; i++) {
        if (g_array_index(made->protocols, drom_protocol_ref, i) == protocol) {
            return;
        }
    }
    g_array_append_val(made->protocols, protocol);
}

/* Below this a look at each is as fast. */
enum { LISTED_FROM = 24 };

static gint by_code(gconstpointer left, gconstpointer right, gpointer codes)
{
    const drom_code *const a = &((const drom_code *)codes)[*(const uint8_t *)left];
    const drom_code *const b = &((const drom_code *)codes)[*(const uint8_t *)right];
    return a->command != b->command   ? a->command - b->command
           : a->address != b->address ? (a->address < b->address ? -1 : 1)
                                      : 0;
}

/* The rows of a handset's codes by what they are; none where they are few. */
static GArray *list_by_code(drom_code *codes, guint count)
{
    GArray *const rows = g_array_new(FALSE, FALSE, 1);
    for (guint i = 0; count >= LISTED_FROM && i < count; i++) {
        const uint8_t row = (uint8_t)i;
        g_array_append_val(rows, row);
    }
    g_array_sort_with_data(rows, by_code, codes);
    return rows;
}

static void fill_handsets(plan *made)
{
    for (guint i = 0; i < made->heard_handsets; i++) {
        const sheet *const keys = g_ptr_array_index(made->sheets, i);
        drom_code *const codes = g_new(drom_code, keys->keys->len);
        for (guint j = 0; j < keys->keys->len; j++) {
            codes[j] = g_array_index(keys->keys, sheet_key, j).code;
            add_protocol(made, codes[j].protocol);
        }
        GArray *const listed = list_by_code(codes, keys->keys->len);
        g_ptr_array_add(made->listed, listed);
        const drom_handset handset = {
            .codes = {codes, (uint8_t)keys->keys->len},
            .by_code = {(const uint8_t *)listed->data, (uint8_t)listed->len},
            .needs_second_frame = g_array_index(made->source->handsets, handset_line, i).is_confirmed,
        };
        g_ptr_array_add(made->codes, codes);
        g_array_append_val(made->handsets, handset);
    }
}

static drom_action action_row(const action_words *action)
{
    return (drom_action){
        .row = (uint8_t)action->row,
        .verb = action->verb,
        .value = action->value,
        .flags = action->is_while_held ? DROM_WHILE_HELD : 0,
    };
}

/* The rows are kept by the plan. */
static const drom_action *action_rows(const plan *made, const GArray *ordered)
{
    drom_action *const rows = g_new(drom_action, ordered->len);
    for (guint i = 0; i < ordered->len; i++) {
        rows[i] = action_row(&g_array_index(ordered, action_words, i));
    }
    g_ptr_array_add(made->actions, rows);
    return rows;
}

static void fill_outputs(plan *made)
{
    for (guint i = 0; i < made->source->outputs->len; i++) {
        const drom_output output = plan_line(made, i)->kind->row(made, i);
        g_array_append_val(made->outputs, output);
    }
}

static uint16_t hold_ms_of(const plan *made, const gesture_word *gesture)
{
    const uint16_t usual =
        made->source->key_ms[HOLDS_AFTER] != 0 ? made->source->key_ms[HOLDS_AFTER] : PLAN_USUAL_HOLD_MS;
    return gesture->hold_ms != 0 ? (uint16_t)gesture->hold_ms : usual;
}

static gint ascending(gconstpointer left, gconstpointer right)
{
    return *(const uint16_t *)left - *(const uint16_t *)right;
}

static guint find_hold(const plan *made, uint16_t ms)
{
    guint row = 0;
    while (row < made->hold_ms->len && g_array_index(made->hold_ms, uint16_t, row) != ms) {
        row++;
    }
    return row;
}

static void fill_hold_times(plan *made)
{
    for (guint i = 0; i < made->source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(made->source->rules, rule_line, i);
        for (guint j = 0; j < rule->gestures->len; j++) {
            const gesture_word *const gesture = &g_array_index(rule->gestures, gesture_word, j);
            const uint16_t ms = hold_ms_of(made, gesture);
            if (gesture->gesture == DROM_HOLD && find_hold(made, ms) == made->hold_ms->len) {
                g_array_append_val(made->hold_ms, ms);
            }
        }
    }
    g_array_sort(made->hold_ms, ascending);
}

/* A row of the rules' table, and what it comes from. */
typedef struct placed_rule {
    drom_rule row;
    guint from; /* a rule of the source, or PLAN_AT_START */
} placed_rule;

/* By what they are about; g_array_sort() leaves those about the same in the order of the plan. */
static gint by_event(gconstpointer left, gconstpointer right)
{
    const drom_rule *const a = &((const placed_rule *)left)->row;
    const drom_rule *const b = &((const placed_rule *)right)->row;
    return a->source != b->source ? a->source - b->source
           : a->row != b->row     ? a->row - b->row
                                  : a->key - b->key;
}

static void place_rule(plan *made, GArray *placed, guint from)
{
    const rule_line *const rule = &g_array_index(made->source->rules, rule_line, from);
    const guint handset = (guint)source_find_handset(made->source, rule->handset.text);
    const drom_action *const actions = action_rows(made, rule->actions);
    for (guint i = 0; i < rule->gestures->len; i++) {
        const gesture_word *const gesture = &g_array_index(rule->gestures, gesture_word, i);
        const drom_rule row = {
            .source = DROM_SOURCE_KEY,
            .row = (uint8_t)handset,
            .key = (uint8_t)sheet_find(g_ptr_array_index(made->sheets, handset), rule->key.text),
            .gestures = gesture->gesture,
            .hold = gesture->gesture == DROM_HOLD ? (uint8_t)find_hold(made, hold_ms_of(made, gesture)) : 0,
            .actions = {actions, (uint8_t)rule->actions->len},
        };
        if (gesture->gesture == DROM_DOUBLE) {
            const drom_key_ref key = {row.row, row.key};
            g_array_append_val(made->doubles, key);
        }
        const placed_rule one = {row, from};
        g_array_append_val(placed, one);
    }
}

static void fill_rules(plan *made)
{
    const plan_source *const source = made->source;
    g_autoptr(GArray) placed = g_array_new(FALSE, FALSE, sizeof(placed_rule));
    for (guint i = 0; i < source->rules->len; i++) {
        place_rule(made, placed, i);
    }
    if (source->at_start->len > 0) {
        const placed_rule start = {
            {.source = DROM_SOURCE_START,
             .actions = {action_rows(made, source->at_start), (uint8_t)source->at_start->len}},
            PLAN_AT_START};
        g_array_append_val(placed, start);
    }
    g_array_sort(placed, by_event);
    for (guint i = 0; i < placed->len; i++) {
        const placed_rule *const one = &g_array_index(placed, placed_rule, i);
        g_array_append_val(made->rules, one->row);
        g_array_append_val(made->rule_of, one->from);
    }
}

/* How many orders can be held at a time. */
static uint8_t count_held(const plan *made)
{
    guint count = 0;
    for (guint i = 0; i < made->rules->len; i++) {
        const drom_rule *const rule = &g_array_index(made->rules, drom_rule, i);
        for (guint j = 0; j < rule->actions.count; j++) {
            count += (rule->actions.rows[j].flags & DROM_WHILE_HELD) != 0;
        }
    }
    return (uint8_t)MIN(count, PLAN_MAX_ROWS);
}

static bool has_fine(const plan *made)
{
    bool is_found = false;
    for (guint i = 0; i < made->protocols->len; i++) {
        is_found |= g_array_index(made->protocols, drom_protocol_ref, i)->glitch_us < DROM_FINE_US;
    }
    return is_found;
}

void plan_fill_tables(plan *made)
{
    fill_handsets(made);
    fill_outputs(made);
    fill_hold_times(made);
    fill_rules(made);
    made->decoders = g_new0(drom_decoder, made->protocols->len);
    const uint16_t *const key_ms = made->source->key_ms;
    made->holds = g_new0(drom_hold, made->handsets->len);
    made->hands = g_new0(drom_hand, made->handsets->len);
    made->held = g_new0(drom_held, count_held(made));
    made->taps = made->doubles->len > 0 ? g_new0(drom_tapped, made->handsets->len) : NULL;
    made->ticks = key_ms[REPEATS_AFTER] != 0 ? g_new0(drom_ticking, made->handsets->len) : NULL;
    made->tables = (drom_plan){
        .receive =
            {
                .protocols = {(const drom_protocol_ref *)(void *)made->protocols->data,
                              (uint8_t)made->protocols->len},
                .decoders = made->decoders,
                .fine = has_fine(made) ? &made->fine : NULL,
                .unknown = {made->has_unknown ? &drom_fingerprints : NULL,
                            made->has_unknown ? &made->fingerprint : NULL},
            },
        .keys =
            {
                .handsets = {(const drom_handset *)(void *)made->handsets->data,
                             (uint8_t)made->handsets->len},
                .hold_ms = {(const uint16_t *)(void *)made->hold_ms->data, (uint8_t)made->hold_ms->len},
                .doubles = {(const drom_key_ref *)(void *)made->doubles->data, (uint8_t)made->doubles->len},
                .holds = made->holds,
                .taps = made->taps,
                .ticks = made->ticks,
                .tap_ms = key_ms[TAPS_WITHIN],
                .double_ms = key_ms[DOUBLES_WITHIN],
                .repeat_after_ms = key_ms[REPEATS_AFTER],
                .repeat_every_ms = key_ms[REPEATS_EVERY],
                .repeat_fastest_ms = key_ms[REPEATS_FASTEST],
            },
        .rules =
            {
                .rules = {(const drom_rule *)(void *)made->rules->data, (uint8_t)made->rules->len},
                .hands = {made->hands, (uint8_t)made->handsets->len},
                .held = {made->held, count_held(made)},
            },
        .outputs = {{(const drom_output *)(void *)made->outputs->data, (uint8_t)made->outputs->len}},
    };
}
