/* vet's findings, and whether they are true: its verdicts on time are compared with the simulated processor.
 */
#include "support.h"

#include "listener.h"
#include "plan/model/plan.h"
#include "sim.h"
#include "plan/vet/vet.h"

enum { PLANS = 600, PRESSES = 3 };

static const struct {
    const char *id;
    const char *numbers;
} codes[] = {
    {"nec", "0x21,0x45"},      {"samsung32", "0x1c,0x2a"},  {"jvc", "0x61,0x17"},
    {"kaseikyo", "0x40,0x35"}, {"sirc12", "0x0b,0x25"},     {"rc5", "0x11,0x23"},
    {"rc6", "0x20,0x31"},      {"rca", "0x0c,0x6e"},        {"rcmm24", "0x1234,0x17"},
    {"thomson", "0x05,0x21"},  {"lg28", "0x5d,0x1c3"},      {"denon", "0x05,0x09"},
    {"sharp", "0x05,0x09"},    {"mitsubishi", "0x05,0x09"}, {"dish", "0x05,0x09"},
    {"recs80", "0x02,0x09"},   {"sirc20", "0x05,0x09"},     {"rc6a", "0x400005,0x09"},
    {"rcmm12", "0x05,0x09"},
};

/* Other work of a random plan's board. */
typedef struct burden {
    uint32_t masks_us;
    uint32_t blocks_ms;
    double slower; /* than at 16 MHz */
    bool is_latched;
} burden;

static uint32_t draw(GRand *from, uint32_t max)
{
    return (uint32_t)g_rand_int_range(from, 0, (gint32)max + 1);
}

/* A plan with keys of some protocols, and random outputs that keep the chip busy. */
static plan *random_plan(GRand *from, burden *with)
{
    static const uint32_t masks[] = {0, 0, 0, 20, 60, 100, 150, 250, 400, 700, 1500};
    static const uint32_t blocks[] = {0, 0, 0, 0, 5, 12, 25, 40, 60};
    static const uint32_t clocks[] = {16, 16, 16, 16, 8, 4, 2};
    g_autoptr(GString) sheet_text = g_string_new("key,protocol,address,command\n");
    g_autoptr(GString) text = g_string_new(NULL);
    const uint32_t mhz = clocks[draw(from, G_N_ELEMENTS(clocks) - 1)];
    with->masks_us = masks[draw(from, G_N_ELEMENTS(masks) - 1)];
    with->blocks_ms = blocks[draw(from, G_N_ELEMENTS(blocks) - 1)];
    with->slower = 16.0 / mhz;
    with->is_latched = draw(from, 3) > 0;
    g_string_append_printf(text, "plan \"Random\"\nboard mega328 at %u MHz\nhandset hand from \"hand.csv\"\n",
                           mhz);
    g_string_append_printf(text, "receiver on pin %d\nrelay bell on pin 7\n", with->is_latched ? 8 : 2);
    if (with->masks_us > 0) {
        g_string_append_printf(text, "own code masks %u us\n", with->masks_us);
    }
    if (with->blocks_ms > 0) {
        g_string_append_printf(text, "own code blocks %u ms\n", with->blocks_ms);
    }
    g_string_append(text, "at start: bell off\n");
    if (draw(from, 1) == 1) {
        g_string_append_printf(text,
                               "strip lights on pin 6, %u pixels, without pause\nat start: lights chase\n",
                               10 + draw(from, 90));
    }
    if (draw(from, 1) == 1) {
        g_string_append_printf(text,
                               "stepper disc on pins A0 A1 A2 A3, up to %u steps/s\nat start: disc run\n",
                               50 + draw(from, 300));
    }
    const uint32_t first = draw(from, G_N_ELEMENTS(codes) - 1);
    const uint32_t max = draw(from, 2) > 0 ? 3 : G_N_ELEMENTS(codes) - 1;
    const uint32_t keys = 1 + draw(from, max);
    for (uint32_t i = 0; i < keys; i++) {
        const uint32_t code = (first + 3 * i) % G_N_ELEMENTS(codes);
        g_string_append_printf(sheet_text, "k%u,%s,%s\n", i, codes[code].id, codes[code].numbers);
        g_string_append_printf(text, "when hand.k%u pressed: bell toggle\n", i);
    }
    g_free(write_file("hand.csv", sheet_text->str));
    g_autofree char *path = write_file("random.plan", text->str);
    report *const faults = report_new();
    plan *const made = plan_load(path, faults);
    ck_assert_msg(made != NULL && report_errors(faults) == 0, "the plan is refused:\n%s", text->str);
    report_free(faults);
    return made;
}

static void count_press(void *context, const drom_key_event *event)
{
    *(unsigned *)context += event->gesture == DROM_PRESS;
}

/* Runs the plan with one press of a key, and returns whether it was received. `mask_at`: when an adversary
 * masks interrupts; 0: at random, about every 4 ms. `block_at`: main doesn't poll from then on. */
static bool is_heard(const plan *loaded, uint8_t key, GRand *from, const burden *with, uint64_t mask_at,
                     uint64_t press_at, uint64_t block_at)
{
    const drom_code code = plan_tables(loaded)->keys.handsets.rows[0].codes.rows[key];
    sim_bench *const bench = sim_bench_new(g_rand_int(from));
    drom_engine engine;
    unsigned presses = 0;
    const drom_observer observer = {.context = &presses, .key = count_press};
    sim_bench_set_processor(bench, &(sim_processor){
                                       .stamp = with->is_latched ? DROM_STAMP_HARDWARE : DROM_STAMP_INTERRUPT,
                                       .pixels = SIM_PIXELS_SLICED,
                                       .latency_us = 1,
                                       .capture_us = 5 * with->slower,
                                       .alarm_us = 6.4 * with->slower,
                                       .poll_us = 175 * with->slower,
                                   });
    ck_assert_int_eq(drom_engine_init(&engine, plan_tables(loaded), sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    drom_engine_observe(&engine, &observer);
    if (mask_at > 0) {
        sim_bench_mask(bench, mask_at, with->masks_us);
    } else {
        for (uint64_t at = 3000; with->masks_us > 0 && at < press_at + 120000;
             at += 3000 + with->masks_us + draw(from, 2000)) {
            sim_bench_mask(bench, at, with->masks_us);
        }
    }
    ck_assert(sim_bench_press(bench, &(sim_press){
                                         .waveform = plan_waveform(loaded, code.protocol),
                                         .code = code,
                                         .frames = 1,
                                         .at_us = press_at,
                                         .room = {.jitter_us = mask_at > 0 ? 0 : 10},
                                     }));
    bool goes_on = true;
    bool is_blocked = with->blocks_ms == 0;
    while (goes_on && sim_bench_now(bench) < press_at + 250000) {
        if (!is_blocked && sim_bench_now(bench) >= block_at) {
            sim_bench_block(bench, with->blocks_ms * 1000.0);
            is_blocked = true;
        }
        const drom_us wait = drom_engine_poll(&engine);
        goes_on = sim_bench_sleep(bench, wait < 1000 ? wait : 1000);
    }
    sim_bench_free(bench);
    return presses == 1;
}

/* Returns the place in a frame from 0 on of a mark or space that a mask of this length hides; 0: none. */
static uint64_t swallowed_run(const plan *loaded, uint8_t key, uint32_t masks_us)
{
    const drom_code code = plan_tables(loaded)->keys.handsets.rows[0].codes.rows[key];
    drom_encoder encoder;
    uint64_t at_us = 0;
    (void)drom_encode_begin(&encoder, plan_waveform(loaded, code.protocol), &code, DROM_SEND_FIRST, false);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        if (at_us > 0 && us + 2u < masks_us) {
            return at_us;
        }
        at_us += us;
    }
    return 0;
}

/* Returns the worst finding about a protocol's time. */
static const vet_finding *worst_of(const vet_result *result, const char *id)
{
    const vet_finding *worst = NULL;
    for (guint i = 0; i < result->times->len; i++) {
        const vet_finding *const finding = g_ptr_array_index(result->times, i);
        if (strcmp(finding->about, id) == 0 && (worst == NULL || finding->verdict > worst->verdict)) {
            worst = finding;
        }
    }
    return worst;
}

enum { PRESS_AT = 40000 };

/* Returns a moment at which the key is lost: by a mask that hides a mark or space, or by a ring that
 * overflows. */
static bool can_be_lost(const plan *loaded, uint8_t key, GRand *from, const burden *with,
                        const vet_finding *why)
{
    if (strstr(why->what, "interrupts are off") != NULL) {
        const uint64_t into_us = swallowed_run(loaded, key, with->masks_us);
        burden alone = *with;
        alone.blocks_ms = 0;
        ck_assert_uint_gt(into_us, 0);
        return !is_heard(loaded, key, from, &alone, PRESS_AT + into_us - 1, PRESS_AT, 0);
    }
    burden alone = *with;
    alone.masks_us = 0;
    bool is_lost = false;
    for (unsigned i = 0; i < 80 && !is_lost; i++) {
        is_lost = !is_heard(loaded, key, from, &alone, 0, PRESS_AT, PRESS_AT + i * 1000u);
    }
    return is_lost;
}

TEST(verdicts_on_time_are_what_the_simulated_processor_shows)
{
    g_autoptr(GRand) from = g_rand_new_with_seed(44);
    unsigned passed = 0;
    unsigned masked = 0;
    unsigned overflown = 0;
    for (unsigned i = 0; i < PLANS; i++) {
        burden with;
        plan *const loaded = random_plan(from, &with);
        vet_result *const result = vet_plan(loaded);
        const drom_handset *const hand = &plan_tables(loaded)->keys.handsets.rows[0];
        for (uint8_t key = 0; key < hand->codes.count; key++) {
            const char *const id = plan_protocol(loaded, hand->codes.rows[key].protocol)->id;
            const vet_finding *const worst = worst_of(result, id);
            for (unsigned j = 0; worst->verdict == VET_FITS && j < PRESSES; j++) {
                passed++;
                ck_assert_msg(
                    is_heard(loaded, key, from, &with, 0, PRESS_AT + draw(from, 20000),
                             PRESS_AT + draw(from, 80000)),
                    "plan %u: %s fits with %u us masked, %u ms blocked, %g times slower, and a press "
                    "was lost",
                    i, id, with.masks_us, with.blocks_ms, with.slower);
            }
            if (worst->verdict == VET_FAILS) {
                masked += strstr(worst->what, "interrupts are off") != NULL;
                overflown += strstr(worst->what, "wait") != NULL;
                ck_assert_msg(
                    can_be_lost(loaded, key, from, &with, worst),
                    "plan %u: %s fails (%s) with %u us masked, %u ms blocked, %g times slower, and yet "
                    "the press was heard",
                    i, id, worst->what, with.masks_us, with.blocks_ms, with.slower);
            }
        }
        vet_free(result);
        plan_free(loaded);
    }
    ck_assert_uint_ge(passed, 1000);
    ck_assert_uint_ge(masked, 50);
    ck_assert_uint_ge(overflown, 50);
}

/* Frames of a receiver that also receives the sender's light. */
typedef struct audience {
    sim_listener ears;
    unsigned right;
    const drom_protocol *expected;
} audience;

static void see_light(void *context, uint64_t at_us, bool is_on)
{
    audience *const seen = context;
    sim_listener_edge(&seen->ears, (drom_us)at_us, is_on);
}

static void count_frame(void *context, const drom_frame *frame)
{
    audience *const seen = context;
    seen->right += frame->protocol == seen->expected;
}

/* Returns the number of frames of a held key that are decoded in a second and a half while interrupts are
 * masked at random. */
static unsigned understood(const plan *loaded, GRand *from, uint32_t masks_us)
{
    const drom_sender_settings *const horn = plan_output(loaded, 0)->settings;
    sim_bench *const bench = sim_bench_new(g_rand_int(from));
    audience seen = {.expected = horn->keys.rows[0].waveform->protocol};
    drom_engine engine;
    sim_bench_set_processor(
        bench,
        &(sim_processor){
            .pixels = SIM_PIXELS_SLICED, .latency_us = 1, .capture_us = 5, .alarm_us = 6.1, .poll_us = 175});
    sim_listener_open_with(&seen.ears, &seen.expected, 1, count_frame, &seen);
    sim_target_follow(sim_bench_wire_target(bench, 3), see_light, &seen);
    ck_assert_int_eq(drom_engine_init(&engine, plan_tables(loaded), sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    for (uint64_t at = 3000; masks_us > 0 && at < 1500000; at += 3000 + masks_us + draw(from, 2000)) {
        sim_bench_mask(bench, at, masks_us);
    }
    bool goes_on = true;
    while (goes_on && sim_bench_now(bench) < 1500000) {
        const drom_us wait = drom_engine_poll(&engine);
        goes_on = sim_bench_sleep(bench, wait < 1000 ? wait : 1000);
    }
    sim_listener_pass(&seen.ears, 1600000);
    sim_bench_free(bench);
    return seen.right;
}

TEST(burst_is_understood_where_vet_says_so)
{
    static const uint32_t masks[] = {0, 20, 60, 100, 150, 250, 400, 700, 1500};
    g_autoptr(GRand) from = g_rand_new_with_seed(4);
    unsigned fits = 0;
    unsigned fails = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(codes); i++) {
        g_autofree char *sheet_text =
            g_strdup_printf("key,protocol,address,command\npower,%s,%s\n", codes[i].id, codes[i].numbers);
        g_free(write_file("hand.csv", sheet_text));
        unsigned undisturbed = 0;
        for (size_t j = 0; j < G_N_ELEMENTS(masks); j++) {
            g_autofree char *text =
                g_strdup_printf("plan \"Horn\"\nboard mega328\nhandset hand from \"hand.csv\"\n"
                                "sender horn on pin 3, shielded\nown code masks %u us\n"
                                "at start: horn hold hand.power\n",
                                MAX(masks[j], 1));
            g_autofree char *path = write_file("horn.plan", text);
            report *const faults = report_new();
            plan *const loaded = plan_load(path, faults);
            ck_assert_msg(loaded != NULL && report_errors(faults) == 0, "the plan is refused:\n%s", text);
            report_free(faults);
            vet_result *const result = vet_plan(loaded);
            const vet_verdict verdict = worst_of(result, "horn")->verdict;
            const unsigned right = understood(loaded, from, masks[j]);
            undisturbed = j == 0 ? right : undisturbed;
            ck_assert_msg(undisturbed > 5, "%s: %u frames", codes[i].id, undisturbed);
            ck_assert_msg(verdict != VET_FITS || right == undisturbed, "%s fits with %u us masked: %u of %u",
                          codes[i].id, masks[j], right, undisturbed);
            ck_assert_msg(verdict != VET_FAILS || right < undisturbed, "%s fails with %u us masked: %u of %u",
                          codes[i].id, masks[j], right, undisturbed);
            fits += verdict == VET_FITS;
            fails += verdict == VET_FAILS;
            vet_free(result);
            plan_free(loaded);
        }
    }
    ck_assert_uint_ge(fits, 40);
    ck_assert_uint_ge(fails, 40);
}

TEST(theatre_passes)
{
    g_auto(said) answer = run_shell("$DROMIKOS vet $EXAMPLES/lantern/lantern.plan");
    ck_assert_int_eq(answer.code, 0);
    ck_assert_ptr_null(strstr(answer.out, "no two edges"));
    ck_assert_contains(answer.out, "; --all lists them)\n");
    ck_assert_contains(answer.out, "\nThis plan works.\n");
    said_free(&answer);
    answer = run_shell("$DROMIKOS vet --all $EXAMPLES/lantern/lantern.plan");
    ck_assert_contains(
        answer.out,
        "  fits   nec          no two edges while interrupts are off                43.4 of 277 µs\n");
    ck_assert_ptr_null(strstr(answer.out, "--all"));
}

/* A load whose driver and supply the plan states needs no check; vet still reports what is insufficient. */
TEST(loads_that_are_driven_and_fed_are_no_more_to_check)
{
    g_auto(said) answer = run_shell("$DROMIKOS vet $EXAMPLES/lantern/stage.plan");
    const char *const currents = strstr(answer.out, "Current\n");
    ck_assert_ptr_nonnull(currents);
    ck_assert_ptr_null(strstr(currents, "  check  "));
    said_free(&answer);
    g_free(write_file("wand.csv", "key,protocol,address,command\nplay,nec,33,1\n"));
    g_autofree char *fed = write_file(
        "fed.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                    "strip foot on pin 4, 60 pixels, supply 5 V 2 A\n"
                    "relay bell on pin 7, supply 5 V 1 A\nrelay fog on pin 6, on a relay board\n"
                    "when wand.play pressed: foot fill red; bell on; fog on\n");
    answer = run_shell("$DROMIKOS vet --all '%s'", fed);
    ck_assert_int_eq(answer.code, 1);
    ck_assert_contains(
        answer.out,
        "  fails  foot         from its supply                                      3600 of 2000 mA\n"
        "                      -> it takes 3600 mA; with a fifth in reserve: supply 5 V 4.4 A\n");
    ck_assert_contains(
        answer.out, "  fails  bell         its load, from pin 7                                 75 of 20 mA\n"
                    "                      -> put a transistor with a diode across its coil between, as the "
                    "wiring sheet draws it, and say so: through driver, or on a relay board\n");
    ck_assert_contains(
        answer.out,
        "  fits   fog          its driver carries the 75 mA; pin 6 gives            4 of 20 mA\n");
    ck_assert_contains(
        answer.out,
        "  fits   supply       everything on at once, from USB                      125 of 500 mA\n");
    ck_assert_contains(answer.out,
                       "\n2 things fail, and nothing else is to check: this plan would not work.\n");
}

/* A tap that may become two has to wait; a press doesn't. */
TEST(answers_say_how_long_each_gesture_takes)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nplay,nec,33,1\nstop,nec,33,2\n"));
    g_autofree char *taps = write_file(
        "taps.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                     "relay bell on pin 7\nwhen wand.play tapped: bell on\n"
                     "when wand.play tapped twice: bell off\nwhen wand.stop tapped: bell off\n"
                     "when wand.stop pressed: bell toggle\n");
    g_auto(said) answer = run_shell("$DROMIKOS vet '%s'", taps);
    ck_assert_contains(
        answer.out,
        "\nAnswers\n"
        "  tapped        541 ms after the finger is up, since it also has tapped twice: wand.play\n"
        "  tapped twice  191 ms after the finger is up: wand.play\n"
        "  pressed        67 ms after the finger is down: wand.stop\n"
        "  tapped        191 ms after the finger is up: wand.stop\n");
    said_free(&answer);
    answer = run_shell("$DROMIKOS vet --format jsonl '%s'", taps);
    g_autoptr(json_t) rows = json_lines(answer.out, "answer");
    ck_assert_uint_eq(json_array_size(rows), 4);
    ck_assert_str_eq(JSON_TEXT(rows, 0, "gesture"), "tapped");
    ck_assert(json_is_true(json_field(rows, 0, "waits")));
    ck_assert_int_ge(JSON_INT(rows, 0, "after_us"), 541000);
}

/* Each clock with vet's message; NULL: none. */
TEST(clock_is_the_ports_and_fast_enough_for_pixels)
{
    static const struct {
        const char *board;
        const char *reported;
    } clocks[] = {
        {"mega328", NULL},
        {"mega328 at 16 MHz", NULL},
        {"mega328 at 8 MHz", "its bits need a clock of                             8 of 16 MHz"},
        {"mega328 at 1 MHz", "its bits need a clock of                             1 of 16 MHz"},
        {"mega328 at 20 MHz", "the library has no port for a clock of 20 MHz"},
        {"rp2040 at 133 MHz", NULL},
        {"rp2040 at 48 MHz", NULL},
    };
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    for (size_t i = 0; i < G_N_ELEMENTS(clocks); i++) {
        const bool is_rp = g_str_has_prefix(clocks[i].board, "rp");
        g_autofree char *text =
            g_strdup_printf("plan \"Clock\"\nboard %s\nreceiver on pin %s\nhandset hand from \"hand.csv\"\n"
                            "strip lights on pin %s, 4 pixels\nwhen hand.power pressed: lights fill red\n",
                            clocks[i].board, is_rp ? "GP8" : "8", is_rp ? "GP6" : "6");
        g_autofree char *path = write_file("clock.plan", text);
        g_auto(said) reported = run_shell("$DROMIKOS vet %s", path);
        ck_assert_msg(reported.code == (clocks[i].reported != NULL), "%s: %d\n%s%s", clocks[i].board,
                      reported.code, reported.out, reported.err);
        ck_assert_contains(reported.out, clocks[i].reported != NULL ? clocks[i].reported : "Wiring");
    }
}

TEST(figures_are_read_by_people)
{
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    g_autofree char *path = write_file(
        "bright.plan", "plan \"Bright\"\nboard mega328\nreceiver on pin 8\nhandset hand from \"hand.csv\"\n"
                       "strip lights on pin 6, 200 pixels\nown code masks 400 us\n"
                       "when hand.power pressed: lights fill red\n");
    g_auto(said) answer = run_shell("$DROMIKOS vet %s", path);
    ck_assert_contains(answer.out, "everything on at once, from USB                      12050 of 500 mA\n");
    ck_assert_contains(answer.out,
                       "no two edges while interrupts are off                405 µs (safe up to 277)\n");
    said_free(&answer);
    g_autofree char *other = write_file(
        "other.plan", "plan \"Other\"\nboard rp2040\nreceiver on pin GP8\nhandset hand from \"hand.csv\"\n"
                      "relay bell on pin GP4\nwhen hand.power pressed: bell toggle\n");
    answer = run_shell("$DROMIKOS vet %s", other);
    ck_assert_contains(answer.out,
                       "That is on paper: the library ships no port for the RP2040, without which nothing");
    ck_assert_contains(answer.out, "check  board        the library ships no port for it");
}

TEST(sender_that_sends_nothing_has_no_figures)
{
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    g_autofree char *path = write_file(
        "mute.plan",
        "plan \"Mute\"\nboard mega328\nreceiver on pin 8\nhandset hand from \"hand.csv\"\nsender horn "
        "on pin 3\nrelay bell on pin 7\nwhen hand.power pressed: bell toggle\n");
    g_auto(said) answer =
        run_shell("$DROMIKOS vet --all %s; $DROMIKOS vet --format jsonl %s | wc -l", path, path);
    ck_assert_msg(strstr(answer.out, " inf ") == NULL && strstr(answer.out, " nan ") == NULL, "%s",
                  answer.out);
}

TEST(every_board_has_its_facts_and_findings_are_json_too)
{
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    for (const char *const *id = board_ids(); *id != NULL; id++) {
        const board *const chosen = board_by_id(*id, 0);
        ck_assert_ptr_nonnull(chosen->source);
        g_autofree char *text = g_strdup_printf(
            "plan \"Small\"\nboard %s\nreceiver on pin %s\nhandset hand from \"hand.csv\"\n"
            "relay bell on pin %s, through driver\nwhen hand.power pressed: bell toggle\n",
            *id, chosen->receiver != NULL ? chosen->receiver : chosen->pins[1].name, chosen->pins[5].name);
        g_autofree char *path = write_file("small.plan", text);
        g_auto(said) answer = run_shell("$DROMIKOS vet --format jsonl %s", path);
        ck_assert_int_eq(answer.code, 0);
        g_autoptr(json_t) findings = json_lines(answer.out, "finding");
        ck_assert_uint_ge(json_array_size(findings), 4);
    }
}

SUITE("vet")
