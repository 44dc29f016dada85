/* The figures come from the plan, from the board's facts and from the protocols' own timing; each verdict is
 * one comparison. tests/test_vet.c holds the verdicts on time against the simulated processor. */
#include "vet.h"

#include "build.h"
#include "estimate.h"
#include "trial.h"

#include <math.h>

enum {
    EDGE_MAIN_US = 110, /* of main, for each timed edge */
    PIXEL_US = 32,      /* of the processor */
    PIXEL_MA = 60,      /* full white */
    COIL_MA = 75,       /* a small 5 V relay's */
    STEPPER_MA = 320,   /* two coils of a small geared stepper */
    LED_MA = 100,       /* a sender's, while it is lit */
    BASE_MA = 5,        /* what a pin gives a transistor or a driver */
    PIXELS_MHZ = 16,    /* below, a processor that sends pixels itself has no time for their bits */
};

/* How full the ring may be: the estimate is off by some edges, mostly too many, so that it isn't sure that
 * some are lost until there are more than the ring's 32. KNOWN_US: for so long can it date an edge, in 15
 * bits. */
enum { MAX_WAITING = 24, TOO_MANY_WAITING = 40, KNOWN_US = 32000 };

/* A plan on its board, at the plan's clock. */
typedef struct vetting {
    const plan *plan;
    board board;
    double slower; /* than the board's facts */
    vet_result *result;
} vetting;

static void free_finding(gpointer data)
{
    vet_finding *const finding = data;
    g_free(finding->about);
    g_free(finding->what);
    g_free(finding->way_out);
    g_free(finding);
}

static vet_finding *add(GPtrArray *list, vet_verdict verdict, const char *about, const char *what,
                        double there, double needed, const char *unit, char *way_out)
{
    vet_finding *const finding = g_new0(vet_finding, 1);
    *finding = (vet_finding){verdict, g_strdup(about), g_strdup(what), needed, there, unit, NULL};
    if (verdict == VET_FITS) {
        g_free(way_out);
    } else {
        finding->way_out = way_out;
    }
    g_ptr_array_add(list, finding);
    return finding;
}

static double shortest_run_us(const plan *loaded, const drom_protocol *protocol)
{
    const drom_waveform *const waveform = plan_waveform(loaded, protocol);
    uint16_t shortest_us = UINT16_MAX;
    for (uint16_t command = 0; waveform != NULL && waveform->pack != NULL && command < 64; command++) {
        const drom_code code = {protocol, waveform->min_address,
                                (uint16_t)(command * 37u & waveform->max_command)};
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

static bool has_kind(const plan *loaded, enum output_kind kind)
{
    bool has = false;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        has |= plan_output_kind(loaded, i) == kind;
    }
    return has;
}

static const output_line *line_of(const plan *loaded, unsigned output)
{
    return &g_array_index(loaded->source->outputs, output_line, output);
}

/* The longest that interrupts are masked. */
static double masked_us(const vetting *job)
{
    const bool has_strip = has_kind(job->plan, KIND_STRIP) && !job->board.sends_by_itself;
    const double port_us = has_strip || job->board.sends_by_itself ? job->board.masked_us : 2;
    return MAX(port_us, job->plan->source->own_masks_us);
}

/* The longest that an edge's handler may have to wait. */
static double longest_wait_us(const vetting *job)
{
    const bool has_alarm = has_kind(job->plan, KIND_STEPPER) || has_kind(job->plan, KIND_SENDER);
    return masked_us(job) + (has_alarm ? job->board.alarm_us : 0) + job->board.capture_us;
}

/* Is a whole run gone when interrupts are masked as it begins? */
static bool is_swallowed(const vetting *job, double run_us)
{
    return masked_us(job) > run_us;
}

/* A latched edge is right however late its handler comes; but if the next one comes before that, both are
 * gone. An edge that its handler stamps is late by as much as it waited. The room takes its part of the
 * shortest run, too. */
static void vet_protocol(const vetting *job, drom_protocol_ref protocol, bool is_latched)
{
    const plan *const loaded = job->plan;
    vet_result *const result = job->result;
    const double shortest_us = shortest_run_us(loaded, protocol);
    const double wait_us = longest_wait_us(job);
    const sim_limit limit = sim_limit_of(protocol->id);
    if (shortest_us <= 0) {
        return;
    }
    const double room_us = limit.stretch_us + 2 * limit.jitter_us + shortest_us * 0.08;
    const double apart_us = MAX(shortest_us - room_us, shortest_us * 0.3);
    const vet_verdict at_worst = is_swallowed(job, shortest_us) ? VET_FAILS : VET_TIGHT;
    const vet_verdict apart = wait_us <= apart_us ? VET_FITS : at_worst;
    const bool is_own = loaded->source->own_masks_us >= job->board.masked_us;
    const double left_us = floor(apart_us - job->board.alarm_us - job->board.capture_us);
    add(result->times, apart, protocol->id, "no two edges while interrupts are off", wait_us, apart_us, "us",
        left_us <= 0
            ? g_strdup("use a protocol with longer marks, or a faster board")
            : g_strdup_printf(is_own ? "keep interrupts off in your own code for at most %.0f us at a time"
                                     : "leave %.0f us: use a protocol with longer marks",
                              left_us));
    if (!is_latched) {
        const double bearable_us = 2 * limit.jitter_us;
        add(result->times, wait_us <= bearable_us ? VET_FITS : at_worst, protocol->id,
            "edges are stamped late, by up to", wait_us, bearable_us, "us",
            g_strdup("put the receiver on a pin whose edges a timer latches"));
    }
}

static double refresh_us(const output_line *line)
{
    return line->values[CLAUSE_PIXELS] * (double)PIXEL_US;
}

/* What keeps main from a frame's edges. */
static estimate_main main_of(const vetting *job)
{
    enum { PIXELS_A_POLL = 3, LATCH_US = 300 };
    const bool has_timed_edges = has_kind(job->plan, KIND_STEPPER) || has_kind(job->plan, KIND_SENDER);
    estimate_main with = {.poll_us = job->board.poll_us, .turns = has_timed_edges ? 2 : 1.5};
    for (unsigned i = 0; i < plan_output_count(job->plan); i++) {
        const output_line *const line = line_of(job->plan, i);
        if (line->kind == KIND_STRIP && !job->board.sends_by_itself && refresh_us(line) > with.refresh_us) {
            with.refresh_us = refresh_us(line);
            with.rest_us = LATCH_US + line->values[CLAUSE_PIXELS] * with.turns * with.poll_us / PIXELS_A_POLL;
        }
    }
    return with;
}

static void add_waiting(const vetting *job, drom_protocol_ref protocol, const char *what, estimate cost,
                        const char *way_out)
{
    const vet_verdict verdict = cost.waiting <= MAX_WAITING        ? VET_FITS
                                : cost.waiting <= TOO_MANY_WAITING ? VET_TIGHT
                                                                   : VET_FAILS;
    add(job->result->times, verdict, protocol->id, what, cost.waiting, DROM_EDGES, "edges",
        g_strdup(way_out));
    if (cost.late_us >= KNOWN_US && verdict != VET_FAILS) {
        add(job->result->times, VET_TIGHT, protocol->id, "edges wait for longer than they can be dated",
            cost.late_us / 1000, KNOWN_US / 1000.0, "ms", g_strdup(way_out));
    }
}

/* The ring holds the edges that main hasn't come to. */
static void vet_hearing(const vetting *job)
{
    const drom_receive_plan *const receive = &plan_tables(job->plan)->receive;
    estimate_main with = main_of(job);
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        const drom_protocol_ref protocol = receive->protocols.rows[i];
        const estimate usual = estimate_edges(job->plan, protocol, &with);
        job->result->load = MAX(job->result->load, usual.load);
        add_waiting(job, protocol, "edges wait to be taken in", usual,
                    "listen for fewer protocols, or use a faster board");
    }
    with.block_us = job->plan->source->own_blocks_ms * 1000.0;
    for (uint8_t i = 0; i < receive->protocols.count && with.block_us > 0; i++) {
        const drom_protocol_ref protocol = receive->protocols.rows[i];
        add_waiting(job, protocol, "edges wait while your own code blocks",
                    estimate_edges(job->plan, protocol, &with),
                    "break your own code into pieces, and call drom_engine_poll() between them");
    }
    if (with.block_us > 0 && (has_kind(job->plan, KIND_STEPPER) || has_kind(job->plan, KIND_SENDER))) {
        add(job->result->times, with.block_us < DROM_TIMED_EDGE_HORIZON_US ? VET_FITS : VET_FAILS,
            "timed edges", "are made ahead, while your own code blocks", with.block_us / 1000,
            DROM_TIMED_EDGE_HORIZON_US / 1000.0, "ms",
            g_strdup("break your own code into pieces: steps and bursts would come late"));
    }
}

static double steps_s(const output_line *line)
{
    return (line->given & 1u << CLAUSE_SPEED) != 0 ? line->values[CLAUSE_SPEED] : 200;
}

/* An edge of a burst that comes late makes one run longer and the next one shorter. */
static void vet_sender(const vetting *job, unsigned output, const char *name)
{
    const drom_sender_settings *const settings = plan_output(job->plan, output)->settings;
    const double late_us = longest_wait_us(job);
    vet_verdict worst = VET_FITS;
    double bearable_us = INFINITY;
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        const drom_protocol *const protocol = settings->keys.rows[i].waveform->protocol;
        const double its_us = 2 * sim_limit_of(protocol->id).jitter_us;
        const vet_verdict at_worst =
            is_swallowed(job, shortest_run_us(job->plan, protocol)) ? VET_FAILS : VET_TIGHT;
        worst = MAX(worst, late_us <= its_us ? VET_FITS : at_worst);
        bearable_us = MIN(bearable_us, its_us);
    }
    add(job->result->times, worst, name, "an edge of a burst comes late by up to", late_us, bearable_us, "us",
        g_strdup_printf("keep interrupts off in your own code for at most %.0f us at a time",
                        MAX(0, floor(bearable_us - job->board.alarm_us - job->board.capture_us))));
}

static void vet_output(const vetting *job, unsigned output)
{
    const plan *const loaded = job->plan;
    vet_result *const result = job->result;
    const output_line *const line = line_of(loaded, output);
    const char *const name = line->name.text;
    if (line->kind == KIND_STRIP && !job->board.sends_by_itself) {
        const double mhz = job->board.facts_mhz / job->slower;
        add(result->times, mhz >= PIXELS_MHZ ? VET_FITS : VET_FAILS, name, "its bits need a clock of", mhz,
            PIXELS_MHZ, "MHz", g_strdup("run the chip at 16 MHz"));
        add(result->times, refresh_us(line) <= 10000 ? VET_FITS : VET_TIGHT, name,
            "a refresh is over before a frame can be", refresh_us(line) / 1000, 10, "ms",
            g_strdup("a key that ends within a refresh acts later: use fewer pixels, or two boards"));
        const double gap_us = MAX(job->board.capture_us, job->board.alarm_us) + 2;
        add(result->times, gap_us <= 9 ? VET_FITS : VET_FAILS, name,
            "the data may pause, on the touchiest strips, for", gap_us, 9, "us",
            g_strdup(gap_us < 50 ? "use a strip that latches after 50 us" : "use a faster board"));
        const bool has_steps = has_kind(loaded, KIND_STEPPER) || has_kind(loaded, KIND_SENDER);
        if (has_steps) {
            add(result->times, refresh_us(line) + 1500 <= DROM_TIMED_EDGE_HORIZON_US ? VET_FITS : VET_FAILS,
                name, "steps and bursts are made ahead for a whole refresh", (refresh_us(line) + 1500) / 1000,
                DROM_TIMED_EDGE_HORIZON_US / 1000.0, "ms",
                g_strdup("the strip would stand still while they go on: use at most 200 pixels"));
        }
    }
    if (line->kind == KIND_SENDER) {
        vet_sender(job, output, name);
    }
    if (line->kind == KIND_STEPPER) {
        const double late_us = longest_wait_us(job) + job->board.masked_us;
        add(result->times, late_us * 4 < 1e6 / steps_s(line) ? VET_FITS : VET_TIGHT, name,
            "a step comes late by up to", late_us, 1e6 / steps_s(line) / 4, "us",
            g_strdup("turn more slowly, or the motor may lose steps"));
    }
}

/* What steps and bursts take of the processor in a second. */
static double timed_edges_us(const vetting *job)
{
    const plan *const loaded = job->plan;
    const double an_edge_us = job->board.alarm_us + EDGE_MAIN_US * job->slower;
    double us = 0;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_line *const line = line_of(loaded, i);
        if (line->kind == KIND_STEPPER) {
            us += steps_s(line) * an_edge_us;
        } else if (line->kind == KIND_SENDER) {
            us += 68 / 0.108 * an_edge_us;
        }
    }
    return us;
}

/* Without a port nothing runs, however well it fits. */
static void vet_port(const vetting *job)
{
    if (job->board.port == NULL) {
        add(job->result->pins, VET_TIGHT, "board", "the library ships no port for it", 0, 0, "",
            g_strdup_printf("write one for the %s (docs/porting.md), or use the board mega328",
                            job->board.chip));
    }
}

static void vet_pins(const vetting *job)
{
    const plan *const loaded = job->plan;
    vet_result *const result = job->result;
    const board *const chosen = &job->board;
    const bool has_sender = has_kind(loaded, KIND_SENDER);
    const char *const receiver = loaded->source->receiver_pin.text;
    const double mhz = chosen->facts_mhz / job->slower;
    if (chosen->port != NULL && mhz != chosen->facts_mhz) {
        add(result->pins, VET_FAILS, "clock", "the port that ships is made for", mhz, chosen->facts_mhz,
            "MHz", g_strdup("run the chip at that clock, or write a port for yours"));
    }
    if (receiver != NULL && !board_pin_by_name(chosen, receiver)->has_latch) {
        g_autoptr(GString) latched = g_string_new(NULL);
        for (const board_pin *pin = chosen->pins; pin->name != NULL; pin++) {
            if (pin->has_latch) {
                g_string_append_printf(latched, "%s%s", latched->len > 0 ? ", " : "", pin->name);
            }
        }
        add(result->pins, VET_TIGHT, "receiver", "an interrupt stamps its edges, not a timer", 0, 0, "",
            g_strdup_printf("a timer of the %s latches pin %s", chosen->chip, latched->str));
    }
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_line *const line = line_of(loaded, i);
        const board_pin *const pin = board_pin_by_name(chosen, line->pins[0].text);
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
        } else if (pin->timer == chosen->clock_timer) {
            add(result->pins, VET_FAILS, name, "has its PWM from the timer that is the clock", 0, 0, "",
                g_strdup("use a PWM pin of another timer (5 or 6 on the ATmega328P)"));
        } else if (has_sender && pin->timer == chosen->carrier_timer) {
            add(result->pins, VET_FAILS, name, "has its PWM from the carrier's timer", 0, 0, "",
                g_strdup("use a PWM pin of another timer (5 or 6 on the ATmega328P)"));
        }
    }
}

static void vet_currents(const vetting *job)
{
    const plan *const loaded = job->plan;
    vet_result *const result = job->result;
    const board *const chosen = &job->board;
    double pins_ma = 0;
    double supply_ma = 50; /* the board itself, and the receiver */
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_line *const line = line_of(loaded, i);
        const double load_ma = line->kind == KIND_RELAY     ? COIL_MA
                               : line->kind == KIND_STEPPER ? STEPPER_MA
                               : line->kind == KIND_STRIP   ? line->values[CLAUSE_PIXELS] * (double)PIXEL_MA
                               : line->kind == KIND_SENDER  ? LED_MA
                                                            : chosen->pin_ma;
        const bool is_weak = line->kind == KIND_STRIP;
        const bool fits_pin = load_ma <= chosen->pin_ma || is_weak;
        pins_ma += line->pin_count * (double)BASE_MA;
        supply_ma += load_ma;
        if (is_weak) {
            add(result->currents, load_ma <= chosen->supply_ma ? VET_FITS : VET_TIGHT, line->name.text,
                "full white, from the board's supply", load_ma, chosen->supply_ma, "mA",
                g_strdup_printf("give the strip a 5 V supply of its own, of %.1f A, with the grounds joined",
                                ceil(load_ma / 500) / 2));
        } else {
            add(result->currents, fits_pin ? VET_FITS : VET_TIGHT, line->name.text,
                "a usual load, from the pin", load_ma, chosen->pin_ma, "mA",
                g_strdup(line->kind == KIND_STEPPER
                             ? "drive the coils through a driver, from a supply of their own"
                             : "drive it through a transistor, with a diode across a coil"));
        }
    }
    add(result->currents, pins_ma <= chosen->all_pins_ma ? VET_FITS : VET_FAILS, "all pins",
        "5 mA each for a transistor", pins_ma, chosen->all_pins_ma, "mA",
        g_strdup("use fewer pins at a time"));
    add(result->currents, supply_ma <= chosen->supply_ma ? VET_FITS : VET_TIGHT, "supply",
        "everything on at once, from USB", supply_ma, chosen->supply_ma, "mA",
        g_strdup("give motors, relays and strips a supply of their own"));
}

/* The facts hold at one clock; what the chip does itself takes longer at a slower one. */
static board at_its_clock(const board *from, double slower)
{
    board chosen = *from;
    chosen.capture_us *= slower;
    chosen.alarm_us *= slower;
    chosen.poll_us *= slower;
    chosen.masked_us *= chosen.sends_by_itself ? slower : 1; /* a pixel lasts as long as the strip wants */
    return chosen;
}

vet_result *vet_plan(const plan *loaded)
{
    const double mhz = loaded->source->board_mhz;
    const double slower = mhz > 0 ? loaded->board->facts_mhz / mhz : 1;
    const vetting job = {loaded, at_its_clock(loaded->board, slower), slower, g_new0(vet_result, 1)};
    vet_result *const result = job.result;
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    result->times = g_ptr_array_new_with_free_func(free_finding);
    result->pins = g_ptr_array_new_with_free_func(free_finding);
    result->currents = g_ptr_array_new_with_free_func(free_finding);
    const char *const receiver = loaded->source->receiver_pin.text;
    const bool is_latched = receiver != NULL && board_pin_by_name(loaded->board, receiver)->has_latch;
    result->longest_masked_us = longest_wait_us(&job);
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        vet_protocol(&job, receive->protocols.rows[i], is_latched);
    }
    vet_hearing(&job);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        vet_output(&job, i);
    }
    vet_port(&job);
    vet_pins(&job);
    vet_currents(&job);
    const double timed_edges = timed_edges_us(&job) / 1e6;
    result->load += timed_edges;
    if (result->load > 0.7) { /* what can't be taken in at once waits in the ring; timed edges can't wait */
        add(result->times, timed_edges > 1 ? VET_FAILS : VET_TIGHT, "processor",
            "busy while a frame comes in, strips left out", result->load * 100, 70, "%",
            g_strdup(timed_edges > 0.35 ? "use fewer senders, fewer or slower steppers, or two boards"
                                        : "listen for fewer protocols, or use a faster board"));
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

vet_verdict vet_worst(const vet_result *result)
{
    return MAX(worst_of(result->times), MAX(worst_of(result->pins), worst_of(result->currents)));
}
