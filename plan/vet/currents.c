/* Currents of pins and supplies, against the data sheets' recommended values, not absolute maxima. */
#include "plan/vet/checks.h"

#include "plan/model/build.h"
#include "plan/wiring/wiring.h"

#include <math.h>
#include <string.h>

enum {
    BOARD_MA = 50, /* the board itself, and the receiver */
};

static const double RESERVE = 1.2; /* of a supply */

/* Returns "2.4": what to buy, with its reserve, in steps of 0.1 A. To be freed. */
static char *ampere_text(double ma, double start_ma)
{
    return g_strdup_printf("%.1f", ceil(MAX(ma * RESERVE, start_ma) / 100 - 1e-6) / 10);
}

static const char *name_of(const vetting *job, guint output)
{
    return plan_line(job->plan, output)->name.text;
}

/* Returns the largest current of an output's pins, and the pin. */
static double pin_ma_of(const circuit *all, guint output, const char **pin)
{
    double most = 0;
    *pin = NULL;
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const double ma = MAX(stage->source_ma, stage->sink_ma);
        if (stage->output == output && (*pin == NULL || ma > most)) {
            most = ma;
            *pin = stage->pin;
        }
    }
    return most;
}

/* A pin drives its load, or the base, gate or input of a driver. */
static void vet_pin_of(const vetting *job, const circuit *all, const circuit_load *load)
{
    const output_line *const line = plan_line(job->plan, load->output);
    const double limit_ma = job->board.pin_ma;
    const char *pin = NULL;
    const double given_ma = pin_ma_of(all, load->output, &pin);
    GPtrArray *const list = job->result->currents;
    if (line->kind->vet.driver != NULL && !line->driven.is_given && load->direct_ma > limit_ma) {
        g_autofree char *what = g_strdup_printf("its load, from pin %s", pin);
        vet_add(list, VET_FAILS, line->name.text, what, load->direct_ma, limit_ma, "mA",
                g_strdup_printf("put %s between, as the wiring sheet draws it, and say so: through driver%s",
                                line->kind->vet.driver,
                                line->kind->words.driven == driven_on_board ? ", or on a relay board" : ""));
        return;
    }
    g_autofree char *what =
        line->driven.is_given ? g_strdup_printf("its driver carries the %.0f mA; pin %s gives", load->ma, pin)
                              : g_strdup_printf("pin %s gives", pin);
    vet_add(list, given_ma <= limit_ma ? VET_FITS : VET_FAILS, line->name.text, what, given_ma, limit_ma,
            "mA",
            g_strdup_printf("put a transistor between pin %s and it; then say so: through driver", pin));
}

/* True for the first pin of its output: a lamp in colour has three. */
static bool is_first(const circuit *all, guint load)
{
    return load == 0 || g_array_index(all->loads, circuit_load, load - 1).output !=
                            g_array_index(all->loads, circuit_load, load).output;
}

static circuit_load sum_of(const circuit *all, guint first)
{
    circuit_load sum = g_array_index(all->loads, circuit_load, first);
    for (guint i = first + 1; i < all->loads->len && !is_first(all, i); i++) {
        sum.ma += g_array_index(all->loads, circuit_load, i).ma;
        sum.start_ma += g_array_index(all->loads, circuit_load, i).start_ma;
    }
    return sum;
}

static void vet_own_supply(const vetting *job, const circuit *all, const circuit_load *load)
{
    const circuit_net *const feed = circuit_net_at(all, load->feed);
    const char *const name = name_of(job, load->output);
    const bool is_enough = load->ma * RESERVE <= feed->max_ma && load->start_ma <= feed->max_ma;
    g_autofree char *ampere = ampere_text(load->ma, load->start_ma);
    g_autofree char *starts =
        load->start_ma > load->ma ? g_strdup_printf(", %.0f mA as it starts", load->start_ma) : g_strdup("");
    vet_add(job->result->currents,
            is_enough                  ? VET_FITS
            : load->ma <= feed->max_ma ? VET_TIGHT
                                       : VET_FAILS,
            name, "from its supply", MAX(load->ma, load->start_ma), feed->max_ma, "mA",
            g_strdup_printf("it takes %.0f mA%s; with a fifth in reserve: supply %g V %s A", load->ma, starts,
                            feed->volts, ampere));
}

static void vet_volts(const vetting *job, const circuit *all, const circuit_load *load)
{
    const output_kind *const kind = plan_line(job->plan, load->output)->kind;
    const double mv = circuit_net_at(all, load->feed)->volts * 1000;
    if (kind->vet.max_mv == 0 || (mv >= kind->vet.min_mv && mv <= kind->vet.max_mv)) {
        return;
    }
    g_autofree char *what = g_strdup_printf("a %s is made for %g to %g V, and gets", kind->name,
                                            kind->vet.min_mv / 1000.0, kind->vet.max_mv / 1000.0);
    vet_add(job->result->currents, VET_FAILS, name_of(job, load->output), what, mv / 1000,
            mv > kind->vet.max_mv ? kind->vet.max_mv / 1000.0 : kind->vet.min_mv / 1000.0, "V",
            g_strdup_printf("give it a supply of %g V", kind->vet.min_mv <= 5000 && kind->vet.max_mv >= 5000
                                                            ? 5.0
                                                            : kind->vet.min_mv / 1000.0));
}

/* A LED needs more than its own voltage. */
static void vet_leds(const vetting *job, const circuit *all)
{
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const circuit_part *const led = circuit_part_at(all, stage, PLACE_LOAD);
        if (led != NULL && led->symbol == SYMBOL_LED &&
            led->amount + 0.5 > circuit_net_at(all, stage->feed)->volts) {
            vet_add(job->result->currents, VET_FAILS, stage->owner,
                    "its LED needs, and its resistor's 0.5 V, of", led->amount + 0.5,
                    circuit_net_at(all, stage->feed)->volts, "V",
                    g_strdup_printf("give it a supply of %.0f V", ceil(led->amount + 1)));
        }
    }
}

static bool is_boards(const circuit *all, guint load)
{
    return circuit_net_at(all, g_array_index(all->loads, circuit_load, load).feed)->is_boards;
}

/* Of an interlock the output with the largest current counts; of equal ones the first. */
static bool counts(const vetting *job, const circuit *all, guint load)
{
    const drom_outputs_plan *const outputs = &plan_tables(job->plan)->outputs;
    const circuit_load *const one = &g_array_index(all->loads, circuit_load, load);
    bool does = is_boards(all, load);
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        const drom_interlock *const only = &outputs->interlocks.rows[i];
        if (memchr(only->outputs.rows, (int)one->output, only->outputs.count) == NULL) {
            continue;
        }
        for (guint j = 0; j < all->loads->len; j++) {
            const circuit_load *const other = &g_array_index(all->loads, circuit_load, j);
            const bool is_rival = other->output != one->output && is_boards(all, j) &&
                                  memchr(only->outputs.rows, (int)other->output, only->outputs.count) != NULL;
            does &= !(is_rival && (other->ma > one->ma || (other->ma >= one->ma && j < load)));
        }
    }
    return does;
}

/* The board's supply from USB. */
static void vet_usb(const vetting *job, const circuit *all)
{
    const double limit_ma = job->board.supply_ma;
    double ma = BOARD_MA;
    double extra_ma = 0; /* of the load with the largest additional starting current */
    const circuit_load *largest = NULL;
    for (guint i = 0; i < all->loads->len; i++) {
        const circuit_load *const load = &g_array_index(all->loads, circuit_load, i);
        if (counts(job, all, i)) {
            ma += load->ma;
            extra_ma = MAX(extra_ma, load->start_ma - load->ma);
            largest = largest == NULL || load->ma > largest->ma ? load : largest;
        }
    }
    g_autofree char *ampere = largest != NULL ? ampere_text(largest->ma, largest->start_ma) : g_strdup("");
    const bool is_enough = ma * RESERVE <= limit_ma && ma + extra_ma <= limit_ma;
    g_autofree char *starts =
        extra_ma > 0 ? g_strdup_printf(", and %.0f mA as a motor starts", ma + extra_ma) : g_strdup("");
    vet_add(job->result->currents,
            is_enough        ? VET_FITS
            : ma <= limit_ma ? VET_TIGHT
                             : VET_FAILS,
            "supply",
            plan_tables(job->plan)->outputs.interlocks.count > 0 ? "all that can be on at once, from USB"
                                                                 : "everything on at once, from USB",
            ma + extra_ma, limit_ma, "mA",
            largest == NULL
                ? NULL
                : g_strdup_printf("it takes %.0f mA%s: give %s a supply of its own, grounds joined; "
                                  "then say so: supply 5 V %s A",
                                  ma, starts, name_of(job, largest->output), ampere));
}

/* Sums of all pins, and of groups that share a part of the chip's supply. */
static void vet_sums(const vetting *job, const circuit *all)
{
    enum { GROUPS = 5 };
    double sums[GROUPS] = {0};
    double whole_ma = 0;
    GString *names[GROUPS] = {NULL};
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const double ma = MAX(stage->source_ma, stage->sink_ma);
        const uint8_t group = board_pin_by_name(&job->board, stage->pin)->group;
        sums[group] += ma;
        whole_ma += ma;
        if (ma >= 1) {
            names[group] = names[group] != NULL ? names[group] : g_string_new(NULL);
            g_string_append_printf(names[group], "%s%s", names[group]->len > 0 ? ", " : "", stage->pin);
        }
    }
    for (unsigned i = 1; i < GROUPS && job->board.group_ma > 0; i++) {
        if (names[i] != NULL && sums[i] > job->board.group_ma) {
            g_autofree char *what = g_strdup_printf("pins %s together", names[i]->str);
            vet_add(job->result->currents, VET_FAILS, "pins", what, sums[i], job->board.group_ma, "mA",
                    g_strdup("move some to other pins, or drive them through transistors"));
        }
    }
    for (unsigned i = 0; i < GROUPS; i++) {
        if (names[i] != NULL) {
            g_string_free(names[i], TRUE);
        }
    }
    vet_add(job->result->currents, whole_ma <= job->board.all_pins_ma ? VET_FITS : VET_FAILS, "pins",
            "all together, everything on", whole_ma, job->board.all_pins_ma, "mA",
            g_strdup("drive LEDs through transistors, and say so: through driver"));
}

void vet_currents(const vetting *job)
{
    circuit *const all = circuit_of(job->plan);
    for (guint i = 0; i < all->loads->len; i++) {
        if (!is_first(all, i)) {
            continue;
        }
        const circuit_load load = sum_of(all, i);
        vet_volts(job, all, &load);
        vet_pin_of(job, all, &g_array_index(all->loads, circuit_load, i));
        if (circuit_net_at(all, load.feed)->max_ma > 0) {
            vet_own_supply(job, all, &load);
        }
    }
    vet_leds(job, all);
    vet_sums(job, all);
    vet_usb(job, all);
    circuit_free(all);
}

/* Other purposes of a pin. */
static void vet_note(const vetting *job, const circuit_stage *stage, const board_pin *pin)
{
    const bool is_input = stage->form == FORM_CONTACT || stage->form == FORM_RECEIVER;
    const bool has_led = pin->note != NULL && strstr(pin->note, "LED") != NULL;
    const bool is_line = pin->note != NULL && strstr(pin->note, "serial") != NULL;
    g_autofree char *what = g_strdup_printf("is on pin %s, which %s", pin->name, pin->note);
    if (pin->note == NULL) {
        return;
    }
    if (has_led && is_input) {
        vet_add(job->result->pins, VET_FAILS, stage->owner, "is on pin 13, which the board's LED pulls down",
                0, 0, "", g_strdup("use another pin"));
    } else {
        vet_add(job->result->pins, is_line && job->plan->source->has_serial ? VET_FAILS : VET_TIGHT,
                stage->owner, what, 0, 0, "",
                is_line ? g_strdup("use another pin, or take its wire off for each upload")
                        : g_strdup_printf("use another pin for what must not %s",
                                          is_input ? "be pressed at a reset" : "move or switch then"));
    }
}

void vet_circuit_pins(const vetting *job)
{
    circuit *const all = circuit_of(job->plan);
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const board_pin *const pin = board_pin_by_name(&job->board, stage->pin);
        const bool is_input = stage->form == FORM_CONTACT || stage->form == FORM_RECEIVER;
        vet_note(job, stage, pin);
        if (pin->is_input_only && !is_input) {
            g_autofree char *what = g_strdup_printf("is on pin %s, which is an input only", pin->name);
            vet_add(job->result->pins, VET_FAILS, stage->owner, what, 0, 0, "", g_strdup("use another pin"));
        } else if (pin->is_input_only && stage->form == FORM_CONTACT) {
            g_autofree char *what =
                g_strdup_printf("is on pin %s, which has no resistor that pulls it up", pin->name);
            vet_add(job->result->pins, VET_TIGHT, stage->owner, what, 0, 0, "",
                    g_strdup_printf("put 10 kΩ from pin %s to %s, as the wiring sheet draws it", pin->name,
                                    job->board.logic_pin));
        }
    }
    circuit_free(all);
}
