#include "browser.h"

#include "support.h"

#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

/* A call; its value is to be freed. */
static json_t *call(const char *method, const char *url, const char *body)
{
    g_autofree char *file = write_file("body.json", body);
    g_auto(said) heard = run_shell(
        "curl -sS -m 120 -X %s -H 'Content-Type: application/json' --data @'%s' '%s'", method, file, url);
    json_t *const answer = json_loads(heard.out, 0, NULL);
    ck_assert_msg(answer != NULL, "%s: %s%s", url, heard.out, heard.err);
    json_t *const value = json_incref(json_object_get(answer, "value"));
    const char *const error = json_string_value(json_object_get(value, "error"));
    ck_assert_msg(error == NULL, "%s: %.1000s", url, heard.out);
    json_decref(answer);
    return value;
}

static void order(const browser *at, const char *what, const char *body)
{
    g_autofree char *url = g_strconcat(at->url, what, NULL);
    json_decref(call("POST", url, body));
}

/* Starts a command of the shell, with its output in a file. */
static GPid start(const char *command, const char *log)
{
    GPid started = 0;
    g_autoptr(GError) error = NULL;
    g_autofree char *line = g_strdup_printf("exec timeout 300 %s >'%s' 2>&1", command, log);
    const bool has_begun =
        g_spawn_async(NULL, (char *[]){"sh", "-c", line, NULL}, NULL,
                      G_SPAWN_SEARCH_PATH | G_SPAWN_DO_NOT_REAP_CHILD, NULL, NULL, &started, &error);
    ck_assert_msg(has_begun, "%s", has_begun ? "" : error->message);
    return started;
}

/* Returns the port that the driver has chosen: what its output has between these words and `end`. */
static unsigned port_of(const char *log, const char *words, char end)
{
    for (unsigned ms = 0; ms < 60000; ms += 50) {
        g_autofree char *text = NULL;
        const char *const at = g_file_get_contents(log, &text, NULL, NULL) ? g_strrstr(text, words) : NULL;
        if (at != NULL && strchr(at + strlen(words), end) != NULL) {
            return (unsigned)g_ascii_strtoull(at + strlen(words), NULL, 10);
        }
        g_usleep(50000);
    }
    ck_abort_msg("nothing listens: %s", log);
    return 0;
}

browser browser_open(int width, int height)
{
    static const char listens[] = "DevTools listening on ws://127.0.0.1:";
    static const char is_started[] = "successfully on port ";
    browser made = {0};
    g_autofree char *log = write_file("browser.txt", "");
    g_autofree char *driver_log = write_file("driver.txt", "");
    g_autofree char *profile = g_path_get_dirname(log);
    g_autofree char *command = g_strdup_printf(
        "chromium --headless --no-sandbox --disable-gpu --disable-dev-shm-usage --remote-debugging-port=0 "
        "--user-data-dir='%s/profile-%d' --window-size=%d,%d about:blank",
        profile, (int)getpid(), width, height);
    made.window = start(command, log);
    made.driver = start("chromedriver --port=0", driver_log);
    g_autofree char *url =
        g_strdup_printf("http://127.0.0.1:%u/session", port_of(driver_log, is_started, '.'));
    /* The window is named by its number: a fresh machine may not know of 'localhost'. */
    g_autofree char *wishes = g_strdup_printf("{\"capabilities\":{\"alwaysMatch\":{\"goog:chromeOptions\":{"
                                              "\"debuggerAddress\":\"127.0.0.1:%u\"}}}}",
                                              port_of(log, listens, '/'));
    json_t *const session = call("POST", url, wishes);
    made.url = g_strconcat(url, "/", json_string_value(json_object_get(session, "sessionId")), NULL);
    json_decref(session);
    return made;
}

void browser_close(browser *at)
{
    json_decref(call("DELETE", at->url, "{}"));
    const GPid both[] = {at->driver, at->window};
    for (size_t i = 0; i < G_N_ELEMENTS(both); i++) {
        (void)kill(both[i], SIGTERM);
        (void)waitpid(both[i], NULL, 0);
    }
    g_free(at->url);
}

void browser_load(const browser *at, const char *path)
{
    g_autofree char *address = g_filename_to_uri(path, NULL, NULL);
    g_autofree char *body = g_strdup_printf("{\"url\":\"%s\"}", address);
    order(at, "/url", body);
}

json_t *browser_ask(const browser *at, const char *script)
{
    g_autofree char *url = g_strconcat(at->url, "/execute/sync", NULL);
    json_t *const body = json_pack("{s:s, s:[]}", "script", script, "args");
    char *const text = json_dumps(body, 0);
    json_t *const value = call("POST", url, text);
    free(text);
    json_decref(body);
    return value;
}

char *browser_text(const browser *at, const char *script)
{
    json_t *const value = browser_ask(at, script);
    char *const text = g_strdup(json_string_value(value));
    ck_assert_msg(text != NULL, "no text: %s", script);
    json_decref(value);
    return text;
}

double browser_number(const browser *at, const char *script)
{
    json_t *const value = browser_ask(at, script);
    ck_assert_msg(json_is_number(value), "no number: %s", script);
    const double number = json_number_value(value);
    json_decref(value);
    return number;
}

void browser_type(const browser *at, const char *key)
{
    g_autofree char *body =
        g_strdup_printf("{\"actions\":[{\"type\":\"key\",\"id\":\"keys\",\"actions\":[{\"type\":\"keyDown\","
                        "\"value\":\"%s\"},{\"type\":\"keyUp\",\"value\":\"%s\"}]}]}",
                        key, key);
    order(at, "/actions", body);
}

void browser_drag(const browser *at, int x, int y, int to_x, int to_y)
{
    g_autofree char *body = g_strdup_printf(
        "{\"actions\":[{\"type\":\"pointer\",\"id\":\"mouse\",\"actions\":["
        "{\"type\":\"pointerMove\",\"x\":%d,\"y\":%d},{\"type\":\"pointerDown\",\"button\":0},"
        "{\"type\":\"pointerMove\",\"x\":%d,\"y\":%d,\"duration\":100},{\"type\":\"pointerUp\",\"button\":0}]"
        "}]}",
        x, y, to_x, to_y);
    order(at, "/actions", body);
}

void browser_prefer(const browser *at, const char *scheme, const char *medium)
{
    g_autofree char *body =
        g_strdup_printf("{\"cmd\":\"Emulation.setEmulatedMedia\",\"params\":{\"media\":\"%s\",\"features\":"
                        "[{\"name\":\"prefers-color-scheme\",\"value\":\"%s\"}]}}",
                        medium, scheme);
    order(at, "/goog/cdp/execute", body);
}

void browser_shrink(const browser *at, int width, int height)
{
    g_autofree char *body =
        g_strdup_printf("{\"cmd\":\"Emulation.setDeviceMetricsOverride\",\"params\":{\"width\":%d,"
                        "\"height\":%d,\"deviceScaleFactor\":2,\"mobile\":true}}",
                        width, height);
    order(at, "/goog/cdp/execute", body);
}
