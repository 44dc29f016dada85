/* What can be said in a plan, but for what the kinds of outputs say: a row a statement, and the phrases of
 * its segments. */
#include "statements.h"

#include "kinds.h"

#include <string.h>

const char *const statement_then_list[] = {"':'", NULL};

/* What else may follow a segment. */
static const char *const then_nothing[] = {"the end of the line", NULL};
static const char *const then_clause[] = {"','", "the end of the line", NULL};

const segment *statement_segment(const GArray *segments, guint at)
{
    return &g_array_index(segments, segment, at);
}

const token *statement_token(const plan_source *source, guint at)
{
    return &g_array_index(source->tokens, token, at);
}

void statement_unexpected(plan_source *source, guint at, const char *const *expected)
{
    phrase_value values[PHRASE_VALUES];
    const char *const nothing[] = {"", NULL};
    (void)phrase_match(source->faults, (wording){source->tokens, at, at + 1}, nothing, "", expected, values);
}

int statement_match(plan_source *source, const segment *given, const char *const *phrases,
                    const char *separator, const char *const *then, phrase_value *values)
{
    const token *const before = statement_token(source, given->before);
    if (given->has_while) {
        statement_unexpected(source, given->words.to, then);
        return -1;
    }
    if (separator != NULL && strcmp(before->text, separator) != 0) {
        statement_unexpected(source, given->before, then);
        return -1;
    }
    return phrase_match(source->faults, given->words, phrases, "", then, values);
}

/* The only segment of a statement that has one. */
static int match_only(plan_source *source, const GArray *segments, const char *const *phrases,
                      phrase_value *values)
{
    const int said =
        statement_match(source, statement_segment(segments, 0), phrases, NULL, then_nothing, values);
    if (said >= 0 && segments->len > 1) {
        statement_unexpected(source, statement_segment(segments, 1)->before, then_nothing);
        return -1;
    }
    return said;
}

/* Keeps what is given once; reports it when it is given again. */
static void take_once(plan_source *source, word *kept, word given, const char *what)
{
    if (kept->text == NULL) {
        *kept = given;
        return;
    }
    report_error(source->faults, given.where, "the %s is given on line %d already", what, kept->where.line);
}

static void take_plan(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[] = {"TEXT", NULL};
    phrase_value values[PHRASE_VALUES];
    (void)after;
    if (match_only(source, segments, phrases, values) >= 0) {
        take_once(source, &source->title, values[0].name, "name of the plan");
    }
}

static void take_board(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[] = {"NAME", "NAME at CLOCK", NULL};
    phrase_value values[PHRASE_VALUES];
    (void)after;
    const int said = match_only(source, segments, phrases, values);
    if (said >= 0) {
        source->board_mhz = said == 1 ? values[1].amount : -1;
        source->board_mhz_at = values[1].where;
        take_once(source, &source->board, values[0].name, "board");
    }
}

static void take_own(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[] = {"code masks N us", "code blocks TIME", NULL};
    phrase_value values[PHRASE_VALUES];
    (void)after;
    const int said = match_only(source, segments, phrases, values);
    if (said >= 0) {
        *(said == 0 ? &source->own_masks_us : &source->own_blocks_ms) = values[0].number;
    }
}

static void take_receiver(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[] = {"on pin PIN", NULL};
    phrase_value values[PHRASE_VALUES];
    (void)after;
    if (match_only(source, segments, phrases, values) >= 0) {
        take_once(source, &source->receiver_pin, values[0].name, "receiver");
    }
}

static void take_handset(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const heads[] = {"NAME from TEXT", NULL};
    static const char *const clauses[] = {"confirmed", NULL};
    phrase_value values[PHRASE_VALUES];
    phrase_value nothing[PHRASE_VALUES];
    (void)after;
    if (statement_match(source, statement_segment(segments, 0), heads, NULL, then_clause, values) < 0) {
        return;
    }
    for (guint i = 1; i < segments->len; i++) {
        if (statement_match(source, statement_segment(segments, i), clauses, ",", then_clause, nothing) < 0) {
            return;
        }
    }
    const handset_line handset = {values[0].name, values[1].name, segments->len > 1};
    g_array_append_val(source->handsets, handset);
}

static void take_key_time(plan_source *source, enum key_time which, const phrase_value *time)
{
    if (time->number < 1 || time->number > UINT16_MAX) {
        report_error(source->faults, time->where, "the times of gestures are 1 ms to 65 s");
    } else if (source->key_ms[which] != 0) {
        report_error(source->faults, time->where, "this time is given already");
    } else {
        source->key_ms[which] = (uint16_t)time->number;
    }
}

static void take_one_time(plan_source *source, const GArray *segments, const char *phrase,
                          enum key_time which)
{
    const char *const phrases[] = {phrase, NULL};
    phrase_value values[PHRASE_VALUES];
    if (match_only(source, segments, phrases, values) >= 0) {
        take_key_time(source, which, &values[0]);
    }
}

static void take_holds(plan_source *source, const GArray *segments, const GArray *after)
{
    (void)after;
    take_one_time(source, segments, "after TIME", HOLDS_AFTER);
}

static void take_taps(plan_source *source, const GArray *segments, const GArray *after)
{
    (void)after;
    take_one_time(source, segments, "within TIME", TAPS_WITHIN);
}

static void take_doubles(plan_source *source, const GArray *segments, const GArray *after)
{
    (void)after;
    take_one_time(source, segments, "within TIME", DOUBLES_WITHIN);
}

static void take_repeats(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[][2] = {
        {"after TIME", NULL}, {"every TIME", NULL}, {"fastest TIME", NULL}};
    static const char *const then_comma[] = {"','", NULL};
    phrase_value values[PHRASE_VALUES];
    (void)after;
    for (guint i = 0; i < MAX(segments->len, 2); i++) {
        if (i >= segments->len) {
            statement_unexpected(source, statement_segment(segments, i - 1)->words.to, then_comma);
            return;
        }
        if (i == G_N_ELEMENTS(phrases)) {
            statement_unexpected(source, statement_segment(segments, i)->before, then_nothing);
            return;
        }
        const char *const *const then = i == 0 ? then_comma : i == 1 ? then_clause : then_nothing;
        if (statement_match(source, statement_segment(segments, i), phrases[i], i == 0 ? NULL : ",", then,
                            values) < 0) {
            return;
        }
        take_key_time(source, (enum key_time)(REPEATS_AFTER + i), &values[0]);
    }
}

static void take_palette(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const heads[] = {"NAME", NULL};
    static const char *const colours[] = {"COLOUR", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(segments, 0), heads, NULL, statement_then_list, values) <
        0) {
        return;
    }
    const palette_line palette = {values[0].name, g_array_new(FALSE, FALSE, sizeof(word))};
    bool is_good = true;
    for (guint i = 0; i < after->len && is_good; i++) {
        is_good = statement_match(source, statement_segment(after, i), colours, i == 0 ? NULL : ",",
                                  then_clause, values) >= 0;
        g_array_append_val(palette.colours, values[0].name);
    }
    if (is_good) {
        g_array_append_val(source->palettes, palette);
    } else {
        g_array_unref(palette.colours);
    }
}

/* A figure of a protocol: up to three numbers, or a yes. */
static const struct {
    const char *phrase;
    gsize numbers[3]; /* fields of own_figures */
    gsize fixed;      /* and one that is true or false, */
    bool value;
} figures[] = {
#define NUMBERS(...) .numbers = {__VA_ARGS__}
#define FIGURE(name) offsetof(own_figures, name) + 1
    {"N bits", NUMBERS(FIGURE(bits))},
    {"lsb first", .fixed = FIGURE(is_lsb_first), .value = true},
    {"msb first", .fixed = FIGURE(is_lsb_first)},
    {"leader N N", NUMBERS(FIGURE(leader_mark_us), FIGURE(leader_space_us))},
    {"zero N N", NUMBERS(FIGURE(zero_mark_us), FIGURE(zero_space_us))},
    {"one N N", NUMBERS(FIGURE(one_mark_us), FIGURE(one_space_us))},
    {"quad N N N", NUMBERS(FIGURE(quad_mark_us), FIGURE(quad_space_us), FIGURE(quad_step_us))},
    {"phase N", NUMBERS(FIGURE(phase_us))},
    {"one mark first", .fixed = FIGURE(is_one_space_first)},
    {"one space first", .fixed = FIGURE(is_one_space_first), .value = true},
    {"ditto N", NUMBERS(FIGURE(ditto_space_us))},
    {"no stop", .fixed = FIGURE(has_no_stop), .value = true},
    {"toggle bit N", NUMBERS(FIGURE(toggle_bit))},
    {"wide bit N", NUMBERS(FIGURE(wide_bit))},
    {"period TIME", NUMBERS(FIGURE(period_ms))},
    {"gap TIME", NUMBERS(FIGURE(gap_ms))},
#undef NUMBERS
#undef FIGURE
};

static void take_figure(plan_source *source, own_figures *own, const segment *given, int said,
                        const phrase_value *values)
{
    char *const bytes = (char *)own;
    if (figures[said].fixed != 0) {
        *(bool *)(void *)(bytes + figures[said].fixed - 1) = figures[said].value;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(figures[said].numbers) && figures[said].numbers[i] != 0; i++) {
        uint32_t *const figure = (uint32_t *)(void *)(bytes + figures[said].numbers[i] - 1);
        if (i == 0 && *figure != 0) {
            report_error(source->faults, wording_place(given->words), "this is said of the protocol already");
        } else if (i == 0 && values[i].number == 0) {
            report_error(source->faults, wording_place(given->words), "this can't be 0");
        }
        *figure = values[i].number;
    }
}

static void take_protocol(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const heads[] = {"NAME", NULL};
    const char *phrases[G_N_ELEMENTS(figures) + 1] = {NULL};
    phrase_value values[PHRASE_VALUES];
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        phrases[i] = figures[i].phrase;
    }
    if (statement_match(source, statement_segment(segments, 0), heads, NULL, statement_then_list, values) <
        0) {
        return;
    }
    const protocol_line protocol = {values[0].name, g_new0(own_protocol, 1)};
    for (guint i = 0; i < after->len; i++) {
        const segment *const given = statement_segment(after, i);
        const int said = statement_match(source, given, phrases, i == 0 ? NULL : ",", then_clause, values);
        if (said < 0) {
            g_free(protocol.own);
            return;
        }
        take_figure(source, &protocol.own->figures, given, said, values);
    }
    const char *const wrong = own_protocol_fill(protocol.own, protocol.name.text);
    if (wrong != NULL) {
        report_error(source->faults, protocol.name.where, "the protocol '%s': %s", protocol.name.text, wrong);
    }
    g_array_append_val(source->protocols, protocol);
}

/* "30 min", "255 ms"; or a plain number. To be freed. */
static char *limit_text(const char *phrase, uint32_t limit)
{
    enum { MINUTE_MS = 60000 };
    return strstr(phrase, "TIME") == NULL || strstr(phrase, "N ") != NULL ? g_strdup_printf("%u", limit)
           : limit > 0 && limit % MINUTE_MS == 0 ? g_strdup_printf("%u min", limit / MINUTE_MS)
                                                 : g_strdup_printf("%u ms", limit);
}

/* A clause of an output's line. */
static void take_clause(plan_source *source, output_line *output, const segment *given)
{
    const char *phrases[KIND_MAX_PHRASES + 1] = {NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    const kind_clause *const clauses = output->kind->clauses;
    for (unsigned i = 0; clauses[i].phrase != NULL; i++) {
        phrases[i] = clauses[i].phrase;
    }
    const int said = statement_match(source, given, phrases, ",", then_clause, values);
    if (said < 0) {
        return;
    }
    clause_given *const kept = &output->clauses[clauses[said].clause];
    const place where = wording_place(given->words);
    const bool is_fixed = strpbrk(clauses[said].phrase, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == NULL;
    const uint32_t value = is_fixed ? clauses[said].fixed : values[0].number;
    if (kept->is_given) {
        report_error(source->faults, where, "this is said of '%s' already", output->name.text);
    } else if (clauses[said].range != NULL && (value < clauses[said].min || value > clauses[said].max)) {
        g_autofree char *min = limit_text(clauses[said].phrase, clauses[said].min);
        g_autofree char *max = limit_text(clauses[said].phrase, clauses[said].max);
        report_error(source->faults, where, "%s: %s to %s", clauses[said].range, min, max);
    }
    *kept = (clause_given){true, value, values[1].number, values[0].name, where};
}

static void take_output(plan_source *source, const output_kind *kind, const GArray *segments)
{
    const char *const phrases[] = {kind->head, NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    if (statement_match(source, statement_segment(segments, 0), phrases, NULL, then_clause, values) < 0) {
        return;
    }
    output_line output = {.kind = kind, .name = values[0].name};
    for (unsigned i = 0; i < MAX_PINS && values[i + 1].name.text != NULL; i++) {
        output.pins[output.pin_count++] = values[i + 1].name;
    }
    for (guint i = 1; i < segments->len; i++) {
        take_clause(source, &output, statement_segment(segments, i));
    }
    g_array_append_val(source->outputs, output);
}

static const struct {
    const char *head;
    void (*take)(plan_source *source, const GArray *segments, const GArray *after);
    bool has_list; /* after a ':' */
} statements[] = {
    {"plan", take_plan, false},          {"board", take_board, false},      {"own", take_own, false},
    {"receiver", take_receiver, false},  {"handset", take_handset, false},  {"holds", take_holds, false},
    {"taps", take_taps, false},          {"doubles", take_doubles, false},  {"repeats", take_repeats, false},
    {"palette", take_palette, true},     {"protocol", take_protocol, true}, {"at", statement_take_at, true},
    {"when", statement_take_when, true},
};

static void report_no_statement(plan_source *source, guint head)
{
    g_autoptr(GPtrArray) heads = g_ptr_array_new();
    for (size_t i = 0; i < G_N_ELEMENTS(statements); i++) {
        g_ptr_array_add(heads, (gpointer)statements[i].head);
    }
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        g_ptr_array_add(heads, (gpointer)output_kinds[i]->name);
    }
    g_ptr_array_add(heads, NULL);
    phrase_value values[PHRASE_VALUES];
    (void)phrase_match(source->faults, (wording){source->tokens, head, head + 1},
                       (const char *const *)heads->pdata, "", then_nothing, values);
}

/* Reports a ':' that is missing, once all before it is right, or one too many. */
static bool has_its_list(plan_source *source, const GArray *segments, const GArray *after, bool has_list)
{
    if ((after != NULL) == has_list) {
        return true;
    }
    statement_unexpected(source,
                         after != NULL ? statement_segment(after, 0)->before
                                       : statement_segment(segments, segments->len - 1)->words.to,
                         after != NULL ? then_clause : statement_then_list);
    return false;
}

void source_take_statement(plan_source *source, guint head, const GArray *segments, const GArray *after)
{
    static const GArray none = {0};
    const char *const text = statement_token(source, head)->text;
    for (size_t i = 0; i < G_N_ELEMENTS(statements); i++) {
        if (strcmp(statements[i].head, text) == 0) {
            const unsigned before = report_errors(source->faults);
            const bool lacks_list = statements[i].has_list && after == NULL;
            statements[i].take(source, segments, lacks_list ? &none : after);
            if (report_errors(source->faults) == before) {
                (void)has_its_list(source, segments, after, statements[i].has_list);
            }
            return;
        }
    }
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        if (strcmp(output_kinds[i]->name, text) == 0) {
            take_output(source, output_kinds[i], segments);
            (void)has_its_list(source, segments, after, false);
            return;
        }
    }
    report_no_statement(source, head);
}
