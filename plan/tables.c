/* From a source without errors to the tables of the engine: the same that a maker would write by hand. */
#include "outputs.h"

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

static void fill_handsets(plan *made)
{
    for (guint i = 0; i < made->heard_handsets; i++) {
        const sheet *const keys = g_ptr_array_index(made->sheets, i);
        drom_code *const codes = g_new(drom_code, keys->keys->len);
        for (guint j = 0; j < keys->keys->len; j++) {
            codes[j] = g_array_index(keys->keys, sheet_key, j).code;
            add_protocol(made, codes[j].protocol);
        }
        const drom_handset handset = {
            .codes = {codes, (uint8_t)keys->keys->len},
            .needs_second_frame = g_array_index(made->source->handsets, handset_line, i).is_confirmed,
        };
        g_ptr_array_add(made->codes, codes);
        g_array_append_val(made->handsets, handset);
    }
}

static drom_action action_row(const plan *made, const action_words *action)
{
    return (drom_action){
        .output = (uint8_t)source_find_output(made->source, action->output.text),
        .verb = action->verb,
        .value = action->value,
    };
}

static drom_action *action_rows(const plan *made, const GArray *words)
{
    drom_action *const rows = g_new(drom_action, words->len);
    for (guint i = 0; i < words->len; i++) {
        rows[i] = action_row(made, &g_array_index(words, action_words, i));
    }
    return rows;
}

/* What a rule does only while its key is held is undone by one more row, when the key is let go. */
static void add_undoing(plan *made, guint rule_index, drom_rule row)
{
    const GArray *const words = g_array_index(made->source->rules, rule_line, rule_index).actions;
    drom_action *const rows = g_new(drom_action, words->len);
    uint8_t count = 0;
    for (guint i = 0; i < words->len; i++) {
        const action_words *const action = &g_array_index(words, action_words, i);
        if (action->is_while_held) {
            const action_words undone = output_undo(action);
            rows[count++] = action_row(made, &undone);
        }
    }
    g_ptr_array_add(made->undone, rows);
    if (count > 0) {
        row.gestures = DROM_RELEASE;
        row.hold = 0;
        row.actions.rows = rows;
        row.actions.count = count;
        g_array_append_val(made->rules, row);
        g_array_append_val(made->rule_of, rule_index);
    }
}

static void fill_outputs(plan *made)
{
    for (guint i = 0; i < made->source->outputs->len; i++) {
        const drom_output output = output_row(made, i);
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

static void fill_rules(plan *made)
{
    plan_source *const source = made->source;
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        const guint handset = (guint)source_find_handset(source, rule->handset.text);
        drom_action *const actions = action_rows(made, rule->actions);
        g_ptr_array_add(made->actions, actions);
        for (guint j = 0; j < rule->gestures->len; j++) {
            const gesture_word *const gesture = &g_array_index(rule->gestures, gesture_word, j);
            const bool is_hold = gesture->gesture == DROM_HOLD;
            const drom_rule row = {
                .handset = (uint8_t)handset,
                .key = (uint8_t)sheet_find(g_ptr_array_index(made->sheets, handset), rule->key.text),
                .gestures = gesture->gesture,
                .actions = {actions, (uint8_t)rule->actions->len},
                .hold = is_hold ? (uint8_t)find_hold(made, hold_ms_of(made, gesture)) : 0,
            };
            if (gesture->gesture == DROM_DOUBLE) {
                const drom_key_ref key = {row.handset, row.key};
                g_array_append_val(made->doubles, key);
            }
            g_array_append_val(made->rules, row);
            g_array_append_val(made->rule_of, i);
            if (j + 1 == rule->gestures->len) {
                add_undoing(made, i, row);
            }
        }
    }
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
    made->at_start = action_rows(made, made->source->at_start);
    made->decoders = g_new0(drom_decoder, made->protocols->len);
    const uint16_t *const key_ms = made->source->key_ms;
    made->holds = g_new0(drom_hold, made->handsets->len);
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
                .at_start = {made->at_start, (uint8_t)made->source->at_start->len},
            },
        .outputs = {{(const drom_output *)(void *)made->outputs->data, (uint8_t)made->outputs->len}},
    };
}
