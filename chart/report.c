#include "chart/report.h"

#include "chart/rehearsed.h"
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
    const GArray *rows;
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

/* Returns an event in words; NULL if it is shown elsewhere. To be freed. */
static char *said_of(const timeline_row *at)
{
    g_autofree char *key = NULL;
    switch (at->kind) {
    case ROW_KEY:
        key = row_key_text(at);
        return g_strdup_printf("%s %s", key, gesture_name(at->data.pressed.gesture));
    case ROW_RULE:
        return g_strdup_printf("rule of line %d", at->data.rule.line);
    case ROW_ACTION:
        return g_strdup_printf("%s %s", at->subject, at->text);
    case ROW_OUTPUT:
        return g_strdup_printf("%s is %s", at->subject, at->data.pin.is_on ? "on" : "off");
    case ROW_BURST:
        return g_strdup_printf("%s sent %s", at->subject, at->found[0] != '\0' ? at->found : at->text);
    case ROW_EXPECTED:
        return at->data.expected.is_met ? g_strdup_printf("met: %s", at->text)
                                        : g_strdup_printf("%s; but %s", at->text, at->found);
    case ROW_UNHEARD:
        key = row_key_text(at);
        return g_strdup_printf("%s wasn't heard: %s", key, at->text);
    case ROW_EVENT:
        return g_strdup(at->text);
    default:
        return NULL;
    }
}

/* At the top; each links to its place on the timeline. */
static void put_missed(page *into)
{
    bool is_any = false;
    for (guint i = 0; i < into->rows->len; i++) {
        const timeline_row *const at = rows_at(into->rows, i);
        if (!row_is_missed(at)) {
            continue;
        }
        g_autofree char *said = said_of(at);
        g_string_append(into->out, is_any ? "" : "<h2>Missed</h2>\n<ul>\n");
        g_string_append_printf(into->out,
                               "<li><span class=\"alert\">! <a href=\"#timeline\" data-x=\"%.0f\">%.3f s: ",
                               lanes_x(&into->view, at->at_us), (double)at->at_us / 1e6);
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
    unsigned count = 0;
    g_string_append(
        into->out,
        "<details><summary>The same as a table</summary>\n<table id=\"rows\"><thead><tr><th>time</th>"
        "<th>what</th></tr></thead><tbody>\n");
    for (guint i = 0; i < into->rows->len; i++) {
        const timeline_row *const at = rows_at(into->rows, i);
        g_autofree char *said = said_of(at);
        if (said == NULL || ++count > MAX_ROWS) {
            continue;
        }
        g_string_append_printf(into->out, "<tr data-kind=\"%s\"><td>%.3f s</td>", row_kind_name(at),
                               (double)at->at_us / 1e6);
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
    for (guint i = 0; i < into->rows->len; i++) {
        const timeline_row *const at = rows_at(into->rows, i);
        fired += at->kind == ROW_RULE && at->data.rule.line == line;
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
static int worst_margin(const GArray *rows)
{
    int worst = -1;
    for (guint i = 0; i < rows->len; i++) {
        const timeline_row *const at = rows_at(rows, i);
        if (at->kind == ROW_FRAME && at->data.frame.protocol != &drom_unknown) {
            const int percent = drom_frame_margin(&at->data.frame);
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

char *report_page(const plan *loaded, const char *text, const GArray *rows)
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
