/* Plans with known verdicts: each has one finding that fails or is to be checked, and no other; or it works.
 */
#include "support.h"

#include "plans.h"
#include "plan/vet/vet.h"

#include <stdlib.h>
#include <string.h>

typedef struct known {
    const char *board;
    const char *lines;
    vet_verdict verdict;
    const char *about; /* the worst finding, */
    const char *what;  /* and the beginning of it */
} known;

static const char sheets[] =
    "key,protocol,address,command\npower,nec,33,69\nup,nec,33,70\nslow,samsung32,7,7\n"
    "out,sirc12,7,11\n";

#define POWER "when hand.power pressed: "

static const known plans[] = {
    /* plans that work */
    {"uno",
     "relay a on pin 4, on a relay board\nrelay b on pin 5, on a relay board\nrelay c on pin 6, on a relay "
     "board\nrelay d on pin 7, on a relay board\nrelay e on pin 12, on a relay board\nonly one of a, b, c, "
     "d, "
     "e\n" POWER "a on; b on; c on; d on; e on",
     VET_FITS, NULL, NULL},
    {"uno",
     "relay a on pin 4, on a relay board\nrelay b on pin 5, on a relay board\nrelay c on pin 6, on a relay "
     "board\nrelay d on pin 7, on a relay board\nrelay e on pin 12, on a relay board\n" POWER
     "a on; b on; c on; d on; e on",
     VET_TIGHT, "supply", "everything on at once"},
    {"uno", "relay a on pin 4, on a relay board\n" POWER "a on", VET_FITS, NULL, NULL},
    {"uno", "relay a on pin 4, through driver\n" POWER "a on", VET_FITS, NULL, NULL},
    {"uno", "relay a on pin 4, active low, through driver, supply 12 V 1 A\n" POWER "a on", VET_FITS, NULL,
     NULL},
    {"uno", "lamp a on pin 5\n" POWER "a on", VET_FITS, NULL, NULL},
    {"uno", "lamp a on pin 5, LED 2 V 20 mA\n" POWER "a on", VET_FITS, NULL, NULL},
    {"uno", "lamp a on pin 5, supply 12 V 2 A\n" POWER "a on", VET_FITS, NULL, NULL},
    {"uno", "motor a on pin 5, through driver, supply 6 V 2 A\n" POWER "a run for 1 s", VET_FITS, NULL, NULL},
    {"uno", "stepper a on pins A0 A1 A2 A3, through driver, supply 5 V 1 A\n" POWER "a turn 1 turn", VET_FITS,
     NULL, NULL},
    {"uno", "strip a on pin 6, 60 pixels, supply 5 V 5 A\n" POWER "a fill red", VET_FITS, NULL, NULL},
    {"uno", "servo a on pin 10, supply 5 V 1.5 A\n" POWER "a go to 9 degrees", VET_FITS, NULL, NULL},
    {"uno", "sender a on pin 3, through driver\n" POWER "a send hand.out", VET_FITS, NULL, NULL},
    {"uno", "switch a on pin 12\nrelay b on pin 4, on a relay board\nwhen a closes: b on", VET_FITS, NULL,
     NULL},
    {"nano", "relay a on pin 4, on a relay board\n" POWER "a on", VET_FITS, NULL, NULL},
    /* loads that their pin can't carry */
    {"uno", "relay a on pin 4\n" POWER "a on", VET_FAILS, "a", "its load, from pin 4"},
    {"uno", "relay a on pin 4, supply 12 V 1 A\n" POWER "a on", VET_FAILS, "a", "its load, from pin 4"},
    {"uno", "motor a on pin 5, supply 6 V 2 A\n" POWER "a run for 1 s", VET_FAILS, "a",
     "its load, from pin 5"},
    {"uno", "motor a on pins 4 and 7, speed on pin 5, supply 6 V 2 A\n" POWER "a run for 1 s", VET_FAILS, "a",
     "its load, from pin 4"},
    {"uno", "stepper a on pins A0 A1 A2 A3, supply 5 V 1 A\n" POWER "a turn 1 turn", VET_FAILS, "a",
     "its load, from pin A0"},
    {"uno", "sender a on pin 3\n" POWER "a send hand.out", VET_FAILS, "a", "its load, from pin 3"},
    {"uno", "lamp a on pin 5, LED 2 V 30 mA\n" POWER "a on", VET_FAILS, "a", "its load, from pin 5"},
    {"rpipico", "lamp a on pin GP5, LED 2 V 15 mA\n" POWER "a on", VET_FAILS, "a", "its load, from pin GP5"},
    {"rpipico",
     "lamp a on pin GP2, LED 2 V 12 mA\nlamp b on pin GP3, LED 2 V 12 mA\nlamp c on pin GP4, LED 2 V 12 mA\n"
     "lamp d on pin GP5, LED 2 V 12 mA\nlamp e on pin GP6, LED 2 V 12 mA\nlamp f on pin GP7, LED 2 V 12 mA\n"
     "lamp g on pin GP9, LED 2 V 12 mA\n" POWER "a on; b on; c on; d on; e on; f on; g on",
     VET_FAILS, "pins", "all together, everything on"},
    /* volts */
    {"uno", "strip a on pin 6, 10 pixels, supply 24 V 3 A\n" POWER "a fill red", VET_FAILS, "a",
     "a strip is made for 4.5 to 5.5 V, and gets"},
    {"uno", "strip a on pin 6, 10 pixels, supply 3 V 3 A\n" POWER "a fill red", VET_FAILS, "a",
     "a strip is made for 4.5 to 5.5 V, and gets"},
    {"uno", "servo a on pin 10, supply 12 V 2 A\n" POWER "a go to 9 degrees", VET_FAILS, "a",
     "a servo is made for 4.5 to 6 V, and gets"},
    {"uno", "sender a on pin 3, through driver, supply 24 V 1 A\n" POWER "a send hand.out", VET_FAILS, "a",
     "a sender is made for 3 to 12 V, and gets"},
    {"uno", "lamp a on pin 5, supply 3 V 1 A, LED 3.2 V 10 mA\n" POWER "a on", VET_FAILS, "a",
     "its LED needs"},
    /* supplies */
    {"uno", "strip a on pin 6, 60 pixels, supply 5 V 2 A\n" POWER "a fill red", VET_FAILS, "a",
     "from its supply"},
    {"uno", "strip a on pin 6, 60 pixels, supply 5 V 4 A\n" POWER "a fill red", VET_TIGHT, "a",
     "from its supply"},
    {"uno", "motor a on pin 5, through driver, supply 6 V 0.4 A\n" POWER "a run for 1 s", VET_FAILS, "a",
     "from its supply"},
    {"uno", "motor a on pin 5, through driver, supply 6 V 1 A\n" POWER "a run for 1 s", VET_TIGHT, "a",
     "from its supply"},
    {"uno", "strip a on pin 6, 30 pixels\n" POWER "a fill red", VET_FAILS, "supply", "everything on at once"},
    {"uno", "motor a on pin 5, through driver\n" POWER "a run for 1 s", VET_FAILS, "supply",
     "everything on at once"},
    {"uno", "servo a on pin 10\n" POWER "a go to 9 degrees", VET_FAILS, "supply", "everything on at once"},
    {"uno", "strip a on pin 6, 7 pixels\n" POWER "a fill red", VET_TIGHT, "supply", "everything on at once"},
    /* pins and timers */
    {"uno", "lamp a on pin 9\n" POWER "a on", VET_FAILS, "a",
     "has its PWM on pin 9 from the timer that is the clock"},
    {"uno", "lamp a on pin 12\n" POWER "a on", VET_FAILS, "a", "has no PWM on pin 12"},
    {"uno", "lamp a on pin 11\nsender b on pin 3, through driver\n" POWER "a on; b send hand.out", VET_FAILS,
     "a", "has its PWM on pin 11 from the timer that is the carrier"},
    {"uno", "motor a on pins 5 and 12, through driver, supply 6 V 2 A\n" POWER "a run for 1 s", VET_FAILS,
     "a", "has no PWM on pin 12"},
    {"uno",
     "motor a on pins 4 and 12, speed on pin 9, through driver, supply 6 V 2 A\n" POWER "a run for 1 s",
     VET_FAILS, "a", "has its PWM on pin 9 from the timer that is the clock"},
    {"uno", "sender a on pin 5, through driver\n" POWER "a send hand.out", VET_FAILS, "a",
     "has no carrier on its pin"},
    {"uno", "switch a on pin 13\nrelay b on pin 4, on a relay board\nwhen a closes: b on", VET_FAILS, "a",
     "is on pin 13, which the board's LED pulls down"},
    {"uno", "buttons side: a on pin 13\nrelay b on pin 4, on a relay board\nwhen side.a pressed: b on",
     VET_FAILS, "side.a", "is on pin 13, which the board's LED pulls down"},
    {"uno", "relay a on pin 13, on a relay board\n" POWER "a on", VET_TIGHT, "a", "is on pin 13"},
    {"uno", "relay a on pin 0, on a relay board\n" POWER "a on", VET_TIGHT, "a", "is on pin 0"},
    {"uno", "serial at 115200\nrelay a on pin 1, on a relay board\n" POWER "a on", VET_FAILS, "a",
     "is on pin 1"},
    {"uno at 12 MHz", "relay a on pin 4, on a relay board\n" POWER "a on", VET_FAILS, "clock",
     "the library has no port for a clock of 12 MHz"},
    {"mega", "servo a on pin 9, supply 5 V 1 A\n" POWER "a go to 9 degrees", VET_FAILS, "a",
     "can't change pin 9 at exact times"},
    {"leonardo", "servo a on pin 13, supply 5 V 1 A\n" POWER "a go to 9 degrees", VET_FAILS, "a",
     "can't change pin 13 at exact times"},
    {"leonardo", "lamp a on pin 6\n" POWER "a on", VET_FAILS, "a", "has no PWM on pin 6"},
    {"uno", "keyboard a\n" POWER "a tap b", VET_FAILS, "a", "the chip has no USB of its own"},
    /* boards without a port: each is to be checked, whatever else there is */
    {"esp32", "relay a on pin 34, on a relay board\n" POWER "a on", VET_FAILS, "a",
     "is on pin 34, which is an input only"},
    {"rpipico", "relay a on pin GP4, on a relay board\n" POWER "a on", VET_TIGHT, "board",
     "the library ships no port for it"},
    /* time */
    {"uno", "own code masks 900 us\nrelay a on pin 4, on a relay board\n" POWER "a on", VET_FAILS, "nec",
     "no two edges while interrupts are off"},
    {"uno", "own code blocks 40 ms\nrelay a on pin 4, on a relay board\n" POWER "a on", VET_FAILS, "nec",
     "edges wait while your own code blocks"},
    {"uno",
     "sender a on pin 3, through driver\n" POWER
     "a send hand.out; a send hand.up; a send hand.out; a send hand.up; a send hand.out",
     VET_FAILS, "a", "keys that a rule sends at once can wait"},
    {"uno",
     "strip a on pin 6, 300 pixels, at most 1 A, supply 5 V 2 A\nrelay b on pin 4, on a relay board\n" POWER
     "a fill red; b on",
     VET_TIGHT, "a", "what is ordered meanwhile waits for a refresh, up to"},
    {"uno", "sender a on pin 3, through driver\ntranslate hand to hand on a: up as out", VET_TIGHT, "a",
     "a press covers repeats of hand.up"},
    /* rules */
    {"uno", "relay a on pin 4, on at least 200 ms, on a relay board\n" POWER "a pulse 50 ms", VET_TIGHT, "a",
     "the pulse of line 6"},
    {"uno",
     "stepper a on pins A0 A1 A2 A3, through driver, supply 5 V 1 A\n" POWER "a run; wait for a; a stop",
     VET_TIGHT, "a", "line 6 waits for what never ends by itself"},
    {"uno", "motor a on pin 5, through driver, supply 6 V 2 A\n" POWER "a run; wait for a; a stop", VET_TIGHT,
     "a", "line 6 waits for what never ends by itself"},
    {"uno", "lamp a on pin 5\n" POWER "a blink 200 ms; wait for a; a off", VET_TIGHT, "a",
     "line 6 waits for what never ends by itself"},
    /* memory */
    {"uno", "strip a on pin 6, 500 pixels, at most 1 A, supply 5 V 2 A\n" POWER "a fill red", VET_FAILS,
     "program", "RAM, with its stack"},
};

/* Returns the findings of a verdict with other texts; several may have the same. */
static unsigned count(const vet_result *result, vet_verdict verdict, const known *expected)
{
    const GPtrArray *const lists[] = {result->times, result->pins, result->currents};
    unsigned others = 0;
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            const bool is_it = expected->about != NULL && g_str_has_prefix(finding->what, expected->what);
            others += finding->verdict == verdict && !is_it;
        }
    }
    return others;
}

static bool has(const vet_result *result, const known *expected)
{
    const GPtrArray *const lists[] = {result->times, result->pins, result->currents};
    bool is_there = false;
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            is_there |= finding->verdict == expected->verdict &&
                        strcmp(finding->about, expected->about) == 0 &&
                        g_str_has_prefix(finding->what, expected->what) && finding->way_out != NULL;
        }
    }
    return is_there;
}

TEST(each_plan_has_the_verdict_that_is_known)
{
    for (size_t i = 0; i < G_N_ELEMENTS(plans); i++) {
        const char first = plans[i].board[0];
        const char *const pin = first == 'e' ? "35" : first == 'r' ? "GP8" : first == 'm' ? "10" : "8";
        g_autofree char *text = g_strdup_printf("plan \"Known\"\nboard %s\nreceiver on pin %s\n"
                                                "handset hand from \"wand.csv\"\n%s\n",
                                                plans[i].board, pin, plans[i].lines);
        char *reported = NULL;
        plan *const loaded = load_plan(text, sheets, &reported);
        ck_assert_msg(loaded != NULL, "%s%s", text, reported);
        vet_result *const result = vet_plan(loaded);
        ck_assert_msg(vet_worst(result) == plans[i].verdict, "%s: %d instead of %d", text, vet_worst(result),
                      plans[i].verdict);
        if (plans[i].about != NULL) {
            ck_assert_msg(has(result, &plans[i]), "%s: '%s %s' isn't said", text, plans[i].about,
                          plans[i].what);
            ck_assert_msg(count(result, plans[i].verdict, &plans[i]) == 0, "%s: something else is said, too",
                          text);
        }
        vet_free(result);
        plan_free(loaded);
        free(reported);
    }
    ck_assert_uint_ge(G_N_ELEMENTS(plans), 50);
}

SUITE("verdicts")
