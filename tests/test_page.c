/* The report in a browser: loaded, zoomed, and its figures compared with the JSON Lines. */
#include "support.h"

#include "browser.h"

#include <string.h>

#define ZOOM "return Number(document.getElementById('timeline').dataset.zoom)"
#define SHOWN "[...document.querySelectorAll('#timeline svg')].find(one => one.getClientRects().length > 0)"
#define LEFT "return " SHOWN ".viewBox.baseVal.x"
#define TALL "return Math.round(" SHOWN ".getBoundingClientRect().height)"
#define LABELS "return [...(" SHOWN ").querySelectorAll('text')].length"
#define GROUND "return getComputedStyle(document.body).backgroundColor"

/* Writes a report, in a folder with a blank in its name. To be freed. */
static char *report_of(const char *arguments, int code)
{
    char *const path = write_file("an evening/the page.html", "");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --report '%s' %s", path, arguments);
    ck_assert_msg(heard.code == code, "%d: %.1000s", heard.code, heard.err);
    return path;
}

TEST(report_is_loaded_zoomed_and_says_what_the_json_lines_say)
{
    static const char evening[] = "$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv";
    static const char *const kinds[] = {"key", "rule", "action", "event", "output", "expected", "burst"};
    g_autofree char *path = report_of(evening, 0);
    g_auto(said) lines = run_shell("$DROMIKOS rehearse --format jsonl %s", evening);
    browser at = browser_open(1280, 800);
    browser_load(&at, path);
    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++) {
        g_autofree char *count =
            g_strdup_printf("return document.querySelectorAll('#rows tr[data-kind=%s]').length", kinds[i]);
        g_autoptr(json_t) rows = json_lines(lines.out, kinds[i]);
        ck_assert_uint_ge(json_array_size(rows), 3);
        ck_assert_double_eq(browser_number(&at, count), (double)json_array_size(rows));
    }
    /* A key's time is that of its row. */
    g_autoptr(json_t) keys = json_lines(lines.out, "key");
    g_autofree char *time =
        browser_text(&at, "return document.querySelector('#rows tr[data-kind=key] td').textContent");
    g_autofree char *expected = g_strdup_printf("%.3f s", (double)JSON_INT(keys, 0, "t_us") / 1e6);
    ck_assert_str_eq(time, expected);
    ck_assert_double_eq(browser_number(&at, "return performance.getEntriesByType('resource').length"), 0);
    /* No element is wider than the window. */
    ck_assert_double_eq(
        browser_number(&at, "return Math.max(0, document.documentElement.scrollWidth - innerWidth)"), 0);

    json_decref(browser_ask(&at, "document.getElementById('timeline').focus()"));
    ck_assert_double_eq(browser_number(&at, ZOOM), 1);
    browser_type(&at, "+");
    browser_type(&at, "+");
    ck_assert_double_eq_tol(browser_number(&at, ZOOM), 2.25, 0.01);
    const double left = browser_number(&at, LEFT);
    browser_type(&at, BROWSER_RIGHT);
    const double right = browser_number(&at, LEFT);
    ck_assert_double_gt(right, left);
    const double top =
        browser_number(&at, "const box = document.getElementById('timeline').getBoundingClientRect();"
                            "return Math.max(box.top, 0)");
    browser_drag(&at, 400, (int)top + 100, 500, (int)top + 100); /* the mouse moves it */
    ck_assert_double_lt(browser_number(&at, LEFT), right);
    browser_type(&at, "-");
    ck_assert_double_eq_tol(browser_number(&at, ZOOM), 1.5, 0.01);
    const double labels = browser_number(&at, LABELS);
    const double tall = browser_number(&at, TALL);
    for (unsigned i = 0; i < 4; i++) {
        browser_type(&at, "+");
    }
    ck_assert_double_gt(browser_number(&at, ZOOM), 7);
    ck_assert_double_gt(browser_number(&at, LABELS), labels + 50);            /* more of them fit, */
    ck_assert_double_eq(browser_number(&at, TALL), tall);                     /* in the same place */
    json_decref(browser_ask(&at, "dispatchEvent(new Event('beforeprint'))")); /* print has all of it */
    ck_assert_double_eq(browser_number(&at, ZOOM), 1);

    browser_prefer(&at, "light", "screen");
    g_autofree char *light = browser_text(&at, GROUND);
    browser_prefer(&at, "dark", "screen");
    g_autofree char *dark = browser_text(&at, GROUND);
    ck_assert_str_eq(light, "rgb(250, 248, 242)");
    ck_assert_str_eq(dark, "rgb(22, 24, 26)");
    browser_close(&at);
}

TEST(what_was_missed_is_a_link_to_its_time)
{
    g_autofree char *script =
        write_file("odd.csv", "at_ms,handset,key,held_ms,expect\n500,wand,play,50,\n1200,,,,bell is off\n");
    g_autofree char *arguments = g_strdup_printf("$EXAMPLES/lantern/bell.plan '%s'", script);
    g_autofree char *path = report_of(arguments, 1);
    browser at = browser_open(1280, 800);
    browser_load(&at, path);
    g_autofree char *heading = browser_text(&at, "return document.querySelector('h1').textContent");
    ck_assert_msg(strstr(heading, "0 of 1") != NULL && strstr(heading, "1.200 s") != NULL, "%s", heading);
    json_decref(browser_ask(&at, "document.querySelector('a[data-x]').click()"));
    ck_assert_double_eq_tol(browser_number(&at, ZOOM), 6, 0.01);
    ck_assert_double_gt(browser_number(&at, LEFT), 0);
    g_autofree char *focused = browser_text(&at, "return document.activeElement.id");
    ck_assert_str_eq(focused, "timeline");
    browser_close(&at);
}

TEST(the_report_has_buttons_and_can_be_read_on_a_telephone)
{
    static const char name_px[] =
        "const shown = " SHOWN "; const text = shown.querySelector('text'); return "
        "parseFloat(getComputedStyle(text).fontSize) * shown.getBoundingClientRect().width / "
        "shown.viewBox.baseVal.width";
    g_autofree char *path = report_of("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv", 0);
    browser at = browser_open(1280, 800);
    browser_load(&at, path);
    json_decref(browser_ask(&at, "document.querySelector('button[data-key=\"+\"]').click()"));
    ck_assert_double_eq_tol(browser_number(&at, ZOOM), 1.5, 0.01);
    const double left = browser_number(&at, LEFT);
    json_decref(browser_ask(&at, "document.querySelector('button[data-key=ArrowRight]').click()"));
    ck_assert_double_gt(browser_number(&at, LEFT), left);
    json_decref(browser_ask(&at, "document.querySelector('button[data-key=\"0\"]').click()"));
    ck_assert_double_eq(browser_number(&at, ZOOM), 1);

    browser_shrink(&at, 390, 800);
    browser_load(&at, path);
    ck_assert_double_eq(browser_number(&at, "return innerWidth"), 390);
    ck_assert_double_eq(
        browser_number(&at, "return Math.max(0, document.documentElement.scrollWidth - innerWidth)"), 0);
    ck_assert_double_ge(browser_number(&at, name_px), 9);
    browser_close(&at);
}

SUITE("page")
