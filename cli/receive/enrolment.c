/* From presses to keys. An unknown burst may be an unknown handset, or a lamp: only two equal ones count, the
 * rest is noise. */
#include "cli/receive/enrolment.h"

#include "cli/io/files.h"
#include "cli/io/io.h"
#include "plan/handset/merge.h"
#include "plan/text/csv_table.h"

#include <string.h>
#include <sys/stat.h>

enum { MAX_NOISES_REPORTED = 3 };

const char *enrolment_wanted(const enrolment *in)
{
    return in->keys->len < in->names->len ? g_ptr_array_index(in->names, in->keys->len) : NULL;
}

void enrolment_ask(const enrolment *in)
{
    const char *const name = enrolment_wanted(in);
    const char *const again = in->agreed > 0 ? " once more" : "";
    if (in->is_live && name != NULL) {
        put_note("press '%s'%s\n", name, again);
    } else if (in->is_live && in->names->len == 0 && !in->is_waiting) {
        put_note(in->agreed > 0 ? "the same key once more\n" : "press a key (Enter alone ends)\n");
    }
}

/* Returns "'mains'", or "this key" without a name. To be freed. */
static char *shown_name(const enrolment *in)
{
    const char *const name = enrolment_wanted(in);
    return name != NULL ? g_strdup_printf("'%s'", name) : g_strdup("this key");
}

/* Returns the key that has a code already, of this sheet; NULL if there is none. */
static const sheet_key *find_twin(const enrolment *in, const drom_code *code, const char *name)
{
    for (guint i = 0; i < in->keys->len; i++) {
        const sheet_key *const key = &g_array_index(in->keys, sheet_key, i);
        if (drom_code_equal(&key->code, code)) {
            return key;
        }
    }
    const sheet_key *const known = in->known != NULL ? sheet_find_code(in->known, code) : NULL;
    return known != NULL && g_strcmp0(known->name, name) != 0 ? known : NULL;
}

/* Warns of other handsets of the plan with the same code. */
static void warn_of_others(const enrolment *in, const drom_code *code, const char *name)
{
    if (in->plan == NULL) {
        return;
    }
    const drom_keys_plan *const keys = &plan_tables(in->plan)->keys;
    for (unsigned i = 0; i < keys->handsets.count; i++) {
        for (unsigned j = 0; j < keys->handsets.rows[i].codes.count; j++) {
            const bool is_itself =
                in->sheet_path != NULL && strcmp(plan_sheet_path(in->plan, i), in->sheet_path) == 0;
            if (!is_itself && drom_code_equal(&keys->handsets.rows[i].codes.rows[j], code)) {
                complain("enrol",
                         "warning: '%s.%s' of the plan has the code of '%s'; only one of them can count",
                         plan_handset_name(in->plan, i), plan_key_name(in->plan, i, j), name);
            }
        }
    }
}

static void note_toggle(enrolment *in, const drom_protocol *protocol)
{
    if (protocol->has_toggle && !in->has_reported_toggle) {
        in->has_reported_toggle = true;
        complain(
            "enrol",
            "note: %s has a toggle bit, so that a key sends two numbers by turns; the sheet needs it once",
            protocol->id);
    }
}

int enrolment_read(enrolment *in)
{
    struct stat about;
    gsize length = 0;
    sheet_free(in->known);
    g_clear_pointer(&in->known_text, g_free);
    in->known = NULL;
    if (in->sheet_path == NULL || stat(in->sheet_path, &about) != 0 || !S_ISREG(about.st_mode)) {
        return EXIT_DONE;
    }
    report *const faults = report_new();
    in->known_text = read_text_file(in->sheet_path, &length, faults);
    in->known = in->known_text != NULL ? sheet_read(in->sheet_path, in->more, faults) : NULL;
    if (in->keys->len == 0 || report_errors(faults) > 0) { /* once per warning */
        report_print(faults, stderr);
    }
    const int code = report_has_unreadable(faults) ? EXIT_FILE
                     : report_errors(faults) > 0   ? EXIT_NO
                                                   : EXIT_DONE;
    report_free(faults);
    return code;
}

/* A sheet is read and rewritten with each key, as another enrolment may add to it; on standard output each
 * key is a row. */
static void save(enrolment *in)
{
    if (in->sheet_path != NULL) {
        const int lock = lock_beside(in->sheet_path);
        in->has_failed = enrolment_read(in) != EXIT_DONE;
        if (!in->has_failed) {
            g_autofree char *merged = sheet_merge(in->known_text, in->keys);
            in->has_failed = !write_text("enrol", in->sheet_path, merged);
        }
        unlock(lock);
        return;
    }
    g_autofree char *all = sheet_merge(NULL, in->keys);
    const char *row = all + strlen(all) - 1; /* after its line end */
    while (row > all && row[-1] != '\n') {
        row--;
    }
    (void)fputs(in->keys->len == 1 ? all : row, stdout);
    in->has_failed = fflush(stdout) != 0;
}

static void take_key(enrolment *in, const char *name, const drom_code *code)
{
    const drom_protocol *const protocol = reception_protocol(in->pipeline, code->protocol);
    const sheet_key key = {.name = g_strdup(name), .code = *code, .protocol = protocol};
    note_toggle(in, protocol);
    warn_of_others(in, code, name);
    g_array_append_val(in->keys, key);
    save(in);
    if (in->is_live) {
        g_autofree char *text = code_text(protocol, code);
        put_note("'%s' is %s\n", name, text);
    }
}

/* This many presses agreed. */
static void take_code(enrolment *in, const drom_code *code)
{
    const char *const name = enrolment_wanted(in);
    const sheet_key *const twin = find_twin(in, code, name);
    in->agreed = 0;
    in->presses = 0;
    in->noises = 0;
    if (twin != NULL && !in->allows_twins) {
        g_autofree char *shown = shown_name(in);
        complain("enrol", "%s sends the code of '%s'; %s", shown, twin->name,
                 in->is_live
                     ? "press another one, or start again with --allow-twins"
                     : "the next presses are taken for it. Two names for one code need --allow-twins");
    } else if (name != NULL) {
        take_key(in, name, code);
    } else {
        in->is_waiting = true;
    }
}

/* True if a press is noise, which changes nothing. An unknown burst only counts against similar ones. */
static bool is_noise(const enrolment *in, const drom_code *code)
{
    return code->protocol == DROM_UNKNOWN && in->agreed > 0 && in->last.protocol != DROM_UNKNOWN;
}

static void report_noise(enrolment *in, uint64_t at_us)
{
    in->noises++;
    if (in->noises <= MAX_NOISES_REPORTED) {
        complain("enrol", "%.1f s: noise, passed over%s", (double)at_us / 1e6,
                 in->noises == MAX_NOISES_REPORTED
                     ? ", and so is what more there is: shade the receiver from lamps and sun"
                     : "");
    }
}

static void report_disagreement(enrolment *in, uint64_t at_us, const drom_code *code)
{
    const bool are_unknown = code->protocol == DROM_UNKNOWN && in->last.protocol == DROM_UNKNOWN;
    const bool is_by_turns = are_unknown && in->presses >= 3 && drom_code_equal(&in->before_last, code);
    g_autofree char *shown = shown_name(in);
    if (is_by_turns) {
        complain(
            "enrol",
            "%.1f s: %s sends two fingerprints by turns: it has a toggle bit. 'dromikos infer' can find it",
            (double)at_us / 1e6, shown);
    } else if (are_unknown || in->last.protocol == DROM_UNKNOWN) {
        report_noise(in, at_us);
    } else {
        complain("enrol", "%.1f s: two presses of %s disagree; the next ones decide", (double)at_us / 1e6,
                 shown);
    }
}

void enrolment_press(enrolment *in, uint64_t at_us, const drom_code *code)
{
    const bool is_done = in->names->len > 0 && enrolment_wanted(in) == NULL;
    if (is_done || in->has_failed || in->is_waiting) {
        return;
    }
    if (is_noise(in, code)) {
        report_noise(in, at_us);
        return;
    }
    const bool is_same = in->agreed > 0 && drom_code_equal(&in->last, code);
    const unsigned times = code->protocol == DROM_UNKNOWN ? MAX(in->times, 2) : in->times;
    if (in->agreed > 0 && !is_same) {
        report_disagreement(in, at_us, code);
    }
    in->before_last = in->last;
    in->last = *code;
    in->presses++;
    in->agreed = is_same ? in->agreed + 1 : 1;
    if (in->agreed >= times) {
        take_code(in, code);
    }
    enrolment_ask(in);
}

const char *enrolment_name(enrolment *in, const char *name)
{
    if (!sheet_is_key_name(name)) {
        return "a key's name is made of letters, digits and '_', as in 'vol_up'";
    }
    for (guint i = 0; i < in->keys->len; i++) {
        if (strcmp(g_array_index(in->keys, sheet_key, i).name, name) == 0) {
            return "another key has that name";
        }
    }
    if (in->keys->len == SHEET_MAX_KEYS) {
        return "a sheet holds 255 keys at most";
    }
    in->is_waiting = false;
    take_key(in, name, &in->last);
    return NULL;
}
