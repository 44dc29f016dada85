#include "live/page.h"

#include "live/outputs.h"

#include <string.h>

enum {
    MIN_ROWS = 12,
    MIN_COLUMNS = 60,
    WIDE = 124, /* all conditions fit into a row */
    MIN_KEYS = 30,
    KEY_WIDTH = 15,
    MAX_OUTPUT = 84, /* columns of an output's line */
    TOP = 2,         /* rows above the outputs */
    MIN_LINES = 6,   /* of the journal, if there is room */
};

static const screen_style plain = {.ink = INK_PLAIN};
static const screen_style strong = {.ink = INK_PLAIN, .is_bold = true};

/* The places of the page's parts. */
typedef struct places {
    int keys_at; /* column */
    int key_columns;
    int middle;     /* rows of outputs and keys */
    int conditions; /* row */
    int reception;
    int journal;
    int lines; /* of it */
} places;

/* Outputs and keys take what they need, and the journal the rest. */
static places places_of(const live_page *page)
{
    const int columns = screen_columns();
    const int condition_rows = columns >= WIDE ? 1 : 2;
    const int free = screen_rows() - TOP - condition_rows - 2; /* of reception and help */
    const int keys_at = MIN(columns - MIN_KEYS, MAX_OUTPUT + 2);
    const int key_columns = (columns - keys_at) / KEY_WIDTH;
    const int key_rows = ((int)page->keys->len + key_columns - 1) / key_columns;
    const int needed = MAX((int)page->outputs->len, key_rows);
    const int middle = CLAMP(needed, 1, MAX(free - MIN_LINES, free / 2));
    return (places){.keys_at = keys_at,
                    .key_columns = key_columns,
                    .middle = middle,
                    .conditions = TOP + middle,
                    .reception = TOP + middle + condition_rows,
                    .journal = TOP + middle + condition_rows + 1,
                    .lines = free - middle};
}

unsigned live_page_keys(const live_page *page)
{
    const places at = places_of(page);
    return (unsigned)(at.middle * at.key_columns);
}

unsigned live_page_lines(const live_page *page)
{
    return (unsigned)MAX(places_of(page).lines, 1);
}

static char *time_text(uint64_t us)
{
    const unsigned s = (unsigned)(us / 1000000);
    return g_strdup_printf("%u:%02u.%03u", s / 60, s % 60, (unsigned)(us / 1000 % 1000));
}

static void put_head(const live_page *page)
{
    const int columns = screen_columns();
    g_autofree char *time = time_text(page->now_us);
    g_autofree char *speed = page->is_paused   ? g_strdup("paused")
                             : page->speed < 1 ? g_strdup_printf("1/%g speed", 1 / page->speed)
                                               : g_strdup_printf("%gx speed", page->speed);
    g_autofree char *right = g_strdup_printf("%s%s   %s%s   ", page->is_recording ? "recording   " : "", time,
                                             speed, page->is_late && !page->is_paused ? ", late" : "");
    g_autofree char *lost = g_strdup_printf("lost edges %u", page->lost_edges);
    const int lost_width = screen_width_of(lost);
    const int width = screen_width_of(right) + lost_width;
    screen_put(0, 0, columns - width - 2, strong, page->title);
    screen_put(0, columns - width, width, plain, right);
    screen_put(0, columns - lost_width, lost_width,
               (screen_style){.ink = INK_PLAIN, .is_inverted = page->lost_edges > 0}, lost);
    screen_put(1, 0, columns, plain, page->state);
}

static void put_outputs(live_page *page, const places *at)
{
    enum { MIN_NAME = 6, MAX_NAME = 14 };
    int name_width = MIN_NAME;
    int shown = 0;
    for (guint i = 0; i < page->outputs->len; i++) {
        const live_output *const output = &g_array_index(page->outputs, live_output, i);
        name_width = MAX(name_width, MIN(screen_width_of(output->name), MAX_NAME));
    }
    const unsigned all = page->outputs->len;
    const bool is_long = all > (unsigned)at->middle;
    const unsigned room = (unsigned)at->middle - (is_long ? 1 : 0);
    page->first_output = MIN(page->first_output, all > room ? all - room : 0);
    for (unsigned i = page->first_output; i < all && shown < (int)room; i++) {
        live_output_put(&g_array_index(page->outputs, live_output, i), TOP + shown, 0, at->keys_at - 2,
                        name_width);
        shown++;
    }
    if (is_long) {
        g_autofree char *text = g_strdup_printf("outputs %u-%u of %u: < > show more", page->first_output + 1,
                                                page->first_output + (unsigned)shown, all);
        screen_put(TOP + at->middle - 1, 0, at->keys_at - 2, plain, text);
    }
}

static void put_key(const live_key *key, int row, int column)
{
    const screen_style style = {.ink = INK_HANDSET, .is_inverted = key->is_down, .is_bold = key->stays_down};
    const char letter[] = {key->letter, '\0'};
    g_autofree char *text = g_strdup_printf("%s%s", key->name,
                                            key->is_switch    ? key->is_down ? " shut" : " open"
                                            : key->stays_down ? " held"
                                                              : "");
    screen_put(row, column, 2, strong, letter);
    screen_put(row, column + 2, KEY_WIDTH - 3, style, text);
}

static void put_keys(live_page *page, const places *at)
{
    const unsigned room = live_page_keys(page);
    const unsigned all = page->keys->len;
    page->first_key = page->first_key < all ? page->first_key : 0;
    for (unsigned i = 0; i < room && page->first_key + i < all; i++) {
        put_key(&g_array_index(page->keys, live_key, page->first_key + i), TOP + (int)i % at->middle,
                at->keys_at + KEY_WIDTH * ((int)i / at->middle));
    }
}

int live_page_key_at(const live_page *page, int row, int column)
{
    const places at = places_of(page);
    if (row < TOP || row >= TOP + at.middle || column < at.keys_at) {
        return -1;
    }
    const unsigned nth = (unsigned)((column - at.keys_at) / KEY_WIDTH * at.middle + row - TOP);
    return nth < live_page_keys(page) && page->first_key + nth < page->keys->len
               ? (int)(page->first_key + nth)
               : -1;
}

/* A condition: "distance 3 m". */
typedef struct condition_place {
    int row;
    int from;
    int until; /* column */
} condition_place;

static condition_place place_of_condition(const live_page *page, unsigned which)
{
    enum { IN_FIRST_ROW = 4, APART = 2 };
    condition_place at = {.row = places_of(page).conditions};
    for (unsigned i = 0; i <= which; i++) {
        const live_condition *const condition = &page->conditions[i];
        if (i == IN_FIRST_ROW && screen_columns() < WIDE) {
            at.row++;
            at.until = 0;
        }
        at.from = at.until > 0 ? at.until + APART : 0;
        at.until = at.from + screen_width_of(condition->name) + 1 + screen_width_of(condition->value);
    }
    return at;
}

static void put_conditions(const live_page *page)
{
    for (unsigned i = 0; i < page->condition_count; i++) {
        const live_condition *const condition = &page->conditions[i];
        const condition_place at = place_of_condition(page, i);
        g_autofree char *text = g_strdup_printf("%s %s", condition->name, condition->value);
        const screen_style style = {
            .ink = INK_PLAIN, .is_inverted = i == page->condition, .is_bold = !condition->is_plain};
        screen_put(at.row, at.from, at.until - at.from, style, text);
    }
}

int live_page_condition_at(const live_page *page, int row, int column)
{
    for (unsigned i = 0; i < page->condition_count; i++) {
        const condition_place at = place_of_condition(page, i);
        if (row == at.row && column >= at.from && column < at.until) {
            return (int)i;
        }
    }
    return -1;
}

/* A low margin gets a "!", in place of hatching. */
static void put_reception(const live_page *page, int row)
{
    enum { LOW_MARGIN = 30, BAR = 12, FROM = 14 };
    g_autofree char *text =
        page->margin < 0 ? g_strdup("margin -") : g_strdup_printf("margin %d %%", page->margin);
    screen_put(row, 0, FROM - 1, plain, text);
    screen_bar(row, FROM, BAR, 0, page->margin / 100.0, INK_HANDSET);
    const int at = FROM + BAR + 1;
    const bool is_low = page->margin >= 0 && page->margin < LOW_MARGIN;
    screen_put(row, at, 7, (screen_style){.ink = INK_PLAIN, .is_inverted = is_low}, is_low ? "! low" : "");
    screen_put(row, at + (is_low ? 7 : 0), screen_columns() - at, plain, page->reception);
}

static void put_journal(live_page *page, int row, int lines)
{
    enum { TIME_WIDTH = 11 };
    const unsigned all = journal_count(page->journal);
    page->back = MIN(page->back, all > (unsigned)lines ? all - (unsigned)lines : 0);
    const unsigned end = all - page->back;
    const unsigned from = end > (unsigned)lines ? end - (unsigned)lines : 0;
    for (unsigned i = from; i < end; i++) {
        const journal_line *const line = journal_at(page->journal, i);
        g_autofree char *time = time_text(line->at_us);
        g_autofree char *more = line->more > 1    ? g_strdup_printf("  (%u times more)", line->more)
                                : line->more == 1 ? g_strdup("  (once more)")
                                                  : g_strdup("");
        g_autofree char *text = g_strconcat(line->is_alert ? "! " : "", line->text, more, NULL);
        const int at = row + (int)(i - from);
        screen_put(at, 0, TIME_WIDTH - 1, plain, time);
        screen_put(at, TIME_WIDTH, screen_columns() - TIME_WIDTH,
                   (screen_style){.ink = line->ink, .is_inverted = line->is_alert}, text);
    }
    if (page->back > 0) {
        g_autofree char *text = g_strdup_printf(" %u newer below ", page->back);
        const int width = screen_width_of(text);
        screen_put(row + lines - 1, screen_columns() - width, width,
                   (screen_style){.ink = INK_PLAIN, .is_inverted = true}, text);
    }
}

static void put_help(const live_page *page, int row)
{
    const char *const more = page->keys->len > live_page_keys(page) ? "  Tab more keys" : "";
    const char *const keys = page->has_script ? "a script plays"
                             : screen_columns() >= WIDE
                                 ? "a letter taps a key, a capital holds it, the mouse does both"
                                 : "a taps, A holds";
    g_autofree char *text = g_strconcat("Esc ends  ? helps  ", keys,
                                        "  arrows: the room  space stops  + - speed  PgUp back", more, NULL);
    screen_put(row, 0, screen_columns(), plain, text);
}

/* What the keys do, in full. */
static void put_all_help(void)
{
    static const char *const lines[][2] = {
        {"letter, digit", "taps the key beside it; turns a switch"},
        {"capital", "holds that key, until it is pressed again"},
        {"mouse", "holds a key while its button is down"},
        {"left, right", "choose what of the room is turned"},
        {"up, down", "turn it"},
        {"space", "stops the time, and lets it go on"},
        {"+ -", "faster, slower"},
        {"PgUp, PgDn, Home, End", "the journal, farther back"},
        {"< >", "more outputs"},
        {"Tab", "more keys"},
        {"?", "back to the bench"},
        {"Esc, F10, Ctrl-C", "end"},
    };
    enum { WHAT_FROM = 24 };
    for (int i = 0; i < (int)G_N_ELEMENTS(lines) && i < screen_rows(); i++) {
        screen_put(i, 0, WHAT_FROM - 1, (screen_style){.ink = INK_PLAIN, .is_bold = true}, lines[i][0]);
        screen_put(i, WHAT_FROM, screen_columns() - WHAT_FROM, plain, lines[i][1]);
    }
}

void live_page_draw(live_page *page)
{
    screen_begin();
    if (screen_rows() < MIN_ROWS || screen_columns() < MIN_COLUMNS) {
        g_autofree char *text = g_strdup_printf("%dx%d is small", screen_columns(), screen_rows());
        g_autofree char *needed = g_strdup_printf("%dx%d, please", MIN_COLUMNS, MIN_ROWS);
        screen_put(0, 0, screen_columns(), plain, text);
        screen_put(1, 0, screen_columns(), plain, needed);
        screen_put(2, 0, screen_columns(), plain, "Esc ends");
        screen_show();
        return;
    }
    if (page->is_helping) {
        put_all_help();
        screen_show();
        return;
    }
    const places at = places_of(page);
    put_head(page);
    put_outputs(page, &at);
    put_keys(page, &at);
    put_conditions(page);
    put_reception(page, at.reception);
    put_journal(page, at.journal, at.lines);
    put_help(page, screen_rows() - 1);
    screen_show();
}
