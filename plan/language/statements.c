/* The statements of the language, except the kinds' own words: a row per statement, with the phrases of its
 * segments. */
#include "plan/language/statements.h"

#include "plan/language/kind.h"

#include <math.h>
#include <string.h>

const char *const driven_by_driver[] = {"through driver", "through a driver", NULL};
const char *const driven_on_board[] = {"on a relay board", "through driver", "through a driver", NULL};

const char *const statement_then_list[] = {"':'", NULL};
const char *const statement_then_clause[] = {"','", "the end of the line", NULL};
const char *const statement_then_nothing[] = {"the end of the line", NULL};

enum { MIN_BAUD = 1200, MAX_BAUD = 1000000 };

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
    (void)phrase_match(source->faults, (wording){source->tokens, at, at + 1, false}, nothing, "", expected,
                       values);
}

int statement_match(plan_source *source, const segment *given, const char *const *phrases,
                    const char *separator, const char *const *then, phrase_value *values)
{
    const token *const before = statement_token(source, given->before);
    if (given->has_while) {
        statement_unexpected(source, given->words.end, then);
        return -1;
    }
    if (separator != NULL && strcmp(before->text, separator) != 0) {
        statement_unexpected(source, given->before, then);
        return -1;
    }
    return phrase_match(source->faults, given->words, phrases, "", then, values);
}

int statement_match_only(plan_source *source, const GArray *segments, const char *const *phrases,
                         phrase_value *values)
{
    const int said = statement_match(source, statement_segment(segments, 0), phrases, NULL,
                                     statement_then_nothing, values);
    if (said >= 0 && segments->len > 1) {
        statement_unexpected(source, statement_segment(segments, 1)->before, statement_then_nothing);
        return -1;
    }
    return said;
}

/* Stores what may be given once; reports it if it is given again. */
static void take_once(plan_source *source, word *kept, word given, const char *what)
{
    if (kept->text == NULL) {
        *kept = given;
        return;
    }
    report_error(source->faults, given.where, "the %s is given on line %d already", what, kept->where.line);
}

static void take_plan(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"TEXT", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match_only(source, whole->segments, phrases, values) >= 0) {
        take_once(source, &source->title, values[0].name, "name of the plan");
    }
}

static void take_board(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"NAME", "NAME at CLOCK", NULL};
    phrase_value values[PHRASE_VALUES];
    const int said = statement_match_only(source, whole->segments, phrases, values);
    if (said >= 0) {
        source->board_mhz = said == 1 ? values[1].amount : -1;
        source->board_mhz_at = values[1].where;
        take_once(source, &source->board, values[0].name, "board");
    }
}

static void take_own(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"code masks N us", "code blocks TIME", NULL};
    phrase_value values[PHRASE_VALUES];
    const int said = statement_match_only(source, whole->segments, phrases, values);
    if (said >= 0) {
        *(said == 0 ? &source->own_masks_us : &source->own_blocks_ms) = values[0].number;
    }
}

/* For reports over the serial line, which don't exist yet. */
static void take_serial(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"at N", NULL};
    static const char *const clauses[] = {"reports", NULL};
    phrase_value values[PHRASE_VALUES];
    phrase_value nothing[PHRASE_VALUES];
    const int said = statement_match(source, statement_segment(whole->segments, 0), heads, NULL,
                                     statement_then_clause, values);
    for (guint i = 1; said >= 0 && i < whole->segments->len; i++) {
        if (statement_match(source, statement_segment(whole->segments, i), clauses, ",",
                            statement_then_clause, nothing) < 0) {
            return;
        }
    }
    if (said >= 0 && (values[0].number < MIN_BAUD || values[0].number > MAX_BAUD)) {
        report_error(source->faults, values[0].where,
                     "a serial line is read at 1200 to 1000000 bits a second");
    } else if (said >= 0 && source->has_serial) {
        report_error(source->faults, values[0].where, "the serial line is given already");
    } else if (said >= 0) {
        source->has_serial = true;
        report_warning(source->faults, wording_place(statement_segment(whole->segments, 0)->words),
                       "the program that is baked says nothing over its serial line yet");
    }
}

/* The file is read after this one. */
static void take_include(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"TEXT", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match_only(source, whole->segments, phrases, values) >= 0) {
        g_array_append_val(source->includes, values[0].name);
    }
}

static void take_receiver(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"on pin PIN", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match_only(source, whole->segments, phrases, values) >= 0) {
        take_once(source, &source->receiver_pin, values[0].name, "receiver");
    }
}

static void take_handset(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME from TEXT", NULL};
    static const char *const clauses[] = {"confirmed", NULL};
    phrase_value values[PHRASE_VALUES];
    phrase_value nothing[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_clause,
                        values) < 0) {
        return;
    }
    for (guint i = 1; i < whole->segments->len; i++) {
        if (statement_match(source, statement_segment(whole->segments, i), clauses, ",",
                            statement_then_clause, nothing) < 0) {
            return;
        }
    }
    const handset_line handset = {
        .name = values[0].name, .path = values[1].name, .is_confirmed = whole->segments->len > 1};
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
    if (statement_match_only(source, segments, phrases, values) >= 0) {
        take_key_time(source, which, &values[0]);
    }
}

static void take_holds(plan_source *source, const statement *whole)
{
    take_one_time(source, whole->segments, "after TIME", HOLDS_AFTER);
}

static void take_taps(plan_source *source, const statement *whole)
{
    take_one_time(source, whole->segments, "within TIME", TAPS_WITHIN);
}

static void take_doubles(plan_source *source, const statement *whole)
{
    take_one_time(source, whole->segments, "within TIME", DOUBLES_WITHIN);
}

static void take_repeats(plan_source *source, const statement *whole)
{
    static const char *const phrases[][2] = {
        {"after TIME", NULL}, {"every TIME", NULL}, {"fastest TIME", NULL}};
    static const char *const then_comma[] = {"','", NULL};
    phrase_value values[PHRASE_VALUES];
    for (guint i = 0; i < MAX(whole->segments->len, 2); i++) {
        if (i >= whole->segments->len) {
            statement_unexpected(source, statement_segment(whole->segments, i - 1)->words.end, then_comma);
            return;
        }
        if (i == G_N_ELEMENTS(phrases)) {
            statement_unexpected(source, statement_segment(whole->segments, i)->before,
                                 statement_then_nothing);
            return;
        }
        const char *const *const then = i == 0   ? then_comma
                                        : i == 1 ? statement_then_clause
                                                 : statement_then_nothing;
        if (statement_match(source, statement_segment(whole->segments, i), phrases[i], i == 0 ? NULL : ",",
                            then, values) < 0) {
            return;
        }
        take_key_time(source, (enum key_time)(REPEATS_AFTER + i), &values[0]);
    }
}

static void take_palette(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME", NULL};
    static const char *const colours[] = {"COLOUR", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_list,
                        values) < 0) {
        return;
    }
    const palette_line palette = {values[0].name, g_array_new(FALSE, FALSE, sizeof(word))};
    bool is_good = true;
    for (guint i = 0; i < whole->after->len && is_good; i++) {
        is_good = statement_match(source, statement_segment(whole->after, i), colours, i == 0 ? NULL : ",",
                                  statement_then_clause, values) >= 0;
        g_array_append_val(palette.colours, values[0].name);
    }
    if (is_good) {
        g_array_append_val(source->palettes, palette);
    } else {
        g_array_unref(palette.colours);
    }
}

/* Returns "30 min", "255 ms", or a plain number. To be freed. */
static char *limit_text(const char *phrase, uint32_t limit)
{
    enum { MINUTE_MS = 60000 };
    return strstr(phrase, "TIME") == NULL || strstr(phrase, "N ") != NULL ? g_strdup_printf("%u", limit)
           : limit > 0 && limit % MINUTE_MS == 0 ? g_strdup_printf("%u min", limit / MINUTE_MS)
                                                 : g_strdup_printf("%u ms", limit);
}

/* The supply of the load. */
static const char *const supplies[] = {"supply AMOUNT V AMOUNT A", "supply AMOUNT V N mA", NULL};
enum { SUPPLIES = 2, MAX_VOLTS = 48, MAX_SUPPLY_MA = 60000 };

static void take_supply(plan_source *source, output_line *output, const phrase_value *values, bool is_in_ma,
                        place where)
{
    const double mv = round(values[0].amount * 1000);
    const double ma = is_in_ma ? values[1].number : round(values[1].amount * 1000);
    if (output->supply.is_given) {
        report_error(source->faults, where, "this is said of '%s' already", output->name.text);
    } else if (mv < 1000 || mv > MAX_VOLTS * 1000 || ma < 1 || ma > MAX_SUPPLY_MA) {
        report_error(source->faults, where, "a supply gives 1 to %d V, and up to %d A", MAX_VOLTS,
                     MAX_SUPPLY_MA / 1000);
    }
    output->supply = (clause_given){
        true, (uint32_t)MIN(mv, MAX_VOLTS * 1000), (uint32_t)MIN(ma, MAX_SUPPLY_MA), {0}, where};
}

static void keep_clause(plan_source *source, output_line *output, const kind_clause *clause,
                        const phrase_value *values, place where)
{
    clause_given *const kept = &output->clauses[clause->clause];
    const bool is_fixed = strpbrk(clause->phrase, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == NULL;
    const bool has_pin = strstr(clause->phrase, "PIN") != NULL;
    const uint32_t value = is_fixed ? clause->fixed : has_pin ? output->pin_count : values[0].number;
    if (kept->is_given) {
        report_error(source->faults, where, "this is said of '%s' already", output->name.text);
    } else if (clause->range != NULL && (value < clause->min || value > clause->max)) {
        g_autofree char *min = limit_text(clause->phrase, clause->min);
        g_autofree char *max = limit_text(clause->phrase, clause->max);
        report_error(source->faults, where, "%s: %s to %s", clause->range, min, max);
    }
    if (has_pin && !kept->is_given && output->pin_count < MAX_PINS) {
        output->pins[output->pin_count++] = values[0].name;
    }
    *kept = (clause_given){true, value, values[1].number, values[0].name, where};
}

/* Handles a clause of an output's line: its kind's, or about driver and supply. */
static void take_clause(plan_source *source, output_line *output, const segment *given)
{
    const output_kind *const kind = output->kind;
    enum { MAX_SHARED = 6 };
    const char *phrases[KIND_MAX_PHRASES + MAX_SHARED + 1] = {NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    int own = 0;
    for (; kind->words.clauses[own].phrase != NULL; own++) {
        phrases[own] = kind->words.clauses[own].phrase;
    }
    const int fed = own + (kind->words.has_supply ? SUPPLIES : 0);
    for (int i = own; i < fed; i++) {
        phrases[i] = supplies[i - own];
    }
    for (int i = 0; kind->words.driven != NULL && kind->words.driven[i] != NULL; i++) {
        phrases[fed + i] = kind->words.driven[i];
    }
    const int said = statement_match(source, given, phrases, ",", statement_then_clause, values);
    if (said < 0) {
        return;
    }
    const place where = wording_place(given->words);
    if (said < own) {
        keep_clause(source, output, &kind->words.clauses[said], values, where);
    } else if (said < fed) {
        take_supply(source, output, values, said == own + 1, where);
    } else if (output->driven.is_given) {
        report_error(source->faults, where, "this is said of '%s' already", output->name.text);
    } else {
        const bool is_on_board = strcmp(phrases[said], driven_on_board[0]) == 0;
        output->driven = (clause_given){
            .is_given = true, .value = is_on_board ? DRIVEN_ON_BOARD : DRIVEN_BY_DRIVER, .where = where};
    }
}

static void take_output(plan_source *source, const output_kind *kind, const GArray *segments)
{
    phrase_value values[PHRASE_VALUES] = {0};
    if (statement_match(source, statement_segment(segments, 0), kind->words.heads, NULL,
                        statement_then_clause, values) < 0) {
        return;
    }
    output_line output = {.kind = kind, .name = values[0].name};
    for (unsigned i = 0; kind->words.joins_outputs && i < MAX_MEMBERS; i++) {
        output.members[i] = values[i + 1].name;
    }
    for (unsigned i = 0; !kind->words.joins_outputs && i < MAX_PINS && values[i + 1].name.text != NULL; i++) {
        output.pins[output.pin_count++] = values[i + 1].name;
    }
    for (guint i = 1; i < segments->len; i++) {
        take_clause(source, &output, statement_segment(segments, i));
    }
    g_array_append_val(source->outputs, output);
}

static const struct {
    const char *head;
    void (*take)(plan_source *source, const statement *whole);
    bool has_list; /* after a ':' */
} statements[] = {
    {"plan", take_plan, false},
    {"board", take_board, false},
    {"own", take_own, false},
    {"receiver", take_receiver, false},
    {"serial", take_serial, false},
    {"include", take_include, false},
    {"handset", take_handset, false},
    {"holds", take_holds, false},
    {"taps", take_taps, false},
    {"doubles", take_doubles, false},
    {"repeats", take_repeats, false},
    {"palette", take_palette, true},
    {"protocol", figures_take_protocol, true},
    {"mode", names_take_mode, false},
    {"value", names_take_value, false},
    {"timer", names_take_timer, false},
    {"event", names_take_event, false},
    {"switch", names_take_switch, false},
    {"buttons", names_take_buttons, true},
    {"all", names_take_group, true},
    {"only", names_take_only, false},
    {"scene", rules_take_scene, true},
    {"translate", rules_take_translate, true},
    {"at", rules_take_at, true},
    {"every", rules_take_every, true},
    {"when", rules_take_when, true},
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
    const token *const found = statement_token(source, head);
    g_autofree char *hint = did_you_mean(found->text, (const char *const *)heads->pdata);
    report_error(source->faults, found->where, "'%s' begins no statement%s", found->text,
                 hint[0] != '\0' ? hint : "; docs/plan-language.md has all that there are");
}

static bool may_have_otherwise(const char *head)
{
    return strcmp(head, "when") == 0 || strcmp(head, "at") == 0 || strcmp(head, "every") == 0;
}

/* Reports a ':' that is missing, when everything before it is right, or one too many; and an 'otherwise'
 * without a condition. */
static void check_lists(plan_source *source, const statement *whole, bool has_list)
{
    static const char *const then_action[] = {"';'", "the end of the line", NULL};
    const guint last = statement_segment(whole->segments, whole->segments->len - 1)->words.end;
    if ((whole->after != NULL) != has_list) {
        statement_unexpected(source, has_list ? last : statement_segment(whole->after, 0)->before,
                             has_list ? statement_then_list : statement_then_clause);
    } else if (whole->otherwise != NULL && !may_have_otherwise(statement_token(source, whole->head)->text)) {
        statement_unexpected(source, statement_segment(whole->otherwise, 0)->before - 1, then_action);
    }
}

void source_take_statement(plan_source *source, const statement *given)
{
    static const GArray none = {0};
    const char *const text = statement_token(source, given->head)->text;
    const unsigned before = report_errors(source->faults);
    statement whole = *given;
    for (size_t i = 0; i < G_N_ELEMENTS(statements); i++) {
        if (strcmp(statements[i].head, text) == 0) {
            whole.after = statements[i].has_list && given->after == NULL ? &none : given->after;
            statements[i].take(source, &whole);
            if (report_errors(source->faults) == before) {
                check_lists(source, given, statements[i].has_list);
            }
            return;
        }
    }
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        if (strcmp(output_kinds[i]->name, text) == 0) {
            take_output(source, output_kinds[i], given->segments);
            if (report_errors(source->faults) == before) {
                check_lists(source, given, false);
            }
            return;
        }
    }
    static const char *const a_rule[] = {"'when'", NULL};
    if (strcmp(text, "in") == 0 && given->after != NULL) {
        statement_unexpected(source, statement_segment(given->after, 0)->words.from, a_rule);
    } else {
        report_no_statement(source, given->head);
    }
}

void source_begin_block(plan_source *source, guint head, const GArray *segments)
{
    static const char *const heads[] = {"NAME", NULL};
    static const char *const an_action[] = {"an action", NULL};
    phrase_value values[PHRASE_VALUES];
    const guint when = statement_segment(segments, segments->len - 1)->words.end + 1;
    if (strcmp(statement_token(source, head)->text, "in") != 0) {
        statement_unexpected(source, when, an_action);
    } else if (statement_match_only(source, segments, heads, values) >= 0) {
        source->block = values[0].name;
    }
}
