/* CSV rows to presses, looked up in the plan. */
#include "script.h"

#include "csv_table.h"

enum column { AT_MS, HANDSET, KEY, HELD_MS };

enum {
    LAST_MS = 7 * 24 * 3600 * 1000, /* a week */
    LONGEST_PRESS_MS = 600 * 1000,
    MAX_PRESSES = 100000,
};

static const char *const columns[] = {"at_ms", "handset", "key", "held_ms", NULL};

/* A script on its way in. */
typedef struct reading {
    const plan *with;
    report *faults;
    GArray *presses;
} reading;

static void take_press(void *context, const cell *const *cells)
{
    const reading *const script = context;
    report *const faults = script->faults;
    script_press press = {0};
    bool is_good = cell_number(cells[AT_MS], "time", LAST_MS, faults, &press.at_ms);
    is_good &= cell_number(cells[HELD_MS], "time held", LONGEST_PRESS_MS, faults, &press.held_ms);
    const int handset = plan_find_handset(script->with, cells[HANDSET]->text);
    if (handset < 0) {
        g_autofree char *hint = plan_hint_handset(script->with, cells[HANDSET]->text);
        report_error(faults, cells[HANDSET]->where, "the plan has no handset '%s'%s", cells[HANDSET]->text,
                     hint);
        return;
    }
    const int key = plan_find_key(script->with, (unsigned)handset, cells[KEY]->text);
    if (key < 0) {
        g_autofree char *hint = plan_hint_key(script->with, (unsigned)handset, cells[KEY]->text);
        report_error(faults, cells[KEY]->where, "the sheet of '%s' has no key '%s'%s", cells[HANDSET]->text,
                     cells[KEY]->text, hint);
        return;
    }
    if (script->presses->len == MAX_PRESSES) {
        report_error(faults, cells[AT_MS]->where, "a script holds %d presses at most", MAX_PRESSES);
        return;
    }
    press.handset = (unsigned)handset;
    press.key = (unsigned)key;
    press.line = cells[AT_MS]->where.line;
    if (is_good) {
        g_array_append_val(script->presses, press);
    }
}

static const csv_kind kind = {
    .columns = columns,
    .head = "at_ms,handset,key,held_ms",
    .take_row = take_press,
};

static gint by_time(gconstpointer left, gconstpointer right)
{
    const script_press *const a = left;
    const script_press *const b = right;
    return a->at_ms != b->at_ms ? (a->at_ms > b->at_ms) - (a->at_ms < b->at_ms) : a->line - b->line;
}

GArray *script_read(const char *path, const plan *with, report *faults)
{
    reading script = {
        .with = with, .faults = faults, .presses = g_array_new(FALSE, FALSE, sizeof(script_press))};
    const bool is_read = csv_table_read(path, &kind, faults, &script);
    if (!is_read || report_errors(faults) > 0) {
        g_array_unref(script.presses);
        return NULL;
    }
    g_array_sort(script.presses, by_time);
    return script.presses;
}
