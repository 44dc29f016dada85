/* CSV rows to presses, looked up in the plan. */
#include "script.h"

#include "csv_table.h"

#include <string.h>

enum column { AT_MS, HANDSET, KEY, HELD_MS, EXPECT };

enum {
    LAST_MS = 7 * 24 * 3600 * 1000, /* a week */
    LONGEST_PRESS_MS = 600 * 1000,
    MAX_PRESSES = 100000,
};

static const char *const columns[] = {"at_ms", "handset", "key", "held_ms", "expect", NULL};

/* A script on its way in. */
typedef struct reading {
    const plan *with;
    report *faults;
    GArray *presses;
    GArray *expected; /* NULL: they are passed over */
} reading;

/* A row without a key says what is so at its time. */
static void take_expectation(const reading *script, const cell *const *cells)
{
    script_expectation row = {.line = cells[AT_MS]->where.line};
    if (cells[HANDSET]->text[0] != '\0' || cells[KEY]->text[0] != '\0' || cells[HELD_MS]->text[0] != '\0') {
        report_error(script->faults, cells[EXPECT]->where,
                     "what is expected stands in a row of its own: leave handset, key and held_ms empty");
        return;
    }
    if (!cell_number(cells[AT_MS], "time", LAST_MS, script->faults, &row.at_ms) || script->expected == NULL) {
        return;
    }
    row.text = g_strdup(cells[EXPECT]->text);
    row.expected = expectation_read(script->with, row.text, script->faults, cells[EXPECT]->where);
    g_array_append_val(script->expected, row);
}

static void add_press(const reading *script, script_press *press, const cell *const *cells)
{
    if (script->presses->len == MAX_PRESSES) {
        report_error(script->faults, cells[AT_MS]->where, "a script holds %d presses at most", MAX_PRESSES);
        return;
    }
    press->line = cells[AT_MS]->where.line;
    g_array_append_val(script->presses, *press);
}

/* "top,closes": false, and reported, where it is neither that nor "opens". */
static bool take_switch(const reading *script, const cell *const *cells, script_press *press)
{
    static const char *const words[] = {"opens", "closes", NULL};
    press->key = (unsigned)plan_find_switch(script->with, cells[HANDSET]->text);
    press->closes = strcmp(cells[KEY]->text, words[1]) == 0;
    if (press->closes || strcmp(cells[KEY]->text, words[0]) == 0) {
        return true;
    }
    g_autofree char *hint = did_you_mean(cells[KEY]->text, words);
    report_error(script->faults, cells[KEY]->where, "the switch '%s' opens or closes%s", cells[HANDSET]->text,
                 hint);
    return false;
}

static void take_press(void *context, const cell *const *cells)
{
    const reading *const script = context;
    report *const faults = script->faults;
    const bool is_switch = plan_find_switch(script->with, cells[HANDSET]->text) >= 0;
    script_press press = {.handset = SCRIPT_A_SWITCH};
    if (cells[EXPECT]->text[0] != '\0') {
        take_expectation(script, cells);
        return;
    }
    bool is_good = cell_number(cells[AT_MS], "time", LAST_MS, faults, &press.at_ms);
    is_good &=
        is_switch || cell_number(cells[HELD_MS], "time held", LONGEST_PRESS_MS, faults, &press.held_ms);
    const int handset = plan_find_handset(script->with, cells[HANDSET]->text);
    if (is_switch) {
        if (take_switch(script, cells, &press) && is_good) {
            add_press(script, &press, cells);
        }
        return;
    }
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
    press.handset = (unsigned)handset;
    press.key = (unsigned)key;
    if (is_good) {
        add_press(script, &press, cells);
    }
}

static const csv_kind kind = {
    .columns = columns,
    .optional = 1,
    .head = "at_ms,handset,key,held_ms",
    .take_row = take_press,
};

static gint by_time(gconstpointer left, gconstpointer right)
{
    const script_press *const a = left;
    const script_press *const b = right;
    return a->at_ms != b->at_ms ? (a->at_ms > b->at_ms) - (a->at_ms < b->at_ms) : a->line - b->line;
}

static gint by_moment(gconstpointer left, gconstpointer right)
{
    const script_expectation *const a = left;
    const script_expectation *const b = right;
    return a->at_ms != b->at_ms ? (a->at_ms > b->at_ms) - (a->at_ms < b->at_ms) : a->line - b->line;
}

static void clear_expectation(gpointer data)
{
    script_expectation *const unwanted = data;
    g_free(unwanted->text);
    expectation_free(unwanted->expected);
}

GArray *script_expectations_new(void)
{
    GArray *const made = g_array_new(FALSE, FALSE, sizeof(script_expectation));
    g_array_set_clear_func(made, clear_expectation);
    return made;
}

GArray *script_read(const char *path, const plan *with, GArray *expected, report *faults)
{
    reading script = {.with = with,
                      .faults = faults,
                      .presses = g_array_new(FALSE, FALSE, sizeof(script_press)),
                      .expected = expected};
    const bool is_read = csv_table_read(path, &kind, faults, &script);
    if (!is_read || report_errors(faults) > 0) {
        g_array_unref(script.presses);
        return NULL;
    }
    g_array_sort(script.presses, by_time);
    if (expected != NULL) {
        g_array_sort(expected, by_moment);
    }
    return script.presses;
}
