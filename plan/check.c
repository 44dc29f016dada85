/* Does every name in a plan mean something, and can it all be true at once? Each fault is reported where it
 * stands. */
#include "colours.h"
#include "kinds.h"

#include <string.h>

static const char **handset_names(const plan_source *source)
{
    const char **const names = g_new0(const char *, source->handsets->len + 1);
    for (guint i = 0; i < source->handsets->len; i++) {
        names[i] = g_array_index(source->handsets, handset_line, i).name.text;
    }
    return names;
}

static const char **output_names(const plan_source *source)
{
    const char **const names = g_new0(const char *, source->outputs->len + 1);
    for (guint i = 0; i < source->outputs->len; i++) {
        names[i] = g_array_index(source->outputs, output_line, i).name.text;
    }
    return names;
}

static int find_word(const char **names, const char *name)
{
    int found = -1;
    for (int i = 0; names[i] != NULL && found < 0; i++) {
        found = strcmp(names[i], name) == 0 ? i : -1;
    }
    g_free(names);
    return found;
}

int source_find_handset(const plan_source *source, const char *name)
{
    return find_word(handset_names(source), name);
}

static void check_head(plan *made, bool is_all_read)
{
    plan_source *const source = made->source;
    if (source->title.text == NULL && is_all_read) {
        report_error(source->faults, (place){1, 1, 1},
                     "the plan has no name; begin it with: plan \"My stage\"");
    }
    if (source->board.text == NULL && !is_all_read) {
        return;
    }
    if (source->board.text == NULL) {
        g_autofree char *boards = g_strjoinv(", ", (char **)board_ids());
        report_error(source->faults, (place){1, 1, 1},
                     "the plan names no board; say: board %s (known are: %s)", board_ids()[0], boards);
        return;
    }
    made->board = board_by_id(source->board.text);
    if (made->board == NULL) {
        g_autofree char *boards = g_strjoinv(", ", (char **)board_ids());
        g_autofree char *hint = did_you_mean(source->board.text, board_ids());
        report_error(source->faults, source->board.where, "there is no board '%s'; known are: %s%s",
                     source->board.text, boards, hint);
    } else if (source->board_mhz >= 0 &&
               (source->board_mhz < made->board->min_mhz || source->board_mhz > made->board->max_mhz)) {
        report_error(source->faults, source->board_mhz_at,
                     "%g MHz is out of range; the %s runs at %g to %g MHz", source->board_mhz,
                     made->board->chip, made->board->min_mhz, made->board->max_mhz);
    }
}

/* Claims a pin for `owner`; reports when the board lacks it or it is taken. */
static void claim_pin(plan *made, GHashTable *owners, const word *pin, const char *owner)
{
    report *const faults = made->source->faults;
    if (made->board == NULL) {
        return;
    }
    const board_pin *const found = board_pin_by_name(made->board, pin->text);
    if (found == NULL) {
        report_error(faults, pin->where, "the board %s has no pin '%s'; it has %s", made->board->id,
                     pin->text, made->board->pins_text);
        return;
    }
    const char *const before = g_hash_table_lookup(owners, found->name);
    if (before != NULL) {
        report_error(faults, pin->where, "pin %s is taken by %s already", found->name, before);
        return;
    }
    g_hash_table_insert(owners, (gpointer)found->name, g_strdup(owner));
}

static void check_pins(plan *made, bool is_all_read)
{
    plan_source *const source = made->source;
    g_autoptr(GHashTable) owners = g_hash_table_new_full(g_str_hash, g_str_equal, NULL, g_free);
    if (source->receiver_pin.text != NULL) {
        claim_pin(made, owners, &source->receiver_pin, "the receiver");
    } else if (source->rules->len > 0 && is_all_read) {
        report_error(source->faults, g_array_index(source->rules, rule_line, 0).where,
                     "nothing can be heard: say where the receiver is, as in: receiver on pin 8");
    }
    for (guint i = 0; i < source->outputs->len; i++) {
        const output_line *const output = &g_array_index(source->outputs, output_line, i);
        g_autofree char *owner = g_strdup_printf("'%s'", output->name.text);
        for (unsigned pin = 0; pin < output->pin_count; pin++) {
            claim_pin(made, owners, &output->pins[pin], owner);
        }
    }
}

static void check_twice(plan_source *source, GHashTable *seen, const word *name)
{
    const place *const before = g_hash_table_lookup(seen, name->text);
    if (before != NULL) {
        report_error(source->faults, name->where, "the name '%s' is taken on line %d already", name->text,
                     before->line);
        return;
    }
    g_hash_table_insert(seen, (gpointer)name->text, (gpointer)&name->where);
}

static void check_names(plan_source *source)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(g_str_hash, g_str_equal);
    for (guint i = 0; i < source->handsets->len; i++) {
        check_twice(source, seen, &g_array_index(source->handsets, handset_line, i).name);
    }
    for (guint i = 0; i < source->outputs->len; i++) {
        check_twice(source, seen, &g_array_index(source->outputs, output_line, i).name);
    }
    for (guint i = 0; i < source->palettes->len; i++) {
        check_twice(source, seen, &g_array_index(source->palettes, palette_line, i).name);
    }
}

/* A protocol may not be called like one that the library knows, or the sheets would be about both. */
static void check_protocols(plan_source *source)
{
    for (guint i = 0; i < source->protocols->len; i++) {
        const word *const name = &g_array_index(source->protocols, protocol_line, i).name;
        if (waveform_by_id(name->text) != NULL || strcmp(name->text, drom_unknown.id) == 0) {
            report_error(source->faults, name->where, "the name '%s' is that of a known protocol",
                         name->text);
        }
        for (guint j = 0; j < i; j++) {
            const word *const other = &g_array_index(source->protocols, protocol_line, j).name;
            if (strcmp(other->text, name->text) == 0) {
                report_error(source->faults, name->where, "the name '%s' is taken on line %d already",
                             name->text, other->where.line);
            }
        }
    }
}

static void check_palette(plan_source *source, const palette_line *palette)
{
    if (palette->colours->len > PLAN_MAX_COLOURS) {
        report_error(source->faults, palette->name.where, "a palette has at most %d colours",
                     PLAN_MAX_COLOURS);
    }
    for (guint i = 0; i < palette->colours->len; i++) {
        uint32_t colour;
        (void)colour_of(source->faults, &g_array_index(palette->colours, word, i), &colour);
    }
}

static void check_count(plan_source *source, guint count, guint max, const char *what)
{
    if (count > max) {
        report_error(source->faults, (place){0}, "has %u %s; %u fit", count, what, max);
    }
}

/* What the engine calls an order, and the value that it needs. */
static void check_order(plan *made, action_words *action)
{
    const kind_order *const order = &plan_line(made, (guint)action->row)->kind->orders[action->said];
    action->verb = order->verb;
    action->value = order->value != NULL ? order->value(made, action, order) : order->fixed;
}

static void check_actions(plan *made, GArray *actions, bool *is_driven, bool can_be_held)
{
    plan_source *const source = made->source;
    for (guint i = 0; i < actions->len; i++) {
        action_words *const action = &g_array_index(actions, action_words, i);
        if (action->row >= 0) {
            is_driven[action->row] = true;
        }
        if (action->said >= 0) {
            check_order(made, action);
            if (action->is_while_held && !can_be_held) {
                report_error(source->faults, action->where,
                             "'while held' needs a key that goes down: a rule with 'pressed' or 'held'");
            }
        } else if (action->row < 0) {
            g_autofree const char **names = output_names(source);
            g_autofree char *hint = did_you_mean(action->output.text, names);
            report_error(source->faults, action->output.where, "there is no output '%s'%s",
                         action->output.text, hint);
        }
    }
}

static bool begins_a_hold(const rule_line *rule)
{
    bool begins = true;
    for (guint i = 0; i < rule->gestures->len; i++) {
        const uint8_t gesture = g_array_index(rule->gestures, gesture_word, i).gesture;
        begins &= gesture == DROM_PRESS || gesture == DROM_HOLD || gesture == DROM_REPEAT;
    }
    return begins;
}

/* The handset and key that a code counts as: the first that has it. */
static const sheet_key *first_with_code(const plan *made, const drom_code *code, guint *handset)
{
    for (guint i = 0; i < made->sheets->len; i++) {
        const sheet *const keys = g_ptr_array_index(made->sheets, i);
        const sheet_key *const key = keys != NULL ? sheet_find_code(keys, code) : NULL;
        if (key != NULL) {
            *handset = i;
            return key;
        }
    }
    return NULL;
}

static void check_key(const plan *made, const rule_line *rule)
{
    plan_source *const source = made->source;
    const int handset = source_find_handset(source, rule->handset.text);
    if (handset < 0) {
        g_autofree const char **names = handset_names(source);
        g_autofree char *hint = did_you_mean(rule->handset.text, names);
        report_error(source->faults, rule->handset.where, "there is no handset '%s'%s", rule->handset.text,
                     hint);
        return;
    }
    const sheet *const keys = g_ptr_array_index(made->sheets, (guint)handset);
    if (keys == NULL) {
        return; /* that the sheet can't be read has been reported */
    }
    const int row = sheet_find(keys, rule->key.text);
    if (row < 0) {
        g_autofree const char **names = sheet_names(keys);
        g_autofree char *hint = did_you_mean(rule->key.text, names);
        report_error(source->faults, rule->key.where, "the sheet of '%s' has no key '%s'%s",
                     rule->handset.text, rule->key.text, hint);
        return;
    }
    const sheet_key *const key = &g_array_index(keys->keys, sheet_key, (guint)row);
    guint first_handset = 0;
    const sheet_key *const first = first_with_code(made, &key->code, &first_handset);
    if (key->code.protocol != NULL && first != key) {
        report_warning(source->faults, rule->where,
                       "this can never fire: '%s.%s' has the code of '%s.%s', which counts",
                       rule->handset.text, rule->key.text,
                       g_array_index(source->handsets, handset_line, first_handset).name.text, first->name);
    }
}

static bool has_gesture(const rule_line *rule, guint before, const gesture_word *wanted)
{
    for (guint i = 0; i < before; i++) {
        const gesture_word *const gesture = &g_array_index(rule->gestures, gesture_word, i);
        if (gesture->gesture == wanted->gesture && gesture->hold_ms == wanted->hold_ms) {
            return true;
        }
    }
    return false;
}

/* The rule that binds the same gesture of the same key before this one does. */
static void check_bound_once(const plan_source *source, guint index)
{
    const rule_line *const rule = &g_array_index(source->rules, rule_line, index);
    for (guint i = 0; i < rule->gestures->len; i++) {
        const gesture_word *const gesture = &g_array_index(rule->gestures, gesture_word, i);
        for (guint j = 0; j <= index; j++) {
            const rule_line *const other = &g_array_index(source->rules, rule_line, j);
            if (strcmp(other->handset.text, rule->handset.text) == 0 &&
                strcmp(other->key.text, rule->key.text) == 0 &&
                has_gesture(other, j == index ? i : other->gestures->len, gesture)) {
                report_error(
                    source->faults, gesture->where,
                    "this gesture of '%s.%s' is bound on line %d already; put both actions there, with ';'",
                    rule->handset.text, rule->key.text, other->where.line);
                break;
            }
        }
    }
}

static guint count_while_held(const rule_line *rule)
{
    guint count = 0;
    for (guint i = 0; i < rule->actions->len; i++) {
        count += g_array_index(rule->actions, action_words, i).is_while_held;
    }
    return count;
}

void plan_check_source(plan *made)
{
    plan_source *const source = made->source;
    bool *const is_driven = g_new0(bool, source->outputs->len + 1);
    const bool is_all_read =
        report_errors(source->faults) == 0; /* else what seems to be missing may be misspelt */
    check_head(made, is_all_read);
    check_names(source);
    check_protocols(source);
    check_pins(made, is_all_read);
    for (guint i = 0; i < source->outputs->len; i++) {
        g_ptr_array_add(made->sent, g_array_new(FALSE, FALSE, sizeof(sent_key)));
        const output_line *const line = plan_line(made, i);
        if (line->kind->check != NULL) {
            line->kind->check(made, line);
        }
    }
    for (guint i = 0; i < source->palettes->len; i++) {
        check_palette(source, &g_array_index(source->palettes, palette_line, i));
    }
    check_count(source, source->handsets->len, PLAN_MAX_HANDSETS - 1, "handsets");
    check_count(source, source->outputs->len, DROM_ANY_OUTPUT, "outputs");
    check_count(source, source->at_start->len, PLAN_MAX_ROWS, "actions at start");
    check_actions(made, source->at_start, is_driven, false);
    guint rows = source->at_start->len > 0 ? 1 : 0;
    guint held = 0;
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        check_key(made, rule);
        check_bound_once(source, i);
        check_actions(made, rule->actions, is_driven, begins_a_hold(rule));
        check_count(source, rule->actions->len, PLAN_MAX_ROWS, "actions in one rule");
        rows += rule->gestures->len;
        held += rule->gestures->len * count_while_held(rule);
    }
    check_count(source, rows, PLAN_MAX_ROWS, "rules, each gesture counted");
    check_count(source, held, PLAN_MAX_ROWS, "actions 'while held', each gesture counted");
    for (guint i = 0; i < source->outputs->len; i++) {
        const word *const name = &g_array_index(source->outputs, output_line, i).name;
        if (!is_driven[i] && is_all_read) {
            report_warning(source->faults, name->where, "nothing drives '%s'", name->text);
        }
    }
    g_free(is_driven);
}
