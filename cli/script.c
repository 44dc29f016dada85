/* CSV rows to presses, looked up in the plan. */
#include "script.h"

#include "csv_table.h"

enum column { AT_MS, HANDSET, KEY, HELD_MS };

enum {
    LAST_MS = 7 * 24 * 3600 * 1000, /* a week */
    LONGEST_PRESS_MS = 600 * 1000,
    MOST_PRESSES = 100000,
};

static const char *const columns[] = {"at_ms", "handset", "key", "held_ms", NULL};

/* A script on its way in. */
typedef struct reading {
    const plan *with;
    report *told;
    GArray *presses;
} reading;

static void take_press(void *context, const cell *const *cells)
{
    const reading *const script = context;
    report *const told = script->told;
    script_press press = {0};
    bool is_good = cell_number(cells[AT_MS], "time", LAST_MS, told, &press.at_ms);
    is_good &= cell_number(cells[HELD_MS], "time held", LONGEST_PRESS_MS, told, &press.held_ms);
    const int handset = plan_find_handset(script->with, cells[HANDSET]->text);
    if (handset < 0) {
        g_autofree char *hint = plan_hint_handset(script->with, cells[HANDSET]->text);
        report_error(told, cells[HANDSET]->where, "the plan has no handset '%s'%s", cells[HANDSET]->text,
                     hint);
        return;
    }
    const int key = plan_find_key(script->with, (unsigned)handset, cells[KEY]->text);
    if (key < 0) {
        g_autofree char *hint = plan_hint_key(script->with, (unsigned)handset, cells[KEY]->text);
        report_error(told, cells[KEY]->where, "the sheet of '%s' has no key '%s'%s", cells[HANDSET]->text,
                     cells[KEY]->text, hint);
        return;
    }
    if (script->presses->len == MOST_PRESSES) {
        report_error(told, cells[AT_MS]->where, "a script holds %d presses at most", MOST_PRESSES);
        return;
    }
    press.handset = (unsigned)handset;
    press.key = (unsigned)key;
    if (is_good) {
        g_array_append_val(script->presses, press);
    }
}

static const csv_kind kind = {
    .columns = columns,
    .head = "at_ms,handset,key,held_ms",
    .take_row = take_press,
};

GArray *script_read(const char *path, const plan *with, report *told)
{
    reading script = {.with = with, .told = told, .presses = g_array_new(FALSE, FALSE, sizeof(script_press))};
    const bool is_read = csv_table_read(path, &kind, told, &script);
    if (!is_read || report_errors(told) > 0) {
        g_array_unref(script.presses);
        return NULL;
    }
    return script.presses;
}
