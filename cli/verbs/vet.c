/* vet: checks a plan against its board, before anything is soldered. */
#include "cli/io/io.h"

#include "cli/io/here.h"
#include "cli/verbs/verbs.h"

#include "plan/board/boards.h"
#include "plan/model/plan.h"
#include "plan/vet/key_delays.h"
#include "plan/vet/vet.h"
#include "plan/wiring/wiring.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

static const char *const verdicts[] = {[VET_FITS] = "fits", [VET_TIGHT] = "check", [VET_FAILS] = "fails"};

static void put_finding(const vet_finding *finding)
{
    g_autofree char *figures = vet_figures_text(finding);
    g_autofree char *line = g_strdup_printf("  %-6s %-12s %-52s %s", verdicts[finding->verdict],
                                            finding->about, finding->what, figures);
    put_toned(finding->verdict == VET_FAILS ? TONE_STRONG : TONE_PLAIN, g_strchomp(line));
    put_text("\n");
    if (finding->way_out != NULL) {
        put_text("                      -> %s\n", finding->way_out);
    }
}

/* Writes what fits in one row: the names of its subjects. */
static void put_fitting(const GPtrArray *findings)
{
    g_autoptr(GString) names = g_string_new(NULL);
    g_autoptr(GHashTable) named = g_hash_table_new(g_str_hash, g_str_equal);
    unsigned count = 0;
    for (guint i = 0; i < findings->len; i++) {
        const vet_finding *const finding = g_ptr_array_index(findings, i);
        if (finding->verdict == VET_FITS && g_hash_table_add(named, finding->about)) {
            g_string_append_printf(names, "%s%s", names->len > 0 ? ", " : "", finding->about);
        }
        count += finding->verdict == VET_FITS;
    }
    if (count > 0) {
        put_text("  %-6s %s (%u thing%s; --all lists %s)\n", verdicts[VET_FITS], names->str, count,
                 count == 1 ? "" : "s", count == 1 ? "it" : "them");
    }
}

/* Problems first, the worst first. */
static void put_findings(const char *title, const GPtrArray *findings, bool has_all)
{
    if (findings->len == 0) {
        return;
    }
    put_text("\n");
    put_toned(TONE_STRONG, title);
    for (int verdict = VET_FAILS; verdict >= (has_all ? VET_FITS : VET_TIGHT); verdict--) {
        for (guint i = 0; i < findings->len; i++) {
            const vet_finding *const finding = g_ptr_array_index(findings, i);
            if ((int)finding->verdict == verdict) {
                put_finding(finding);
            }
        }
    }
    if (!has_all) {
        put_fitting(findings);
    }
}

static void put_json_findings(const char *group, const GPtrArray *findings)
{
    for (guint i = 0; i < findings->len; i++) {
        const vet_finding *const finding = g_ptr_array_index(findings, i);
        put_json(json_pack("{s:s, s:s, s:s, s:s, s:s, s:f, s:f, s:s, s:s?}", "kind", "finding", "group",
                           group, "verdict", verdicts[finding->verdict], "about", finding->about, "what",
                           finding->what, "there", finding->there, "needed", finding->needed, "unit",
                           finding->unit, "way_out", finding->way_out));
    }
}

static void put_json_answers(const plan *loaded)
{
    g_autoptr(GArray) answers = plan_key_delays(loaded);
    for (guint i = 0; i < answers->len; i++) {
        const key_delay *const answer = &g_array_index(answers, key_delay, i);
        put_json(json_pack("{s:s, s:s, s:s, s:s, s:I, s:b}", "kind", "answer", "handset",
                           plan_handset_name(loaded, answer->handset), "key",
                           plan_key_name(loaded, answer->handset, answer->key), "gesture",
                           gesture_participle(answer->gesture), "after_us", (json_int_t)answer->after_us,
                           "waits", (int)answer->waits_for_other));
    }
}

/* A row per thing whose pins are wired alike, in the order of the plan. */
static void put_wiring(const plan *loaded)
{
    circuit *const all = circuit_of(loaded);
    put_text("\n");
    put_toned(TONE_STRONG, "Wiring\n");
    for (guint i = 0; i < all->stages->len;) {
        const circuit_stage *const first = &g_array_index(all->stages, circuit_stage, i);
        g_autofree char *between = circuit_between_text(all, first);
        g_autoptr(GString) pins = g_string_new(first->pin);
        g_autoptr(GString) legs = g_string_new(NULL); /* of a module, after the first */
        for (i++; i < all->stages->len; i++) {
            const circuit_stage *const next = &g_array_index(all->stages, circuit_stage, i);
            if (strcmp(next->owner, first->owner) != 0) {
                break;
            }
            g_string_append_printf(pins, " %s", next->pin);
            if (next->form == FORM_MODULE) {
                g_string_append_printf(legs, "%s, ",
                                       circuit_part_at(all, next, PLACE_MODULE)->names[next->leg]);
            }
        }
        put_text("  pin %-12s %-12s %s%s\n", pins->str, first->owner, legs->str, between);
    }
    circuit_free(all);
}

/* Gestures with the same delay in one row, with their keys; those that wait for another gesture say why. */
static void put_answers(const plan *loaded)
{
    enum { MAX_NAMES = 6, ALIKE_US = 3000 };
    g_autoptr(GArray) answers = plan_key_delays(loaded);
    if (answers->len > 0) {
        put_text("\n");
        put_toned(TONE_STRONG, "Answers\n");
    }
    for (guint i = 0; i < answers->len; i++) {
        const key_delay first = g_array_index(answers, key_delay, i);
        g_autoptr(GString) names = g_string_new(NULL);
        unsigned count = 0;
        for (guint j = i; j < answers->len && first.gesture != 0; j++) {
            key_delay *const other = &g_array_index(answers, key_delay, j);
            if (other->gesture != first.gesture || other->waits_for_other != first.waits_for_other ||
                abs((int)other->after_us - (int)first.after_us) >= ALIKE_US) {
                continue;
            }
            if (++count <= MAX_NAMES) {
                g_string_append_printf(names, "%s%s.%s", names->len > 0 ? ", " : "",
                                       plan_handset_name(loaded, other->handset),
                                       plan_key_name(loaded, other->handset, other->key));
            }
            other->gesture = 0; /* already written */
        }
        if (count == 0) {
            continue;
        }
        if (count > MAX_NAMES) {
            g_string_append_printf(names, " and %u more", count - MAX_NAMES);
        }
        put_text("  %-12s %4u ms after the finger %s%s: %s\n", gesture_participle(first.gesture),
                 first.after_us / 1000, first.gesture == DROM_PRESS ? "is down" : "is up",
                 first.waits_for_other ? ", since it also has tapped twice" : "", names->str);
    }
}

static unsigned count_of(const vet_result *result, vet_verdict verdict)
{
    const GPtrArray *const lists[] = {result->times, result->pins, result->currents};
    unsigned count = 0;
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            count += ((const vet_finding *)g_ptr_array_index(lists[i], j))->verdict == verdict;
        }
    }
    return count;
}

static void put_report(const plan *loaded, const vet_result *result, bool has_all)
{
    const board *const chosen = loaded->board;
    g_autofree char *clock = plan_mhz(loaded) != chosen->facts_mhz
                                 ? g_strdup_printf(" at %g MHz", plan_mhz(loaded))
                                 : g_strdup("");
    put_text("%s, on the board %s%s (%s)\n", plan_title(loaded), chosen->id, clock, chosen->chip);
    put_text("facts: %s\n", chosen->source);
    g_autofree char *poll = result->longest_poll_us > 0
                                ? g_strdup_printf("; a poll takes up to %.0f µs", result->longest_poll_us)
                                : g_strdup("");
    put_text("longest that an edge may have to wait: %.4g µs%s\nprocessor busy for %.0f %% while a frame "
             "comes in, strips left out\n",
             result->longest_masked_us, poll, result->load * 100);
    put_findings("Time\n", result->times, has_all);
    put_findings("Pins and timers\n", result->pins, has_all);
    put_findings("Current\n", result->currents, has_all);
    put_answers(loaded);
    put_wiring(loaded);
    const unsigned fails = count_of(result, VET_FAILS);
    const unsigned checks = count_of(result, VET_TIGHT);
    g_autofree char *to_check =
        checks > 0 ? g_strdup_printf("%u thing%s to check", checks, checks == 1 ? "" : "s") : g_strdup("");
    if (fails > 0) {
        put_text("\n%u thing%s, and %s: this plan would not work.\n", fails, fails == 1 ? " fails" : "s fail",
                 checks > 0 ? to_check : "nothing else is to check");
    } else if (checks > 0) {
        put_text("\nNothing fails; %s.\n", to_check);
    } else {
        put_text("\nThis plan works.\n");
    }
    if (chosen->port == NULL) {
        put_text("That is on paper: the library ships no port for the %s, without which nothing runs there. "
                 "docs/porting.md says how to write one.\n",
                 chosen->chip);
    }
}

int vet_verb(int argc, char **argv)
{
    g_autofree char *format_text = NULL;
    gboolean has_all = FALSE;
    const GOptionEntry entries[] = {
        {"all", 0, 0, G_OPTION_ARG_NONE, &has_all, "Also list everything that fits", NULL},
        {"format", 0, 0, G_OPTION_ARG_STRING, &format_text, "text (for people, the default) or jsonl",
         "FORMAT"},
        {0},
    };
    int code = EXIT_WRONG;
    output_format format = FORMAT_TEXT;
    if (!take_options(
            "PLAN",
            "Checks a plan against its board and says what will fail, by how much, and how to fix it:\n"
            "whether each protocol's edges are received in time, at the plan's clock; steps, bursts and\n"
            "pixels; pins and timers; currents and supplies; flash and RAM; and how fast each key acts.\n"
            "Ends with 1 if something fails.",
            entries, 0, 1, &argc, argv, &code) ||
        !take_format("vet", format_text, &format)) {
        return code;
    }
    g_autoptr(GPtrArray) words = words_with_plan("vet", argc, argv, false);
    if (words == NULL) {
        return EXIT_WRONG;
    }
    report *const faults = report_new();
    plan *const loaded = plan_load(words->pdata[1], faults);
    report_print(faults, stderr);
    code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (loaded == NULL) {
        return code;
    }
    vet_result *const result = vet_plan(loaded);
    if (format == FORMAT_JSONL) {
        put_json_findings("time", result->times);
        put_json_findings("pins", result->pins);
        put_json_findings("current", result->currents);
        put_json_answers(loaded);
    } else {
        put_report(loaded, result, has_all);
    }
    code = vet_worst(result) == VET_FAILS ? EXIT_NO : EXIT_DONE;
    if (format == FORMAT_TEXT) {
        put_next(code == EXIT_DONE ? "dromikos bake, and wire what 'dromikos chart' draws"
                                   : "change what fails, and vet again");
    }
    vet_free(result);
    plan_free(loaded);
    return finish("vet", code);
}
