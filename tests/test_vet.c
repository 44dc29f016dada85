/* What vet says, and whether it is true: its verdicts on time are held against the simulated processor. */
#include "support.h"

#include "plan.h"
#include "sim.h"
#include "vet.h"

enum { PLANS = 500, PRESSES = 3, MOST_KEYS = 2 };

static const struct {
    const char *id;
    const char *numbers;
} codes[] = {
    {"nec", "0x21,0x45"},      {"samsung32", "0x1c,0x2a"}, {"jvc", "0x61,0x17"}, {"kaseikyo", "0x40,0x35"},
    {"sirc12", "0x0b,0x25"},   {"rc5", "0x11,0x23"},       {"rc6", "0x20,0x31"}, {"rca", "0x0c,0x6e"},
    {"rcmm24", "0x1234,0x17"}, {"thomson", "0x05,0x21"},
};

static uint32_t draw(GRand *from, uint32_t most)
{
    return (uint32_t)g_rand_int_range(from, 0, (gint32)most + 1);
}

/* A plan with one or two keys of random protocols, and a random lot of things that keep the chip busy. */
static plan *random_plan(GRand *from, uint32_t *masks_us, bool *is_latched)
{
    static const uint32_t masks[] = {0, 0, 20, 60, 100, 150, 250, 400, 700, 1500};
    g_autoptr(GString) sheet_text = g_string_new("key,protocol,address,command\n");
    g_autoptr(GString) text =
        g_string_new("plan \"Random\"\nboard mega328 at 16 MHz\nhandset hand from \"hand.csv\"\n");
    *masks_us = masks[draw(from, G_N_ELEMENTS(masks) - 1)];
    *is_latched = draw(from, 3) > 0;
    g_string_append_printf(text, "receiver on pin %d\nrelay bell on pin 7\n", *is_latched ? 8 : 2);
    if (*masks_us > 0) {
        g_string_append_printf(text, "own code masks %u us\n", *masks_us);
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
    for (uint32_t i = 0; i <= draw(from, MOST_KEYS - 1); i++) {
        const uint32_t code = (first + 3 * i) % G_N_ELEMENTS(codes);
        g_string_append_printf(sheet_text, "k%u,%s,%s\n", i, codes[code].id, codes[code].numbers);
        g_string_append_printf(text, "when hand.k%u pressed: bell toggle\n", i);
    }
    g_free(write_file("hand.csv", sheet_text->str));
    g_autofree char *path = write_file("random.plan", text->str);
    report *const told = report_new();
    plan *const made = plan_load(path, told);
    ck_assert_msg(made != NULL && report_errors(told) == 0, "the plan is refused:\n%s", text->str);
    report_free(told);
    return made;
}

static void count_press(void *context, const drom_key_event *event)
{
    *(unsigned *)context += event->gesture == DROM_PRESS;
}

/* Lets the plan run with one press of a key, and says whether it was heard. `mask_at`: where an adversary
 * masks interrupts; 0: at random, about every 4 ms. */
static bool is_heard(const plan *of, uint8_t key, GRand *from, uint32_t masks_us, bool is_latched,
                     uint64_t mask_at, uint64_t press_at, double shrink_us)
{
    const drom_code code = plan_tables(of)->keys.handsets.rows[0].codes.rows[key];
    sim_bench *const bench = sim_bench_new(g_rand_int(from));
    drom_engine engine;
    unsigned presses = 0;
    const drom_watch watch = {.context = &presses, .key = count_press};
    sim_bench_set_processor(bench, &(sim_processor){
                                       .stamp = is_latched ? DROM_STAMP_HARDWARE : DROM_STAMP_INTERRUPT,
                                       .pixels = SIM_PIXELS_SLICED,
                                       .latency_us = 1,
                                       .capture_us = 5,
                                       .alarm_us = 6.1,
                                       .poll_us = 130,
                                   });
    ck_assert_int_eq(drom_engine_init(&engine, plan_tables(of), sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    drom_engine_watch(&engine, &watch);
    if (mask_at > 0) {
        sim_bench_mask(bench, mask_at, masks_us);
    } else {
        for (uint64_t at = 3000; masks_us > 0 && at < press_at + 120000;
             at += 3000 + masks_us + draw(from, 2000)) {
            sim_bench_mask(bench, at, masks_us);
        }
    }
    ck_assert(sim_bench_press(bench, &(sim_press){
                                         .waveform = plan_waveform(of, code.protocol),
                                         .code = code,
                                         .frames = 1,
                                         .at_us = press_at,
                                         .room = {.jitter_us = mask_at > 0 ? 0 : 10, .stretch_us = shrink_us},
                                     }));
    bool goes_on = true;
    while (goes_on && sim_bench_now(bench) < press_at + 130000) {
        const drom_us wait = drom_engine_poll(&engine);
        goes_on = sim_bench_sleep(bench, wait < 1000 ? wait : 1000);
    }
    sim_bench_free(bench);
    return presses == 1;
}

/* Where in a frame that begins at 0 a run is that a mask of this length swallows whole; 0 when none is. */
static uint64_t swallowed_run(const plan *of, uint8_t key, uint32_t masks_us)
{
    const drom_code code = plan_tables(of)->keys.handsets.rows[0].codes.rows[key];
    drom_encoder encoder;
    uint64_t at_us = 0;
    (void)drom_encode_begin(&encoder, plan_waveform(of, code.protocol), &code, DROM_SEND_FIRST, false);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        if (at_us > 0 && us + 2u < masks_us) {
            return at_us;
        }
        at_us += us;
    }
    return 0;
}

/* The worst verdict on a protocol's time. */
static vet_verdict verdict_on(const vet_result *result, const char *id)
{
    vet_verdict worst = VET_FITS;
    for (guint i = 0; i < result->times->len; i++) {
        const vet_finding *const finding = g_ptr_array_index(result->times, i);
        worst = strcmp(finding->about, id) == 0 ? MAX(worst, finding->verdict) : worst;
    }
    return worst;
}

START_TEST(verdicts_on_time_are_what_the_simulated_processor_shows)
{
    g_autoptr(GRand) from = g_rand_new_with_seed(44);
    unsigned passed = 0;
    unsigned refused = 0;
    for (unsigned i = 0; i < PLANS; i++) {
        uint32_t masks_us = 0;
        bool is_latched = false;
        plan *const of = random_plan(from, &masks_us, &is_latched);
        vet_result *const result = vet_plan(of);
        const drom_handset *const hand = &plan_tables(of)->keys.handsets.rows[0];
        for (uint8_t key = 0; key < hand->codes.count; key++) {
            const char *const id = hand->codes.rows[key].protocol->id;
            const vet_verdict verdict = verdict_on(result, id);
            for (unsigned j = 0; verdict == VET_FITS && j < PRESSES; j++) {
                passed++;
                ck_assert_msg(is_heard(of, key, from, masks_us, is_latched, 0, 40000 + draw(from, 20000), 0),
                              "plan %u: %s fits with %u us masked, and a press was lost", i, id, masks_us);
            }
            if (verdict == VET_FAILS) {
                const uint64_t into_us = swallowed_run(of, key, masks_us);
                refused++;
                ck_assert_uint_gt(into_us, 0);
                ck_assert_msg(!is_heard(of, key, from, masks_us, is_latched, 40000 + into_us - 1, 40000, 0),
                              "plan %u: %s fails with %u us masked, and yet the press was heard", i, id,
                              masks_us);
            }
        }
        vet_free(result);
        plan_free(of);
    }
    ck_assert_uint_ge(passed, 500);
    ck_assert_uint_ge(refused, 50);
}
END_TEST

START_TEST(theatre_passes_and_its_loads_get_their_way_out)
{
    said told = run_shell("$DROMIKOS vet $EXAMPLES/lantern/lantern.plan");
    ck_assert_int_eq(told.code, 0);
    ck_assert_contains(
        told.out,
        "  fits   nec          no two edges within the longest masked time          43.1 of 277 µs\n");
    ck_assert_contains(told.out, "3600 of 500 mA\n");
    ck_assert_contains(told.out, "give the strip a 5 V supply of its own");
    ck_assert_contains(told.out, "This plan works; see what is tight.\n");
    said_free(&told);
}
END_TEST

/* Each with what vet must say of it. */
START_TEST(conflicts_of_pins_timers_and_time_are_refused)
{
    static const struct {
        const char *line;
        const char *told;
    } bad[] = {
        {"lamp house on pin 9\nat start: house on", "has its PWM from the timer that is the clock"},
        {"lamp house on pin 12\nat start: house on", "has no PWM on its pin"},
        {"lamp house on pin 11\nsender horn on pin 3\nat start: house on; horn send hand.power",
         "has its PWM from the carrier's timer"},
        {"sender horn on pin 5\nat start: horn send hand.power", "has no carrier on its pin"},
        {"own code masks 900 us", "no two edges within the longest masked time"},
        {"own code blocks 40 ms", "edges wait while your own code blocks"},
        {"strip lights on pin 6, 250 pixels\nstepper disc on pins A0 A1 A2 A3\nat start: lights chase; disc "
         "run",
         "steps and bursts are made ahead for a whole refresh"},
    };
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    for (size_t i = 0; i < G_N_ELEMENTS(bad); i++) {
        g_autofree char *text =
            g_strdup_printf("plan \"Bad\"\nboard mega328\nreceiver on pin 8\nhandset hand from \"hand.csv\"\n"
                            "relay bell on pin 7\nwhen hand.power pressed: bell toggle\n%s\n",
                            bad[i].line);
        g_autofree char *path = write_file("bad.plan", text);
        said told = run_shell("$DROMIKOS vet %s", path);
        ck_assert_msg(told.code == 1, "not refused: %s\n%s%s", bad[i].line, told.out, told.err);
        ck_assert_contains(told.out, bad[i].told);
        ck_assert_contains(told.out, "-> ");
        said_free(&told);
    }
}
END_TEST

START_TEST(every_board_has_its_facts_and_findings_are_json_too)
{
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    for (const char *const *id = board_ids(); *id != NULL; id++) {
        const board *const on = board_by_id(*id);
        ck_assert_ptr_nonnull(on->source);
        g_autofree char *text =
            g_strdup_printf("plan \"Small\"\nboard %s\nreceiver on pin %s\nhandset hand from \"hand.csv\"\n"
                            "relay bell on pin %s\nwhen hand.power pressed: bell toggle\n",
                            *id, on->pins[1].name, on->pins[5].name);
        g_autofree char *path = write_file("small.plan", text);
        said told = run_shell("$DROMIKOS vet --format jsonl %s", path);
        ck_assert_int_eq(told.code, 0);
        json_t *const findings = json_lines(told.out, "finding");
        ck_assert_uint_ge(json_array_size(findings), 4);
        json_decref(findings);
        said_free(&told);
    }
}
END_TEST

RUN_TESTS("vet", verdicts_on_time_are_what_the_simulated_processor_shows,
          theatre_passes_and_its_loads_get_their_way_out, conflicts_of_pins_timers_and_time_are_refused,
          every_board_has_its_facts_and_findings_are_json_too)
