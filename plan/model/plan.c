/* Loads a plan: reads it, parses it, reads its sheets, checks it, and fills the tables. */
#include "plan/model/build.h"
#include "plan/text/csv_table.h"

#include <string.h>

static void free_sheet(gpointer data)
{
    sheet_free(data);
}

typedef struct shared_data {
    gpointer data;
    GDestroyNotify let_go;
} shared_data;

static void free_shared(gpointer data)
{
    shared_data *const unwanted = data;
    unwanted->let_go(unwanted->data);
    g_free(unwanted);
}

void plan_share(plan *made, const output_kind *kind, gpointer data, GDestroyNotify let_go)
{
    shared_data *const kept = g_new0(shared_data, 1);
    *kept = (shared_data){data, let_go};
    g_hash_table_insert(made->shared, (gpointer)kind, kept);
}

gpointer plan_shared(const plan *made, const output_kind *kind)
{
    const shared_data *const kept = g_hash_table_lookup(made->shared, kind);
    return kept != NULL ? kept->data : NULL;
}

static plan *plan_new(void)
{
    plan *const made = g_new0(plan, 1);
    made->sheets = g_ptr_array_new_with_free_func(free_sheet);
    made->waveforms = g_ptr_array_new();
    made->sheet_paths = g_ptr_array_new_with_free_func(g_free);
    made->protocols = g_array_new(FALSE, FALSE, sizeof(drom_protocol_ref));
    made->handsets = g_array_new(FALSE, FALSE, sizeof(drom_handset));
    made->codes = g_ptr_array_new_with_free_func(g_free);
    made->listed = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref);
    made->hold_ms = g_array_new(FALSE, FALSE, sizeof(uint16_t));
    made->doubles = g_array_new(FALSE, FALSE, sizeof(drom_key_ref));
    made->rules = g_array_new(FALSE, FALSE, sizeof(drom_rule));
    made->interlocks = g_array_new(FALSE, FALSE, sizeof(drom_interlock));
    made->guarded = g_array_new(FALSE, FALSE, sizeof(drom_rest_pin));
    made->kept_values = g_array_new(FALSE, FALSE, sizeof(uint8_t));
    made->contacts = g_array_new(FALSE, FALSE, sizeof(drom_contact));
    made->modes = g_array_new(FALSE, FALSE, sizeof(drom_mode));
    made->values = g_array_new(FALSE, FALSE, sizeof(drom_value));
    made->placed = g_array_new(FALSE, FALSE, sizeof(placed_rule));
    made->outputs = g_array_new(FALSE, FALSE, sizeof(drom_output));
    made->sent = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref);
    made->shared = g_hash_table_new_full(g_direct_hash, g_direct_equal, NULL, free_shared);
    made->kept = g_ptr_array_new_with_free_func(g_free);
    return made;
}

void plan_free(plan *unwanted)
{
    if (unwanted == NULL) {
        return;
    }
    plan_source_free(unwanted->source);
    g_ptr_array_unref(unwanted->sheets);
    g_ptr_array_unref(unwanted->sheet_paths);
    g_ptr_array_unref(unwanted->waveforms);
    g_array_unref(unwanted->protocols);
    g_array_unref(unwanted->handsets);
    g_ptr_array_unref(unwanted->codes);
    g_ptr_array_unref(unwanted->listed);
    g_array_unref(unwanted->hold_ms);
    g_array_unref(unwanted->doubles);
    g_array_unref(unwanted->rules);
    g_array_unref(unwanted->placed);
    g_array_unref(unwanted->modes);
    g_array_unref(unwanted->contacts);
    g_array_unref(unwanted->guarded);
    g_array_unref(unwanted->kept_values);
    g_array_unref(unwanted->interlocks);
    g_free(unwanted->touches);
    g_free(unwanted->switches);
    g_array_unref(unwanted->values);
    g_free(unwanted->numbers);
    g_free(unwanted->timers);
    g_free(unwanted->sequences);
    g_array_unref(unwanted->outputs);
    g_ptr_array_unref(unwanted->sent);
    g_hash_table_unref(unwanted->shared);
    g_ptr_array_unref(unwanted->kept);
    g_free(unwanted->decoders);
    g_free(unwanted->holds);
    g_free(unwanted->last_presses);
    g_free(unwanted->held);
    g_free(unwanted->taps);
    g_free(unwanted->ticks);
    g_free(unwanted->text);
    g_free(unwanted);
}

/* Buttons are keys whose code no frame has. */
static sheet *sheet_of_buttons(const GArray *buttons)
{
    sheet *const made = sheet_new();
    for (guint i = 0; i < buttons->len; i++) {
        const word *const name = &g_array_index(buttons, button_line, i).key;
        const sheet_key key = {.name = g_strdup(name->text), .line = name->where.line};
        g_array_append_val(made->keys, key);
    }
    return made;
}

/* The sheets' errors have the sheets' names, and follow those of the plan. */
static void read_sheets(plan *made, const char *plan_path, report *of_sheets)
{
    for (guint i = 0; i < made->source->protocols->len; i++) {
        const protocol_line *const protocol = &g_array_index(made->source->protocols, protocol_line, i);
        if (protocol->own->protocol.step != NULL) { /* else its figures are wrong, which has been reported */
            g_ptr_array_add(made->waveforms, &protocol->own->waveform);
        }
    }
    const more_protocols more = {(const drom_waveform *const *)made->waveforms->pdata, made->waveforms->len};
    for (guint i = 0; i < made->source->handsets->len; i++) {
        const handset_line *const handset = &g_array_index(made->source->handsets, handset_line, i);
        if (handset->buttons != NULL) {
            g_ptr_array_add(made->sheet_paths, g_strdup(plan_path));
            g_ptr_array_add(made->sheets, sheet_of_buttons(handset->buttons));
            continue;
        }
        char *const path = path_beside(source_path(made->source, handset->path.where), handset->path.text);
        sheet *const keys = sheet_read(path, &more, of_sheets);
        g_ptr_array_add(made->sheet_paths, path);
        if (keys == NULL) {
            report_error(made->source->faults, handset->path.where, "the sheet of '%s' can't be used",
                         handset->name.text);
        }
        g_ptr_array_add(made->sheets, keys);
    }
}

static bool is_in_a_rule(const rule_line *rule, const char *handset)
{
    bool is_in = false;
    for (guint i = 0; i < rule->triggers->len; i++) {
        const trigger *const about = &g_array_index(rule->triggers, trigger, i);
        is_in |= about->source == DROM_SOURCE_KEY && strcmp(about->name.text, handset) == 0;
    }
    return is_in;
}

/* True if an action names a key of the handset. */
static bool is_sent(const GArray *actions, const char *handset)
{
    bool is_sent = false;
    for (guint i = 0; i < actions->len; i++) {
        const action_words *const action = &g_array_index(actions, action_words, i);
        for (unsigned value = 0; value < PHRASE_VALUES && action->said >= 0; value++) {
            is_sent |= action->values[value].key.text != NULL &&
                       strcmp(action->values[value].name.text, handset) == 0;
        }
    }
    return is_sent;
}

static bool is_only_sent(const plan_source *source, const char *handset)
{
    bool is_so = false;
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        if (is_in_a_rule(rule, handset)) {
            return false;
        }
        is_so |= is_sent(rule->actions, handset) || is_sent(rule->otherwise, handset);
    }
    return is_so;
}

/* A handset that is only sent isn't received. These handsets are last, after those whose rows the engine
 * knows. */
static void sort_handsets(plan *made)
{
    plan_source *const source = made->source;
    GArray *const sorted = g_array_new(FALSE, FALSE, sizeof(handset_line));
    for (int pass = 0; pass < 2; pass++) {
        for (guint i = 0; i < source->handsets->len; i++) {
            const handset_line *const handset = &g_array_index(source->handsets, handset_line, i);
            if (is_only_sent(source, handset->name.text) == (pass == 1)) {
                g_array_append_val(sorted, *handset);
            }
        }
        made->heard_handsets = pass == 0 ? sorted->len : made->heard_handsets;
    }
    if (sorted->len > 0) { /* in place: the lines own what they point to */
        memcpy(source->handsets->data, sorted->data, sorted->len * sizeof(handset_line));
    }
    g_array_unref(sorted);
}

plan *plan_load(const char *path, report *faults)
{
    gsize length = 0;
    g_autofree char *text = read_text_file(path, &length, faults);
    if (text == NULL) {
        return NULL;
    }
    plan *const made = plan_new();
    made->text = g_strconcat(text, "\n", NULL);
    made->source = plan_parse(path, made->text, length + 1, faults);
    sort_handsets(made);
    report *const of_sheets = report_new();
    read_sheets(made, path, of_sheets);
    plan_check_source(made);
    report_append(faults, of_sheets);
    if (report_errors(faults) > 0) {
        plan_free(made);
        return NULL;
    }
    plan_fill_tables(made);
    plan_check_numbers(made);
    if (report_errors(faults) > 0) {
        plan_free(made);
        return NULL;
    }
    return made;
}
