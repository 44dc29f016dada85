/* infer: unknown handsets, which the test makes up, and each known one as if it were unknown. */
#include "support.h"

#include "plan/handset/infer.h"
#include "trial.h"

/* Presses of these keys, one a second, each for a quarter of a second. */
static rhythm press_keys(const drom_waveform *waveform, const drom_code *keys, const unsigned *order,
                         size_t count, const sim_room *room)
{
    rhythm heard = {g_array_new(FALSE, FALSE, sizeof(double))};
    sim_bench *const bench = sim_bench_new(5);
    for (size_t i = 0; i < count; i++) {
        const sim_press press = {
            .waveform = waveform,
            .code = keys[order[i]],
            .at_us = 100000 + i * UINT64_C(1000000),
            .held_us = 250000,
            .room = *room,
        };
        ck_assert(sim_bench_press(bench, &press));
    }
    size_t edges = 0;
    const sim_edge *const line = sim_bench_edges(bench, &edges);
    for (size_t i = 0; i + 1 < edges; i++) {
        const double us = (double)(line[i + 1].at_us - line[i].at_us);
        g_array_append_val(heard.us, us);
    }
    sim_bench_free(bench);
    return heard;
}

enum { KEYS = 4 };

static const unsigned order[] = {0, 0, 1, 2, 2, 2, 3, 1};

/* Equal keys have equal codes, and other keys other codes. */
static void assert_keys_are_distinct(const inference *found, const char *id)
{
    ck_assert_msg(found->presses->len == G_N_ELEMENTS(order), "%s: %u presses", id, found->presses->len);
    for (size_t i = 0; i < G_N_ELEMENTS(order); i++) {
        for (size_t j = 0; j < i; j++) {
            const bool is_same = drom_code_equal(&g_array_index(found->presses, drom_code, i),
                                                 &g_array_index(found->presses, drom_code, j));
            ck_assert_msg(is_same == (order[i] == order[j]), "%s: presses %zu and %zu", id, i, j);
        }
    }
}

TEST(each_known_protocol_is_found_as_if_unknown)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform_ref waveform = drom_waveforms[i];
        const char *const id = waveform->protocol->id;
        const sim_limit limit = sim_limit_of(id);
        const sim_room room = {
            .clock_error = 0.03, .stretch_us = limit.stretch_us * 0.4, .jitter_us = limit.jitter_us * 0.4};
        drom_code keys[KEYS];
        for (unsigned key = 0; key < KEYS; key++) {
            keys[key] = sim_random_code(waveform, 7);
            keys[key].command = (uint16_t)(9 + 11 * key); /* 9, 20, 31, 42 */
        }
        rhythm heard = press_keys(waveform, keys, order, G_N_ELEMENTS(order), &room);
        inference *const found = infer_protocol(&heard, "found");
        ck_assert_msg(found->is_found, "%s: %s", id, found->why_not);
        ck_assert_msg(found->read == found->frames, "%s: %u of %u", id, found->read, found->frames);
        if (waveform->boundary_gap_us == 0) { /* nrc17's presses begin with a frame that all keys share */
            assert_keys_are_distinct(found, id);
        }
        ck_assert_int_eq(found->own.figures.toggle_bit != 0, waveform->protocol->has_toggle);
        ck_assert_int_eq(found->own.figures.ditto_space_us != 0, waveform->protocol->has_ditto);
        inference_free(found);
        g_array_unref(heard.us);
    }
}

/* Protocols of no handset. */
static const declared_figures inventions[] = {
    {.bits = 20,
     .leader_mark_us = 3000,
     .leader_space_us = 1000,
     .zero_mark_us = 500,
     .zero_space_us = 500,
     .one_mark_us = 500,
     .one_space_us = 1500,
     .period_ms = 90},
    {.bits = 36,
     .leader_mark_us = 6000,
     .leader_space_us = 3000,
     .zero_mark_us = 700,
     .zero_space_us = 600,
     .one_mark_us = 700,
     .one_space_us = 1500,
     .ditto_space_us = 1800,
     .period_ms = 120},
    {.bits = 24,
     .leader_mark_us = 3200,
     .leader_space_us = 900,
     .zero_mark_us = 450,
     .zero_space_us = 700,
     .one_mark_us = 1300,
     .one_space_us = 700,
     .has_no_stop = true,
     .gap_ms = 30,
     .toggle_bit = 2},
    {.bits = 18,
     .zero_mark_us = 600,
     .zero_space_us = 1200,
     .one_mark_us = 600,
     .one_space_us = 2600,
     .gap_ms = 40},
    {.bits = 16,
     .leader_mark_us = 1500,
     .leader_space_us = 500,
     .phase_us = 500,
     .period_ms = 90,
     .toggle_bit = 3},
    {.bits = 22, .phase_us = 700, .is_one_space_first = true, .period_ms = 100},
    {.bits = 16,
     .leader_mark_us = 1000,
     .leader_space_us = 600,
     .quad_mark_us = 300,
     .quad_space_us = 500,
     .quad_step_us = 300,
     .period_ms = 60},
};

static bool is_close(uint32_t found, uint32_t meant)
{
    return found >= meant * 0.93 - 40 && found <= meant * 1.07 + 40;
}

TEST(handsets_of_our_own_invention_are_found)
{
    const sim_room room = {.clock_error = -0.02, .stretch_us = 30, .jitter_us = 20};
    for (size_t i = 0; i < G_N_ELEMENTS(inventions); i++) {
        const declared_figures *const meant = &inventions[i];
        declared_protocol own = {.figures = *meant};
        ck_assert_ptr_null(declared_fill(&own, "odd"));
        const uint32_t first_one = meant->bits > 16 && meant->phase_us != 0 ? 1u << (meant->bits - 17) : 0;
        drom_code keys[KEYS];
        for (unsigned key = 0; key < KEYS; key++) {
            keys[key] = (drom_code){own.protocol.number, first_one | (meant->bits > 16 ? 1 : 0),
                                    (uint16_t)(0x8000u | (0x1b0u + 77u * key))};
        }
        rhythm heard = press_keys(&own.waveform, keys, order, G_N_ELEMENTS(order), &room);
        inference *const found = infer_protocol(&heard, "found");
        const declared_figures *const figures = &found->own.figures;
        ck_assert_msg(found->is_found, "%zu: %s", i, found->why_not);
        ck_assert_uint_eq(figures->bits, meant->bits);
        ck_assert_uint_eq(figures->toggle_bit, meant->toggle_bit);
        ck_assert_int_eq(figures->has_no_stop, meant->has_no_stop);
        ck_assert(is_close(figures->leader_mark_us, meant->leader_mark_us));
        ck_assert(is_close(figures->phase_us, meant->phase_us));
        ck_assert(is_close(figures->zero_mark_us + figures->zero_space_us,
                           meant->zero_mark_us + meant->zero_space_us));
        ck_assert(
            is_close(figures->one_mark_us + figures->one_space_us, meant->one_mark_us + meant->one_space_us));
        ck_assert(is_close(figures->ditto_space_us, meant->ditto_space_us));
        ck_assert(is_close(figures->quad_step_us, meant->quad_step_us));
        ck_assert_int_eq(figures->gap_ms != 0, meant->gap_ms != 0);
        ck_assert_uint_eq(found->read, found->frames);
        assert_keys_are_distinct(found, "odd");
        inference_free(found);
        g_array_unref(heard.us);
    }
}

#define PLAN_HEAD "plan \"Odd\"\nboard mega328\nreceiver on pin 8\nrelay spot on pin 4\n"

/* A maker's steps: presses of an unknown handset, infer, enrol, rehearse. */
TEST(what_was_inferred_works_in_a_plan)
{
    g_free(write_file("made.plan",
                      PLAN_HEAD "protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, "
                                "one 500 1500, toggle bit 3, period 90 ms\n"
                                "handset desk from \"desk.csv\"\nwhen desk.a pressed: spot on\n"));
    g_free(write_file(
        "desk.csv", "key,protocol,address,command\na,torch,3,0x1230\nb,torch,3,0x1a30\nc,torch,3,0x9990\n"));
    g_free(write_file("desk.script",
                      "at_ms,handset,key,held_ms\n100,desk,a,200\n1000,desk,a,200\n2000,desk,b,200\n"
                      "3000,desk,b,200\n4000,desk,c,200\n5000,desk,c,200\n"));
    g_free(write_file("desk.vcd", ""));
    g_autofree char *plan =
        write_file("found.plan", PLAN_HEAD "handset desk from \"found.csv\"\nwhen desk.b pressed: spot on\n");
    g_free(write_file("empty.plan", PLAN_HEAD));
    g_autofree char *folder = g_path_get_dirname(plan);
    g_auto(said) heard = run_shell(
        "set -e; cd %s; $DROMIKOS rehearse --jitter 20 --record desk.vcd made.plan desk.script >/dev/null; "
        "$DROMIKOS infer --name theirs desk.vcd | tee infer.txt >>found.plan; cat infer.txt >>empty.plan; "
        "$DROMIKOS enrol --plan empty.plan --sheet found.csv desk.vcd a b c; cat infer.txt found.csv; "
        "$DROMIKOS listen --plan found.plan desk.vcd; $DROMIKOS rehearse --format jsonl found.plan desk.vcd",
        folder);
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    ck_assert_contains(heard.out, "# fairly sure: it reads");
    ck_assert_contains(heard.out, "protocol theirs: 20 bits, msb first, leader 30");
    ck_assert_contains(heard.out, "toggle bit 3");
    ck_assert_contains(heard.out, "b,theirs,0x");
    ck_assert_contains(heard.out, "desk.c pressed"); /* listen knows the plan's protocol and its names */
    ck_assert_contains(heard.out, "\"output\":\"spot\",\"state\":\"on\"");
}

TEST(a_known_protocol_is_called_by_its_name)
{
    g_auto(said) known = run_shell("$DROMIKOS infer $EXAMPLES/lantern/presses.vcd");
    ck_assert_int_eq(known.code, 0);
    ck_assert_contains(known.out, "# this is nec, which is known: it needs no line in a plan");
}

TEST(what_can_not_be_found_is_reported)
{
    static const refusal lines[] = {
        {"$DROMIKOS infer - </dev/null", 3, "the file is empty"},
        {"$DROMIKOS infer /no/such", 3, "can't be read"},
        {"$DROMIKOS infer --name 1x -", 2, "it must begin with a letter"},
        {"echo '# a' | $DROMIKOS infer -", 3, "there is nothing in it but comments"},
        {"$DROMIKOS infer --name when -", 2, "--name is 'when': that is a word of the plan language"},
        {"$DROMIKOS infer --name nec -", 2, "that is a protocol that is known already"},
        {"$DROMIKOS infer --name unknown -", 2, "that is a protocol that is known already"},
        {"$DROMIKOS infer --name 'x y' -", 2, "it must be made of letters, digits and '_'"},
        {"$DROMIKOS infer --name twelveletter -", 2, "it may have 11 letters"},
        {"printf '^9000_4500^560_100000' | $DROMIKOS infer -", 1, "there is no burst of five marks or more"},
        {"awk 'BEGIN { srand(2); for (i = 0; i < 500; i++) printf(\"^%d_%d\\n\", 100 + rand() * 3000, 100 + "
         "rand() * 9000) }' | "
         "$DROMIKOS infer -",
         1, "nothing found"},
    };
    ASSERT_REFUSED("", lines);
}

SUITE("infer")
