/* From a source without errors to the engine's tables: those that a maker would write by hand. */
#include "plan/model/numbers.h"

static void add_protocol(plan *made, drom_protocol_ref protocol)
{
    made->has_unknown |= protocol == &drom_unknown;
    if (protocol == &drom_unknown || protocol == NULL) { /* a button has none */
        return;
    }
    for (guint i = 0; i < made->protocols->len; i++) {
        if (g_array_index(made->protocols, drom_protocol_ref, i) == protocol) {
            return;
        }
    }
    g_array_append_val(made->protocols, protocol);
}

/* Below this number of keys a linear search is as fast. */
enum { LISTED_FROM = 24 };

static gint by_code(gconstpointer left, gconstpointer right, gpointer codes)
{
    const drom_code *const a = &((const drom_code *)codes)[*(const uint8_t *)left];
    const drom_code *const b = &((const drom_code *)codes)[*(const uint8_t *)right];
    return a->command != b->command   ? a->command - b->command
           : a->address != b->address ? (a->address < b->address ? -1 : 1)
                                      : a->protocol - b->protocol;
}

/* Returns the index of a handset's codes; none if there are few. */
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
            add_protocol(made, g_array_index(keys->keys, sheet_key, j).protocol);
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

/* `digit`: of the row's key. */
static drom_action action_row(plan *made, const action_words *given, int digit)
{
    const action_words action = number_for_digit(made, given, digit);
    return (drom_action){
        .row = (uint8_t)MAX(action.row, 0),
        .verb = action.verb,
        .value = action.value,
        .target = (uint8_t)action.target,
        .flags = (uint8_t)(action.flags | (action.is_while_held ? DROM_WHILE_HELD : 0)),
    };
}

/* The plan keeps the rows. Rows of a row of keys have a digit each; others share theirs. */
static const drom_action *action_rows(plan *made, const GArray *ordered, const placed_rule *placed)
{
    const bool is_of_key = plan_trigger_of(made, placed)->source == DROM_SOURCE_KEY;
    drom_action *const rows = plan_keep(made, MAX(ordered->len, 1) * sizeof *rows);
    for (guint i = 0; i < ordered->len; i++) {
        const action_words *const given = &g_array_index(ordered, action_words, i);
        rows[i] = action_row(made, given, placed->digit);
        if (is_of_key && given->is_while_held && plan_line(made, rows[i].row)->kind->checks.of_key != NULL) {
            plan_line(made, rows[i].row)->kind->checks.of_key(made, &rows[i], placed->row, placed->key);
        }
    }
    return rows;
}

static void fill_outputs_that(plan *made, bool join)
{
    for (guint i = 0; i < made->outputs->len; i++) {
        const output_kind *const kind = plan_line(made, i)->kind;
        if (kind->words.joins_outputs == join) {
            g_array_index(made->outputs, drom_output, i) = kind->checks.row(made, i);
        }
    }
}

/* Outputs that join others are made when these exist. */
static void fill_outputs(plan *made)
{
    g_array_set_size(made->outputs, made->source->outputs->len);
    fill_outputs_that(made, false);
    fill_outputs_that(made, true);
}

static void fill_interlocks(plan *made)
{
    const plan_source *const source = made->source;
    for (guint i = 0; i < source->onlies->len; i++) {
        const only_line *const only = &g_array_index(source->onlies, only_line, i);
        uint8_t *const rows = plan_keep(made, only->members->len);
        for (guint j = 0; j < only->members->len; j++) {
            int row = 0;
            (void)source_find(source, g_array_index(only->members, word, j).text, &row);
            rows[j] = (uint8_t)row;
        }
        const drom_interlock interlock = {.outputs = {rows, (uint8_t)only->members->len},
                                          .pause_ms = (uint16_t)only->pause_ms,
                                          .state = plan_keep(made, sizeof *interlock.state)};
        g_array_append_val(made->interlocks, interlock);
    }
}

static void fill_guard(plan *made)
{
    const plan_source *const source = made->source;
    for (guint i = 0; i < source->outputs->len; i++) {
        const output_line *const line = plan_line(made, i);
        for (unsigned j = 0;
             j < line->pin_count && line_is_guarded(line) && line->kind->checks.rests_high != NULL; j++) {
            const drom_rest_pin pin = {plan_pin(made, line, j), line->kind->checks.rests_high(line, j)};
            g_array_append_val(made->guarded, pin);
        }
    }
}

/* Own code may block for longer than the guard's default time. */
static uint16_t guard_ms(const plan *made)
{
    enum { USUAL_MS = 250, MORE_MS = 100 };
    bool is_guarded = false;
    for (guint i = 0; i < made->source->outputs->len; i++) {
        is_guarded |= line_is_guarded(plan_line(made, i));
    }
    if (!is_guarded) {
        return 0;
    }
    return (uint16_t)CLAMP(made->source->own_blocks_ms + MORE_MS, USUAL_MS, DROM_GUARD_MAX_MS);
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
    for (guint i = 0; i < made->placed->len; i++) {
        const gesture_word *const gesture =
            &plan_trigger_of(made, &g_array_index(made->placed, placed_rule, i))->gesture;
        const uint16_t ms = hold_ms_of(made, gesture);
        if (gesture->gesture == DROM_HOLD && find_hold(made, ms) == made->hold_ms->len) {
            g_array_append_val(made->hold_ms, ms);
        }
    }
    g_array_sort(made->hold_ms, ascending);
}

/* Sorted by event; g_array_sort_with_data() keeps rules of the same event in the order of the plan. */
static gint by_event(gconstpointer left, gconstpointer right, gpointer made)
{
    const placed_rule *const a = left;
    const placed_rule *const b = right;
    const drom_source a_source = plan_trigger_of(made, a)->source;
    const drom_source b_source = plan_trigger_of(made, b)->source;
    return a_source != b_source ? (int)a_source - (int)b_source
           : a->row != b->row   ? a->row - b->row
                                : a->key - b->key;
}

static void add_double(plan *made, const placed_rule *placed)
{
    const drom_key_ref key = {placed->row, placed->key};
    for (guint i = 0; i < made->doubles->len; i++) {
        const drom_key_ref *const other = &g_array_index(made->doubles, drom_key_ref, i);
        if (other->handset == key.handset && other->key == key.key) {
            return;
        }
    }
    g_array_append_val(made->doubles, key);
}

static const drom_condition *condition_rows(plan *made, const rule_line *rule)
{
    drom_condition *const rows = plan_keep(made, MAX(rule->conditions->len, 1) * sizeof *rows);
    for (guint i = 0; i < rule->conditions->len; i++) {
        rows[i] = g_array_index(rule->conditions, condition_words, i).row;
    }
    return rows;
}

static void fill_rule(plan *made, const placed_rule *placed, uint8_t sequence)
{
    const rule_line *const rule = plan_rule_of(made, placed);
    const trigger *const about = plan_trigger_of(made, placed);
    const gesture_word *const gesture = &about->gesture;
    int mode = -1;
    if (rule->mode.text != NULL) {
        (void)source_find(made->source, rule->mode.text, &mode);
    }
    const drom_rule row = {
        .source = (uint8_t)about->source,
        .row = placed->row,
        .key = placed->key,
        .gestures = gesture->gesture,
        .hold = gesture->gesture == DROM_HOLD ? (uint8_t)find_hold(made, hold_ms_of(made, gesture)) : 0,
        .mode = (uint8_t)(mode + 1),
        .sequence = sequence,
        .again = (uint8_t)rule->again,
        .conditions = {condition_rows(made, rule), (uint8_t)rule->conditions->len},
        .actions = {action_rows(made, rule->actions, placed), (uint8_t)rule->actions->len},
        .otherwise = {action_rows(made, rule->otherwise, placed), (uint8_t)rule->otherwise->len},
    };
    if (gesture->gesture == DROM_DOUBLE) {
        add_double(made, placed);
    }
    g_array_append_val(made->rules, row);
}

/* The rows of a rule share its sequence: any of its keys restarts it. */
static void fill_rules(plan *made)
{
    uint8_t *const of_rule = plan_keep(made, made->source->rules->len + 1);
    uint8_t sequences = 0;
    g_array_sort_with_data(made->placed, by_event, made);
    for (guint i = 0; i < made->placed->len; i++) {
        const placed_rule *const placed = &g_array_index(made->placed, placed_rule, i);
        if (rule_waits(plan_rule_of(made, placed)) && of_rule[placed->rule] == 0) {
            of_rule[placed->rule] = ++sequences;
        }
        fill_rule(made, placed, of_rule[placed->rule]);
    }
    made->sequences = g_new0(drom_sequence, sequences);
    made->tables.rules.sequences.count = sequences;
}

static void fill_state(plan *made)
{
    const plan_source *const source = made->source;
    for (guint i = 0; i < source->modes->len; i++) {
        const drom_mode mode = {g_array_index(source->modes, mode_line, i).back_after_ms};
        g_array_append_val(made->modes, mode);
    }
    for (guint i = 0; i < source->values->len; i++) {
        const value_line *const value = &g_array_index(source->values, value_line, i);
        const uint8_t row = (uint8_t)i;
        g_array_append_val(made->values, value->limits);
        if (value->kept.line > 0) {
            g_array_append_val(made->kept_values, row);
        }
    }
    made->numbers = g_new0(int16_t, source->values->len);
    made->timers = g_new0(drom_timer, source->timers->len);
}

static uint8_t pin_number(const plan *made, const word *pin)
{
    return board_pin_by_name(made->board, pin->text)->number;
}

static void fill_contacts(plan *made)
{
    const plan_source *const source = made->source;
    for (guint i = 0; i < made->heard_handsets; i++) {
        const GArray *const buttons = g_array_index(source->handsets, handset_line, i).buttons;
        for (guint j = 0; buttons != NULL && j < buttons->len; j++) {
            const drom_contact contact = {pin_number(made, &g_array_index(buttons, button_line, j).pin),
                                          (uint8_t)i, (uint8_t)j};
            g_array_append_val(made->contacts, contact);
        }
    }
    for (guint i = 0; i < source->switches->len; i++) {
        const drom_contact contact = {pin_number(made, &g_array_index(source->switches, switch_line, i).pin),
                                      DROM_NONE, (uint8_t)i};
        g_array_append_val(made->contacts, contact);
    }
    made->touches = g_new0(drom_touch, made->contacts->len);
}

/* True if the subject of an action accepts this number. */
static bool is_taken(const plan *made, const drom_action *action, uint32_t value)
{
    if (action->target == DROM_TO_WAIT || action->target == DROM_TO_WAIT_FOR) {
        return value <= DROM_LONGEST_MS;
    }
    if (action->target == DROM_TO_TIMER) {
        return value <= DROM_TIMER_LONGEST_MS;
    }
    const drom_output *const output = &g_array_index(made->outputs, drom_output, action->row);
    return action->target != DROM_TO_OUTPUT || output->kind->accepts_action == NULL ||
           output->kind->accepts_action(output->settings, action->verb, value);
}

static bool are_taken(const plan *made, const drom_action *action, int16_t min, int16_t max)
{
    return is_taken(made, action, drom_rules_with_number(action, min)) &&
           is_taken(made, action, drom_rules_with_number(action, max));
}

static void check_number(plan *made, const action_words *given)
{
    if (given->is_of_digit) {
        return;
    }
    const drom_action action = action_row(made, given, -1);
    report *const faults = made->source->faults;
    const char *const name = given->name.text != NULL ? given->name.text : "wait";
    if ((action.flags & DROM_OF_EVENT) != 0) {
        if (!are_taken(made, &action, INT16_MIN, INT16_MAX)) {
            report_error(faults, given->where,
                         "'%s' can't take every number; put the event's into a value first, and give that",
                         name);
        }
    } else if ((action.flags & DROM_OF_VALUE) != 0) {
        const value_line *const value =
            &g_array_index(made->source->values, value_line, drom_rules_row_of_number(&action));
        if (!are_taken(made, &action, value->limits.min, value->limits.max)) {
            report_error(faults, given->where, "'%s' can't take all that '%s' may be, which is %d to %d",
                         name, value->name.text, value->limits.min, value->limits.max);
        }
    } else if (!is_taken(made, &action, action.value)) {
        report_error(faults, given->where, "'%s' can't do this", name);
    }
}

void plan_check_numbers(plan *made)
{
    for (guint i = 0; i < made->source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(made->source->rules, rule_line, i);
        for (guint j = 0; j < rule->actions->len + rule->otherwise->len; j++) {
            const guint past = j - rule->actions->len;
            check_number(made, j < rule->actions->len ? &g_array_index(rule->actions, action_words, j)
                                                      : &g_array_index(rule->otherwise, action_words, past));
        }
    }
    for (guint i = 0; i < made->placed->len; i++) {
        const placed_rule *const placed = &g_array_index(made->placed, placed_rule, i);
        const GArray *const actions = plan_rule_of(made, placed)->actions;
        for (guint j = 0; j < actions->len; j++) {
            const action_words *const given = &g_array_index(actions, action_words, j);
            const drom_action action = action_row(made, given, placed->digit);
            if (given->is_of_digit && !is_taken(made, &action, action.value)) {
                report_error(made->source->faults, given->where,
                             "'%s' can't take %d, a digit of this rule's keys", given->name.text,
                             placed->digit);
                return;
            }
        }
    }
}

/* Returns how many orders can be held at the same time. */
static uint8_t count_held(const plan *made)
{
    guint count = 0;
    for (guint i = 0; i < made->rules->len; i++) {
        const drom_rule *const rule = &g_array_index(made->rules, drom_rule, i);
        for (guint j = 0; j < rule->actions.count; j++) {
            count += (rule->actions.rows[j].flags & DROM_WHILE_HELD) != 0;
        }
        for (guint j = 0; j < rule->otherwise.count; j++) {
            count += (rule->otherwise.rows[j].flags & DROM_WHILE_HELD) != 0;
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

/* Changes if a kept value gets another name, place or limit. */
static uint16_t mark_of(const plan *made)
{
    g_autoptr(GString) text = g_string_new(NULL);
    for (guint i = 0; i < made->kept_values->len; i++) {
        const value_line *const value =
            &g_array_index(made->source->values, value_line, g_array_index(made->kept_values, uint8_t, i));
        g_string_append_printf(text, "%s %d %d\n", value->name.text, value->limits.min, value->limits.max);
    }
    const guint hash = g_str_hash(text->str);
    return (uint16_t)(hash ^ hash >> 16);
}

static drom_kept_plan kept_values(plan *made)
{
    const guint count = made->kept_values->len;
    if (count == 0) {
        return (drom_kept_plan){0};
    }
    return (drom_kept_plan){.values = {(const uint8_t *)(void *)made->kept_values->data, (uint8_t)count},
                            .record = plan_keep(made, DROM_KEPT_BYTES + 2 * count),
                            .seen = plan_keep(made, count * sizeof(int16_t)),
                            .state = plan_keep(made, sizeof(drom_kept_state)),
                            .mark = mark_of(made)};
}

void plan_fill_tables(plan *made)
{
    made->switches = g_new0(bool, made->source->switches->len);
    fill_handsets(made);
    fill_contacts(made);
    fill_outputs(made);
    fill_interlocks(made);
    fill_guard(made);
    fill_hold_times(made);
    fill_rules(made);
    fill_state(made);
    const uint8_t sequences = made->tables.rules.sequences.count;
    made->decoders = g_new0(drom_decoder, made->protocols->len);
    const uint16_t *const key_ms = made->source->key_ms;
    made->holds = g_new0(drom_hold, made->handsets->len);
    made->last_presses = g_new0(drom_last_press, made->handsets->len);
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
        .contacts = {{(const drom_contact *)(void *)made->contacts->data, (uint8_t)made->contacts->len},
                     made->touches,
                     made->contacts->len > 0 ? &made->look_at : NULL},
        .rules =
            {
                .rules = {(const drom_rule *)(void *)made->rules->data, (uint8_t)made->rules->len},
                .last_presses = {made->last_presses, (uint8_t)made->handsets->len},
                .modes = {(const drom_mode *)(void *)made->modes->data, (uint8_t)made->modes->len},
                .values = {(const drom_value *)(void *)made->values->data, (uint8_t)made->values->len},
                .sequences = {made->sequences, sequences},
                .held = {made->held, count_held(made)},
                .switches = {made->switches, (uint8_t)made->source->switches->len},
                .timers = {made->timers, (uint8_t)made->source->timers->len},
                .numbers = made->numbers,
            },
        .outputs = {{(const drom_output *)(void *)made->outputs->data, (uint8_t)made->outputs->len},
                    {(const drom_interlock *)(void *)made->interlocks->data, (uint8_t)made->interlocks->len}},
        .guard = {{(const drom_rest_pin *)(void *)made->guarded->data, (uint8_t)made->guarded->len},
                  guard_ms(made)},
        .kept = kept_values(made),
    };
}
