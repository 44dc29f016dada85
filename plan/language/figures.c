/* Declared protocols: a row per figure, with its phrase. */
#include "plan/language/statements.h"

/* A figure of a protocol: up to three numbers, or yes. */
static const struct {
    const char *phrase;
    gsize numbers[3]; /* fields of declared_figures */
    gsize fixed;      /* and one that is true or false */
    bool value;
} figures[] = {
#define NUMBERS(...) .numbers = {__VA_ARGS__}
#define FIGURE(name) offsetof(declared_figures, name) + 1
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
    {"carrier CLOCK", NUMBERS(FIGURE(carrier_khz))},
#undef NUMBERS
#undef FIGURE
};

static void take_figure(plan_source *source, declared_figures *own, const segment *given, int said,
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

void figures_take_protocol(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME", NULL};
    const char *phrases[G_N_ELEMENTS(figures) + 1] = {NULL};
    phrase_value values[PHRASE_VALUES];
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        phrases[i] = figures[i].phrase;
    }
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_list,
                        values) < 0) {
        return;
    }
    const protocol_line protocol = {values[0].name, g_new0(declared_protocol, 1)};
    for (guint i = 0; i < whole->after->len; i++) {
        const segment *const given = statement_segment(whole->after, i);
        const int said =
            statement_match(source, given, phrases, i == 0 ? NULL : ",", statement_then_clause, values);
        if (said < 0) {
            g_free(protocol.own);
            return;
        }
        take_figure(source, &protocol.own->figures, given, said, values);
    }
    const char *const wrong = declared_fill(protocol.own, protocol.name.text);
    if (wrong != NULL) {
        report_error(source->faults, protocol.name.where, "the protocol '%s': %s", protocol.name.text, wrong);
    }
    protocol.own->protocol.number = (uint8_t)(DROM_OWN_PROTOCOL + source->protocols->len);
    g_array_append_val(source->protocols, protocol);
}
