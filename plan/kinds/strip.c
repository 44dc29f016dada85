/* The strip. All strips of a plan share its palettes, and the effects that it names. */
#include "plan/kinds/strip.h"

#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"
#include "plan/language/colours.h"

#include <math.h>
#include <string.h>

enum { PIXELS = STRIP_PIXELS, ORDER, PAUSE, AMPERES, MILLIAMPERES };

enum {
    USUAL_PAUSE_MS = 10, /* between refreshes */
    MAX_PAUSE_MS = 255,
    PIXEL_US = 32,  /* of the processor */
    MAIN_US = 1500, /* after a refresh, to the next timed edge */
    PIXEL_MA = 60,  /* full white */
    DATA_OHMS = 330,
    MAX_MA = 60000,
    PIXELS_MHZ = 16, /* below, a processor that sends pixels has no time for their bits */
};

static const struct {
    const char *name;
    drom_strip_effect *effect;
} effects[] = {{"chase", drom_strip_chase},
               {"blend", drom_strip_blend},
               {"breathe", drom_strip_breathe},
               {"sparkle", drom_strip_sparkle}};

static const uint32_t usual_palette[] = {0xff0000, 0xff7000, 0x00ff00, 0x0000ff};

/* What the strips of a plan share. */
typedef struct shared {
    GArray *names;    /* of guint, rows of `effects`: those that the plan names */
    GArray *effects;  /* of drom_strip_effect_ref: the same */
    GArray *palettes; /* of drom_strip_palette */
} shared;

static void free_shared(gpointer data)
{
    shared *const unwanted = data;
    g_array_unref(unwanted->names);
    g_array_unref(unwanted->effects);
    g_array_unref(unwanted->palettes);
    g_free(unwanted);
}

extern const output_kind strip_kind;

static shared *find_shared(const plan *made)
{
    return plan_shared(made, &strip_kind);
}

static shared *shared_of(plan *made)
{
    shared *all = find_shared(made);
    if (all == NULL) {
        all = g_new0(shared, 1);
        all->names = g_array_new(FALSE, FALSE, sizeof(guint));
        all->effects = g_array_new(FALSE, FALSE, sizeof(drom_strip_effect_ref));
        all->palettes = g_array_new(FALSE, FALSE, sizeof(drom_strip_palette));
        plan_share(made, &strip_kind, all, free_shared);
    }
    return all;
}

static const kind_clause clauses[] = {
    {"N pixels", PIXELS, 0, 1, DROM_STRIP_PIXELS, "a strip has so many pixels"},
    {"order NAME", .clause = ORDER},
    {"pause TIME", PAUSE, 0, 0, MAX_PAUSE_MS, "the pause after a refresh"},
    {"without pause", PAUSE, .fixed = 0},
    {"at most N A", AMPERES, 0, 1, MAX_MA / 1000, "a strip takes, in A"},
    {"at most N mA", MILLIAMPERES, 0, 1, MAX_MA, "a strip takes, in mA"},
    {0},
};

/* Parses an order such as "grb": which of red (0), green (1) and blue (2) is first, second and third; false
 * if it is none of the six. */
static bool pixel_order(const char *text, uint8_t *order)
{
    unsigned seen = 0;
    for (int i = 0; i < 3; i++) {
        if (text[i] == '\0' || strchr("rgb", text[i]) == NULL) {
            return false;
        }
        order[i] = (uint8_t)(text[i] == 'r' ? 0 : text[i] == 'g' ? 1 : 2);
        seen |= 1u << order[i];
    }
    return seen == 7 && text[3] == '\0';
}

/* Returns its current limit; 0: none. */
static uint32_t max_ma(const output_line *line)
{
    return line->clauses[AMPERES].is_given ? line->clauses[AMPERES].value * 1000
                                           : line_value(line, MILLIAMPERES, 0);
}

static void check(plan *made, const output_line *line)
{
    report *const faults = made->source->faults;
    uint8_t order[3];
    if (line->clauses[AMPERES].is_given && line->clauses[MILLIAMPERES].is_given) {
        report_error(faults, line->clauses[MILLIAMPERES].where, "this is said of '%s' already",
                     line->name.text);
    } else if (max_ma(line) > 0 && max_ma(line) <= line_value(line, PIXELS, 0)) {
        report_error(faults, line->clauses[line->clauses[AMPERES].is_given ? AMPERES : MILLIAMPERES].where,
                     "'%s' takes %u mA when it is dark", line->name.text, line_value(line, PIXELS, 0));
    }
    if (!line->clauses[PIXELS].is_given) {
        report_error(faults, line->name.where, "say how many pixels '%s' has, as in: 60 pixels",
                     line->name.text);
    }
    if (line->clauses[ORDER].is_given && !pixel_order(line->clauses[ORDER].name.text, order)) {
        report_error(faults, line->clauses[ORDER].name.where,
                     "the order in which red, green and blue are sent: rgb, rbg, grb, gbr, brg or bgr");
    }
}

static uint32_t colour(plan *made, action_words *action, const kind_order *order)
{
    uint32_t found = 0;
    (void)order;
    (void)colour_of(made->source->faults, &action->values[0].name, &found);
    return found & 0xffffff;
}

static uint32_t pixel_count(plan *made, action_words *action, const kind_order *order)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    const clause_given *const pixels = &line->clauses[PIXELS];
    const uint32_t there =
        line->kind->words.joins_outputs ? pixels->second - pixels->value + 1 : pixels->value;
    const uint32_t count = action->values[0].number;
    (void)order;
    if (count > there) {
        report_error(made->source->faults, action->values[0].where, "'%s' has %u pixels", line->name.text,
                     there);
    }
    return MIN(count, DROM_STRIP_PIXELS);
}

static uint32_t palette_row(plan *made, action_words *action, const kind_order *order)
{
    const word *const name = &action->values[0].name;
    (void)order;
    for (guint i = 0; i < made->source->palettes->len; i++) {
        if (strcmp(g_array_index(made->source->palettes, palette_line, i).name.text, name->text) == 0) {
            return i;
        }
    }
    report_error(made->source->faults, name->where, "there is no palette '%s'", name->text);
    return 0;
}

/* Returns the row of an effect among those that the plan names, and adds it if it is new. */
static uint32_t effect_row(plan *made, action_words *action, const kind_order *order)
{
    shared *const all = shared_of(made);
    (void)action;
    for (guint row = 0; row < all->names->len; row++) {
        if (g_array_index(all->names, guint, row) == order->fixed) {
            return row;
        }
    }
    const guint name = order->fixed;
    drom_strip_effect *const effect = effects[name].effect;
    g_array_append_val(all->names, name);
    g_array_append_val(all->effects, effect);
    return all->names->len - 1;
}

const kind_order strip_orders[] = {
    {"off", .verb = DROM_STRIP_OFF},
    {"on", DROM_STRIP_ON, .can_be_held = true},
    {"toggle", .verb = DROM_STRIP_TOGGLE},
    {"fill COLOUR", DROM_STRIP_FILL, .value = colour},
    {"show COUNT", DROM_STRIP_SHOW, .value = pixel_count},
    {"brightness LEVEL", DROM_STRIP_BRIGHTNESS, .value = order_level},
    {"brighter LEVEL", DROM_STRIP_BRIGHTER, .value = order_level},
    {"dimmer LEVEL", DROM_STRIP_DIMMER, .value = order_level},
    {"palette NAME", DROM_STRIP_PALETTE, .value = palette_row},
    {"next colour", DROM_STRIP_COLOUR, .fixed = 1},
    {"previous colour", DROM_STRIP_COLOUR, .fixed = 0},
    {"chase", DROM_STRIP_EFFECT, .fixed = 0, .value = effect_row},
    {"blend", DROM_STRIP_EFFECT, .fixed = 1, .value = effect_row},
    {"breathe", DROM_STRIP_EFFECT, .fixed = 2, .value = effect_row},
    {"sparkle", DROM_STRIP_EFFECT, .fixed = 3, .value = effect_row},
    {0},
};

static void fill_palettes(plan *made, shared *all)
{
    if (all->palettes->len > 0) {
        return;
    }
    for (guint i = 0; i < made->source->palettes->len; i++) {
        const GArray *const names = g_array_index(made->source->palettes, palette_line, i).colours;
        uint32_t *const list = plan_keep(made, names->len * sizeof *list);
        for (guint j = 0; j < names->len; j++) {
            (void)colour_of(made->source->faults, &g_array_index(names, word, j), &list[j]);
        }
        const drom_strip_palette palette = {{list, (uint8_t)names->len}};
        g_array_append_val(all->palettes, palette);
    }
    if (all->palettes->len == 0) {
        const drom_strip_palette palette = {DROM_ROWS(usual_palette)};
        g_array_append_val(all->palettes, palette);
    }
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_strip_settings *const settings = plan_keep(made, sizeof *settings);
    drom_strip_state *const state = plan_keep(made, sizeof *state);
    shared *const all = shared_of(made);
    fill_palettes(made, all);
    *settings = (drom_strip_settings){
        .bytes = plan_keep(made, line_value(line, PIXELS, 0) * (gsize)3),
        .count = (uint16_t)line_value(line, PIXELS, 0),
        .pin = plan_pin(made, line, 0),
        .every_ms = (uint8_t)line_value(line, PAUSE, USUAL_PAUSE_MS),
        .max_ma = (uint16_t)max_ma(line),
        .effects = {(const drom_strip_effect_ref *)(void *)all->effects->data, (uint8_t)all->effects->len},
        .palettes = {(const drom_strip_palette *)(void *)all->palettes->data, (uint8_t)all->palettes->len},
    };
    (void)pixel_order(line->clauses[ORDER].is_given ? line->clauses[ORDER].name.text : "grb",
                      settings->order);
    return (drom_output)DROM_STRIP(*settings, *state);
}

static void bake_shared(GString *out, const plan *loaded)
{
    const shared *const all = find_shared(loaded);
    for (guint i = 0; i < all->palettes->len; i++) {
        const drom_strip_palette *const palette = &g_array_index(all->palettes, drom_strip_palette, i);
        g_string_append_printf(out, "static const uint32_t DROM_FLASH colours_%u[] = {", i);
        for (uint8_t j = 0; j < palette->colours.count; j++) {
            g_string_append_printf(out, "%s0x%06x", j > 0 ? ", " : "", palette->colours.rows[j]);
        }
        g_string_append(out, "};\n");
    }
    g_string_append(out, "static const drom_strip_palette DROM_FLASH palettes[] = {");
    for (guint i = 0; i < all->palettes->len; i++) {
        g_string_append_printf(out, "%s{DROM_ROWS(colours_%u)}", i > 0 ? ", " : "", i);
    }
    g_string_append(out, "};\n");
    if (all->names->len > 0) {
        g_string_append(out, "static const drom_strip_effect_ref DROM_FLASH effects[] = {");
        for (guint i = 0; i < all->names->len; i++) {
            g_string_append_printf(out, "%sdrom_strip_%s", i > 0 ? ", " : "",
                                   effects[g_array_index(all->names, guint, i)].name);
        }
        g_string_append(out, "};\n");
    }
}

static void bake_tables(GString *out, const plan *loaded, guint output)
{
    const drom_strip_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out, "static uint8_t pixels_%s[%u];\n", plan_output_name(loaded, output),
                           settings->count * 3u);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_strip_settings *const settings = plan_output(loaded, output)->settings;
    if (settings->max_ma > 0) {
        g_string_append_printf(out, ".max_ma = %u, ", settings->max_ma);
    }
    g_string_append_printf(
        out, ".bytes = pixels_%s, .count = %u, .pin = %u, .order = {%u, %u, %u}, .every_ms = %u%s%s",
        plan_output_name(loaded, output), settings->count, settings->pin, settings->order[0],
        settings->order[1], settings->order[2], settings->every_ms,
        settings->effects.count > 0 ? ", .effects = DROM_ROWS(effects)" : "",
        ", .palettes = DROM_ROWS(palettes)");
}

char *strip_order_text(const plan *loaded, const drom_action *action)
{
    switch ((drom_strip_verb)action->verb) {
    case DROM_STRIP_FILL: {
        g_autofree char *text = colour_text(action->value);
        return g_strdup_printf("fill %s", text);
    }
    case DROM_STRIP_SHOW:
        return g_strdup_printf("show %u", action->value);
    case DROM_STRIP_BRIGHTNESS:
        return g_strdup_printf("brightness %u %%", percent_of(action->value));
    case DROM_STRIP_BRIGHTER:
        return g_strdup_printf("brighter %u %%", percent_of(action->value));
    case DROM_STRIP_DIMMER:
        return g_strdup_printf("dimmer %u %%", percent_of(action->value));
    case DROM_STRIP_PALETTE:
        return g_strdup_printf(
            "palette %s", g_array_index(loaded->source->palettes, palette_line, action->value).name.text);
    case DROM_STRIP_COLOUR:
        return g_strdup(action->value != 0 ? "next colour" : "previous colour");
    case DROM_STRIP_EFFECT:
        return g_strdup(effects[g_array_index(find_shared(loaded)->names, guint, action->value)].name);
    default:
        return NULL;
    }
}

static activity activity_of(const drom_output *output)
{
    const drom_strip_state *const state = output->state;
    const drom_strip_settings *const settings = output->settings;
    return (state->picture.is_on && state->picture.effect != 0) || settings->every_ms == 0 ? ENDLESS : IDLE;
}

static double load_ma(const output_line *line)
{
    const double all_ma = line_value(line, PIXELS, 0) * (double)PIXEL_MA;
    return max_ma(line) > 0 ? MIN(all_ma, max_ma(line)) : all_ma;
}

static double refresh_us(const output_line *line)
{
    return line_value(line, PIXELS, 0) * (double)PIXEL_US;
}

/* Returns the bytes of all strips; 0 unless this one is the first. */
static unsigned all_bytes(const plan *made, guint output)
{
    unsigned bytes = 0;
    for (guint i = 0; i < plan_output_count(made); i++) {
        const output_line *const line = plan_line(made, i);
        if (line->kind == &strip_kind && i < output) {
            return 0;
        }
        bytes += line->kind == &strip_kind ? 3 * line_value(line, PIXELS, 0) : 0;
    }
    return bytes;
}

/* Orders during a refresh wait for its end. */
static void vet_wait(const vetting *job, guint output)
{
    enum { GOOD_MS = 5 };
    const double ms = refresh_us(plan_line(job->plan, output)) / 1000;
    if (!job->board.sends_by_itself) {
        vet_add(job->result->times, ms <= GOOD_MS ? VET_FITS : VET_TIGHT, plan_output_name(job->plan, output),
                "what is ordered meanwhile waits for a refresh, up to", ms, GOOD_MS, "ms",
                g_strdup_printf("use at most %d pixels, where relays or motors must answer sooner",
                                GOOD_MS * 1000 / PIXEL_US));
    }
}

/* How far ahead timed edges are made at least, when all outputs have as many as they can (a burst is soon
 * over). */
static double made_ahead_us(const vetting *job)
{
    double edges_s = 0;
    for (guint i = 0; i < plan_output_count(job->plan); i++) {
        const output_kind *const kind = plan_output_kind(job->plan, i);
        edges_s += kind->vet.timed_edges_s != NULL && !kind->words.sends_keys
                       ? kind->vet.timed_edges_s(plan_line(job->plan, i))
                       : 0;
    }
    const double all_us = edges_s > 0 ? DROM_TIMED_EDGES * 1e6 / edges_s : INFINITY;
    return fmin(all_us, DROM_TIMED_EDGE_HORIZON_US);
}

static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    const char *const name = line->name.text;
    GPtrArray *const times = job->result->times;
    if (job->board.sends_by_itself) {
        return;
    }
    vet_wait(job, output);
    const double mhz = job->board.facts_mhz / job->slower;
    vet_add(times, mhz >= PIXELS_MHZ ? VET_FITS : VET_FAILS, name, "its bits need a clock of", mhz,
            PIXELS_MHZ, "MHz", g_strdup("run the chip at 16 MHz"));
    vet_add(times, refresh_us(line) <= 10000 ? VET_FITS : VET_TIGHT, name,
            "a refresh is over before a frame can be", refresh_us(line) / 1000, 10, "ms",
            g_strdup("a key that ends within a refresh acts later: use fewer pixels, or two boards"));
    const double gap_us = MAX(job->board.capture_us, job->board.alarm_us) + 2;
    vet_add(times, gap_us <= 9 ? VET_FITS : VET_FAILS, name,
            "the data may pause, on the touchiest strips, for", gap_us, 9, "us",
            g_strdup(gap_us < 50 ? "use a strip that latches after 50 µs" : "use a faster board"));
    if (vet_uses(job, DROM_USES(TIMED_EDGES) | DROM_USES(CARRIER))) {
        const double ahead_us = made_ahead_us(job);
        vet_add(times, refresh_us(line) + MAIN_US <= ahead_us ? VET_FITS : VET_FAILS, name,
                "steps and bursts are made ahead for a whole refresh", (refresh_us(line) + MAIN_US) / 1000,
                ahead_us / 1000, "ms",
                g_strdup_printf("the strip would stand still while they go on: use at most %.0f pixels%s",
                                fmax(0, (ahead_us - MAIN_US) / PIXEL_US),
                                ahead_us < DROM_TIMED_EDGE_HORIZON_US ? ", or turn more slowly" : ""));
    }
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    enum { TOUCHIEST_US = 9 };
    const drom_strip_settings *const settings = plan_output(loaded, output)->settings;
    return sim_bench_wire_strip(bench, settings->pin, settings->count, TOUCHIEST_US);
}

static uint32_t shown_colour(const drom_strip_settings *settings, const void *device, unsigned pixel)
{
    const uint8_t *const bytes = sim_strip_pixel(device, pixel);
    uint32_t colour = 0;
    for (unsigned i = 0; i < 3; i++) {
        colour |= (uint32_t)bytes[i] << (16 - 8 * settings->order[i]);
    }
    return colour;
}

static void go_dark(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench)
{
    const drom_strip_settings *const settings = plan_output(loaded, output)->settings;
    const drom_port *const port = sim_bench_port(bench);
    drom_strip.rest(settings, plan_output(loaded, output)->state, timing);
    memset(settings->bytes, 0, (size_t)settings->count * 3);
    port->pixels->begin(port->context, settings->pin, settings->bytes, (uint16_t)(settings->count * 3));
}

const char *const strip_states[] = {"is on", "is off", "pixel N is COLOUR", NULL};

/* The pixels of a strip or a part, on the strip. */
typedef struct span {
    const drom_strip_settings *strip;
    unsigned first;
    unsigned count;
} span;

static span span_of(const plan *loaded, guint output)
{
    const void *const settings = plan_output(loaded, output)->settings;
    if (plan_line(loaded, output)->kind == &strip_kind) {
        const drom_strip_settings *const strip = settings;
        return (span){strip, 0, strip->count};
    }
    const drom_part_settings *const part = settings;
    return (span){part->strip, part->first, part->count};
}

bool strip_is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const span range = span_of(seen->plan, seen->output);
    const unsigned pixel = values[0].number;
    uint32_t wanted = 0;
    if (state == 2) {
        return pixel < range.count && colour_find(values[1].name.text, &wanted) &&
               shown_colour(range.strip, seen->device, range.first + pixel) == wanted;
    }
    bool is_lit = false;
    for (unsigned i = 0; i < range.count; i++) {
        is_lit |= shown_colour(range.strip, seen->device, range.first + i) != 0;
    }
    return is_lit == (state == 0);
}

char *strip_wrong_state(const plan *loaded, guint output, unsigned state, const phrase_value *values)
{
    const unsigned count = span_of(loaded, output).count;
    return state < 2 || values[0].number < count
               ? NULL
               : g_strdup_printf("the pixels of '%s' are 0 to %u", plan_output_name(loaded, output),
                                 count - 1);
}

char *strip_state_text(const output_view *seen)
{
    const span range = span_of(seen->plan, seen->output);
    GString *const text = g_string_new("shows");
    for (unsigned i = 0; i < range.count;) {
        const uint32_t colour = shown_colour(range.strip, seen->device, range.first + i);
        const unsigned from = i;
        while (i < range.count && shown_colour(range.strip, seen->device, range.first + i) == colour) {
            i++;
        }
        g_autofree char *name = colour_text(colour);
        if (from + 1 == i) {
            g_string_append_printf(text, "%s %u %s", from > 0 ? "," : "", from, name);
        } else {
            g_string_append_printf(text, "%s %u to %u %s", from > 0 ? "," : "", from, i - 1, name);
        }
    }
    return g_string_free(text, FALSE);
}

static unsigned colours(const output_view *seen, uint32_t *rgb, unsigned max)
{
    const span range = span_of(seen->plan, seen->output);
    const unsigned count = MIN(range.count, max);
    for (unsigned i = 0; i < count; i++) {
        rgb[i] = shown_colour(range.strip, seen->device, range.first + i * range.count / count);
    }
    return count;
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return g_strdup_printf("refreshed %u times, %u wrong pixels", sim_strip_refreshes(seen->device),
                           sim_strip_wrong(seen->device));
}

static void count_costs(const plan *loaded, guint output, plan_cost_sink *sink, void *context)
{
    const shared *const all = find_shared(loaded);
    sink(context, "pixel", line_value(plan_line(loaded, output), PIXELS, 0));
    for (guint i = 0; i < all->names->len && all_bytes(loaded, output) > 0; i++) {
        sink(context, effects[g_array_index(all->names, guint, i)].name, 1);
    }
}

/* A buffer feeds its data line if the pins' high level is too low: less than 0.7 of its supply. */
static void wire_up(wiring_up *job)
{
    const guint feed = wire_feed(job);
    const guint ground = job->made->ground;
    const guint data = wire_net(job, "data");
    const double volts = circuit_net_at(job->made, feed)->volts;
    const bool is_buffered = job->board->logic_volts < 0.7 * volts;
    const module_leg legs[] = {{"DIN", data}, {"5V", feed}, {"GND", ground}, {NULL, 0}};
    const guint strip = wire_module(job, MODULE_STRIP, "strip", legs);
    g_array_index(job->made->parts, circuit_part, strip - 1).current = load_ma(job->line) / 1000;
    guint buffer = 0;
    if (is_buffered) {
        const guint out = wire_net(job, "buffer");
        const module_leg gate[] = {{"A", ground}, {"Y", out}, {"VCC", feed}, {"GND", ground}, {NULL, 0}};
        buffer = wire_module(job, MODULE_BUFFER, "buffer, one gate with TTL inputs, 5 V", gate);
        (void)wire_part(job, SYMBOL_RESISTOR, DATA_OHMS, 0, g_strdup("330 Ω, 0.25 W"), out, data);
        wire_to_module(job, 0, buffer, 0, "data", 0, false);
    } else {
        wire_to_module(job, 0, strip, 0, "data", DATA_OHMS, false);
    }
    circuit_stage *const stage = &g_array_index(job->made->stages, circuit_stage, job->made->stages->len - 1);
    stage->parts[PLACE_MODULE] = strip;
    stage->parts[PLACE_BUFFER] = buffer;
    stage->parts[PLACE_SERIES] = is_buffered ? buffer + 1 : stage->parts[PLACE_SERIES];
    stage->parts[PLACE_CAPACITOR] =
        wire_part(job, SYMBOL_CAPACITOR, 1000e-6, 0, g_strdup("1000 µF, 10 V"), feed, ground);
    wire_load(job, load_ma(job->line), 0, 0);
}

const output_kind strip_kind = {
    .name = "strip",
    .core = &drom_strip,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", NULL},
            .clauses = clauses,
            .orders = strip_orders,
            .has_supply = true,
            .order_text = strip_order_text,
        },
    .checks =
        {
            .check = check,
            .row = row,
        },
    .bake =
        {
            .shared = bake_shared,
            .tables = bake_tables,
            .settings = bake_settings,
        },
    .vet =
        {
            .min_mv = 4500,
            .max_mv = 5500,
            .wire_up = wire_up,
            .count_costs = count_costs,
            .output = vet,
            .keeps_main_us = refresh_us,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .go_dark = go_dark,
            .states = strip_states,
            .is_in_state = strip_is_in_state,
            .wrong_state = strip_wrong_state,
            .state_text = strip_state_text,
            .drawn_as = DRAWN_AS_COLOURS,
            .colours = colours,
            .sum_up = sum_up,
        },
};
