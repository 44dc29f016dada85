/* The keys that outputs send: a row for each that an order names. */
#include "plan/model/build.h"

static const sent_key *key_at(const plan *made, guint output, guint row)
{
    return &g_array_index((GArray *)g_ptr_array_index(made->sent, output), sent_key, row);
}

const drom_code *plan_sent_code(const plan *loaded, guint output, guint row)
{
    const sent_key *const key = key_at(loaded, output, row);
    const sheet *const keys = g_ptr_array_index(loaded->sheets, key->handset);
    return &g_array_index(keys->keys, sheet_key, key->key).code;
}

char *plan_sent_name(const plan *loaded, guint output, guint row)
{
    const sent_key *const key = key_at(loaded, output, row);
    return g_strdup_printf("%s.%s", plan_handset_name(loaded, key->handset),
                           plan_key_name(loaded, key->handset, key->key));
}

guint plan_sent_each(const plan *made, guint output, guint row)
{
    return key_at(made, output, row)->each_ms;
}

uint32_t plan_sent_row(plan *made, const action_words *action, guint each_ms)
{
    plan_source *const source = made->source;
    const word *const hand = &action->values[0].name;
    const word *const wanted = &action->values[0].key;
    const int handset = source_find_handset(source, hand->text);
    if (handset < 0) {
        report_error(source->faults, hand->where, "there is no handset '%s'", hand->text);
        return 0;
    }
    const sheet *const keys = g_ptr_array_index(made->sheets, (guint)handset);
    if (keys == NULL) {
        return 0; /* an unreadable sheet has been reported */
    }
    const int key = sheet_find(keys, wanted->text);
    if (key < 0) {
        g_autofree const char **names = sheet_names(keys);
        g_autofree char *hint = did_you_mean(wanted->text, names);
        report_error(source->faults, wanted->where, "the sheet of '%s' has no key '%s'%s", hand->text,
                     wanted->text, hint);
        return 0;
    }
    const drom_code *const code = &g_array_index(keys->keys, sheet_key, (guint)key).code;
    const drom_waveform *const waveform = plan_waveform(made, code->protocol);
    if (waveform == NULL || waveform->pack == NULL) {
        report_error(source->faults, wanted->where, "how to send '%s.%s' isn't known", hand->text,
                     wanted->text);
        return 0;
    }
    GArray *const sent = g_ptr_array_index(made->sent, (guint)action->row);
    const sent_key row = {(guint)handset, (guint)key, each_ms};
    for (guint i = 0; i < sent->len; i++) {
        const sent_key *const other = &g_array_index(sent, sent_key, i);
        if (other->handset == row.handset && other->key == row.key && other->each_ms == row.each_ms) {
            return i;
        }
    }
    g_array_append_val(sent, row);
    return sent->len - 1;
}
