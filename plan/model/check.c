/* Resolves every name in a plan, and checks that its lines don't contradict each other. Reports each error at
 * its place. */
#include "dromikos/internal/kept.h"
#include "plan/language/colours.h"
#include "plan/model/build.h"

#include <string.h>

int source_find_handset(const plan_source *source, const char *name)
{
    int row;
    return source_find(source, name, &row) == A_HANDSET ? row : -1;
}

static void check_head(plan *made, bool is_all_read)
{
    plan_source *const source = made->source;
    if (source->title.text == NULL && is_all_read) {
        report_error(source->faults, (place){1, 1, 1, 0},
                     "the plan has no name; begin it with: plan \"My stage\"");
    }
    if (source->board.text == NULL && !is_all_read) {
        return;
    }
    if (source->board.text == NULL) {
        g_autofree char *boards = g_strjoinv(", ", (char **)board_ids());
        report_error(source->faults, (place){1, 1, 1, 0},
                     "the plan names no board; say: board %s (known are: %s)", board_ids()[0], boards);
        return;
    }
    made->board = board_by_id(source->board.text, source->board_mhz);
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

/* Checks that the board has a store with room for the kept values. */
static void check_kept(plan *made)
{
    plan_source *const source = made->source;
    uint8_t count = 0;
    for (guint i = 0; i < source->values->len; i++) {
        const value_line *const value = &g_array_index(source->values, value_line, i);
        count = (uint8_t)(count + (value->kept.line > 0));
        if (value->kept.line == 0 || made->board == NULL) {
            continue;
        }
        if (made->board->store.bytes == 0) {
            report_error(source->faults, value->kept,
                         "values can't be kept on the board %s, which has no store here", made->board->id);
        } else if (count > DROM_KEPT_VALUES || drom_kept_slots(&made->board->store, count) == 0) {
            report_error(source->faults, value->kept,
                         "%u values are kept already, which is the most on the board %s", count - 1,
                         made->board->id);
            return;
        }
    }
}

/* The names of a handset's buttons are its keys. */
static void check_buttons(plan_source *source, const handset_line *handset)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(g_str_hash, g_str_equal);
    for (guint i = 0; i < handset->buttons->len; i++) {
        const word *const key = &g_array_index(handset->buttons, button_line, i).key;
        if (!g_hash_table_add(seen, (gpointer)key->text)) {
            report_error(source->faults, key->where, "'%s' has a button '%s' already", handset->name.text,
                         key->text);
        }
    }
}

/* Returns "; did you mean 'GP15'?", for 15. To be freed. */
static char *pin_hint(const board *chosen, const char *text)
{
    for (const board_pin *pin = chosen->pins; pin->name != NULL && g_ascii_isdigit(text[0]); pin++) {
        if (strcmp(pin->name + strcspn(pin->name, "0123456789"), text) == 0) {
            return g_strdup_printf("; did you mean '%s'?", pin->name);
        }
    }
    return g_strdup("");
}

/* Claims a pin for `owner`; reports a pin that doesn't exist or is taken. */
static void claim_pin(plan *made, GHashTable *owners, const word *pin, const char *owner)
{
    report *const faults = made->source->faults;
    if (made->board == NULL) {
        return;
    }
    const board_pin *const found = board_pin_by_name(made->board, pin->text);
    if (found == NULL && made->board->analog_only != NULL && strlen(pin->text) == 2 &&
        strstr(made->board->analog_only, pin->text) != NULL) {
        report_error(faults, pin->where, "on the board %s pin %s measures voltages, and does nothing else",
                     made->board->id, pin->text);
        return;
    }
    if (found == NULL) {
        g_autofree char *hint = pin_hint(made->board, pin->text);
        report_error(faults, pin->where, "the board %s has no pin '%s'; it has %s%s", made->board->id,
                     pin->text, made->board->pins_text, hint);
        return;
    }
    const char *const before = g_hash_table_lookup(owners, found->name);
    if (before != NULL) {
        report_error(faults, pin->where, "pin %s is taken by %s already", found->name, before);
        return;
    }
    g_hash_table_insert(owners, (gpointer)found->name, g_strdup(owner));
}

/* Returns the first rule with a handset's key that is no button; NULL if there is none. */
static const rule_line *first_about_keys(const plan_source *source)
{
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        for (guint j = 0; j < rule->triggers->len; j++) {
            const trigger *const about = &g_array_index(rule->triggers, trigger, j);
            const int handset =
                about->source == DROM_SOURCE_KEY ? source_find_handset(source, about->name.text) : -1;
            if (about->source == DROM_SOURCE_HEARD) {
                return rule;
            }
            if (about->source == DROM_SOURCE_KEY &&
                (handset < 0 || g_array_index(source->handsets, handset_line, handset).buttons == NULL)) {
                return rule;
            }
        }
    }
    return NULL;
}

static void check_pins(plan *made, bool is_all_read)
{
    plan_source *const source = made->source;
    g_autoptr(GHashTable) owners = g_hash_table_new_full(g_str_hash, g_str_equal, NULL, g_free);
    guint contacts = source->switches->len;
    if (source->receiver_pin.text != NULL) {
        claim_pin(made, owners, &source->receiver_pin, "the receiver");
    } else if (first_about_keys(source) != NULL && is_all_read) {
        report_error(source->faults, first_about_keys(source)->where,
                     "nothing can be heard: say where the receiver is, as in: receiver on pin 8");
    }
    for (guint i = 0; i < source->outputs->len; i++) {
        const output_line *const output = &g_array_index(source->outputs, output_line, i);
        g_autofree char *owner = g_strdup_printf("'%s'", output->name.text);
        for (unsigned pin = 0; pin < output->pin_count; pin++) {
            claim_pin(made, owners, &output->pins[pin], owner);
        }
    }
    for (guint i = 0; i < source->switches->len; i++) {
        const switch_line *const line = &g_array_index(source->switches, switch_line, i);
        g_autofree char *owner = g_strdup_printf("'%s'", line->name.text);
        claim_pin(made, owners, &line->pin, owner);
    }
    for (guint i = 0; i < source->handsets->len; i++) {
        const handset_line *const handset = &g_array_index(source->handsets, handset_line, i);
        if (handset->buttons != NULL) {
            check_buttons(source, handset);
        }
        for (guint j = 0; handset->buttons != NULL && j < handset->buttons->len; j++) {
            const button_line *const button = &g_array_index(handset->buttons, button_line, j);
            g_autofree char *owner = g_strdup_printf("'%s.%s'", handset->name.text, button->key.text);
            claim_pin(made, owners, &button->pin, owner);
            contacts++;
        }
    }
    if (contacts > DROM_MAX_CONTACTS) {
        report_error(source->faults, (place){0}, "has %u buttons and switches; %d fit", contacts,
                     DROM_MAX_CONTACTS);
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
    for (int kind = NO_THING + 1; kind < (int)THINGS; kind++) {
        for (guint i = 0; i < source_count(source, (thing)kind); i++) {
            check_twice(source, seen, source_name(source, (thing)kind, i));
        }
    }
}

/* A declared protocol may not have the name of a known one: sheets couldn't tell them apart. */
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

/* Each member is an output, and listed once in only one group. */
static void check_group(plan_source *source, const group_line *group)
{
    for (guint i = 0; i < group->members->len; i++) {
        (void)source_look_up(source, AN_OUTPUT, &g_array_index(group->members, word, i));
    }
}

/* Outputs that an output joins are outputs of the plan, and driven by it. */
static void check_members(plan_source *source, const output_line *line, bool *is_driven)
{
    for (unsigned i = 0; i < MAX_MEMBERS && line->members[i].text != NULL; i++) {
        const int row = source_look_up(source, AN_OUTPUT, &line->members[i]);
        if (row >= 0) {
            is_driven[row] = true;
        }
        if (i > 0 && strcmp(line->members[i].text, line->members[0].text) == 0) {
            report_error(source->faults, line->members[i].where, "'%s' joins two outputs, not one twice",
                         line->name.text);
        }
    }
}

/* The guard's time includes own code that blocks, and has an upper limit. */
static void check_guarded(plan_source *source)
{
    enum { LONGEST_MS = DROM_GUARD_MAX_MS - 100 };
    for (guint i = 0; i < source->outputs->len && source->own_blocks_ms > LONGEST_MS; i++) {
        const output_line *const line = &g_array_index(source->outputs, output_line, i);
        if (line_is_guarded(line)) {
            report_error(source->faults, line->name.where,
                         "'%s' must end where the program hangs, which is known after what own code blocks: "
                         "%.1f s at most, not %.1f s",
                         line->name.text, LONGEST_MS / 1000.0, source->own_blocks_ms / 1000.0);
        }
    }
}

/* True if another output joins this one. */
static bool is_joined(const plan_source *source, const char *name)
{
    bool is_so = false;
    for (guint i = 0; i < source->outputs->len; i++) {
        const output_line *const line = &g_array_index(source->outputs, output_line, i);
        for (unsigned j = 0; j < MAX_MEMBERS && line->members[j].text != NULL; j++) {
            is_so |= strcmp(line->members[j].text, name) == 0;
        }
    }
    return is_so;
}

static void check_only(plan_source *source, const only_line *only, GHashTable *seen)
{
    unsigned resting_on = 0;
    for (guint i = 0; i < only->members->len; i++) {
        const word *const name = &g_array_index(only->members, word, i);
        const int row = source_look_up(source, AN_OUTPUT, name);
        if (row < 0) {
            continue;
        }
        const output_line *const line = &g_array_index(source->outputs, output_line, row);
        const output_kind *const kind = line->kind;
        if (kind->core->bar == NULL || is_joined(source, name->text)) {
            report_error(source->faults, name->where,
                         kind->core->bar == NULL ? "'%s' is a %s; only relays and motors can be kept from "
                                                   "being on together"
                                                 : "'%s' is a %s that another output drives, too",
                         name->text, kind->name);
        } else if (!g_hash_table_add(seen, GINT_TO_POINTER(row))) {
            report_error(source->faults, name->where, "'%s' is in such a list already", name->text);
        }
        resting_on += kind->checks.rest_verb != NULL && kind->checks.rest_verb(line) != kind->core->undo;
    }
    if (only->members->len < 2) {
        report_error(source->faults, only->where,
                     "one of several: say which, as in: only one of spot, flood");
    }
    if (only->members->len > DROM_INTERLOCKED) {
        report_error(source->faults, only->where, "%u outputs; one of %d at most", only->members->len,
                     DROM_INTERLOCKED);
    }
    if (resting_on > 1) {
        report_error(source->faults, only->where, "%u of them rest on, and only one may", resting_on);
    }
}

static void check_onlies(plan_source *source)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(NULL, NULL);
    for (guint i = 0; i < source->onlies->len; i++) {
        check_only(source, &g_array_index(source->onlies, only_line, i), seen);
    }
}

void plan_check_source(plan *made)
{
    plan_source *const source = made->source;
    bool *const is_driven = g_new0(bool, source->outputs->len + 1);
    const bool is_all_read = report_errors(source->faults) == 0; /* else a missing name may be misspelt */
    check_head(made, is_all_read);
    check_kept(made);
    check_names(source);
    check_protocols(source);
    check_pins(made, is_all_read);
    for (guint i = 0; i < source->outputs->len; i++) {
        g_ptr_array_add(made->sent, g_array_new(FALSE, FALSE, sizeof(sent_key)));
        const output_line *const line = plan_line(made, i);
        check_members(source, line, is_driven);
        if (line->kind->checks.check != NULL) {
            line->kind->checks.check(made, line);
        }
    }
    for (guint i = 0; i < source->palettes->len; i++) {
        check_palette(source, &g_array_index(source->palettes, palette_line, i));
    }
    for (guint i = 0; i < source->groups->len; i++) {
        check_group(source, &g_array_index(source->groups, group_line, i));
    }
    check_guarded(source);
    check_onlies(source);
    plan_check_rules(made, is_driven, is_all_read);
    for (guint i = 0; i < source->outputs->len; i++) {
        const word *const name = &g_array_index(source->outputs, output_line, i).name;
        if (!is_driven[i] && is_all_read) {
            report_warning(source->faults, name->where, "nothing drives '%s'", name->text);
        }
    }
    g_free(is_driven);
}
