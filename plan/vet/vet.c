/* The figures come from the plan, the board's facts and the protocols' timing; each verdict is one
 * comparison. tests/test_vet.c compares the verdicts on time with the simulated processor. */
#include "plan/vet/vet.h"

#include "dromikos/internal/kept.h"

#include "plan/model/build.h"
#include "plan/vet/checks.h"
#include "plan/vet/estimate.h"
#include "trial.h"

#include <math.h>

enum {
    EDGE_MAIN_US = 110, /* time of main per timed edge */
};

/* How full the ring may be: the estimate is off by some edges, mostly too many, so that a loss is certain
 * only at more than the ring's 32. KNOWN_US: how long it can restore an edge's time, from 15 bits. */
enum { MAX_WAITING = 24, TOO_MANY_WAITING = 40, KNOWN_US = 32000 };

/* The time of a latched edge is right however late its handler runs; but if the next edge comes before, both
 * are lost. An edge that its handler stamps is late by its delay. Jitter also shortens the shortest mark or
 * space. */
static void vet_protocol(const vetting *job, drom_protocol_ref protocol, bool is_latched)
{
    const plan *const loaded = job->plan;
    vet_result *const result = job->result;
    const double shortest_us = vet_shortest_run_us(loaded, protocol);
    const double wait_us = vet_longest_wait_us(job);
    const sim_limit limit = sim_limit_of(protocol->id);
    if (shortest_us <= 0) {
        return;
    }
    const double room_us = limit.stretch_us + 2 * limit.jitter_us + shortest_us * 0.08;
    const double apart_us = MAX(shortest_us - room_us, shortest_us * 0.3);
    const vet_verdict at_worst = vet_is_swallowed(job, shortest_us) ? VET_FAILS : VET_TIGHT;
    const vet_verdict apart = wait_us <= apart_us ? VET_FITS : at_worst;
    const bool is_own = loaded->source->own_masks_us >= job->board.masked_us;
    const double left_us = floor(apart_us - job->board.alarm_us - job->board.capture_us);
    vet_add(
        result->times, apart, protocol->id, "no two edges while interrupts are off", wait_us, apart_us, "us",
        left_us <= 0
            ? g_strdup("use a protocol with longer marks, or a faster board")
            : g_strdup_printf(is_own ? "keep interrupts off in your own code for at most %.0f µs at a time"
                                     : "leave %.0f µs: use a protocol with longer marks",
                              left_us));
    if (!is_latched) {
        const double bearable_us = vet_bearable_us(protocol);
        vet_add(result->times, wait_us <= bearable_us ? VET_FITS : at_worst, protocol->id,
                "edges are stamped late, by up to", wait_us, bearable_us, "us",
                g_strdup("put the receiver on a pin whose edges a timer latches"));
    }
}

/* What delays the processing of a frame's edges. */
static estimate_main main_of(const vetting *job)
{
    enum { PIXELS_A_POLL = 6, PIXEL_US = 32, LATCH_US = 300 };
    estimate_main with = {.poll_us = job->board.poll_us};
    for (unsigned i = 0; i < plan_output_count(job->plan); i++) {
        const output_line *const line = plan_line(job->plan, i);
        const double us = line->kind->vet.keeps_main_us != NULL ? line->kind->vet.keeps_main_us(line) : 0;
        if (!job->board.sends_by_itself && us > with.refresh_us) {
            with.refresh_us = us;
            with.rest_us = LATCH_US + us / PIXEL_US * ESTIMATE_TURNS * with.poll_us / PIXELS_A_POLL;
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
    vet_add(job->result->times, verdict, protocol->id, what, cost.waiting, DROM_EDGES, "edges",
            g_strdup(way_out));
    if (cost.late_us >= KNOWN_US && verdict != VET_FAILS) {
        vet_add(job->result->times, VET_TIGHT, protocol->id, "edges wait for longer than they can be dated",
                cost.late_us / 1000, KNOWN_US / 1000.0, "ms", g_strdup(way_out));
    }
}

/* The ring holds the edges that main hasn't processed. */
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
    if (with.block_us > 0 && vet_has_timed_edges(job)) {
        vet_add(job->result->times, with.block_us < DROM_TIMED_EDGE_HORIZON_US ? VET_FITS : VET_FAILS,
                "timed edges", "are made ahead, while your own code blocks", with.block_us / 1000,
                DROM_TIMED_EDGE_HORIZON_US / 1000.0, "ms",
                g_strdup("break your own code into pieces: steps and bursts would come late"));
    }
}

/* Processor time for steps and bursts, per second. */
static double timed_edges_us(const vetting *job)
{
    const plan *const loaded = job->plan;
    const double an_edge_us = job->board.alarm_us + EDGE_MAIN_US * job->slower;
    double us = 0;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_line *const line = plan_line(loaded, i);
        us += line->kind->vet.timed_edges_s != NULL ? line->kind->vet.timed_edges_s(line) * an_edge_us : 0;
    }
    return us;
}

/* Without a port nothing runs. */
static void vet_port(const vetting *job)
{
    if (job->board.port == NULL) {
        vet_add(job->result->pins, VET_TIGHT, "board", "the library ships no port for it", 0, 0, "",
                g_strdup_printf("write one for the %s (docs/porting.md), or use the board mega328",
                                job->board.chip));
    }
}

/* The pins that a board has for a purpose, as a maker reads them: "3, 5, 6". */
typedef bool pin_test(const vetting *job, const board_pin *pin);

static char *pins_that(const vetting *job, pin_test *is_fit)
{
    GString *const names = g_string_new(NULL);
    for (const board_pin *pin = job->board.pins; pin->name != NULL; pin++) {
        if (is_fit(job, pin)) {
            g_string_append_printf(names, "%s%s", names->len > 0 ? ", " : "", pin->name);
        }
    }
    return g_string_free(names, FALSE);
}

static bool is_receivers(const vetting *job, const board_pin *pin)
{
    (void)job;
    return pin->has_latch || pin->has_stamp;
}

static bool is_latched(const vetting *job, const board_pin *pin)
{
    (void)job;
    return pin->has_latch;
}

static bool is_carriers(const vetting *job, const board_pin *pin)
{
    (void)job;
    return pin->has_carrier;
}

static bool has_edges(const vetting *job, const board_pin *pin)
{
    (void)job;
    return pin->has_edges;
}

static bool is_used_elsewhere(const vetting *job, const board_pin *pin)
{
    return pin->timer == job->board.clock_timer ||
           (vet_uses(job, DROM_USES(CARRIER)) && pin->timer == job->board.carrier_timer);
}

static bool has_pwm(const vetting *job, const board_pin *pin)
{
    return pin->timer != NO_TIMER && !is_used_elsewhere(job, pin);
}

static void vet_pwm(const vetting *job, const char *name, const board_pin *pin)
{
    g_autofree char *others = pins_that(job, has_pwm);
    g_autofree char *what =
        pin->timer == NO_TIMER
            ? g_strdup_printf("has no PWM on pin %s", pin->name)
            : g_strdup_printf("has its PWM on pin %s from the timer that is the %s", pin->name,
                              pin->timer == job->board.clock_timer ? "clock" : "carrier");
    if (!has_pwm(job, pin)) {
        vet_add(job->result->pins, VET_FAILS, name, what, 0, 0, "",
                g_strdup_printf("use a PWM pin: %s", others));
    }
}

/* The receiver's pin. */
static void vet_receiver(const vetting *job, const char *receiver)
{
    const board_pin *const pin = board_pin_by_name(&job->board, receiver);
    GPtrArray *const pins = job->result->pins;
    if (!is_receivers(job, pin)) {
        g_autofree char *others = pins_that(job, is_receivers);
        vet_add(pins, VET_FAILS, "receiver", "no interrupt of the chip stamps its edges", 0, 0, "",
                g_strdup_printf("put it on one of these pins: %s", others));
    } else if (!pin->has_latch) {
        g_autofree char *latched = pins_that(job, is_latched);
        vet_add(pins, latched[0] != '\0' ? VET_TIGHT : VET_FITS, "receiver",
                "an interrupt stamps its edges, not a timer", 0, 0, "",
                g_strdup_printf("a timer of the %s latches pin %s", job->board.chip, latched));
    }
}

/* The pins of an output. */
static void vet_output_pins(const vetting *job, const output_line *line)
{
    const char *const name = line->name.text;
    const uint32_t needs = line->kind->core->needs;
    GPtrArray *const pins = job->result->pins;
    for (unsigned i = 0; i < line->pin_count; i++) {
        const board_pin *const pin = board_pin_by_name(&job->board, line->pins[i].text);
        const bool is_pwm = (needs & DROM_USES(PWM)) != 0 &&
                            (line->kind->vet.is_pwm == NULL || line->kind->vet.is_pwm(line, i));
        if (i == 0 && (needs & DROM_USES(CARRIER)) != 0 && !pin->has_carrier) {
            g_autofree char *others = pins_that(job, is_carriers);
            vet_add(pins, VET_FAILS, name, "has no carrier on its pin", 0, 0, "",
                    g_strdup_printf("put the sender on the pin of the carrier's timer: %s", others));
        } else if ((needs & DROM_USES(TIMED_EDGES)) != 0 && !pin->has_edges) {
            g_autofree char *others = pins_that(job, has_edges);
            g_autofree char *what = g_strdup_printf("can't change pin %s at exact times", pin->name);
            vet_add(pins, VET_FAILS, name, what, 0, 0, "",
                    g_strdup_printf("use one of these pins: %s", others));
        } else if (is_pwm) {
            vet_pwm(job, name, pin);
        }
    }
}

static void vet_pins(const vetting *job)
{
    const plan *const loaded = job->plan;
    const board *const chosen = &job->board;
    const char *const receiver = loaded->source->receiver_pin.text;
    const double mhz = plan_mhz(loaded);
    if (chosen->port != NULL && mhz != chosen->facts_mhz && mhz != chosen->slow_mhz) {
        g_autofree char *what = g_strdup_printf("the library has no port for a clock of %g MHz", mhz);
        vet_add(job->result->pins, VET_FAILS, "clock", what, 0, 0, "",
                g_strdup_printf("run the chip at %g or %g MHz, or write a port for yours", chosen->facts_mhz,
                                chosen->slow_mhz));
    }
    if (receiver != NULL) {
        vet_receiver(job, receiver);
    }
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        vet_output_pins(job, plan_line(loaded, i));
    }
}

/* How long the store lasts, in the worst case. */
static void vet_kept(const vetting *job)
{
    enum { YEAR_S = 31557600, WANTED_YEARS = 1 };
    const uint8_t values = plan_tables(job->plan)->kept.values.count;
    if (values == 0) {
        return;
    }
    const double writes = (double)drom_kept_slots(&job->board.store, values) * job->board.store_writes;
    const double years = writes * (DROM_KEPT_AFTER_US / 1e6) / YEAR_S;
    vet_add(job->result->times, years >= WANTED_YEARS ? VET_FITS : VET_TIGHT, "store",
            "lasts, where a value that is kept changes each 5 s", WANTED_YEARS, years, "years",
            g_strdup("keep fewer values, or those that change seldom"));
}

vet_result *vet_plan(const plan *loaded)
{
    const double slower = loaded->board->facts_mhz / plan_mhz(loaded);
    const vetting job = {loaded, plan_board_at_its_clock(loaded), slower, g_new0(vet_result, 1)};
    vet_result *const result = job.result;
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    result->times = g_ptr_array_new_with_free_func(vet_free_finding);
    result->pins = g_ptr_array_new_with_free_func(vet_free_finding);
    result->currents = g_ptr_array_new_with_free_func(vet_free_finding);
    result->longest_masked_us = vet_longest_wait_us(&job);
    result->longest_poll_us = job.board.longest_poll_us;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        vet_protocol(&job, receive->protocols.rows[i], plan_has_latch(loaded));
    }
    vet_hearing(&job);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        if (kind->vet.output != NULL) {
            kind->vet.output(&job, i);
        }
    }
    vet_rules(&job);
    vet_memory(&job);
    vet_kept(&job);
    vet_port(&job);
    vet_pins(&job);
    vet_circuit_pins(&job);
    vet_currents(&job);
    const double timed_edges = timed_edges_us(&job) / 1e6;
    result->load += timed_edges;
    if (result->load > 0.7) { /* unprocessed edges wait in the ring; timed edges can't wait */
        vet_add(result->times, timed_edges > 1 ? VET_FAILS : VET_TIGHT, "processor",
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

/* Returns "43.1", "3600": never 3.6e+03. To be freed. */
static char *figure_text(double figure)
{
    return g_strdup_printf(fabs(figure) >= 1000 ? "%.0f" : "%.4g", figure);
}

char *vet_figures_text(const vet_finding *finding)
{
    const char *const unit = strcmp(finding->unit, "us") == 0 ? "µs" : finding->unit;
    g_autofree char *there = figure_text(finding->there);
    g_autofree char *needed = figure_text(finding->needed);
    if (finding->unit[0] == '\0') {
        return g_strdup("");
    }
    return finding->verdict == VET_TIGHT && finding->there > finding->needed
               ? g_strdup_printf("%s %s (safe up to %s)", there, unit, needed)
               : g_strdup_printf("%s of %s %s", there, needed, unit);
}

char *vet_finding_text(const vet_finding *finding)
{
    g_autofree char *figures = vet_figures_text(finding);
    return g_strdup_printf("%s%s%s%s%s", finding->what, figures[0] != '\0' ? " " : "", figures,
                           finding->way_out != NULL ? ": " : "",
                           finding->way_out != NULL ? finding->way_out : "");
}

vet_verdict vet_worst(const vet_result *result)
{
    return MAX(worst_of(result->times), MAX(worst_of(result->pins), worst_of(result->currents)));
}
