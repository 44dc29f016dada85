/* Writes a circuit for SPICE. A pin is a source with a pin's resistance; modules are modelled at their legs
 * only. */
#include "plan/wiring/wiring.h"

#include <math.h>
#include <string.h>

/* Usual weak parts: small silicon transistors with a gain of 50, a MOSFET of 30 mΩ, diodes. Their figures are
 * typical of data sheets, and of no particular one. */
static const char models[] =
    ".model npn_part NPN(IS=1e-14 BF=50 VAF=80 RB=5 RC=0.4 CJC=8p CJE=25p TF=0.4n)\n"
    ".model pnp_part PNP(IS=1e-14 BF=50 VAF=80 RB=5 RC=0.4 CJC=10p CJE=25p TF=0.5n)\n"
    ".model nmos_part NMOS(LEVEL=1 VTO=1.5 KP=20u)\n"
    ".model silicon D(IS=2.5n N=1.75 RS=0.5 BV=100)\n"
    ".model schottky D(IS=10u N=1.05 RS=0.05 BV=60)\n"
    ".model opto D(IS=1e-17 N=1.4)\n"
    ".model bridge_switch SW(VT=0.5 VH=0.1 RON=0.2 ROFF=10Meg)\n";

/* "n5_pin_7": each net has a number, so that names differ. */
char *circuit_netlist_name(const circuit *all, guint net)
{
    const circuit_net *const found = circuit_net_at(all, net);
    if (found->role == NET_GROUND) {
        return g_strdup("0");
    }
    GString *const text = g_string_new(NULL);
    g_string_printf(text, "n%u_", net);
    for (const char *at = found->name; *at != '\0'; at++) {
        g_string_append_c(text, g_ascii_isalnum(*at) ? g_ascii_tolower(*at) : '_');
    }
    return g_string_free(text, FALSE);
}

/* Returns a row of legs: "n1_base n2_coil 0". To be freed. */
static char *legs_text(const circuit *all, const circuit_part *part)
{
    GString *const text = g_string_new(NULL);
    for (unsigned i = 0; i < part->leg_count; i++) {
        g_autofree char *net = circuit_netlist_name(all, part->legs[i]);
        g_string_append_printf(text, "%s%s", i > 0 ? " " : "", net);
    }
    return g_string_free(text, FALSE);
}

static char *leg_text(const circuit *all, const circuit_part *part, unsigned leg)
{
    return circuit_netlist_name(all, part->legs[leg]);
}

/* A LED has its voltage at its current: the exponent is fixed, the saturation current follows. */
static void put_led(GString *out, const circuit_part *part, const char *legs)
{
    const double exponent = 38;
    g_string_append_printf(out, "D_%s %s led_%s\n.model led_%s D(IS=%.4g N=%.4g)\n", part->id, legs, part->id,
                           part->id, part->current / exp(exponent), part->amount / (exponent * 0.025852));
}

/* Adds a current between two legs of a module while a condition holds. */
static void put_load(GString *out, const circuit *all, const circuit_part *part, unsigned plus,
                     unsigned minus, double ampere, const char *condition)
{
    g_autofree char *from = leg_text(all, part, plus);
    g_autofree char *until = leg_text(all, part, minus);
    g_string_append_printf(out, "B_%s_load %s %s I=%s%.4g%s\n", part->id, from, until,
                           condition != NULL ? condition : "", ampere, condition != NULL ? " : 0" : "");
}

static void put_relay_board(GString *out, const circuit *all, const circuit_part *part)
{
    enum { IN, VCC, BOARD_GND, COIL = 6 };
    g_autofree char *in = leg_text(all, part, IN);
    g_autofree char *vcc = leg_text(all, part, VCC);
    const bool is_low_on = part->amount < 0;
    g_autofree char *lit =
        is_low_on ? g_strdup_printf("(V(%s)-V(%s)) > 2 ? ", vcc, in) : g_strdup_printf("V(%s) > 2 ? ", in);
    g_string_append_printf(out, "D_%s_in %s %s_in opto\nR_%s_in %s_in %s 820\n", part->id,
                           is_low_on ? vcc : in, part->id, part->id, part->id, is_low_on ? in : "0");
    put_load(out, all, part, part->leg_count > COIL ? COIL : VCC, BOARD_GND, part->current, lit);
}

static void put_bridge(GString *out, const circuit *all, const circuit_part *part)
{
    enum { IN1, IN2, EN, VM, BRIDGE_GND, OUT1, OUT2 };
    g_autofree char *enabled = leg_text(all, part, EN);
    g_autofree char *fed = leg_text(all, part, VM);
    for (unsigned i = 0; i < 2; i++) {
        g_autofree char *in = leg_text(all, part, IN1 + i);
        g_autofree char *end = leg_text(all, part, OUT1 + i);
        g_string_append_printf(out,
                               "B_%s_h%u %s_h%u 0 V=V(%s)>1.3 && V(%s)>1.3 ? 1 : 0\n"
                               "S_%s_h%u %s %s %s_h%u 0 bridge_switch\n"
                               "B_%s_l%u %s_l%u 0 V=V(%s)>1.3 && V(%s)<=1.3 ? 1 : 0\n"
                               "S_%s_l%u %s 0 %s_l%u 0 bridge_switch\n"
                               "D_%s_u%u %s %s schottky\nD_%s_d%u 0 %s schottky\n"
                               "R_%s_i%u %s 0 100k\n",
                               part->id, i, part->id, i, enabled, in, part->id, i, fed, end, part->id, i,
                               part->id, i, part->id, i, enabled, in, part->id, i, end, part->id, i, part->id,
                               i, end, fed, part->id, i, end, part->id, i, in);
    }
}

static void put_module(GString *out, const circuit *all, const circuit_part *part)
{
    g_autofree char *first = leg_text(all, part, 0);
    switch (part->module) {
    case MODULE_RELAY_BOARD:
        put_relay_board(out, all, part);
        break;
    case MODULE_BRIDGE:
        put_bridge(out, all, part);
        break;
    case MODULE_SERVO:
    case MODULE_STRIP:
        g_string_append_printf(out, "R_%s_in %s 0 100k\n", part->id, first);
        put_load(out, all, part, 1, 2, part->current, NULL);
        break;
    case MODULE_BUFFER: {
        g_autofree char *end = leg_text(all, part, 1);
        g_autofree char *fed = leg_text(all, part, 2);
        g_string_append_printf(
            out, "R_%s_in %s 0 1Meg\nB_%s_out %s_y 0 V=V(%s)>2 ? V(%s) : 0\nR_%s_out %s_y %s 20\n", part->id,
            first, part->id, part->id, first, fed, part->id, part->id, end);
        break;
    }
    case MODULE_RECEIVER:
        put_load(out, all, part, 2, 1, 0.001, NULL);
        g_string_append_printf(out, "R_%s_out %s 0 100k\n", part->id, first);
        break;
    case MODULE_NONE:
        break;
    }
}

static void put_part(GString *out, const circuit *all, const circuit_part *part)
{
    g_autofree char *legs = legs_text(all, part);
    const char *const id = part->id;
    switch (part->symbol) {
    case SYMBOL_RESISTOR:
    case SYMBOL_LAMP:
        g_string_append_printf(out, "R_%s %s %.6g\n", id, legs, part->amount);
        break;
    case SYMBOL_CAPACITOR:
        g_string_append_printf(out, "C_%s %s %.4g\n", id, legs, part->amount);
        break;
    case SYMBOL_DIODE:
        g_string_append_printf(out, "D_%s %s %s\n", id, legs, part->current <= 0.1 ? "silicon" : "schottky");
        break;
    case SYMBOL_LED:
        put_led(out, part, legs);
        break;
    case SYMBOL_NPN:
    case SYMBOL_PNP: { /* SPICE lists the collector first */
        g_autofree char *base = leg_text(all, part, 0);
        g_autofree char *collector = leg_text(all, part, 1);
        g_autofree char *emitter = leg_text(all, part, 2);
        g_string_append_printf(out, "Q_%s %s %s %s %s\n", id, collector, base, emitter,
                               part->symbol == SYMBOL_NPN ? "npn_part" : "pnp_part");
        break;
    }
    case SYMBOL_NMOS: {
        g_autofree char *gate = leg_text(all, part, 0);
        g_autofree char *drain = leg_text(all, part, 1);
        g_autofree char *source = leg_text(all, part, 2);
        g_string_append_printf(out, "M_%s %s %s %s %s nmos_part L=1u W=1\nD_%s_body %s %s silicon\n", id,
                               drain, gate, source, source, id, source, drain);
        break;
    }
    case SYMBOL_COIL:
    case SYMBOL_MOTOR: {
        g_autofree char *from = leg_text(all, part, 0);
        g_autofree char *until = leg_text(all, part, 1);
        g_string_append_printf(out, "R_%s %s %s_l %.6g\nL_%s %s_l %s %s\n", id, from, id, part->amount, id,
                               id, until, part->symbol == SYMBOL_COIL ? "100m" : "2m");
        break;
    }
    case SYMBOL_CONTACT:
        g_string_append_printf(out, "R_%s %s 10Meg\n", id, legs); /* open */
        break;
    case SYMBOL_MODULE:
        put_module(out, all, part);
        break;
    }
}

/* Its level: low, high, a falling edge after 5 ms; without levels, up and down every 10 ms. */
static void put_pin(GString *out, const circuit *all, const circuit_stage *stage, unsigned number,
                    double volts, unsigned ohms, char level)
{
    g_autofree char *net = circuit_netlist_name(all, stage->pin_net);
    g_autofree char *edge = g_strdup_printf("PULSE(%g 0 5m 50n 50n 1 2)", volts);
    g_autofree char *pulses = g_strdup_printf("PULSE(0 %g 5m 50n 50n 10m 20m)", volts);
    g_autofree char *still = g_strdup_printf("%g", level == 'h' ? volts : 0);
    g_string_append_printf(out, "* pin %s: %s, %s\nV_pin%u pin%u 0 %s\nR_pin%u pin%u %s %u\n", stage->pin,
                           stage->owner, stage->terminal, number, number,
                           level == 'e'   ? edge
                           : level == 'p' ? pulses
                                          : still,
                           number, number, net, ohms);
}

/* A supply has 0.05 Ω, the board's pin as well. */
static void put_supplies(GString *out, const circuit *all)
{
    for (guint i = 0; i < all->nets->len; i++) {
        const circuit_net *const net = circuit_net_at(all, i);
        g_autofree char *name = circuit_netlist_name(all, i);
        if (net->role == NET_SUPPLY) {
            g_string_append_printf(out, "V_%s %s_emf 0 %g\nR_%s %s_emf %s 0.05\n", name, name, net->volts,
                                   name, name, name);
        }
    }
}

char *circuit_netlist(const plan *loaded, const circuit *all, const char *levels)
{
    const board *const chosen = plan_board(loaded);
    GString *const out = g_string_new(NULL);
    static const char pulses[] = "p";
    unsigned number = 0;
    g_string_append_printf(out, "* %s, on the board %s\n", plan_title(loaded), chosen->id);
    g_string_append(out, models);
    put_supplies(out, all);
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        if (stage->form != FORM_CONTACT && stage->form != FORM_RECEIVER) {
            const char *const level = levels != NULL ? &levels[number] : pulses;
            put_pin(out, all, stage, number, chosen->logic_volts, chosen->pin_ohms, *level);
            number++;
        }
    }
    for (guint i = 0; i < all->parts->len; i++) {
        const circuit_part *const part = &g_array_index(all->parts, circuit_part, i);
        g_string_append_printf(out, "* %s: %s\n", part->id, part->value);
        put_part(out, all, part);
    }
    return g_string_free(out, FALSE);
}
