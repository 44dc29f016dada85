/* From CSV rows to presses, with the plan's handsets and keys. */
#include "plan/script/script.h"

#include "plan/text/csv_table.h"
#include "plan/text/phrase.h"

#include <string.h>

enum column { AT_MS, HANDSET, KEY, HELD_MS, EXPECT };

enum {
    LAST_MS = 7 * 24 * 3600 * 1000, /* a week */
    LONGEST_PRESS_MS = 600 * 1000,
    MAX_PRESSES = 100000,
};

static const char *const columns[] = {"at_ms", "handset", "key", "held_ms", "expect", NULL};

/* A script that is being read. */
typedef struct reading {
    const plan *with;
    report *faults;
    GArray *presses;
    GArray *expected; /* NULL: they are ignored */
} reading;

/* A row without a key is an expectation. */
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

/* Parses one of two words; false if it is neither, which has been reported. */
static bool take_either(const reading *script, const cell *given, const char *const *words, const char *name,
                        bool *is_second)
{
    *is_second = strcmp(given->text, words[1]) == 0;
    if (*is_second || strcmp(given->text, words[0]) == 0) {
        return true;
    }
    g_autofree char *hint = did_you_mean(given->text, words);
    report_error(script->faults, given->where, "'%s' is '%s' or '%s'%s", name, words[0], words[1], hint);
    return false;
}

/* "doorbell,7": an event, with its number. */
static bool take_event(const reading *script, const cell *number, script_press *press)
{
    gint64 given = 0;
    const bool is_good = number->text[0] == '\0' ||
                         g_ascii_string_to_signed(number->text, 10, INT16_MIN, INT16_MAX, &given, NULL);
    press->number = (int)given;
    if (!is_good) {
        report_error(script->faults, number->where,
                     "the number of an event is -32768 to 32767, not '%s'; none is 0", number->text);
    }
    return is_good;
}

/* "cut", "cut 2 s". */
static bool take_cut(const reading *script, const cell *given, script_press *press)
{
    enum { USUAL_MS = 1000 };
    static const char *const phrases[] = {"cut", "cut TIME", NULL};
    static const char *const then[] = {"the end", NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    g_autoptr(GArray) tokens = plan_tokens(given->text, script->faults, given->where);
    const int said =
        phrase_match(script->faults, (wording){tokens, 0, tokens->len - 1, false}, phrases, "", then, values);
    press->held_ms = said == 1 ? values[0].number : USUAL_MS;
    if (said == 1 && (values[0].number < 1 || values[0].number > LONGEST_PRESS_MS)) {
        report_error(script->faults, given->where, "the power is cut for 1 ms to 10 min");
        return false;
    }
    return said >= 0;
}

/* A row that is neither a press nor an expectation. False: it is one of these. */
static bool take_other(const reading *script, const cell *const *cells)
{
    static const char *const switch_words[] = {"opens", "closes", NULL};
    static const char *const cable_words[] = {"unplugged", "plugged", NULL};
    const char *const name = cells[HANDSET]->text;
    const int touched = plan_find_switch(script->with, name);
    const int keyboard = plan_find_keyboard(script->with, name);
    const int event = plan_find_event(script->with, cells[KEY]->text);
    const bool is_nameless = name[0] == '\0';
    script_press row = {0};
    bool is_good = false;
    if (touched >= 0) {
        row.handset = SCRIPT_A_SWITCH;
        row.key = (unsigned)touched;
        is_good = take_either(script, cells[KEY], switch_words, name, &row.closes);
    } else if (keyboard >= 0) {
        row.handset = SCRIPT_A_CABLE;
        row.key = (unsigned)keyboard;
        is_good = take_either(script, cells[KEY], cable_words, name, &row.closes);
    } else if (is_nameless && event >= 0) {
        row.handset = SCRIPT_AN_EVENT;
        row.key = (unsigned)event;
        is_good = take_event(script, cells[HELD_MS], &row);
    } else if (is_nameless && strcmp(cells[KEY]->text, "power") == 0) {
        row.handset = SCRIPT_POWER;
        is_good = take_cut(script, cells[HELD_MS], &row);
    } else {
        return false;
    }
    is_good &= cell_number(cells[AT_MS], "time", LAST_MS, script->faults, &row.at_ms);
    if (is_good) {
        add_press(script, &row, cells);
    }
    return true;
}

char *script_text(const plan *with, const script_press *row)
{
    switch (row->handset) {
    case SCRIPT_A_CABLE:
        return g_strdup_printf("%s %s", plan_output_name(with, row->key),
                               row->closes ? "plugged" : "unplugged");
    case SCRIPT_POWER:
        return g_strdup_printf("power cut (%u ms)", row->held_ms);
    case SCRIPT_AN_EVENT:
        return g_strdup_printf("%s, %d", plan_event_name(with, row->key), row->number);
    default:
        return NULL;
    }
}

static void take_press(void *context, const cell *const *cells)
{
    const reading *const script = context;
    report *const faults = script->faults;
    script_press press = {0};
    if (cells[EXPECT]->text[0] != '\0') {
        take_expectation(script, cells);
        return;
    }
    if (take_other(script, cells)) {
        return;
    }
    bool is_good = cell_number(cells[AT_MS], "time", LAST_MS, faults, &press.at_ms);
    is_good &= cell_number(cells[HELD_MS], "time held", LONGEST_PRESS_MS, faults, &press.held_ms);
    const int handset = plan_find_handset(script->with, cells[HANDSET]->text);
    if (handset < 0 && cells[HANDSET]->text[0] == '\0') {
        report_error(faults, cells[KEY]->where,
                     "'%s' is no event of the plan, and not 'power'; a press says of which handset",
                     cells[KEY]->text);
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
