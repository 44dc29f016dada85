/* Expectations of a script. The phrases for an output are its kind's. */
#include "plan/script/expect.h"

#include "plan/model/build.h"
#include "plan/language/colours.h"

#include <string.h>

typedef enum about { THE_MODE, A_NUMBER, A_CLOCK, AN_OUTPUT_STATE } about;

struct expectation {
    const plan *with;
    GArray *tokens; /* of token, to which the values point */
    about about;
    int row;
    unsigned state; /* phrase of an output's kind, or comparison of a number */
    bool is_not;
    uint32_t within_ms;
    phrase_value values[PHRASE_VALUES];
};

static const char *const then_nothing[] = {"'within'", "the end of the line", NULL};

/* Returns the number of words that state a time: "within 500 ms". */
static guint take_within(expectation *made, guint count)
{
    if (count < 3) {
        return count;
    }
    const token *const within = &g_array_index(made->tokens, token, count - 2);
    const token *const time = &g_array_index(made->tokens, token, count - 1);
    if (within->kind != TOKEN_WORD || strcmp(within->text, "within") != 0 || time->kind != TOKEN_TIME) {
        return count;
    }
    made->within_ms = time->ms;
    return count - 2;
}

/* Returns the phrase that matches, or that is negated. */
static int match(expectation *made, wording given, const char *const *phrases, report *faults)
{
    enum { MAX_PHRASES = 8 };
    char denied[MAX_PHRASES][64];
    const char *all[2 * MAX_PHRASES + 1];
    size_t count = 0;
    for (; phrases[count] != NULL; count++) {
        const char *const verb = strstr(phrases[count], "is ");
        const int head = verb != NULL ? (int)(verb - phrases[count]) + (int)strlen("is ") : 0;
        all[2 * count] = phrases[count];
        (void)g_snprintf(denied[count], sizeof denied[count], "%.*snot %s", head, phrases[count],
                         phrases[count] + head);
        all[2 * count + 1] = denied[count];
    }
    all[2 * count] = NULL;
    const int said = phrase_match(faults, given, all, "", then_nothing, made->values);
    made->is_not = said >= 0 && said % 2 == 1;
    return said < 0 ? -1 : said / 2;
}

static bool match_all(expectation *made, wording given, report *faults)
{
    static const char *const modes[] = {"is NAME", NULL};
    static const char *const numbers[] = {"is INT", "= INT", "!= INT", "< INT",
                                          "<= INT", "> INT", ">= INT", NULL};
    static const char *const clocks[] = {"runs", NULL};
    static const char *const something[] = {"the name of an output, a value or a timer", "'mode'", NULL};
    static const char *const nothing[] = {"", NULL};
    const plan_source *const source = made->with->source;
    const token *const first = &g_array_index(made->tokens, token, given.from);
    const wording rest = {given.tokens, given.from + 1, given.end, false};
    if (given.from == given.end || first->kind != TOKEN_WORD) {
        (void)phrase_match(faults, given, nothing, "", something, made->values);
        return false;
    }
    if (strcmp(first->text, "mode") == 0) {
        made->about = THE_MODE;
        if (match(made, rest, modes, faults) < 0) {
            return false;
        }
        if (source_find(source, made->values[0].name.text, &made->row) != A_MODE) {
            report_error(faults, made->values[0].where, "there is no mode '%s'", made->values[0].name.text);
            return false;
        }
        return true;
    }
    const thing found = source_find(source, first->text, &made->row);
    if (found == A_VALUE) {
        const int said = match(made, rest, numbers, faults);
        made->about = A_NUMBER;
        made->state = (unsigned)MAX(said, 0);
        return said >= 0;
    }
    if (found == A_TIMER) {
        made->about = A_CLOCK;
        return match(made, rest, clocks, faults) >= 0;
    }
    if (found != AN_OUTPUT) {
        report_error(faults, first->where, "there is no output, value or timer '%s'", first->text);
        return false;
    }
    const output_kind *const kind = plan_output_kind(made->with, (unsigned)made->row);
    if (kind->bench.states == NULL) {
        report_error(faults, first->where, "nothing can be expected of a %s", kind->name);
        return false;
    }
    const int said = match(made, rest, kind->bench.states, faults);
    made->about = AN_OUTPUT_STATE;
    made->state = (unsigned)MAX(said, 0);
    for (unsigned i = 0; said >= 0 && strstr(kind->bench.states[said], "COLOUR") != NULL && i < PHRASE_VALUES;
         i++) {
        uint32_t colour;
        if (made->values[i].name.text != NULL && !colour_of(faults, &made->values[i].name, &colour)) {
            return false;
        }
    }
    g_autofree char *wrong =
        said >= 0 && kind->bench.wrong_state != NULL
            ? kind->bench.wrong_state(made->with, (guint)made->row, made->state, made->values)
            : NULL;
    if (wrong != NULL) {
        report_error(faults, made->values[0].where, "%s", wrong);
    }
    return said >= 0;
}

expectation *expectation_read(const plan *loaded, const char *text, report *faults, place where)
{
    expectation *const made = g_new0(expectation, 1);
    const unsigned before = report_errors(faults);
    made->with = loaded;
    made->tokens = plan_tokens(text, faults, where);
    const guint count = take_within(made, made->tokens->len - 1);
    const bool is_denied = count > 0 && strcmp(g_array_index(made->tokens, token, 0).text, "not") == 0;
    const bool is_good = match_all(made, (wording){made->tokens, is_denied, count, false}, faults);
    made->is_not ^= is_denied;
    if (!is_good || report_errors(faults) > before) {
        expectation_free(made);
        return NULL;
    }
    return made;
}

void expectation_free(expectation *unwanted)
{
    if (unwanted != NULL) {
        g_array_unref(unwanted->tokens);
        g_free(unwanted);
    }
}

uint32_t expectation_within_ms(const expectation *expected)
{
    return expected->within_ms;
}

/* In the order of a value's phrases. */
static bool compares(int found, unsigned said, int32_t wanted)
{
    enum { UNEQUAL = 2, LESS, LESS_OR_EQUAL, GREATER, GREATER_OR_EQUAL };
    return said == UNEQUAL            ? found != wanted
           : said == LESS             ? found < wanted
           : said == LESS_OR_EQUAL    ? found <= wanted
           : said == GREATER          ? found > wanted
           : said == GREATER_OR_EQUAL ? found >= wanted
                                      : found == wanted;
}

/* The output that an expectation is about. */
static output_view view_of(const expectation *expected, void *const *devices)
{
    const unsigned row = (unsigned)expected->row;
    return plan_output_view(expected->with, row, devices[row]);
}

static bool is_so(const expectation *expected, const drom_engine *engine, void *const *devices)
{
    const unsigned row = (unsigned)expected->row;
    output_view seen;
    switch (expected->about) {
    case THE_MODE:
        return engine->rules.mode == expected->row;
    case A_NUMBER:
        return compares(expected->with->numbers[row], expected->state, (int32_t)expected->values[0].number);
    case A_CLOCK:
        return expected->with->timers[row].part.is_armed;
    case AN_OUTPUT_STATE:
        seen = view_of(expected, devices);
        return plan_output_kind(expected->with, row)
            ->bench.is_in_state(&seen, expected->state, expected->values);
    }
    return false;
}

bool expectation_is_met(const expectation *expected, const drom_engine *engine, void *const *devices)
{
    return is_so(expected, engine, devices) != expected->is_not;
}

char *expectation_actual(const expectation *expected, const drom_engine *engine, void *const *devices)
{
    const plan_source *const source = expected->with->source;
    const unsigned row = (unsigned)expected->row;
    g_autofree char *state = NULL;
    output_view seen;
    switch (expected->about) {
    case THE_MODE:
        return g_strdup_printf("the mode is %s", source_name(source, A_MODE, engine->rules.mode)->text);
    case A_NUMBER:
        return g_strdup_printf("%s is %d", source_name(source, A_VALUE, row)->text,
                               expected->with->numbers[row]);
    case A_CLOCK:
        return g_strdup_printf("%s %s", source_name(source, A_TIMER, row)->text,
                               expected->with->timers[row].part.is_armed ? "runs" : "doesn't run");
    case AN_OUTPUT_STATE:
        seen = view_of(expected, devices);
        state = plan_output_kind(expected->with, row)->bench.state_text(&seen);
        return g_strdup_printf("%s %s", plan_output_name(expected->with, row), state);
    }
    return NULL;
}

/* True if a text is an expectation that is met. */
static bool is_said(const plan *loaded, const drom_engine *engine, void *const *devices, const char *text)
{
    report *const unread = report_new();
    report_file(unread, "what is so", text);
    expectation *const read = expectation_read(loaded, text, unread, (place){1, 1, 1, 0});
    const bool is_met = read != NULL && expectation_is_met(read, engine, devices);
    expectation_free(read);
    report_free(unread);
    return is_met;
}

/* Returns the state of an output in its kind's words, the part that can be expected, or one of the kind's
 * phrases without placeholders. NULL: none is true. To be freed. */
static char *output_now(const plan *loaded, const drom_engine *engine, void *const *devices, unsigned output)
{
    const output_kind *const kind = plan_output_kind(loaded, output);
    const char *const name = plan_output_name(loaded, output);
    if (kind->bench.states == NULL) {
        return NULL;
    }
    const output_view seen = plan_output_view(loaded, output, devices[output]);
    g_autofree char *state = kind->bench.state_text(&seen);
    const char *const at = strstr(state, "at ");
    const char *const more = strstr(state, " and ");
    g_autofree char *first = more != NULL ? g_strndup(state, (gsize)(more - state)) : g_strdup(state);
    g_autoptr(GPtrArray) tried = g_ptr_array_new();
    g_ptr_array_add(tried, state);
    g_ptr_array_add(tried, (gpointer)at);
    g_ptr_array_add(tried, first);
    for (unsigned i = 0; kind->bench.states[i] != NULL; i++) {
        g_ptr_array_add(tried, (gpointer)kind->bench.states[i]);
    }
    for (guint i = 0; i < tried->len; i++) {
        const char *const words = g_ptr_array_index(tried, i);
        g_autofree char *text = words != NULL ? g_strdup_printf("%s %s", name, words) : NULL;
        if (text != NULL && is_said(loaded, engine, devices, text)) {
            return g_steal_pointer(&text);
        }
    }
    return NULL;
}

GPtrArray *expectations_now(const plan *loaded, const drom_engine *engine, void *const *devices,
                            bool of_outputs)
{
    const plan_source *const source = loaded->source;
    GPtrArray *const texts = g_ptr_array_new_with_free_func(g_free);
    if (source_count(source, A_MODE) > 0) {
        g_ptr_array_add(texts,
                        g_strdup_printf("mode is %s", source_name(source, A_MODE, engine->rules.mode)->text));
    }
    for (unsigned i = 0; i < source_count(source, A_VALUE); i++) {
        g_ptr_array_add(
            texts, g_strdup_printf("%s is %d", source_name(source, A_VALUE, i)->text, loaded->numbers[i]));
    }
    for (unsigned i = 0; i < source_count(source, A_TIMER); i++) {
        g_ptr_array_add(texts, g_strdup_printf("%s %sruns", source_name(source, A_TIMER, i)->text,
                                               loaded->timers[i].part.is_armed ? "" : "not "));
    }
    for (unsigned i = 0; of_outputs && i < plan_output_count(loaded); i++) {
        char *const text = output_now(loaded, engine, devices, i);
        if (text != NULL) {
            g_ptr_array_add(texts, text);
        }
    }
    return texts;
}
