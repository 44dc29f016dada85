#include "support.h"
#include "dromikos/internal/receive.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

static char *folder;

static void remove_folder(void)
{
    if (folder != NULL) {
        g_autofree char *command = g_strdup_printf("rm -rf '%s'", folder);
        (void)g_spawn_command_line_sync(command, NULL, NULL, NULL, NULL);
        g_free(folder);
    }
}

/* Shell commands use variables without quotes for programs and files, so each path that may have blanks gets
 * a link. */
static void link_variable(const char *name)
{
    const char *const path = g_getenv(name);
    if (path == NULL) {
        return;
    }
    g_autofree char *lower = g_ascii_strdown(name, -1);
    g_autofree char *link = g_build_filename(folder, lower, NULL);
    if (symlink(path, link) == 0) {
        (void)g_setenv(name, link, TRUE);
    }
}

enum { MAX_TESTS = 100 };
static const TTest **tests[MAX_TESTS];
static unsigned test_count;

void join_suite(const TTest **test)
{
    g_assert(test_count < MAX_TESTS);
    tests[test_count++] = test;
}

int run_suite(const char *name)
{
    static const char *const variables[] = {"DROMIKOS", "LANTERN", "SERIAL_CHIP", "EXAMPLES"};
    folder = g_dir_make_tmp("dromikos-test-XXXXXX", NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(variables); i++) {
        link_variable(variables[i]);
    }
    Suite *const all = suite_create(name);
    TCase *const only = tcase_create(name);
    for (unsigned i = 0; i < test_count; i++) {
        tcase_add_test(only, *tests[i]);
    }
    suite_add_tcase(all, only);
    SRunner *const runner = srunner_create(all);
    srunner_run_all(runner, CK_NORMAL);
    const int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    remove_folder();
    return failed == 0 ? EXIT_SUCCESS : EXIT_FAILURE;
}

static const drom_protocol_ref nec_only[] = {&drom_nec};

void ear_open(ear *listening, drom_us start)
{
    memset(listening, 0, sizeof *listening);
    listening->plan = (drom_receive_plan){
        .protocols = DROM_ROWS(nec_only),
        .decoders = listening->decoders,
        .fine = &listening->fine,
        .unknown = DROM_FINGERPRINTS(listening->fingerprint),
    };
    listening->now = start;
    drom_receiver_init(&listening->receiver, &listening->plan);
}

static void take_frames(ear *listening)
{
    drom_frame frame;
    while (drom_receiver_advance(&listening->receiver, listening->now, &frame)) {
        if (listening->count < G_N_ELEMENTS(listening->frames)) {
            listening->frames[listening->count] = frame;
            listening->heard_at[listening->count] = listening->now;
        }
        listening->count++;
    }
}

/* Lets time pass as in a poll loop, in the steps that the receiver asks for. */
static void pass(ear *listening, drom_us us)
{
    for (drom_us wait = drom_receiver_wait(&listening->receiver, listening->now); wait <= us;
         wait = drom_receiver_wait(&listening->receiver, listening->now)) {
        listening->now += wait;
        us -= wait;
        take_frames(listening);
    }
    listening->now += us;
    take_frames(listening);
}

void ear_edge(ear *listening, drom_us us, bool is_mark, bool after_loss)
{
    pass(listening, us);
    drom_receiver_edge(&listening->receiver, &(drom_edge){listening->now, is_mark, after_loss}, 0);
}

void ear_mark(ear *listening, drom_us us)
{
    drom_receiver_edge(&listening->receiver, &(drom_edge){listening->now, true, false}, 0);
    pass(listening, us);
}

void ear_space(ear *listening, drom_us us)
{
    drom_receiver_edge(&listening->receiver, &(drom_edge){listening->now, false, false}, 0);
    pass(listening, us);
}

void ear_silence(ear *listening)
{
    pass(listening, 1000000);
}

static drom_us scaled(double us, double scale, int stretch_us)
{
    return (drom_us)(us * scale + stretch_us);
}

void ear_nec(ear *listening, const char *bits, double scale, int stretch_us)
{
    ear_mark(listening, scaled(9000, scale, stretch_us));
    ear_space(listening, scaled(4500, scale, -stretch_us));
    for (; *bits != '\0'; bits++) {
        if (*bits != ' ') {
            ear_mark(listening, scaled(562, scale, stretch_us));
            ear_space(listening, scaled(*bits == '1' ? 1687 : 562, scale, -stretch_us));
        }
    }
    ear_mark(listening, scaled(562, scale, stretch_us));
    ear_space(listening, 0);
}

void ear_nec_repeat(ear *listening, double scale, int stretch_us)
{
    ear_mark(listening, scaled(9000, scale, stretch_us));
    ear_space(listening, scaled(2250, scale, -stretch_us));
    ear_mark(listening, scaled(562, scale, stretch_us));
    ear_space(listening, 0);
}

said run_shell(const char *format, ...)
{
    said heard = {0};
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *command = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    const char *words[] = {"/bin/sh", "-c", command, NULL};
    int status = 0;
    g_autoptr(GError) error = NULL;
    if (!g_spawn_sync(NULL, (char **)words, NULL, G_SPAWN_DEFAULT, NULL, NULL, &heard.out, &heard.err,
                      &status, &error)) {
        ck_abort_msg("%s", error->message);
    }
    heard.code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    return heard;
}

void check_refusals(const char *before, const refusal *rows, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        g_auto(said) heard = run_shell("%s%s", before, rows[i].command);
        ck_assert_msg(strstr(heard.err, rows[i].reported) != NULL, "%s: '%s' isn't in:\n%s", rows[i].command,
                      rows[i].reported, heard.err);
        ck_assert_msg(heard.code == rows[i].code, "%s: %d", rows[i].command, heard.code);
    }
}

void said_free(said *unwanted)
{
    g_free(unwanted->out);
    g_free(unwanted->err);
}

char *write_bytes(const char *name, const void *bytes, gsize length)
{
    char *const path = g_build_filename(folder, name, NULL);
    g_autofree char *parent = g_path_get_dirname(path);
    ck_assert_int_eq(g_mkdir_with_parents(parent, 0777), 0);
    ck_assert(g_file_set_contents(path, bytes, (gssize)length, NULL));
    return path;
}

char *write_file(const char *name, const char *text)
{
    return write_bytes(name, text, strlen(text));
}

json_t *json_lines(const char *text, const char *kind)
{
    json_t *const found = json_array();
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line != NULL; line++) {
        json_error_t error;
        json_t *const object = **line != '\0' ? json_loads(*line, 0, &error) : NULL;
        ck_assert_msg(**line == '\0' || object != NULL, "no JSON: %s", *line);
        if (object != NULL &&
            (kind == NULL || g_strcmp0(json_string_value(json_object_get(object, "kind")), kind) == 0)) {
            json_array_append_new(found, object);
        } else {
            json_decref(object);
        }
    }
    return found;
}

void need_terminal(void)
{
    const int chip = posix_openpt(O_RDWR | O_NOCTTY);
    ck_assert_msg(chip >= 0 && grantpt(chip) == 0 && unlockpt(chip) == 0 && access(ptsname(chip), R_OK) == 0,
                  "this test needs a pseudo-terminal, and there is none here. As root: "
                  "mkdir -p /dev/pts; mount -t devpts devpts /dev/pts -o newinstance,ptmxmode=0666; "
                  "ln -sf /dev/pts/ptmx /dev/ptmx");
    (void)close(chip);
}

const json_t *json_field(const json_t *rows, size_t row, const char *field)
{
    return json_object_get(json_array_get(rows, row), field);
}
