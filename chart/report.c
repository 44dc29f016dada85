#include "chart/report.h"

#include "chart/rehearsed.h"
#include "chart/rows.h"
#include "chart/wiring.h"
#include "plan/text/plain.h"
#include "plan/vet/vet.h"
#include "report_page.h"

#include <gio/gio.h>

enum { WIDTH = 1280, MIN_PX = 200 };

/* A page that is being written. */
typedef struct page {
    GString *out;
    const plan *plan;
    const json_t *rows;
    lanes_view view;
} page;

static void put_escaped(page *into, const char *text)
{
    g_autofree char *plain = plain_text(text);
    g_autofree char *escaped = g_markup_escape_text(plain, -1);
    g_string_append(into->out, escaped);
}

/* <what>text</what> */
static void put_element(page *into, const char *what, const char *text)
{
    g_string_append_printf(into->out, "<%s>", what);
    put_escaped(into, text);
    g_string_append_printf(into->out, "</%s>\n", what);
}

static void put_resource(page *into, const char *path)
{
    g_autoptr(GBytes) bytes =
        g_resource_lookup_data(report_page_get_resource(), path, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
    gsize length = 0;
    const char *const text = g_bytes_get_data(bytes, &length);
    g_string_append_len(into->out, text, (gssize)length);
}

/* For a light and a dark background; one of them is shown. `level` is an additional class. */
static void put_pictures(page *into, const char *level, picture *light, picture *dark)
{
    const char *const grounds[] = {"light", "dark"};
    picture *const pictures[] = {light, dark};
    for (gsize i = 0; i < G_N_ELEMENTS(pictures); i++) {
        g_autofree char *svg = picture_svg(pictures[i]);
        g_string_append_printf(into->out, "<div class=\"%s %s\">%s</div>\n", grounds[i], level, svg);
        picture_free(pictures[i]);
    }
}

static bool is_missed(const json_t *row)
{
    return row_is(row, "unheard") || (row_is(row, "expected") && !json_is_true(json_object_get(row, "met")));
}

/* Returns an event in words; NULL if it is shown elsewhere. To be freed. */
static char *said_of(const json_t *row)
{
    if (row_is(row, "key")) {
        return g_strdup_printf("%s.%s %s", row_text(row, "handset"), row_text(row, "key"),
                               row_text(row, "gesture"));
    }
    if (row_is(row, "rule")) {
        return g_strdup_printf("rule of line %d", (int)json_integer_value(json_object_get(row, "line")));
    }
    if (row_is(row, "action")) {
        return g_strdup_printf("%s %s", row_text(row, "output"), row_text(row, "action"));
    }
    if (row_is(row, "output")) {
        return g_strdup_printf("%s is %s", row_text(row, "output"), row_text(row, "state"));
    }
    if (row_is(row, "burst")) {
        const char *const key = row_text(row, "key");
        return g_strdup_printf("%s sent %s", row_text(row, "output"),
                               key[0] != '\0' ? key : row_text(row, "heard"));
    }
    if (row_is(row, "expected")) {
        return g_strdup_printf("%s%s%s%s", is_missed(row) ? "" : "met: ", row_text(row, "expect"),
                               is_missed(row) ? "; but " : "", is_missed(row) ? row_text(row, "found") : "");
    }
    if (row_is(row, "unheard")) {
        return g_strdup_printf("%s.%s wasn't heard: %s", row_text(row, "handset"), row_text(row, "key"),
                               row_text(row, "why"));
    }
    return row_is(row, "event") ? g_strdup(row_text(row, "event")) : NULL;
}

/* At the top; each links to its place on the timeline. */
static void put_missed(page *into)
{
    size_t i;
    const json_t *row;
    bool is_any = false;
    json_array_foreach((json_t *)into->rows, i, row)
    {
        if (!is_missed(row)) {
            continue;
        }
        g_autofree char *said = said_of(row);
        g_string_append(into->out, is_any ? "" : "<h2>Missed</h2>\n<ul>\n");
        g_string_append_printf(into->out,
                               "<li><span class=\"alert\">! <a href=\"#timeline\" data-x=\"%.0f\">%.3f s: ",
                               lanes_x(&into->view, row_us(row, "t_us")), (double)row_us(row, "t_us") / 1e6);
        put_escaped(into, said);
        g_string_append(into->out, "</a></span></li>\n");
        is_any = true;
    }
    g_string_append(into->out, is_any ? "</ul>\n" : "");
}

/* The same as text. */
static void put_table(page *into)
{
    enum { MAX_ROWS = 3000 };
    size_t i;
    const json_t *row;
    unsigned count = 0;
    g_string_append(
        into->out,
        "<details><summary>The same as a table</summary>\n<table id=\"rows\"><thead><tr><th>time</th>"
        "<th>what</th></tr></thead><tbody>\n");
    json_array_foreach((json_t *)into->rows, i, row)
    {
        g_autofree char *said = said_of(row);
        if (said == NULL || ++count > MAX_ROWS) {
            continue;
        }
        g_string_append_printf(into->out, "<tr data-kind=\"%s\"><td>%.3f s</td>", row_text(row, "kind"),
                               (double)row_us(row, "t_us") / 1e6);
        put_element(into, "td", said);
        g_string_append(into->out, "</tr>\n");
    }
    g_string_append(into->out, "</tbody></table>\n");
    if (count > MAX_ROWS) {
        g_string_append_printf(into->out, "<p>and %u more; 'dromikos rehearse --format jsonl' has all</p>\n",
                               count - MAX_ROWS);
    }
    g_string_append(into->out, "</details>\n");
}

/* Returns how often the rules of a line have fired; -1: no rule. */
static int fired_on(const page *into, int line)
{
    const drom_rules_plan *const rules = &plan_tables(into->plan)->rules;
    bool has_rule = false;
    int fired = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        has_rule |= plan_rule_line(into->plan, i) == line && plan_rule_file(into->plan, i) == NULL;
    }
    size_t i;
    const json_t *row;
    json_array_foreach((json_t *)into->rows, i, row)
    {
        fired += row_is(row, "rule") && json_integer_value(json_object_get(row, "line")) == line;
    }
    return has_rule ? fired : -1;
}

/* The plan's text; beside each rule how often it has fired. */
static void put_plan(page *into, const char *text)
{
    g_autofree char *plain = plain_text(text);
    g_auto(GStrv) lines = g_strsplit(g_strchomp(plain), "\n", -1);
    g_string_append(into->out,
                    "<h2>The plan, and how often each rule fired</h2>\n<table id=\"plan\"><tbody>\n");
    for (int i = 0; lines[i] != NULL; i++) {
        const int fired = fired_on(into, i + 1);
        g_autofree char *count = fired < 0    ? g_strdup("")
                                 : fired == 0 ? g_strdup("never")
                                              : g_strdup_printf("%d", fired);
        g_string_append_printf(into->out, "<tr><td>%d</td><td>%s</td><td><pre%s>", i + 1, count,
                               fired == 0 ? " class=\"never\"" : "");
        put_escaped(into, lines[i]);
        g_string_append(into->out, "</pre></td></tr>\n");
    }
    g_string_append(into->out, "</tbody></table>\n");
}

/* vet's findings to check. */
static void put_checks(page *into)
{
    vet_result *const result = vet_plan(into->plan);
    const GPtrArray *const lists[] = {result->times, result->pins, result->currents};
    unsigned fitting = 0;
    g_string_append(into->out, "<h2>On its board</h2>\n<ul>\n");
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            fitting += finding->verdict == VET_FITS;
            if (finding->verdict != VET_FITS) {
                g_autofree char *found = vet_finding_text(finding);
                g_autofree char *text = g_strdup_printf(
                    "%s%s: %s", finding->verdict == VET_FAILS ? "FAILS: " : "", finding->about, found);
                put_element(into, "li", text);
            }
        }
    }
    g_string_append_printf(into->out, "<li>%u things fit</li>\n</ul>\n", fitting);
    vet_free(result);
}

/* Of the received frames. -1: none. */
static int worst_margin(const json_t *rows)
{
    size_t i;
    const json_t *row;
    int worst = -1;
    json_array_foreach((json_t *)rows, i, row)
    {
        const json_t *const margin = json_object_get(row, "margin");
        if (row_is(row, "frame") && margin != NULL) {
            const int percent = (int)json_number_value(margin);
            worst = worst < 0 ? percent : MIN(worst, percent);
        }
    }
    return worst;
}

static picture *draw_timeline(const rehearsed *made, lanes_view *view, bool is_dark)
{
    view->is_dark = is_dark;
    return lanes_draw(made->lanes, view);
}

/* The whole timeline, and a wider one for zooming. */
static void put_timeline(page *into, const rehearsed *made)
{
    enum { FINE_WIDTH = 8000, MAX_BYTES = 1500000 };
    g_string_append_printf(
        into->out,
        "<h2>Over time</h2>\n<p class=\"keys\"><button type=\"button\" data-key=\"+\">closer</button> "
        "<button type=\"button\" data-key=\"-\">farther</button> "
        "<button type=\"button\" data-key=\"0\">all</button> "
        "<button type=\"button\" data-key=\"ArrowLeft\">earlier</button> "
        "<button type=\"button\" data-key=\"ArrowRight\">later</button> "
        "or the keys + - 0 and the arrows; the mouse moves it, too</p>\n"
        "<div class=\"stage\" id=\"timeline\" data-left=\"%.0f\" data-right=\"%.0f\" tabindex=\"0\" "
        "role=\"group\" "
        "aria-label=\"Timeline; the same as a table is below\">\n",
        lanes_x(&into->view, into->view.from_us), WIDTH - lanes_x(&into->view, into->view.until_us));
    put_pictures(into, "coarse", draw_timeline(made, &into->view, false),
                 draw_timeline(made, &into->view, true));
    const gsize before = into->out->len;
    lanes_view wide = into->view;
    wide.width = FINE_WIDTH;
    put_pictures(into, "fine", draw_timeline(made, &wide, false), draw_timeline(made, &wide, true));
    if (into->out->len > MAX_BYTES) {
        g_string_truncate(into->out, before);
    }
    g_string_append(into->out, "</div>\n");
}

char *report_page(const plan *loaded, const char *text, const json_t *rows)
{
    rehearsed made = rehearsed_of(loaded, rows);
    page into = {.out = g_string_new(
                     "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
                     "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>"),
                 .plan = loaded,
                 .rows = rows,
                 .view = {.heading = made.heading,
                          .below = made.below,
                          .until_us = made.until_us,
                          .width = WIDTH,
                          .height = MIN_PX,
                          .is_fitted = true}};
    put_escaped(&into, made.heading);
    g_string_append(into.out, "</title>\n<style>\n");
    put_resource(&into, "/report/report.css");
    g_string_append(into.out, "</style>\n</head>\n<body>\n<main>\n");
    put_element(&into, "h1", made.heading);
    const int margin = worst_margin(rows);
    g_autofree char *below =
        margin < 0 ? g_strdup(made.below)
                   : g_strdup_printf("%s; the worst margin of a frame: %d %%", made.below, margin);
    put_element(&into, "p", below);
    put_missed(&into);
    put_timeline(&into, &made);
    put_table(&into);
    put_plan(&into, text);
    put_checks(&into);
    g_string_append(into.out, "<h2>Wiring</h2>\n<div id=\"wiring\">\n");
    put_pictures(&into, "", wiring_draw(loaded, WIDTH, MIN_PX, false),
                 wiring_draw(loaded, WIDTH, MIN_PX, true));
    g_string_append(into.out, "</div>\n</main>\n<script>\n");
    put_resource(&into, "/report/report.js");
    g_string_append(into.out, "</script>\n</body>\n</html>\n");
    rehearsed_clear(&made);
    return g_string_free(into.out, FALSE);
}
