/* The part of a strip. */
#include "plan/kinds/strip.h"

static const kind_clause clauses[] = {
    {"pixels N to N", STRIP_PIXELS, 0, 0, DROM_STRIP_PIXELS - 1, "a strip's pixels are counted from 0"},
    {0},
};

static const char *name_of_strip(const output_line *line)
{
    return line->members[0].text;
}

/* Earlier parts of its strip may not have its pixels, nor be too many: each poll looks at each of them. */
static void check_others(plan *made, const output_line *line, unsigned row)
{
    const clause_given *const own = &line->clauses[STRIP_PIXELS];
    unsigned count = 1;
    for (guint i = 0; i < row; i++) {
        const output_line *const other = plan_line(made, i);
        const clause_given *const pixels = &other->clauses[STRIP_PIXELS];
        if (other->kind != line->kind || g_strcmp0(name_of_strip(other), name_of_strip(line)) != 0) {
            continue;
        }
        count++;
        if (own->value <= pixels->second && pixels->value <= own->second) {
            report_error(made->source->faults, own->where, "'%s' has some of these pixels", other->name.text);
        }
    }
    if (count == DROM_STRIP_PARTS + 1) {
        report_error(made->source->faults, line->name.where, "'%s' has %d parts already, which is the most",
                     name_of_strip(line), DROM_STRIP_PARTS);
    }
}

static void check(plan *made, const output_line *line)
{
    report *const faults = made->source->faults;
    const clause_given *const pixels = &line->clauses[STRIP_PIXELS];
    const unsigned row = (unsigned)(line - plan_line(made, 0));
    int strip = -1;
    if (!pixels->is_given) {
        report_error(faults, line->name.where, "say which pixels '%s' has, as in: pixels 0 to 19",
                     line->name.text);
        return;
    }
    if (source_find(made->source, name_of_strip(line), &strip) != AN_OUTPUT) {
        return; /* a missing strip has been reported */
    }
    const output_line *const whole = plan_line(made, (guint)strip);
    if (whole->kind->core != &drom_strip) {
        report_error(faults, line->members[0].where, "'%s' is a %s; a part is one of a strip",
                     name_of_strip(line), whole->kind->name);
        return;
    }
    if ((unsigned)strip > row) {
        report_error(faults, line->members[0].where, "'%s' must be said before its parts", whole->name.text);
    }
    if (pixels->second < pixels->value || pixels->second >= line_value(whole, STRIP_PIXELS, 0)) {
        report_error(faults, pixels->where, "the last pixel of '%s' is %u to %u", line->name.text,
                     pixels->value, MAX(line_value(whole, STRIP_PIXELS, 1), 1) - 1);
    }
    check_others(made, line, row);
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    const clause_given *const pixels = &line->clauses[STRIP_PIXELS];
    drom_part_settings *const settings = plan_keep(made, sizeof *settings);
    drom_part_state *const state = plan_keep(made, sizeof *state);
    int strip = 0;
    (void)source_find(made->source, name_of_strip(line), &strip);
    const drom_output *const whole = &g_array_index(made->outputs, drom_output, strip);
    *settings = (drom_part_settings){.strip = whole->settings,
                                     .state = whole->state,
                                     .first = (uint16_t)pixels->value,
                                     .count = (uint16_t)(pixels->second - pixels->value + 1)};
    return (drom_output)DROM_PART(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_part_settings *const settings = plan_output(loaded, output)->settings;
    const char *const strip = name_of_strip(plan_line(loaded, output));
    g_string_append_printf(out, ".strip = &settings_%s, .state = &state_%s, .first = %u, .count = %u", strip,
                           strip, settings->first, settings->count);
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    return sim_bench_strip_on(
        bench, ((const drom_part_settings *)plan_output(loaded, output)->settings)->strip->pin);
}

static unsigned pixels_of(const plan *loaded, guint output, unsigned *first)
{
    const drom_part_settings *const settings = plan_output(loaded, output)->settings;
    *first = settings->first;
    return settings->first + settings->count - 1u;
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return g_strdup(drom_part.is_on(seen->row->state) ? "ends on" : "ends off");
}

const output_kind part_kind = {
    .name = "part",
    .core = &drom_part,
    .words =
        {
            .heads = (const char *const[]){"NAME of NAME", NULL},
            .clauses = clauses,
            .orders = strip_orders,
            .joins_outputs = true,
            .order_text = strip_order_text,
        },
    .checks =
        {
            .check = check,
            .row = row,
        },
    .bake =
        {
            .verbs = "strip",
            .settings = bake_settings,
        },
    .bench =
        {
            .activity = always_idle,
            .wire = wire,
            .states = strip_states,
            .is_in_state = strip_is_in_state,
            .wrong_state = strip_wrong_state,
            .state_text = strip_state_text,
            .drawn_as = DRAWN_AS_NOTHING,
            .pixels = pixels_of,
            .sum_up = sum_up,
        },
};
