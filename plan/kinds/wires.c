/* Values are computed from the supply's voltage, the load's current and the board's level, and rounded to the
 * E12 series. tests/test_circuit.c compares the results with ngspice. */
#include "plan/kinds/wires.h"

#include <math.h>
#include <string.h>

enum {
    GATE_OHMS = 100, /* limits the current into a gate */
    GAIN = 20,       /* of a transistor in saturation */
    MAX_BIPOLAR_MA = 500,
    INVERTER_MA = 1,
    RESERVE = 2, /* reserve of a part's rating */
};

static const double BASE_V = 0.75;
static const double SATURATED_V = 0.15;
static const double SPARE_V =
    0.8; /* minimum voltage of a LED's resistor: else the current depends on the LED */

/* Returns the nearest value of the E12 series, or the next below. */
static double e12(double ohms, bool is_below)
{
    static const double series[] = {1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2, 10};
    const double decade = pow(10, floor(log10(MAX(ohms, 1))));
    double best = series[0] * decade;
    for (gsize i = 0; i < G_N_ELEMENTS(series); i++) {
        const double value = series[i] * decade;
        if (is_below ? value <= ohms * 1.001 : fabs(value - ohms) < fabs(best - ohms)) {
            best = value;
        }
    }
    return best;
}

/* Returns "1 kΩ, 0.25 W": rated for twice its power. */
static char *resistor_text(double ohms, double ampere)
{
    static const double ratings[] = {0.25, 0.5, 1, 2, 5, 10, 25};
    g_autofree char *value = circuit_ohms_text(ohms);
    gsize rating = 0;
    while (rating + 1 < G_N_ELEMENTS(ratings) && ratings[rating] < RESERVE * ampere * ampere * ohms) {
        rating++;
    }
    return g_strdup_printf("%s, %g W", value, ratings[rating]);
}

/* Returns the next sufficient rating. */
static double rated(double wanted, const double *ratings, gsize count)
{
    gsize i = 0;
    while (i + 1 < count && ratings[i] < wanted) {
        i++;
    }
    return ratings[i];
}

static double volts_rated(double volts)
{
    static const double ratings[] = {40, 60, 100, 200};
    return rated(RESERVE * volts, ratings, G_N_ELEMENTS(ratings));
}

static double amperes_rated(double ampere)
{
    static const double ratings[] = {0.5, 1, 2, 3, 5, 10, 20, 40, 80, 120};
    return rated(RESERVE * ampere, ratings, G_N_ELEMENTS(ratings));
}

guint wire_net(wiring_up *job, const char *name)
{
    return circuit_add_net(job->made, g_strdup_printf("%s %s", job->line->name.text, name), NET_SIGNAL, 0);
}

guint wire_feed(wiring_up *job)
{
    const clause_given *const supply = &job->line->supply;
    g_autofree char *name = g_strdup_printf("+%g V of %s", supply->value / 1000.0, job->line->name.text);
    if (!supply->is_given) {
        return job->made->supply;
    }
    for (guint i = 0; i < job->made->nets->len; i++) {
        if (strcmp(circuit_net_at(job->made, i)->name, name) == 0) {
            return i;
        }
    }
    const guint net = circuit_add_net(job->made, g_steal_pointer(&name), NET_SUPPLY, supply->value / 1000.0);
    g_array_index(job->made->nets, circuit_net, net).max_ma = supply->second;
    return net;
}

static double volts_of(const wiring_up *job, guint net)
{
    return circuit_net_at(job->made, net)->volts;
}

guint wire_part(wiring_up *job, circuit_symbol symbol, double amount, double current, char *value, guint a,
                guint b)
{
    return circuit_add_part(job->made, &(circuit_part){.symbol = symbol,
                                                       .output = job->output,
                                                       .amount = amount,
                                                       .current = current,
                                                       .value = value,
                                                       .legs = {a, b},
                                                       .leg_count = 2});
}

guint wire_resistor(wiring_up *job, double ohms, double ampere, guint a, guint b)
{
    return wire_part(job, SYMBOL_RESISTOR, ohms, ampere, resistor_text(ohms, ampere), a, b);
}

static guint transistor(wiring_up *job, circuit_symbol symbol, double volts, double ampere, guint control,
                        guint collector, guint emitter)
{
    g_autofree char *level = g_strdup_printf(", on at %g V", volts_of(job, job->made->logic));
    return circuit_add_part(
        job->made, &(circuit_part){.symbol = symbol,
                                   .output = job->output,
                                   .current = ampere,
                                   .value = g_strdup_printf("%s, %g V, %g A%s",
                                                            symbol == SYMBOL_NPN   ? "NPN transistor"
                                                            : symbol == SYMBOL_PNP ? "PNP transistor"
                                                                                   : "N-channel MOSFET",
                                                            volts_rated(volts), amperes_rated(ampere),
                                                            symbol == SYMBOL_NMOS ? level : ""),
                                   .legs = {control, collector, emitter},
                                   .leg_count = 3});
}

static circuit_stage *begin_stage(wiring_up *job, unsigned pin, circuit_form form, const char *terminal)
{
    const char *const name = board_pin_by_name(job->board, job->line->pins[pin].text)->name;
    const circuit_stage stage = {
        .form = form,
        .pin = name,
        .owner = g_strdup(job->line->name.text),
        .kind = job->line->kind->name,
        .terminal = terminal,
        .output = job->output,
        .pin_net = circuit_add_net(job->made, g_strdup_printf("pin %s", name), NET_SIGNAL, 0),
    };
    g_array_append_val(job->made->stages, stage);
    return &g_array_index(job->made->stages, circuit_stage, job->made->stages->len - 1);
}

/* Adds the load, with its resistor if it is a LED, between two nets; the first is plus. */
static void add_load(wiring_up *job, circuit_stage *stage, const switched *load, guint from, guint until,
                     double volts)
{
    if (load->led_volts > 0) {
        const guint middle = wire_net(job, "LED");
        const double ampere = load->ma / 1000;
        const double ohms = e12(MAX(volts - load->led_volts, 1) / ampere, false);
        stage->parts[PLACE_LIMIT] = wire_resistor(job, ohms, ampere, from, middle);
        stage->parts[PLACE_LOAD] =
            wire_part(job, SYMBOL_LED, load->led_volts, ampere, g_strdup(load->value), middle, until);
        return;
    }
    stage->parts[PLACE_LOAD] = wire_part(job, load->symbol, volts / load->ma * 1000, load->ma / 1000,
                                         g_strdup(load->value), from, until);
}

/* Adds a diode for the energy of a coil. */
static void add_diode(wiring_up *job, circuit_stage *stage, const switched *load, guint anode, guint cathode,
                      double volts)
{
    const double ampere = MAX(load->ma, load->start_ma) / 1000;
    if (load->has_coil) {
        stage->parts[PLACE_DIODE] = wire_part(
            job, SYMBOL_DIODE, 0, ampere,
            ampere <= 0.1 ? g_strdup_printf("silicon diode, %g V, 0.2 A", MAX(volts_rated(volts), 75))
                          : g_strdup_printf("Schottky diode, %g V, %g A", volts_rated(volts),
                                            amperes_rated(ampere / RESERVE)),
            anode, cathode);
    }
}

static void switch_to_ground(wiring_up *job, circuit_stage *stage, const switched *load, guint control,
                             bool is_bipolar)
{
    const double volts = volts_of(job, stage->feed);
    const guint switched_net = wire_net(job, load->terminal);
    stage->parts[PLACE_SWITCH] =
        transistor(job, is_bipolar ? SYMBOL_NPN : SYMBOL_NMOS, volts, MAX(load->ma, load->start_ma) / 1000,
                   control, switched_net, job->made->ground);
    add_load(job, stage, load, stage->feed, switched_net, volts - (is_bipolar ? SATURATED_V : 0));
    add_diode(job, stage, load, switched_net, stage->feed, volts);
}

/* Adds the base resistor, for the transistor's current. */
static double base_ohms(double logic_v, double ma)
{
    return e12((logic_v - BASE_V) / (MAX(ma / GAIN, 1) / 1000), true);
}

static void wire_low_side(wiring_up *job, circuit_stage *stage, const switched *load, bool is_bipolar)
{
    const double logic_v = volts_of(job, job->made->logic);
    const guint control = wire_net(job, is_bipolar ? "base" : "gate");
    const double ohms = is_bipolar ? base_ohms(logic_v, load->ma) : GATE_OHMS;
    stage->source_ma = is_bipolar ? (logic_v - BASE_V) / ohms * 1000 : logic_v / WIRE_PULL_OHMS * 1000;
    stage->parts[PLACE_SERIES] = wire_resistor(job, ohms, stage->source_ma / 1000, stage->pin_net, control);
    stage->parts[PLACE_PULL] = wire_resistor(job, WIRE_PULL_OHMS, 0, control, job->made->ground);
    switch_to_ground(job, stage, load, control, is_bipolar);
}

static void wire_high_side(wiring_up *job, circuit_stage *stage, const switched *load)
{
    const double volts = volts_of(job, stage->feed);
    const guint base = wire_net(job, "base");
    const guint switched_net = wire_net(job, load->terminal);
    const double ohms = base_ohms(volts, load->ma);
    stage->sink_ma = (volts - BASE_V) / ohms * 1000;
    stage->parts[PLACE_SERIES] = wire_resistor(job, ohms, stage->sink_ma / 1000, stage->pin_net, base);
    stage->parts[PLACE_PULL] = wire_resistor(job, WIRE_PULL_OHMS, 0, stage->feed, base);
    stage->parts[PLACE_SWITCH] =
        transistor(job, SYMBOL_PNP, volts, load->ma / 1000, base, switched_net, stage->feed);
    add_load(job, stage, load, switched_net, job->made->ground, volts - SATURATED_V);
    add_diode(job, stage, load, job->made->ground, switched_net, volts);
}

static void wire_inverted(wiring_up *job, circuit_stage *stage, const switched *load)
{
    const guint logic = job->made->logic;
    const double logic_v = volts_of(job, logic);
    const guint base = wire_net(job, "base");
    const guint gate = wire_net(job, "gate");
    const double ohms = e12((logic_v - BASE_V) / (INVERTER_MA / 1000.0), true);
    stage->source_ma = (logic_v - BASE_V) / ohms * 1000;
    stage->sink_ma = logic_v / WIRE_PULL_OHMS * 1000;
    stage->parts[PLACE_BEFORE_SERIES] =
        wire_resistor(job, ohms, stage->source_ma / 1000, stage->pin_net, base);
    stage->parts[PLACE_BEFORE_PULL] = wire_resistor(job, WIRE_PULL_OHMS, 0, logic, stage->pin_net);
    stage->parts[PLACE_BEFORE] =
        transistor(job, SYMBOL_NPN, logic_v, INVERTER_MA / 1000.0, base, gate, job->made->ground);
    stage->parts[PLACE_PULL] = wire_resistor(job, WIRE_PULL_OHMS, 0, logic, gate);
    switch_to_ground(job, stage, load, gate, false);
}

void wire_switched(wiring_up *job, unsigned pin, const switched *load)
{
    const guint feed = wire_feed(job);
    const double most_ma = MAX(load->ma, load->start_ma);
    const bool is_bipolar = !load->has_mosfet && most_ma <= MAX_BIPOLAR_MA;
    const bool is_pins_own = fabs(volts_of(job, feed) - volts_of(job, job->made->logic)) < 0.2;
    const circuit_form form = !load->is_low_on                           ? FORM_LOW_SIDE
                              : is_pins_own && most_ma <= MAX_BIPOLAR_MA ? FORM_HIGH_SIDE
                                                                         : FORM_INVERTED;
    circuit_stage *const stage = begin_stage(job, pin, form, load->terminal);
    stage->feed = feed;
    if (form == FORM_LOW_SIDE) {
        wire_low_side(job, stage, load, is_bipolar);
    } else if (form == FORM_HIGH_SIDE) {
        wire_high_side(job, stage, load);
    } else {
        wire_inverted(job, stage, load);
    }
}

void wire_led(wiring_up *job, unsigned pin, const switched *load)
{
    const guint logic = job->made->logic;
    const double spare_v = volts_of(job, logic) - load->led_volts;
    if (spare_v < SPARE_V) {
        wire_switched(job, pin, load);
        return;
    }
    circuit_stage *const stage =
        begin_stage(job, pin, load->is_low_on ? FORM_LED_LOW : FORM_LED, load->terminal);
    const double pin_ohms = job->board->pin_ohms;
    double ohms = e12(MAX(spare_v / load->ma * 1000 - pin_ohms, 10), false);
    if (load->ma <= job->board->pin_ma && spare_v / (ohms + pin_ohms) * 1000 > job->board->pin_ma) {
        ohms = e12(ohms * 1.2, false); /* the next value, so that the pin's limit is kept */
    }
    const double ma = spare_v / (ohms + pin_ohms) * 1000;
    const guint middle = wire_net(job, "LED");
    const guint end = load->is_low_on ? logic : job->made->ground;
    stage->feed = logic;
    stage->parts[PLACE_LIMIT] = wire_resistor(job, ohms, ma / 1000, stage->pin_net, middle);
    stage->parts[PLACE_LOAD] =
        wire_part(job, SYMBOL_LED, load->led_volts, load->ma / 1000, g_strdup(load->value),
                  load->is_low_on ? end : middle, load->is_low_on ? middle : end);
    *(load->is_low_on ? &stage->sink_ma : &stage->source_ma) = ma;
}

guint wire_module(wiring_up *job, circuit_module module, const char *value, const module_leg *legs)
{
    circuit_part part = {
        .symbol = SYMBOL_MODULE, .module = module, .output = job->output, .value = g_strdup(value)};
    for (; part.leg_count < CIRCUIT_LEGS && legs[part.leg_count].name != NULL; part.leg_count++) {
        part.names[part.leg_count] = legs[part.leg_count].name;
        part.legs[part.leg_count] = legs[part.leg_count].net;
    }
    return circuit_add_part(job->made, &part);
}

void wire_to_module(wiring_up *job, unsigned pin, guint module, unsigned leg, const char *terminal,
                    double ohms, bool is_pulled)
{
    circuit_stage *const stage = begin_stage(job, pin, FORM_MODULE, terminal);
    circuit_part *const part = &g_array_index(job->made->parts, circuit_part, module - 1);
    const double logic_v = volts_of(job, job->made->logic);
    const guint input = part->legs[leg];
    stage->leg = leg;
    stage->feed = wire_feed(job);
    stage->parts[PLACE_MODULE] = module;
    stage->source_ma = is_pulled ? logic_v / WIRE_PULL_OHMS * 1000 : 0.1;
    if (ohms > 0) {
        stage->parts[PLACE_SERIES] = wire_resistor(job, ohms, 0, stage->pin_net, input);
    } else {
        g_array_index(job->made->parts, circuit_part, module - 1).legs[leg] = stage->pin_net;
    }
    if (is_pulled) {
        stage->parts[PLACE_PULL] = wire_resistor(job, WIRE_PULL_OHMS, 0, stage->pin_net, job->made->ground);
    }
}

void wire_load(wiring_up *job, double ma, double start_ma, double direct_ma)
{
    const circuit_load load = {job->output, wire_feed(job), ma, MAX(ma, start_ma), direct_ma};
    g_array_append_val(job->made->loads, load);
}
