/* infer: how an unknown handset speaks, as a line for a plan. */
#include "cli/io/io.h"

#include "cli/io/here.h"
#include "cli/receive/line_source.h"
#include "cli/receive/reception.h"
#include "cli/verbs/verbs.h"

#include "plan/handset/infer.h"
#include "plan/model/plan.h"

#include <string.h>

/* Returns how many frames of known protocols the capture has. */
typedef struct known_frames {
    unsigned counts[UINT8_MAX + 1];
    const char *ids[UINT8_MAX + 1];
} known_frames;

static void count_frame(void *context, uint64_t at_us, const drom_frame *frame)
{
    known_frames *const known = context;
    (void)at_us;
    if (frame->protocol != &drom_unknown) {
        known->counts[frame->protocol->number]++;
        known->ids[frame->protocol->number] = frame->protocol->id;
    }
}

/* Returns the protocol of nearly all frames; NULL: none. */
static const char *known_id(const known_frames *known, unsigned frames)
{
    const char *found = NULL;
    for (unsigned i = 0; i <= UINT8_MAX; i++) {
        found = known->counts[i] > 0 && known->counts[i] * 4 >= frames * 3 ? known->ids[i] : found;
    }
    return found;
}

/* Returns a capture's marks and spaces. Those under 60 µs are glitches, and merged into the one before. */
static capture_read take_rhythm(line_source *from, rhythm *into, reception *pipeline, GError **error)
{
    enum { GLITCH_US = 60 };
    capture_edge edge;
    uint64_t since_us = 0;
    bool is_mark = false;
    capture_read read = line_next(from, &edge, error);
    for (; read == CAPTURE_EDGE || read == CAPTURE_TIME; read = line_next(from, &edge, error)) {
        if (read == CAPTURE_TIME) {
            reception_until(pipeline, edge.at_us);
            continue;
        }
        reception_edge(pipeline, &edge);
        if (edge.is_mark == is_mark) {
            continue;
        }
        const double us = (double)(edge.at_us - since_us);
        if (us < GLITCH_US && into->us->len > 0) { /* the one before continues */
            since_us -= (uint64_t)g_array_index(into->us, double, into->us->len - 1);
            g_array_set_size(into->us, into->us->len - 1);
        } else {
            if (into->us->len > 0 || is_mark) {
                g_array_append_val(into->us, us);
            }
            since_us = edge.at_us;
        }
        is_mark = edge.is_mark;
    }
    if (is_mark && read == CAPTURE_END) {
        const double us = (double)(edge.at_us - since_us);
        g_array_append_val(into->us, us);
    }
    return read;
}

static int report_found(const inference *found, const known_frames *known, const char *path, const char *name)
{
    const char *const id = known_id(known, found->frames);
    if (id != NULL) {
        put_text(
            "# this is %s, which is known: it needs no line in a plan. 'dromikos enrol' writes the sheet\n",
            id);
    }
    if (!found->is_found) {
        complain("infer", "%s: nothing found: %s", path, found->why_not);
        return EXIT_NO;
    }
    const bool is_sure =
        found->read * 10 >= found->frames * 9 && found->margin >= 30 && found->presses->len >= 3;
    g_autofree char *line = declared_text(&found->own.figures, name);
    put_text("# %s: it reads %u of %u frames, the worst with a margin of %u %%, in %u presses\n",
             is_sure ? "fairly sure" : "a guess", found->read, found->frames, found->margin,
             found->presses->len);
    g_auto(GStrv) notes = g_strsplit(found->notes->str, "\n", -1);
    for (char **note = notes; *note != NULL && **note != '\0'; note++) {
        put_text("# %s\n", *note);
    }
    put_text("%s\n", line);
    return EXIT_DONE;
}

int infer_verb(int argc, char **argv)
{
    enum { LONGEST_NAME = 11 };
    g_autofree char *name = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    g_autoptr(GError) error = NULL;
    const GOptionEntry entries[] = {
        {"name", 0, 0, G_OPTION_ARG_STRING, &name, "The protocol's name; 'found' by default", "NAME"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "The wire of the capture, if it has several", "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "The level between frames: high or low", "LEVEL"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    if (!take_options("CAPTURE",
                      "Works out the protocol of an unknown remote, and writes it as a line for a plan.\n"
                      "\n"
                      "CAPTURE contains a few presses of several keys, one of them twice in a row, with "
                      "pauses. Without it,\n"
                      "the only serial line is read, until Ctrl-C.",
                      entries, 0, 1, &argc, argv, &code) ||
        !take_either("infer", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    const char *const misnamed = name == NULL                  ? NULL
                                 : strlen(name) > LONGEST_NAME ? "it may have 11 letters"
                                 : waveform_by_id(name) != NULL || strcmp(name, drom_unknown.id) == 0
                                     ? "that is a protocol that is known already"
                                     : plan_misnamed(name);
    if (misnamed != NULL) {
        complain("infer", "--name is '%s': %s; say one such as 'torch'", name, misnamed);
        return EXIT_WRONG;
    }
    g_autofree char *line = argc < 2 ? line_here("infer") : NULL;
    const char *const path = argc < 2 ? line : argv[1];
    if (path == NULL) {
        return EXIT_FILE;
    }
    line_source source = {0};
    code = line_open(&source, "infer", path, signal, is_idle_low, USUAL_BAUD);
    if (code == EXIT_DONE) {
        rhythm heard = {g_array_new(FALSE, FALSE, sizeof(double))};
        known_frames known = {{0}, {NULL}};
        reception *const pipeline = reception_new(&(reception_sink){&known, count_frame, NULL, NULL});
        reception_start(pipeline);
        if (take_rhythm(&source, &heard, pipeline, &error) == CAPTURE_FAULT) {
            complain("infer", "%s: %s", path, error->message);
            code = EXIT_FILE;
        } else {
            inference *const found = infer_protocol(&heard, name != NULL ? name : "found");
            reception_end(pipeline);
            code = report_found(found, &known, path, name != NULL ? name : "found");
            inference_free(found);
        }
        reception_free(pipeline);
        g_array_unref(heard.us);
    }
    line_close(&source);
    return finish("infer", code);
}
