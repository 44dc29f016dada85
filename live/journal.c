#include "live/journal.h"

#include "chart/rows.h"

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
static bool follows(const journal *in, const json_t *row)
{
    enum { SOON_US = 5000 };
    return in->lines->len > 0 && in->answered_us <= row_us(row, "t_us") &&
           row_us(row, "t_us") - in->answered_us <= SOON_US;
}

/* A cause: its effects continue its line. */
static void add_cause(journal *into, const json_t *row, picture_ink ink, const char *text)
{
    journal_add(into, row_us(row, "t_us"), ink, text);
    into->answered_us = row_us(row, "t_us");
    into->has_orders = false;
}

/* An effect. */
static void add_order(journal *into, const json_t *row, const char *text)
{
    const bool is_more = follows(into, row);
    journal_line *const last = newest(into);
    if (!is_more) {
        journal_add(into, row_us(row, "t_us"), INK_PLAIN, text);
    }
    into->answered_us = row_us(row, "t_us");
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

static void take_frame(journal *into, const json_t *row)
{
    const json_t *const command = json_object_get(row, "command");
    if (command != NULL) {
        give_up_frame(into);
        into->frame_us = row_us(row, "t_us");
        into->frame = g_strdup_printf("%s %lld %lld", row_text(row, "protocol"),
                                      (long long)json_integer_value(json_object_get(row, "address")),
                                      (long long)json_integer_value(command));
    }
}

static void take_unknown(journal *into, const json_t *row)
{
    journal_add(into, row_us(row, "t_us"), INK_PLAIN, "something came in that no protocol of this plan has");
}

static void take_key(journal *into, const json_t *row)
{
    static const char *const words[][2] = {{"press", "pressed"},       {"repeat", "repeated"},
                                           {"hold", "held"},           {"release", "released"},
                                           {"double", "tapped twice"}, {"tap", NULL}};
    const char *const gesture = row_text(row, "gesture");
    const char *participle = gesture;
    for (gsize i = 0; i < G_N_ELEMENTS(words); i++) {
        participle = strcmp(gesture, words[i][0]) == 0 ? words[i][1] : participle;
    }
    if (into->frame != NULL) {
        g_free(into->known);
        into->known = g_steal_pointer(&into->frame);
    }
    if (participle != NULL) {
        g_autofree char *text =
            g_strdup_printf("%s.%s %s", row_text(row, "handset"), row_text(row, "key"), participle);
        add_cause(into, row, INK_HANDSET, text);
    }
}

static void take_event(journal *into, const json_t *row)
{
    add_cause(into, row, INK_PLAIN, row_text(row, "event"));
}

static void take_action(journal *into, const json_t *row)
{
    g_autofree char *text = g_strdup_printf("%s %s", row_text(row, "output"), row_text(row, "action"));
    add_order(into, row, text);
}

/* An output that switches later, or by itself; its order has already been shown. */
static void take_output(journal *into, const json_t *row)
{
    const char *const name = row_text(row, "output");
    if (!follows(into, row) || strstr(newest(into)->text, name) == NULL) {
        g_autofree char *text = g_strdup_printf("%s %s", name, row_text(row, "state"));
        add_order(into, row, text);
    }
}

static void take_burst(journal *into, const json_t *row)
{
    const char *const key = row_text(row, "key");
    if (json_is_true(json_object_get(row, "new")) || key[0] == '\0') {
        g_autofree char *text = g_strdup_printf("%s sent %s", row_text(row, "output"),
                                                key[0] != '\0' ? key : row_text(row, "heard"));
        journal_add(into, row_us(row, "t_us"), INK_OURS, text);
    }
}

static void take_expected(journal *into, const json_t *row)
{
    const bool is_met = json_is_true(json_object_get(row, "met"));
    g_autofree char *text =
        is_met ? g_strdup_printf("as expected: %s", row_text(row, "expect"))
               : g_strdup_printf("expected: %s; but %s", row_text(row, "expect"), row_text(row, "found"));
    journal_add(into, row_us(row, "t_us"), INK_PLAIN, text);
    newest(into)->is_alert = !is_met;
}

void journal_take(journal *into, const json_t *row)
{
    enum { FOLLOWS_US = 300000 };
    static const struct {
        const char *kind;
        void (*take)(journal *into, const json_t *row);
    } kinds[] = {{"frame", take_frame}, {"unknown", take_unknown},  {"key", take_key},
                 {"event", take_event}, {"action", take_action},    {"output", take_output},
                 {"burst", take_burst}, {"expected", take_expected}};
    const char *const kind = row_text(row, "kind");
    if (into->frame != NULL && row_us(row, "t_us") > into->frame_us + FOLLOWS_US) {
        give_up_frame(into);
    }
    for (gsize i = 0; i < G_N_ELEMENTS(kinds); i++) {
        if (strcmp(kinds[i].kind, kind) == 0) {
            kinds[i].take(into, row);
        }
    }
}
