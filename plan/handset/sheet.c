/* CSV rows to codes. */
#include "plan/handset/sheet.h"

#include "plan/handset/declared.h"
#include "plan/text/csv_table.h"
#include "plan/text/phrase.h"

#include <string.h>

enum column { KEY, PROTOCOL, ADDRESS, COMMAND };

static const char *const columns[] = {"key", "protocol", "address", "command", NULL};

/* A sheet that is being read. */
typedef struct reading {
    report *faults;
    sheet *keys;
    const more_protocols *more;
} reading;

static void free_key(gpointer data)
{
    g_free(((sheet_key *)data)->name);
}

sheet *sheet_new(void)
{
    sheet *const keys = g_new0(sheet, 1);
    keys->keys = g_array_new(FALSE, FALSE, sizeof(sheet_key));
    g_array_set_clear_func(keys->keys, free_key);
    return keys;
}

sheet *sheet_copy(const sheet *keys)
{
    sheet *const copy = sheet_new();
    for (guint i = 0; i < keys->keys->len; i++) {
        sheet_key key = g_array_index(keys->keys, sheet_key, i);
        key.name = g_strdup(key.name);
        g_array_append_val(copy->keys, key);
    }
    return copy;
}

void sheet_free(sheet *keys)
{
    if (keys != NULL) {
        g_array_free(keys->keys, TRUE);
        g_free(keys);
    }
}

int sheet_find(const sheet *keys, const char *name)
{
    for (guint i = 0; i < keys->keys->len; i++) {
        if (strcmp(g_array_index(keys->keys, sheet_key, i).name, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

const sheet_key *sheet_find_code(const sheet *keys, const drom_code *code)
{
    for (guint i = 0; i < keys->keys->len; i++) {
        const sheet_key *const key = &g_array_index(keys->keys, sheet_key, i);
        if (drom_code_equal(&key->code, code)) {
            return key;
        }
    }
    return NULL;
}

const char **sheet_names(const sheet *keys)
{
    const char **const names = g_new0(const char *, keys->keys->len + 1);
    for (guint i = 0; i < keys->keys->len; i++) {
        names[i] = g_array_index(keys->keys, sheet_key, i).name;
    }
    return names;
}

const drom_waveform *waveform_by_id(const char *id)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        if (g_ascii_strcasecmp(drom_waveforms[i]->protocol->id, id) == 0) { /* NEC, too */
            return drom_waveforms[i];
        }
    }
    return NULL;
}

const drom_waveform *waveform_by_number(uint8_t number)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        if (drom_waveforms[i]->protocol->number == number) {
            return drom_waveforms[i];
        }
    }
    return NULL;
}

char *waveform_hint(const char *id)
{
    g_autofree const char **ids = g_new0(const char *, drom_waveform_count + 1);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        ids[i] = drom_waveforms[i]->protocol->id;
    }
    g_autofree char *list = g_strjoinv(", ", (char **)ids);
    g_autofree char *nearest = did_you_mean(id, ids);
    return g_strdup_printf("; known are: %s%s", list, nearest);
}

bool sheet_is_key_name(const char *text)
{
    bool is_so = text[0] != '\0' && g_utf8_validate(text, -1, NULL);
    for (const char *at = text; is_so && *at != '\0'; at = g_utf8_next_char(at)) {
        is_so = g_ascii_isdigit(*at) || plan_is_letter(g_utf8_get_char(at));
    }
    return is_so;
}

static const drom_waveform *find_waveform(const reading *sheet_in, const char *id)
{
    for (size_t i = 0; sheet_in->more != NULL && i < sheet_in->more->count; i++) {
        if (strcmp(sheet_in->more->waveforms[i]->protocol->id, id) == 0) {
            return sheet_in->more->waveforms[i];
        }
    }
    return waveform_by_id(id);
}

/* True if a receiver would decode what is sent of a code as that code: some protocols have check bits. */
static bool comes_back(const drom_waveform *waveform, const drom_code *code)
{
    drom_encoder encoder = {.waveform = waveform};
    drom_frame frame = {.protocol = waveform->protocol, .code = {.protocol = code->protocol}};
    if (waveform->pack == NULL) {
        return true;
    }
    waveform->pack(code, false, &encoder);
    const drom_decoder decoder = {.bits = encoder.bits, .more = encoder.more};
    return waveform->protocol->unpack(&decoder, &frame) && frame.kind == DROM_FRAME_WHOLE &&
           drom_code_equal(&frame.code, code);
}

/* A key with an error is kept, so that no rule is blamed for a missing key. */
static void take_key(void *context, const cell *const *cells)
{
    const reading *const sheet_in = context;
    report *const faults = sheet_in->faults;
    GArray *const keys = sheet_in->keys->keys;
    const place where = cells[KEY]->where;
    const char *const name = cells[KEY]->text;
    sheet_key key = {.line = where.line};
    uint32_t command = 0;
    if (!sheet_is_key_name(name)) {
        report_error(faults, where,
                     "the key name '%s' must be made of letters, digits and '_', as in 'vol_up'", name);
    }
    const int twin = sheet_find(sheet_in->keys, name);
    if (twin >= 0) {
        report_error(faults, where, "the key '%s' stands on line %d already", name,
                     g_array_index(keys, sheet_key, (guint)twin).line);
    }
    const drom_waveform *const waveform = find_waveform(sheet_in, cells[PROTOCOL]->text);
    const bool is_unknown = strcmp(cells[PROTOCOL]->text, drom_unknown.id) == 0;
    const uint32_t max_address = is_unknown ? UINT32_MAX : waveform != NULL ? waveform->max_address : 0;
    const uint16_t max_command = is_unknown || waveform == NULL ? 0 : waveform->max_command;
    if (waveform == NULL && !is_unknown) {
        g_autofree char *hint = waveform_hint(cells[PROTOCOL]->text);
        report_error(faults, cells[PROTOCOL]->where, "there is no protocol '%s'%s", cells[PROTOCOL]->text,
                     hint);
    } else if (cell_number(cells[ADDRESS], "address", max_address, faults, &key.code.address) &&
               cell_number(cells[COMMAND], "command", max_command, faults, &command)) {
        key.protocol = is_unknown ? &drom_unknown : waveform->protocol;
        key.code.protocol = key.protocol->number;
        key.code.command = (uint16_t)command;
        const bool is_own = !is_unknown && waveform_by_id(waveform->protocol->id) == NULL;
        const char *const misread = is_own ? declared_misread(waveform, &key.code) : NULL;
        if (misread != NULL) {
            report_error(faults, where, "the code of '%s' can't be one of %s: %s", name,
                         waveform->protocol->id, misread);
        } else if (!is_unknown && !comes_back(waveform, &key.code)) {
            report_warning(
                faults, where,
                "no receiver takes the code of '%s' for %s: its check bits don't fit; it can only be sent",
                name, waveform->protocol->id);
        }
        const sheet_key *const same = sheet_find_code(sheet_in->keys, &key.code);
        if (same != NULL) {
            report_warning(faults, where, "'%s' has the code of '%s' on line %d; a press will count as '%s'",
                           name, same->name, same->line, same->name);
        }
    }
    if (keys->len == SHEET_MAX_KEYS) {
        report_error(faults, where, "a sheet holds %d keys at most", SHEET_MAX_KEYS);
        return;
    }
    g_array_append_val(keys, key);
    g_array_index(keys, sheet_key, keys->len - 1).name = g_strdup(name);
}

static const csv_kind kind = {
    .columns = columns,
    .head = "key,protocol,address,command,note",
    .take_row = take_key,
};

sheet *sheet_read(const char *path, const more_protocols *more, report *faults)
{
    const unsigned errors_before = report_errors(faults);
    reading sheet_in = {.faults = faults, .keys = sheet_new(), .more = more};
    if (!csv_table_read(path, &kind, faults, &sheet_in)) {
        sheet_free(sheet_in.keys);
        return NULL;
    }
    if (sheet_in.keys->keys->len == 0 && report_errors(faults) == errors_before) {
        report_error(faults, (place){0},
                     "has no keys; put one on each line below the first, as in: power,nec,4,70,");
    }
    return sheet_in.keys;
}
