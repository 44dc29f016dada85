/* The figures come from the plan, from the board's facts and from the protocols' own timing; each verdict is
 * one comparison. tests/test_vet.c holds the verdicts on time against the simulated processor. */
#include "vet.h"

#include "build.h"
#include "trial.h"

#include <math.h>

enum {
    CUE_MAIN_US = 110, /* of main, for each cue */
    PIXEL_US = 32,     /* of the processor */
    PIXEL_MA = 60,     /* full white */
    COIL_MA = 75,      /* a small 5 V relay's */
    STEPPER_MA = 320,  /* two coils of a small geared stepper */
    LED_MA = 100,      /* a sender's, while it is lit */
    BASE_MA = 5,       /* what a pin gives a transistor or a driver */
    EDGES_S = 1200,    /* while a frame comes in */
};

static void free_finding(gpointer data)
{
    vet_finding *const finding = data;
    g_free(finding->about);
    g_free(finding->what);
    g_free(finding->way_out);
    g_free(finding);
}

static vet_finding *add(GPtrArray *to, vet_verdict verdict, const char *about, const char *what, double there,
                        double needed, const char *unit, char *way_out)
{
    vet_finding *const finding = g_new0(vet_finding, 1);
    *finding = (vet_finding){verdict, g_strdup(about), g_strdup(what), needed, there, unit, NULL};
    if (verdict == VET_FITS) {
        g_free(way_out);
    } else {
        finding->way_out = way_out;
    }
    g_ptr_array_add(to, finding);
    return finding;
}

double vet_shortest_run_us(const plan *of, const drom_protocol *protocol)
{
    const drom_waveform *const waveform = plan_waveform(of, protocol);
    uint16_t shortest_us = UINT16_MAX;
    for (uint16_t command = 0; waveform != NULL && waveform->pack != NULL && command < 64; command++) {
        const drom_code code = {protocol, waveform->least_address,
                                (uint16_t)(command * 37u & waveform->most_command)};
        drom_encoder encoder;
        if (drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, false) != DROM_OK) {
            continue;
        }
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            shortest_us = MIN(shortest_us, us);
        }
    }
    return shortest_us == UINT16_MAX ? 0 : shortest_us;
}

static bool has_kind(const plan *of, enum output_kind kind)
{
    bool has = false;
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        has |= plan_output_kind(of, i) == kind;
    }
    return has;
}

static const output_line *line_of(const plan *of, unsigned output)
{
    return &g_array_index(of->source->outputs, output_line, output);
}

/* The longest that an edge's handler may have to wait. */
static double longest_wait_us(const plan *of)
{
    const board *const on = of->board;
    const bool has_strip = has_kind(of, KIND_STRIP) && !on->sends_by_itself;
    const bool has_alarm = has_kind(of, KIND_STEPPER) || has_kind(of, KIND_SENDER);
    const double port_us = has_strip || on->sends_by_itself ? on->masked_us : 2;
    return MAX(port_us, of->source->own_masks_us) + (has_alarm ? on->alarm_us : 0) + on->capture_us;
}

/* A latched edge is right however late its handler comes; but if the next one comes before that, both are
 * gone. An edge that its handler stamps is late by as much as it waited. The room takes its part of the
 * shortest run, too. */
static void vet_protocol(const plan *of, vet_result *result, drom_protocol_ref protocol, bool is_latched)
{
    const double shortest_us = vet_shortest_run_us(of, protocol);
    const double wait_us = longest_wait_us(of);
    const sim_limit limit = sim_limit_of(protocol->id);
    if (shortest_us <= 0) {
        return;
    }
    const double room_us = limit.stretch_us + 2 * limit.jitter_us + shortest_us * 0.08;
    const double apart_us = MAX(shortest_us - room_us, shortest_us * 0.3);
    const vet_verdict apart = wait_us <= apart_us ? VET_FITS : wait_us < shortest_us ? VET_TIGHT : VET_FAILS;
    const bool is_own = of->source->own_masks_us >= of->board->masked_us;
    add(result->times, apart, protocol->id, "no two edges within the longest masked time", wait_us, apart_us,
        "us",
        g_strdup_printf(is_own ? "mask interrupts in your own code for at most %.0f us at a time"
                               : "leave %.0f us: use a protocol with longer marks",
                        floor(apart_us - of->board->alarm_us - of->board->capture_us)));
    if (!is_latched) {
        const double bearable_us = 2 * limit.jitter_us;
        const vet_verdict stamp = wait_us <= bearable_us  ? VET_FITS
                                  : wait_us < shortest_us ? VET_TIGHT
                                                          : VET_FAILS;
        add(result->times, stamp, protocol->id, "edges are stamped late, by up to", wait_us, bearable_us,
            "us", g_strdup("put the receiver on a pin whose edges a timer latches"));
    }
}

/* The ring holds 32 edges; the least time in which they come is that of the shortest runs. */
static void vet_blocking(const plan *of, vet_result *result)
{
    const drom_receive_plan *const receive = &plan_tables(of)->receive;
    const double blocks_us = of->source->own_blocks_ms * 1000.0;
    for (uint8_t i = 0; i < receive->protocols.count && blocks_us > 0; i++) {
        const char *const id = receive->protocols.rows[i]->id;
        const double ring_us = vet_shortest_run_us(of, receive->protocols.rows[i]) * DROM_EDGES;
        add(result->times, blocks_us < ring_us ? VET_FITS : VET_FAILS, id,
            "edges wait while your own code blocks", blocks_us / 1000, ring_us / 1000, "ms",
            g_strdup("break your own code into pieces, and call drom_engine_poll() between them"));
    }
    if (blocks_us > 0 && (has_kind(of, KIND_STEPPER) || has_kind(of, KIND_SENDER))) {
        add(result->times, blocks_us < DROM_CUE_HORIZON_US ? VET_FITS : VET_FAILS, "cues",
            "are made ahead, while your own code blocks", blocks_us / 1000, DROM_CUE_HORIZON_US / 1000.0,
            "ms", g_strdup("break your own code into pieces: steps and bursts would come late"));
    }
}

static double refresh_us(const output_line *line)
{
    return line->values[CLAUSE_PIXELS] * (double)PIXEL_US;
}

static double steps_s(const output_line *line)
{
    return (line->given & 1u << CLAUSE_SPEED) != 0 ? line->values[CLAUSE_SPEED] : 200;
}

static void vet_output(const plan *of, vet_result *result, unsigned output)
{
    const output_line *const line = line_of(of, output);
    const char *const name = line->name.text;
    if (line->kind == KIND_STRIP && !of->board->sends_by_itself) {
        add(result->times, refresh_us(line) <= 10000 ? VET_FITS : VET_TIGHT, name,
            "a refresh is over before a frame can be", refresh_us(line) / 1000, 10, "ms",
            g_strdup("a key that ends within a refresh acts later: use fewer pixels, or two boards"));
        const double gap_us = MAX(of->board->capture_us, of->board->alarm_us) + 2;
        add(result->times, gap_us <= 9 ? VET_FITS : VET_FAILS, name,
            "the data may pause, on the touchiest strips, for", gap_us, 9, "us",
            g_strdup("use a strip that latches after 50 us"));
        const bool has_steps = has_kind(of, KIND_STEPPER) || has_kind(of, KIND_SENDER);
        if (has_steps) {
            add(result->times, refresh_us(line) + 1500 <= DROM_CUE_HORIZON_US ? VET_FITS : VET_FAILS, name,
                "steps and bursts are made ahead for a whole refresh", (refresh_us(line) + 1500) / 1000,
                DROM_CUE_HORIZON_US / 1000.0, "ms",
                g_strdup("the strip would stand still while they go on: use at most 200 pixels"));
        }
    }
    if (line->kind == KIND_STEPPER) {
        const double late_us = longest_wait_us(of) + of->board->masked_us;
        add(result->times, late_us * 4 < 1e6 / steps_s(line) ? VET_FITS : VET_TIGHT, name,
            "a step comes late by up to", late_us, 1e6 / steps_s(line) / 4, "us",
            g_strdup("turn more slowly, or the motor may lose steps"));
    }
}

/* What the processor does in a second, when everything goes on at once. */
static double reckon_load(const plan *of)
{
    const board *const on = of->board;
    double us = EDGES_S * (on->capture_us + on->poll_us);
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        const output_line *const line = line_of(of, i);
        if (line->kind == KIND_STEPPER) {
            us += steps_s(line) * (on->alarm_us + CUE_MAIN_US);
        } else if (line->kind == KIND_SENDER) {
            us += 68 / 0.108 * (on->alarm_us + CUE_MAIN_US);
        }
    }
    return us / 1e6;
}

static void vet_pins(const plan *of, vet_result *result)
{
    const board *const on = of->board;
    const bool has_sender = has_kind(of, KIND_SENDER);
    const char *const receiver = of->source->receiver_pin.text;
    if (receiver != NULL && !board_pin_by_name(on, receiver)->has_latch) {
        g_autoptr(GString) latched = g_string_new(NULL);
        for (const board_pin *pin = on->pins; pin->name != NULL; pin++) {
            if (pin->has_latch) {
                g_string_append_printf(latched, "%s%s", latched->len > 0 ? ", " : "", pin->name);
            }
        }
        add(result->pins, VET_TIGHT, "receiver", "an interrupt stamps its edges, not a timer", 0, 0, "",
            g_strdup_printf("a timer of the %s latches pin %s", on->chip, latched->str));
    }
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        const output_line *const line = line_of(of, i);
        const board_pin *const pin = board_pin_by_name(on, line->pins[0].text);
        const char *const name = line->name.text;
        if (line->kind == KIND_SENDER && !pin->has_carrier) {
            add(result->pins, VET_FAILS, name, "has no carrier on its pin", 0, 0, "",
                g_strdup("put the sender on the pin of the carrier's timer (3 on the ATmega328P)"));
        }
        if (line->kind != KIND_LAMP) {
            continue;
        }
        if (pin->timer == NO_TIMER) {
            add(result->pins, VET_FAILS, name, "has no PWM on its pin", 0, 0, "", g_strdup("use a PWM pin"));
        } else if (pin->timer == on->clock_timer) {
            add(result->pins, VET_FAILS, name, "has its PWM from the timer that is the clock", 0, 0, "",
                g_strdup("use a PWM pin of another timer (5 or 6 on the ATmega328P)"));
        } else if (has_sender && pin->timer == on->carrier_timer) {
            add(result->pins, VET_FAILS, name, "has its PWM from the carrier's timer", 0, 0, "",
                g_strdup("use a PWM pin of another timer (5 or 6 on the ATmega328P)"));
        }
    }
}

static void vet_currents(const plan *of, vet_result *result)
{
    const board *const on = of->board;
    double pins_ma = 0;
    double supply_ma = 50; /* the board itself, and the receiver */
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        const output_line *const line = line_of(of, i);
        const double load_ma = line->kind == KIND_RELAY     ? COIL_MA
                               : line->kind == KIND_STEPPER ? STEPPER_MA
                               : line->kind == KIND_STRIP   ? line->values[CLAUSE_PIXELS] * (double)PIXEL_MA
                               : line->kind == KIND_SENDER  ? LED_MA
                                                            : on->pin_ma;
        const bool is_weak = line->kind == KIND_STRIP;
        const bool fits_pin = load_ma <= on->pin_ma || is_weak;
        pins_ma += line->pin_count * (double)BASE_MA;
        supply_ma += load_ma;
        if (is_weak) {
            add(result->currents, load_ma <= on->supply_ma ? VET_FITS : VET_TIGHT, line->name.text,
                "full white, from the board's supply", load_ma, on->supply_ma, "mA",
                g_strdup_printf("give the strip a 5 V supply of its own, of %.1f A, with the grounds joined",
                                ceil(load_ma / 500) / 2));
        } else {
            add(result->currents, fits_pin ? VET_FITS : VET_TIGHT, line->name.text,
                "a usual load, from the pin", load_ma, on->pin_ma, "mA",
                g_strdup(line->kind == KIND_STEPPER
                             ? "drive the coils through a driver, from a supply of their own"
                             : "drive it through a transistor, with a diode across a coil"));
        }
    }
    add(result->currents, pins_ma <= on->all_pins_ma ? VET_FITS : VET_FAILS, "all pins",
        "5 mA each for a transistor", pins_ma, on->all_pins_ma, "mA", g_strdup("use fewer pins at a time"));
    add(result->currents, supply_ma <= on->supply_ma ? VET_FITS : VET_TIGHT, "supply",
        "everything on at once, from USB", supply_ma, on->supply_ma, "mA",
        g_strdup("give motors, relays and strips a supply of their own"));
}

vet_result *vet_plan(const plan *of)
{
    vet_result *const result = g_new0(vet_result, 1);
    const drom_receive_plan *const receive = &plan_tables(of)->receive;
    result->times = g_ptr_array_new_with_free_func(free_finding);
    result->pins = g_ptr_array_new_with_free_func(free_finding);
    result->currents = g_ptr_array_new_with_free_func(free_finding);
    const char *const receiver = of->source->receiver_pin.text;
    const bool is_latched = receiver != NULL && board_pin_by_name(of->board, receiver)->has_latch;
    result->longest_masked_us = longest_wait_us(of);
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        vet_protocol(of, result, receive->protocols.rows[i], is_latched);
    }
    vet_blocking(of, result);
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        vet_output(of, result, i);
    }
    vet_pins(of, result);
    vet_currents(of, result);
    result->load = reckon_load(of);
    if (result->load > 0.7) {
        add(result->times, result->load > 1 ? VET_FAILS : VET_TIGHT, "processor", "busy, strips left out",
            result->load * 100, 70, "%", g_strdup("use fewer or slower steppers, or two boards"));
    }
    return result;
}

void vet_free(vet_result *unwanted)
{
    g_ptr_array_unref(unwanted->times);
    g_ptr_array_unref(unwanted->pins);
    g_ptr_array_unref(unwanted->currents);
    g_free(unwanted);
}

static vet_verdict worst_of(const GPtrArray *findings)
{
    vet_verdict worst = VET_FITS;
    for (guint i = 0; i < findings->len; i++) {
        worst = MAX(worst, ((const vet_finding *)g_ptr_array_index(findings, i))->verdict);
    }
    return worst;
}

vet_verdict vet_worst(const vet_result *of)
{
    return MAX(worst_of(of->times), MAX(worst_of(of->pins), worst_of(of->currents)));
}
