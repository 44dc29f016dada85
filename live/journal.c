#include "live/journal.h"

#include <string.h>

enum { MAX_LINES = 5000 };

struct journal {
    GArray *lines;        /* of journal_line */
    char *frame;          /* a received code, until its key follows; NULL: none */
    uint64_t frame_us;    /* and when */
    char *known;          /* the code of the newest key */
    uint64_t answered_us; /* the newest line continues with what comes soon after this time; UINT64_MAX: it
                             doesn't */
    bool has_orders;      /* and has some already */
};

static void clear_line(gpointer data)
{
    g_free(((journal_line *)data)->text);
}

journal *journal_new(void)
{
    journal *const made = g_new0(journal, 1);
    made->lines = g_array_new(FALSE, TRUE, sizeof(journal_line));
    g_array_set_clear_func(made->lines, clear_line);
    return made;
}

void journal_free(journal *unwanted)
{
    g_array_unref(unwanted->lines);
    g_free(unwanted->frame);
    g_free(unwanted->known);
    g_free(unwanted);
}

unsigned journal_count(const journal *log)
{
    return log->lines->len;
}

const journal_line *journal_at(const journal *log, unsigned i)
{
    return &g_array_index(log->lines, journal_line, i);
}

static journal_line *newest(journal *in)
{
    return in->lines->len > 0 ? &g_array_index(in->lines, journal_line, in->lines->len - 1) : NULL;
}

void journal_add(journal *into, uint64_t at_us, picture_ink ink, const char *text)
{
    journal_line *const last = newest(into);
    if (last != NULL && strcmp(last->text, text) == 0) {
        last->more++;
        return;
    }
    if (into->lines->len == MAX_LINES) {
        (void)g_array_remove_range(into->lines, 0, MAX_LINES / 10);
    }
    const journal_line line = {.at_us = at_us, .text = g_strdup(text), .ink = ink};
    g_array_append_val(into->lines, line);
    into->answered_us = UINT64_MAX;
}

/* True if it follows from the newest line. Orders are given one per poll. */
static bool follows(const journal *in, const timeline_row *taken)
{
    enum { SOON_US = 5000 };
    return in->lines->len > 0 && in->answered_us <= taken->at_us && taken->at_us - in->answered_us <= SOON_US;
}

/* A cause: its effects continue its line. */
static void add_cause(journal *into, const timeline_row *taken, picture_ink ink, const char *text)
{
    journal_add(into, taken->at_us, ink, text);
    into->answered_us = taken->at_us;
    into->has_orders = false;
}

/* An effect. */
static void add_order(journal *into, const timeline_row *taken, const char *text)
{
    const bool is_more = follows(into, taken);
    journal_line *const last = newest(into);
    if (!is_more) {
        journal_add(into, taken->at_us, INK_PLAIN, text);
    }
    into->answered_us = taken->at_us;
    if (!is_more) {
        into->has_orders = true;
        return;
    }
    char *const longer = g_strconcat(last->text, into->has_orders ? ", " : ": ", text, NULL);
    g_free(last->text);
    last->text = longer;
    into->has_orders = true;
}

/* A code without a key is another handset's. */
static void give_up_frame(journal *into)
{
    if (into->frame != NULL && g_strcmp0(into->frame, into->known) != 0) {
        g_autofree char *text = g_strdup_printf("%s: no key of this plan", into->frame);
        journal_add(into, into->frame_us, INK_PLAIN, text);
    }
    g_clear_pointer(&into->frame, g_free);
}

static void take_frame(journal *into, const timeline_row *taken)
{
    const drom_frame *const frame = &taken->data.frame;
    if (frame->protocol == &drom_unknown) {
        journal_add(into, taken->at_us, INK_PLAIN, "something came in that no protocol of this plan has");
    } else if (frame->kind != DROM_FRAME_REPEAT) {
        give_up_frame(into);
        into->frame_us = taken->at_us;
        into->frame = row_frame_text(frame);
    }
}

static void take_key(journal *into, const timeline_row *taken)
{
    if (into->frame != NULL) {
        g_free(into->known);
        into->known = g_steal_pointer(&into->frame);
    }
    if (taken->data.pressed.gesture != DROM_TAP) { /* press and release have reported it */
        g_autofree char *key = row_key_text(taken);
        g_autofree char *text =
            g_strdup_printf("%s %s", key, gesture_participle(taken->data.pressed.gesture));
        add_cause(into, taken, INK_HANDSET, text);
    }
}

static void take_event(journal *into, const timeline_row *taken)
{
    add_cause(into, taken, INK_PLAIN, taken->text);
}

static void take_action(journal *into, const timeline_row *taken)
{
    g_autofree char *text = g_strdup_printf("%s %s", taken->subject, taken->text);
    add_order(into, taken, text);
}

/* An output that switches later, or by itself; its order has already been shown. */
static void take_output(journal *into, const timeline_row *taken)
{
    const char *const name = taken->subject;
    if (!follows(into, taken) || strstr(newest(into)->text, name) == NULL) {
        g_autofree char *text = g_strdup_printf("%s %s", name, taken->data.pin.is_on ? "on" : "off");
        add_order(into, taken, text);
    }
}

static void take_burst(journal *into, const timeline_row *taken)
{
    const char *const key = taken->found;
    if (taken->data.is_on || key[0] == '\0') {
        g_autofree char *text =
            g_strdup_printf("%s sent %s", taken->subject, key[0] != '\0' ? key : taken->text);
        journal_add(into, taken->at_us, INK_OURS, text);
    }
}

static void take_expected(journal *into, const timeline_row *taken)
{
    const bool is_met = taken->data.expected.is_met;
    g_autofree char *text = is_met ? g_strdup_printf("as expected: %s", taken->text)
                                   : g_strdup_printf("expected: %s; but %s", taken->text, taken->found);
    journal_add(into, taken->at_us, INK_PLAIN, text);
    newest(into)->is_alert = !is_met;
}

void journal_take(journal *into, const timeline_row *taken)
{
    enum { FOLLOWS_US = 300000 };
    static void (*const takers[ROW_KINDS])(journal * into, const timeline_row *taken) = {
        [ROW_FRAME] = take_frame,      [ROW_KEY] = take_key,       [ROW_EVENT] = take_event,
        [ROW_ACTION] = take_action,    [ROW_OUTPUT] = take_output, [ROW_BURST] = take_burst,
        [ROW_EXPECTED] = take_expected};
    if (into->frame != NULL && taken->at_us > into->frame_us + FOLLOWS_US) {
        give_up_frame(into);
    }
    if (takers[taken->kind] != NULL) {
        takers[taken->kind](into, taken);
    }
}
