/* listen: a recorded line goes through the receiver and the keys, and what they say is told as it comes. */
#include "cli.h"

#include "capture.h"
#include "sheet.h"

#include <string.h>

enum { HOLD_MS = 500 };

typedef struct handset_names {
    char *name;
    sheet *keys;
} handset_names;

/* Everybody who listens. The last handset has no sheet: it takes the codes that no sheet has, as they come.
 */
typedef struct listener {
    output_format format;
    drom_receive_plan receive_plan;
    drom_keys_plan keys_plan;
    drom_receiver receiver;
    drom_keys keys;
    drom_fingerprint fingerprint;
    GArray *names;      /* of handset_names */
    GArray *handsets;   /* of drom_handset */
    GPtrArray *codes;   /* of GArray of drom_code, one a handset */
    GPtrArray *presses; /* of GArray of guint: how often each key was pressed */
    uint64_t now_us;
    uint64_t edges;
    unsigned frames;
    unsigned unknowns;
    row_writer rows;
    GString *row; /* a frame that is being told: its key event goes on in the same row */
    uint64_t row_at_us;
} listener;

static const uint16_t hold_times[] = {HOLD_MS};

static void free_names(gpointer data)
{
    handset_names *const names = data;
    g_free(names->name);
    sheet_free(names->keys);
}

static void free_array(gpointer data)
{
    g_array_unref(data);
}

/* Adds a handset; it takes the sheet over, which may be NULL. */
static void add_handset(listener *heard, char *name, sheet *keys)
{
    const handset_names names = {name, keys};
    const drom_handset handset = {0};
    GArray *const codes = g_array_new(FALSE, FALSE, sizeof(drom_code));
    GArray *const presses = g_array_new(FALSE, TRUE, sizeof(guint));
    for (guint i = 0; keys != NULL && i < keys->keys->len; i++) {
        g_array_append_val(codes, g_array_index(keys->keys, sheet_key, i).code);
    }
    g_array_set_size(presses, codes->len);
    g_array_append_val(heard->names, names);
    g_array_append_val(heard->handsets, handset);
    g_ptr_array_add(heard->codes, codes);
    g_ptr_array_add(heard->presses, presses);
}

/* The tables point into arrays that move when they grow. */
static void renew_tables(listener *heard)
{
    for (guint i = 0; i < heard->handsets->len; i++) {
        const GArray *const codes = g_ptr_array_index(heard->codes, i);
        const drom_handset handset = {.codes = {(const drom_code *)(void *)codes->data, (uint8_t)codes->len}};
        g_array_index(heard->handsets, drom_handset, i) = handset;
    }
    heard->keys_plan.handsets.rows = (const drom_handset *)(void *)heard->handsets->data;
    heard->keys_plan.handsets.count = (uint8_t)heard->handsets->len;
}

static uint64_t full_time(const listener *heard, drom_us at)
{
    return heard->now_us - (drom_us)((drom_us)heard->now_us - at);
}

static void end_row(listener *heard, tone how, bool may_repeat)
{
    if (heard->row->len > 0) {
        put_row(&heard->rows, heard->row_at_us, g_strchomp(heard->row->str), how, may_repeat);
        g_string_truncate(heard->row, 0);
    }
}

static const char *key_name(const listener *heard, unsigned handset, unsigned key)
{
    const sheet *const keys = g_array_index(heard->names, handset_names, handset).keys;
    return keys != NULL ? g_array_index(keys->keys, sheet_key, key).name : NULL;
}

/* "wand.power", or the code of a key that no sheet has. */
static char *shown_key(const listener *heard, unsigned handset, unsigned key)
{
    const char *const name = key_name(heard, handset, key);
    const GArray *const codes = g_ptr_array_index(heard->codes, handset);
    return name != NULL
               ? g_strdup_printf("%s.%s", g_array_index(heard->names, handset_names, handset).name, name)
               : g_strdup_printf("key %u of %u", g_array_index(codes, drom_code, key).command,
                                 g_array_index(codes, drom_code, key).address);
}

static void tell_key(void *context, const drom_key_event *event)
{
    listener *const heard = context;
    const GArray *const codes = g_ptr_array_index(heard->codes, event->handset);
    const drom_code *const code = &g_array_index(codes, drom_code, event->key);
    if (event->gesture == DROM_PRESS) {
        GArray *const presses = g_ptr_array_index(heard->presses, event->handset);
        g_array_index(presses, guint, event->key)++;
    }
    if (heard->format == FORMAT_JSONL) {
        const char *const handset = g_array_index(heard->names, handset_names, event->handset).name;
        put_json(key_json(heard->now_us, event, handset, key_name(heard, event->handset, event->key), code));
        return;
    }
    if (event->gesture == DROM_TAP) { /* press and release have told it */
        return;
    }
    if (heard->row->len == 0) {
        g_string_printf(heard->row, "%-35s", "");
        heard->row_at_us = heard->now_us;
    }
    g_autofree char *key = shown_key(heard, event->handset, event->key);
    g_string_append_printf(heard->row, "%s %s", key, gesture_participle(event->gesture));
    if (event->held_us > 0 && (event->gesture == DROM_RELEASE || event->gesture == DROM_HOLD)) {
        g_string_append_printf(heard->row, event->gesture == DROM_HOLD ? " for %u ms" : " after %u ms",
                               event->held_us / 1000);
    }
    end_row(heard, event->gesture == DROM_PRESS ? TONE_STRONG : TONE_PLAIN, event->gesture == DROM_REPEAT);
}

static void tell_frame(listener *heard, const drom_frame *frame)
{
    if (frame->kind == DROM_FRAME_BOUNDARY) { /* is no key, and needs no telling */
        return;
    }
    const uint64_t at_us = full_time(heard, frame->at);
    const bool is_unknown = frame->code.protocol == &drom_unknown;
    heard->frames += !is_unknown;
    heard->unknowns += is_unknown;
    if (heard->format == FORMAT_JSONL) {
        put_json(frame_json(at_us, frame));
        return;
    }
    heard->row_at_us = at_us;
    if (is_unknown) {
        g_string_printf(heard->row, "unknown burst of %u intervals, fingerprint %08x", frame->intervals,
                        frame->code.address);
        return;
    }
    g_autofree char *code = frame->kind == DROM_FRAME_DITTO
                                ? g_strdup_printf("%s  the same again", frame->code.protocol->id)
                                : code_text(&frame->code);
    g_string_printf(heard->row, "%-35s", code);
}

/* A code that no sheet has becomes a key of the last handset, so that its gestures are told too. */
static void make_known(listener *heard, const drom_frame *frame)
{
    for (guint i = 0; i < heard->names->len; i++) {
        const GArray *const codes = g_ptr_array_index(heard->codes, i);
        for (guint j = 0; j < codes->len; j++) {
            if (drom_code_equal(&g_array_index(codes, drom_code, j), &frame->code)) {
                return;
            }
        }
    }
    GArray *const codes = g_ptr_array_index(heard->codes, heard->names->len - 1);
    if (codes->len < SHEET_MOST_KEYS) {
        const guint none = 0;
        g_array_append_val(codes, frame->code);
        g_array_append_val((GArray *)g_ptr_array_index(heard->presses, heard->names->len - 1), none);
        renew_tables(heard);
    }
}

static void take_frames(listener *heard)
{
    drom_frame frame;
    while (drom_receiver_advance(&heard->receiver, (drom_us)heard->now_us, &frame)) {
        tell_frame(heard, &frame);
        if (frame.code.protocol != &drom_unknown) {
            if (frame.kind == DROM_FRAME_WHOLE || frame.kind == DROM_FRAME_FURTHER) {
                make_known(heard, &frame);
            }
            drom_keys_frame(&heard->keys, &frame);
        }
        end_row(heard, TONE_PLAIN, true);
    }
    drom_keys_advance(&heard->keys, (drom_us)heard->now_us);
}

/* Lets the time pass, stopping wherever something is due. */
static void advance_to(listener *heard, uint64_t until_us)
{
    for (;;) {
        const drom_us wait = drom_sooner(drom_receiver_wait(&heard->receiver, (drom_us)heard->now_us),
                                         drom_keys_wait(&heard->keys, (drom_us)heard->now_us));
        if (wait == DROM_NEVER || heard->now_us + wait > until_us) {
            break;
        }
        heard->now_us += wait;
        take_frames(heard);
    }
    if (until_us != UINT64_MAX) {
        heard->now_us = until_us;
        take_frames(heard);
    }
}

/* The capture stops where a frame, or a mark, was under way. */
static bool is_cut_off(const listener *heard, bool is_mark)
{
    bool is_cut = is_mark;
    for (uint8_t i = 0; i < heard->receive_plan.protocols.count; i++) {
        is_cut |= heard->receive_plan.decoders[i].phase != 0;
    }
    return is_cut;
}

static int take_capture(listener *heard, capture *from, const char *path)
{
    capture_edge edge;
    GError *error = NULL;
    capture_read read = capture_next(from, &edge, &error);
    for (; read == CAPTURE_EDGE && output_is_good(); read = capture_next(from, &edge, &error)) {
        advance_to(heard, edge.at_us);
        const drom_edge next = {.at = (drom_us)edge.at_us, .is_mark = edge.is_mark};
        drom_receiver_edge(&heard->receiver, &next);
        heard->edges++;
    }
    bool is_cut = false;
    if (read == CAPTURE_END) {
        advance_to(heard, edge.at_us);
        is_cut = is_cut_off(heard, edge.is_mark);
    }
    advance_to(heard, UINT64_MAX);
    if (read == CAPTURE_FAULT) {
        complain("listen", "%s: %s", path, error->message);
        g_clear_error(&error);
        return EXIT_FILE;
    }
    if (is_cut) {
        complain("listen", "%s: ends in the middle of a %s; is it cut short?", path,
                 edge.is_mark ? "mark" : "frame");
        return EXIT_FILE;
    }
    return heard->frames > 0 ? EXIT_DONE : EXIT_NO;
}

static void put_summary(const listener *heard)
{
    if (heard->frames == 0) {
        (void)printf("nothing recognised in %" G_GUINT64_FORMAT " edges%s\n", heard->edges,
                     heard->edges == 0 ? ": the line never moved" : "");
        return;
    }
    (void)printf("\npresses  code\n");
    for (guint i = 0; i < heard->names->len; i++) {
        const GArray *const presses = g_ptr_array_index(heard->presses, i);
        const GArray *const codes = g_ptr_array_index(heard->codes, i);
        for (guint j = 0; j < presses->len; j++) {
            if (g_array_index(presses, guint, j) == 0) {
                continue;
            }
            g_autofree char *code = code_text(&g_array_index(codes, drom_code, j));
            g_autofree char *key = key_name(heard, i, j) != NULL ? shown_key(heard, i, j) : g_strdup("");
            g_autofree char *line =
                g_strdup_printf("%7u  %-35s%s", g_array_index(presses, guint, j), code, key);
            (void)puts(g_strchomp(line));
        }
    }
}

/* "wand=wand.csv", or "wand.csv", which names the handset after the file. False, and told, when it can't be.
 */
static bool add_sheet(listener *heard, const char *text, report *told)
{
    const char *const equals = strchr(text, '=');
    const char *const path = equals != NULL ? equals + 1 : text;
    g_autofree char *file = g_path_get_basename(path);
    char *const name =
        equals != NULL ? g_strndup(text, (gsize)(equals - text)) : g_strndup(file, strcspn(file, "."));
    sheet *const keys = sheet_read(path, told);
    if (keys == NULL || report_errors(told) > 0) {
        sheet_free(keys);
        g_free(name);
        return false;
    }
    add_handset(heard, name, keys);
    return true;
}

static bool add_sheets(listener *heard, char **sheets, int *code)
{
    report *const told = report_new();
    bool is_good = true;
    for (char **at = sheets; at != NULL && *at != NULL; at++) {
        is_good &= add_sheet(heard, *at, told);
    }
    report_print(told, stderr);
    *code = report_has_unreadable(told) ? EXIT_FILE : EXIT_NO;
    report_free(told);
    return is_good;
}

static int listen_to(listener *heard, const char *path, const char *signal, bool is_idle_low)
{
    FILE *const file = open_input("listen", path);
    g_autoptr(GError) error = NULL;
    if (file == NULL) {
        return EXIT_FILE;
    }
    capture *const from = capture_open(file, signal, is_idle_low, &error);
    int code = EXIT_FILE;
    if (from == NULL) {
        complain("listen", "%s: %s", path, error->message);
        code = error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
    } else {
        code = take_capture(heard, from, path);
        end_rows(&heard->rows);
        if (heard->format == FORMAT_TEXT) {
            put_summary(heard);
        } else if (code == EXIT_NO) {
            complain("listen", "%s: nothing recognised in %" G_GUINT64_FORMAT " edges", path, heard->edges);
        }
    }
    capture_free(from);
    close_input(file);
    return code;
}

static void start(listener *heard)
{
    drom_protocol_ref *const protocols = g_new(drom_protocol_ref, drom_waveform_count);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        protocols[i] = drom_waveforms[i]->protocol;
    }
    heard->receive_plan = (drom_receive_plan){
        .protocols = {protocols, (uint8_t)drom_waveform_count},
        .decoders = g_new0(drom_decoder, drom_waveform_count),
        .fingerprint = &heard->fingerprint,
    };
    heard->row = g_string_new(NULL);
    add_handset(heard, NULL, NULL);
    heard->keys_plan = (drom_keys_plan){
        .hold_ms = DROM_ROWS(hold_times),
        .holds = g_new0(drom_hold, heard->handsets->len),
    };
    renew_tables(heard);
    drom_receiver_init(&heard->receiver, &heard->receive_plan);
    drom_keys_init(&heard->keys, &heard->keys_plan, tell_key, heard);
}

static void stop(listener *heard)
{
    g_free((gpointer)heard->receive_plan.protocols.rows);
    g_free(heard->receive_plan.decoders);
    g_free(heard->keys_plan.holds);
    g_string_free(heard->row, TRUE);
    g_array_unref(heard->names);
    g_array_unref(heard->handsets);
    g_ptr_array_unref(heard->codes);
    g_ptr_array_unref(heard->presses);
}

int listen_verb(int argc, char **argv)
{
    enum { MOST_SHEETS = 200 };
    g_autofree char *format = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    g_auto(GStrv) sheets = NULL;
    const GOptionEntry entries[] = {
        {"format", 0, 0, G_OPTION_ARG_STRING, &format, "text (for people, the default) or jsonl", "FORMAT"},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &sheets,
         "A handset's sheet, whose keys are then named; may be given several times", "[NAME=]FILE"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "Which wire of the capture, where it has several",
         "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle,
         "The line's level between frames: high (the default) or low", "LEVEL"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    listener heard = {.format = FORMAT_TEXT};
    if (!take_options("CAPTURE",
                      "Tells each frame and key event of a capture as it comes.\n\n"
                      "CAPTURE is a VCD file, or - for standard input: one wire, the receiver's output,\n"
                      "high when idle and low during a mark.",
                      entries, 1, 1, &argc, argv, &code) ||
        !take_format("listen", format, &heard.format) ||
        !take_either("listen", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    if (sheets != NULL && g_strv_length(sheets) > MOST_SHEETS) {
        complain("listen", "at most %d sheets can be given", MOST_SHEETS);
        return EXIT_WRONG;
    }
    heard.names = g_array_new(FALSE, FALSE, sizeof(handset_names));
    g_array_set_clear_func(heard.names, free_names);
    heard.handsets = g_array_new(FALSE, FALSE, sizeof(drom_handset));
    heard.codes = g_ptr_array_new_with_free_func(free_array);
    heard.presses = g_ptr_array_new_with_free_func(free_array);
    const bool is_good = add_sheets(&heard, sheets, &code);
    start(&heard);
    if (is_good) {
        code = listen_to(&heard, argv[1], signal, is_idle_low);
    }
    stop(&heard);
    return finish("listen", code);
}
