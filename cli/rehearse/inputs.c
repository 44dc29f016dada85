/* Puts the input on the bench: presses, touches and edges. */
#include "cli/rehearse/inputs.h"

#include "cli/io/io.h"

#include "capture/capture.h"
#include "cli/rehearse/presses.h"

#include <string.h>
#include <unistd.h>

/* False if a press can't be made, which has been reported. */
static bool add_presses(rehearsal *run)
{
    for (guint i = 0; i < run->script->len; i++) {
        const script_press *const press = &g_array_index(run->script, script_press, i);
        if (press->handset == SCRIPT_A_SWITCH) {
            sim_bench_touch(run->bench, plan_switch_pin(run->plan, press->key), press->at_ms * UINT64_C(1000),
                            press->closes);
            continue;
        }
        if (press->handset >= SCRIPT_NO_KEY) {
            continue; /* the rehearsal does that */
        }
        const int pin = plan_button_pin(run->plan, press->handset, press->key);
        if (pin >= 0) {
            sim_bench_touch(run->bench, (uint8_t)pin, press->at_ms * UINT64_C(1000), true);
            sim_bench_touch(run->bench, (uint8_t)pin, (press->at_ms + (uint64_t)press->held_ms) * 1000,
                            false);
            continue;
        }
        const drom_code code =
            plan_tables(run->plan)->keys.handsets.rows[press->handset].codes.rows[press->key];
        const sim_press finger = {
            .waveform = plan_waveform(run->plan, code.protocol),
            .code = code,
            .at_us = press->at_ms * UINT64_C(1000),
            .held_us = press->held_ms * UINT64_C(1000),
            .room = {.jitter_us = run->jitter_us},
        };
        if (finger.waveform == NULL || !sim_bench_press(run->bench, &finger)) {
            complain(run->verb, "the press of '%s' at %u ms can't be sent",
                     plan_key_name(run->plan, press->handset, press->key), press->at_ms);
            return false;
        }
    }
    return true;
}

static int add_capture(rehearsal *run, FILE *file, const char *path, const char *signal, bool is_idle_low)
{
    g_autoptr(GError) error = NULL;
    capture *const from = capture_open(file, signal, is_idle_low, &error);
    capture_edge edge;
    capture_read read = from != NULL ? capture_next(from, &edge, &error) : CAPTURE_FAULT;
    bool is_mark = false;
    uint64_t edges = 0;
    for (; read == CAPTURE_EDGE || read == CAPTURE_TIME; read = capture_next(from, &edge, &error)) {
        if (read == CAPTURE_EDGE && edge.is_mark != is_mark) {
            sim_bench_add_edge(run->bench, edge.at_us, edge.is_mark);
            is_mark = edge.is_mark;
            edges++;
        }
    }
    const unsigned garbage = from != NULL ? capture_garbage(from) : 0;
    capture_free(from);
    if (garbage > 0) {
        complain(run->verb, "%s: %u line%s held no runs, passed over", path, garbage,
                 garbage == 1 ? "" : "s");
    }
    if (read == CAPTURE_END) {
        return garbage > 0 && edges == 0 ? EXIT_FILE : EXIT_DONE;
    }
    complain(run->verb, "%s: %s", path, error->message);
    return error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
}

/* Input from a pipe is stored in a file first, so that its beginning can be examined. */
static void make_seekable(FILE *file)
{
    FILE *const copy = fseek(file, 0, SEEK_CUR) != 0 ? tmpfile() : NULL;
    char bytes[4096];
    if (copy == NULL) {
        return;
    }
    for (size_t count = fread(bytes, 1, sizeof bytes, file); count > 0;
         count = fread(bytes, 1, sizeof bytes, file)) {
        (void)fwrite(bytes, 1, count, copy);
    }
    (void)fflush(copy);
    (void)dup2(fileno(copy), fileno(file));
    (void)fclose(copy);
    rewind(file);
}

/* A script begins with the name of a column. What is neither a script nor a capture is read as a VCD, which
 * says why. */
static bool is_script(FILE *file)
{
    char head[512] = "";
    make_seekable(file);
    const size_t length = fread(head, 1, sizeof head - 1, file);
    rewind(file);
    head[length] = '\0';
    const unsigned char first = (unsigned char)head[strspn(head, " \t\r\n")];
    return !capture_begins(head) && (first == '"' || first == 0xef || g_ascii_isalnum(first));
}

static int add_script(rehearsal *run, const char *path)
{
    report *const faults = report_new();
    run->script = script_read(path, run->plan, run->expected, faults);
    report_print(faults, stderr);
    const int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    return run->script != NULL && add_presses(run) ? EXIT_DONE : code;
}

int inputs_take(rehearsal *run, char **inputs, const char *signal, bool is_idle_low)
{
    const char *const path = inputs[0];
    const bool is_file =
        path != NULL && inputs[1] == NULL &&
        (strcmp(path, "-") == 0 || strpbrk(path, "/") != NULL || g_file_test(path, G_FILE_TEST_EXISTS));
    if (!is_file) {
        run->script = path != NULL ? presses_read(run->plan, inputs) : presses_of_rules(run->plan);
        return run->script != NULL && add_presses(run) ? EXIT_DONE : EXIT_NO;
    }
    FILE *const file = open_input(run->verb, path);
    if (file == NULL) {
        return EXIT_FILE;
    }
    const int code =
        is_script(file) ? add_script(run, path) : add_capture(run, file, path, signal, is_idle_low);
    close_input(file);
    return code;
}
