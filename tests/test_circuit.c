/* ngspice checks the circuits: loads are on and off as intended, and no part exceeds its rating. */
#include "support.h"

#include "plan/wiring/wiring.h"
#include "plans.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* A board, and pins of it that are free. */
typedef struct tried_board {
    const char *id;
    const char *receiver;
    const char *pins[16];
} tried_board;

static const tried_board boards[] = {
    {"uno", "8", {"2", "3", "4", "5", "6", "7", "9", "10", "11", "12", "A0", "A1", "A2", "A3", "A4", "A5"}},
    {"rpipico",
     "GP28",
     {"GP2", "GP3", "GP4", "GP5", "GP6", "GP7", "GP8", "GP9", "GP10", "GP11", "GP12", "GP13", "GP14", "GP15",
      "GP16", "GP17"}},
};

static const char *const supplies[] = {"", ", supply 5 V 6 A", ", supply 12 V 6 A", ", supply 24 V 6 A"};

/* An output of each kind that may have such a supply; '%s' are its pins, then its supply. */
static const struct {
    const char *line;
    unsigned pins;
    bool may_be_low;
    bool is_at_5_v;
    bool has_own_supply; /* the board can't supply it: vet reports that */
} kinds[] = {
    {"relay k0 on pin %s%s, through driver", 1, true, false, false},
    {"relay k1 on pin %s%s, on a relay board", 1, true, false, false},
    {"lamp k2 on pin %s%s, through driver", 1, true, false, false},
    {"lamp k3 on pin %s%s, LED 2 V 10 mA", 1, true, false, false},
    {"lamp k4 on pins %s %s %s%s", 3, true, false, false},
    {"motor k5 on pin %s%s, through driver", 1, false, false, false},
    {"motor k6 on pins %s and %s, speed on pin %s%s, through driver", 3, false, false, true},
    {"stepper k7 on pins %s %s %s %s%s, 200 steps a turn, through driver", 4, false, false, false},
    {"sender k8 on pin %s%s, through driver", 1, false, true, false},
    {"servo k9 on pin %s%s", 1, false, true, false},
    {"strip k10 on pin %s%s, 10 pixels", 1, false, true, false},
};

/* Returns the line with its '%s' replaced in turn. To be freed. */
static char *filled(const char *line, unsigned pins, const char *const *names, const char *supply)
{
    GString *const text = g_string_new(NULL);
    unsigned taken = 0;
    for (const char *at = line; *at != '\0'; at++) {
        if (strncmp(at, "%s", 2) == 0) {
            g_string_append(text, taken < pins ? names[taken] : supply);
            taken++;
            at++;
        } else {
            g_string_append_c(text, *at);
        }
    }
    return g_string_free(text, FALSE);
}

static plan *load_with(const tried_board *chosen, const char *lines)
{
    static const char csv[] = "key,protocol,address,command\nup,nec,4,1\n";
    char *reported = NULL;
    g_autofree char *text =
        g_strdup_printf("plan \"Circuit\"\nboard %s\nreceiver on pin %s\nhandset wand from \"wand.csv\"\n%s",
                        chosen->id, chosen->receiver, lines);
    plan *const made = load_plan(text, csv, &reported);
    ck_assert_msg(made != NULL, "%s%s", text, reported);
    free(reported);
    return made;
}

/* Runs ngspice on a netlist and returns each name with its number. To be unreferenced. */
static GHashTable *simulated(const plan *made, const circuit *all, const char *levels, const char *commands)
{
    g_autofree char *rows = circuit_netlist(made, all, levels);
    g_autofree char *text = g_strconcat(rows, ".control\nset width=200\n", commands, ".endc\n.end\n", NULL);
    g_autofree char *path = write_file("circuit.cir", text);
    g_auto(said) answer = run_shell("ngspice -b '%s' 2>&1", path);
    GHashTable *const found = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    g_auto(GStrv) lines = g_strsplit(answer.out, "\n", -1);
    for (int i = 0; lines[i] != NULL; i++) {
        char *const sign = strstr(lines[i], " = ");
        if (sign != NULL) {
            double *const number = g_new(double, 1);
            *number = g_ascii_strtod(sign + 3, NULL);
            *sign = '\0';
            g_hash_table_insert(found, g_strdup(g_strstrip(lines[i])), number);
        }
    }
    ck_assert_msg(g_hash_table_size(found) > 3 && strstr(answer.out, "rror") == NULL, "%s: %.600s", path,
                  strstr(answer.out, "rror") != NULL ? strstr(answer.out, "rror") : answer.out);
    return found;
}

static double number_of(GHashTable *found, const char *name)
{
    const double *const number = g_hash_table_lookup(found, name);
    ck_assert_msg(number != NULL, "ngspice says nothing of %s", name);
    return *number;
}

static double volts_of(const circuit *all, GHashTable *found, guint net)
{
    g_autofree char *name = circuit_netlist_name(all, net);
    return strcmp(name, "0") == 0 ? 0 : number_of(found, name);
}

/* The level at which a stage's load is on. */
static bool is_high_on(const circuit *all, const circuit_stage *stage)
{
    const circuit_part *const module = circuit_part_at(all, stage, PLACE_MODULE);
    return stage->form == FORM_LED_LOW || stage->form == FORM_HIGH_SIDE || stage->form == FORM_INVERTED
               ? false
           : module != NULL && module->module == MODULE_RELAY_BOARD ? module->amount > 0
                                                                    : true;
}

static bool is_output(const circuit_stage *stage)
{
    return stage->form != FORM_CONTACT && stage->form != FORM_RECEIVER;
}

/* 'h' or 'l' for each output's pin; a bridge turns one way, so its second pin stays low. */
static char *levels_of(const circuit *all, bool is_on, char edge)
{
    GString *const levels = g_string_new(NULL);
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const bool is_back = strcmp(stage->terminal, "back") == 0;
        const bool is_high = (is_on && !is_back) == is_high_on(all, stage);
        if (is_output(stage)) {
            g_string_append_c(levels, is_high ? edge != '\0' ? edge : 'h' : 'l');
        }
    }
    return g_string_free(levels, FALSE);
}

static void check_pins(const plan *made, const circuit *all, GHashTable *found, const char *when)
{
    unsigned number = 0;
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        if (!is_output(stage)) {
            continue;
        }
        g_autofree char *name = g_strdup_printf("v_pin%u#branch", number++);
        const double ma = fabs(number_of(found, name)) * 1000;
        ck_assert_msg(ma <= plan_board(made)->pin_ma, "%s: pin %s of %s, %s: %.1f mA", when, stage->pin,
                      stage->owner, stage->terminal, ma);
        ck_assert_msg(ma <= MAX(stage->source_ma, stage->sink_ma) * 1.1 + 0.6,
                      "%s: pin %s of %s: %.2f mA, and it was to be %.2f or %.2f", when, stage->pin,
                      stage->owner, ma, stage->source_ma, stage->sink_ma);
    }
}

/* Returns the share of its nominal value that a load gets. */
static double share_of(const circuit *all, const circuit_stage *stage, GHashTable *found)
{
    const circuit_part *const load = circuit_part_at(all, stage, PLACE_LOAD);
    const circuit_part *const limit = circuit_part_at(all, stage, PLACE_LIMIT);
    const double feed = circuit_net_at(all, stage->feed)->volts;
    if (limit != NULL) {
        const double across = volts_of(all, found, limit->legs[0]) - volts_of(all, found, limit->legs[1]);
        return fabs(across) / limit->amount / load->current;
    }
    return fabs(volts_of(all, found, load->legs[0]) - volts_of(all, found, load->legs[1])) / feed;
}

/* The same between the ends of a bridge. */
static void check_bridges(const circuit *all, GHashTable *found, bool is_on, const char *when)
{
    for (guint i = 0; i < all->parts->len; i++) {
        const circuit_part *const part = &g_array_index(all->parts, circuit_part, i);
        if (part->symbol == SYMBOL_MODULE && part->module == MODULE_BRIDGE) {
            const double across = volts_of(all, found, part->legs[5]) - volts_of(all, found, part->legs[6]);
            const double feed = volts_of(all, found, part->legs[3]);
            ck_assert_msg(is_on ? across >= 0.9 * feed : fabs(across) < 0.01 * feed, "%s: %.2f V of %.1f",
                          when, across, feed);
        }
    }
}

static void check_loads(const circuit *all, GHashTable *found, bool is_on, const char *when)
{
    for (guint i = 0; i < all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, i);
        const bool is_led = stage->parts[PLACE_LIMIT] != 0;
        if (!is_output(stage) || stage->parts[PLACE_LOAD] == 0) {
            continue;
        }
        const double share = share_of(all, stage, found);
        const double least = is_led ? 0.8 : 0.9;
        const double most = is_led ? 1.2 : 1.01;
        ck_assert_msg(is_on ? share >= least && share <= most : share < 0.01, "%s: %s, %s: %.3f of it", when,
                      stage->owner, stage->terminal, share);
    }
    check_bridges(all, found, is_on, when);
}

/* No supply sinks current, least of all the board's. */
static void check_supplies(const circuit *all, GHashTable *found, const char *when)
{
    for (guint i = 0; i < all->nets->len; i++) {
        const circuit_net *const net = circuit_net_at(all, i);
        g_autofree char *name = circuit_netlist_name(all, i);
        g_autofree char *branch = g_strdup_printf("v_%s#branch", name);
        if (net->role == NET_SUPPLY) {
            ck_assert_msg(number_of(found, branch) <= 1e-6, "%s: %.6f A go into %s", when,
                          number_of(found, branch), net->name);
        }
    }
}

/* Returns a transistor's voltage rating from its label: "NPN transistor, 40 V, 0.5 A". */
static double rating_of(const circuit_part *part)
{
    return g_ascii_strtod(strstr(part->value, ", ") + 2, NULL);
}

static bool is_transistor(const circuit_part *part)
{
    return part->symbol == SYMBOL_NPN || part->symbol == SYMBOL_PNP || part->symbol == SYMBOL_NMOS;
}

/* When everything is switched off at once, no transistor exceeds its rating, and no current flows into a
 * supply. */
static void check_switching(const plan *made, const circuit *all, const char *when)
{
    g_autofree char *levels = levels_of(all, true, 'e');
    g_autoptr(GString) commands = g_string_new("tran 2u 9m\n");
    for (guint i = 0; i < all->parts->len; i++) {
        const circuit_part *const part = &g_array_index(all->parts, circuit_part, i);
        if (is_transistor(part)) {
            g_autofree char *name = circuit_netlist_name(all, part->legs[1]);
            g_string_append_printf(
                commands, "let max_%u = vecmax(%s)\nprint max_%u\nlet min_%u = vecmin(%s)\nprint min_%u\n",
                part->legs[1], name, part->legs[1], part->legs[1], name, part->legs[1]);
        }
    }
    for (guint i = 0; i < all->nets->len; i++) {
        g_autofree char *name = circuit_netlist_name(all, i);
        if (circuit_net_at(all, i)->role == NET_SUPPLY) {
            g_string_append_printf(commands, "let fed_%u = vecmax(v_%s#branch)\nprint fed_%u\n", i, name, i);
        }
    }
    g_autoptr(GHashTable) found = simulated(made, all, levels, commands->str);
    for (guint i = 0; i < all->parts->len; i++) {
        const circuit_part *const part = &g_array_index(all->parts, circuit_part, i);
        if (is_transistor(part)) {
            g_autofree char *max = g_strdup_printf("max_%u", part->legs[1]);
            g_autofree char *min = g_strdup_printf("min_%u", part->legs[1]);
            const double feed = part->symbol == SYMBOL_PNP ? circuit_net_at(all, part->legs[2])->volts : 0;
            ck_assert_msg(number_of(found, max) - feed <= rating_of(part), "%s: %s gets %.1f V", when,
                          part->id, number_of(found, max));
            ck_assert_msg(number_of(found, min) - feed >= -rating_of(part), "%s: %s gets %.1f V", when,
                          part->id, number_of(found, min));
        }
    }
    for (guint i = 0; i < all->nets->len; i++) {
        if (circuit_net_at(all, i)->is_boards) {
            g_autofree char *fed = g_strdup_printf("fed_%u", i);
            /* 2 mA are the simulator's error when half an ampere ends at once */
            ck_assert_msg(number_of(found, fed) <= 2e-3, "%s: %.5f A go into %s", when, number_of(found, fed),
                          circuit_net_at(all, i)->name);
        }
    }
}

static void check_circuit(const plan *made, const char *when)
{
    circuit *const all = circuit_of(made);
    for (unsigned is_on = 0; is_on < 2; is_on++) {
        g_autofree char *levels = levels_of(all, is_on != 0, '\0');
        g_autofree char *what = g_strdup_printf("%s, %s", when, is_on != 0 ? "on" : "off");
        g_autoptr(GHashTable) found = simulated(made, all, levels, "op\nprint all\n");
        check_pins(made, all, found, what);
        check_loads(all, found, is_on != 0, what);
        check_supplies(all, found, what);
    }
    check_switching(made, all, when);
    circuit_free(all);
}

/* All kinds that fit on a board at once, with one supply and one level. */
static char *lines_of(const tried_board *chosen, unsigned supply, bool is_low, unsigned first, unsigned end)
{
    GString *const lines = g_string_new(NULL);
    unsigned pin = 0;
    for (unsigned i = first; i < end; i++) {
        const bool fits = (!kinds[i].is_at_5_v || supply < 2) && (!kinds[i].has_own_supply || supply > 0);
        if (fits && (!is_low || kinds[i].may_be_low)) {
            g_autofree char *line =
                filled(kinds[i].line, kinds[i].pins, &chosen->pins[pin], supplies[supply]);
            g_string_append_printf(lines, "%s%s\n", line, is_low ? ", active low" : "");
            pin += kinds[i].pins;
        }
    }
    return g_string_free(lines, FALSE);
}

TEST(each_kind_at_each_supply_and_level)
{
    enum { HALF = 6 };
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        for (unsigned supply = 0; supply < G_N_ELEMENTS(supplies); supply++) {
            for (unsigned is_low = 0; is_low < 2; is_low++) {
                for (unsigned first = 0; first < G_N_ELEMENTS(kinds); first += HALF) {
                    g_autofree char *lines = lines_of(&boards[i], supply, is_low != 0, first,
                                                      MIN(first + HALF, G_N_ELEMENTS(kinds)));
                    if (lines[0] == '\0') {
                        continue;
                    }
                    g_autofree char *when = g_strdup_printf("%s%s, on is %s", boards[i].id, supplies[supply],
                                                            is_low != 0 ? "low" : "high");
                    plan *const made = load_with(&boards[i], lines);
                    check_circuit(made, when);
                    plan_free(made);
                }
            }
        }
    }
}

/* LEDs of 2 V at 15 mA, and others, within a fifth. */
TEST(leds_get_the_current_that_was_asked_for)
{
    static const char *const leds[] = {"LED 1.8 V 5 mA", "LED 2 V 15 mA", "LED 3.2 V 10 mA",
                                       "LED 2.1 V 2 mA"};
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        for (size_t j = 0; j < G_N_ELEMENTS(leds); j++) {
            g_autofree char *lines =
                g_strdup_printf("lamp a on pin %s, %s\nlamp b on pin %s, supply 12 V 1 A, %s\n",
                                boards[i].pins[3], leds[j], boards[i].pins[4], leds[j]);
            g_autofree char *when = g_strdup_printf("%s, %s", boards[i].id, leds[j]);
            plan *const made = load_with(&boards[i], lines);
            const bool is_too_much = plan_board(made)->pin_ma < 15 && strstr(leds[j], "15 mA") != NULL;
            if (!is_too_much) {
                check_circuit(made, when);
            }
            plan_free(made);
        }
    }
}

SUITE("circuit")
