/* One row per event, in four columns: what was received, the gesture, the rule, and what the outputs did.
 * Consequences at the same time continue the row. */
#include "cli/rehearse/view.h"
#include "dromikos/internal/outputs.h"

#include "plan/model/plan.h"

#include <math.h>
#include <string.h>

void timeline_put_happening(const timeline *view, const script_press *happened)
{
    if (view->format == FORMAT_JSONL) {
        const uint64_t lasts_us = happened->handset == SCRIPT_POWER ? happened->held_ms * UINT64_C(1000) : 0;
        view_put_now(view, (timeline_row){.kind = ROW_HAPPENING,
                                          .until_us = sim_bench_now(view->bench) + lasts_us,
                                          .text = script_text(view->plan, happened)});
    }
}

/* Returns ", +67 ms": the delay since the press; for a release, since the release. "" if no press is known.
 * To be freed. */
static char *after_finger(const timeline *view, const drom_key_event *event)
{
    const uint64_t now_us = sim_bench_now(view->bench);
    const bool is_up = event->gesture != DROM_PRESS;
    if (event->gesture == DROM_REPEAT || event->gesture == DROM_HOLD) {
        return g_strdup("");
    }
    for (guint i = view->finger; i > 0; i--) {
        const script_press *const press = &g_array_index(view->script, script_press, i - 1);
        const uint64_t at_us = (press->at_ms + (is_up ? press->held_ms : UINT64_C(0))) * 1000;
        if (press->handset == event->handset && press->key == event->key && at_us <= now_us) {
            return g_strdup_printf(", +%u ms", (unsigned)((now_us - at_us) / 1000));
        }
    }
    return g_strdup("");
}

void view_put(const timeline *view, timeline_row happened)
{
    if (view->kept != NULL) {
        g_array_append_val(view->kept, happened);
    } else {
        put_row_json(&happened);
        row_clear(&happened);
    }
}

void view_put_now(const timeline *view, timeline_row happened)
{
    happened.at_us = sim_bench_now(view->bench);
    view_put(view, happened);
}

static void on_frame(void *context, const drom_frame *frame)
{
    timeline *const view = context;
    const uint64_t now_us = sim_bench_now(view->bench);
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        return;
    }
    if (view->format == FORMAT_JSONL) {
        view_put(view, (timeline_row){.kind = ROW_FRAME,
                                      .at_us = now_us - (drom_us)((drom_us)now_us - frame->at),
                                      .data.frame = *frame});
        return;
    }
    GString *const cell = view_cell(view, HEARD);
    if (frame->kind == DROM_FRAME_REPEAT) {
        g_string_append_printf(cell, "%s again", frame->protocol->id);
    } else {
        g_string_append_printf(cell, "%s %u %u", frame->protocol->id, frame->code.address,
                               frame->code.command);
    }
}

static bool uses_taps(const plan *loaded)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    bool is_used = false;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        is_used |= (rules->rules.rows[i].gestures & DROM_TAP) != 0;
    }
    return is_used;
}

static void on_key(void *context, const drom_key_event *event)
{
    timeline *const view = context;
    const char *const handset = plan_handset_name(view->plan, event->handset);
    const char *const key = plan_key_name(view->plan, event->handset, event->key);
    if (event->gesture == DROM_PRESS) {
        const heard_press press = {sim_bench_now(view->bench), event->handset, event->key};
        g_array_append_val(view->heard, press);
        view->newest = press;
        view->presses++;
    }
    if (view->format == FORMAT_JSONL) {
        const drom_code *const code =
            &plan_tables(view->plan)->keys.handsets.rows[event->handset].codes.rows[event->key];
        view_put_now(view,
                     (timeline_row){.kind = ROW_KEY,
                                    .subject = handset,
                                    .key = key,
                                    .data.pressed = {event->gesture, event->held_us,
                                                     plan_protocol(view->plan, code->protocol), *code}});
        return;
    }
    if (event->gesture == DROM_TAP && !uses_taps(view->plan)) { /* press and release have reported it */
        return;
    }
    GString *const cell = view_cell(view, GESTURE);
    g_autofree char *after = after_finger(view, event);
    g_string_append_printf(cell, "%s.%s %s%s", handset, key, gesture_participle(event->gesture), after);
}

static void on_event(void *context, const drom_event *event)
{
    timeline *const view = context;
    g_autofree char *text = plan_event_text(view->plan, event);
    if (text == NULL) {
        return;
    }
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_EVENT, .text = g_steal_pointer(&text)});
    } else {
        g_string_append(view_cell(view, GESTURE), text);
    }
}

void timeline_put_values(timeline *view, const int16_t *before, uint8_t mode)
{
    const drom_rules_plan *const rules = &plan_tables(view->plan)->rules;
    for (uint8_t i = 0; i < rules->values.count; i++) {
        if (rules->numbers[i] != before[i]) {
            on_event(view, &(drom_event){.source = DROM_SOURCE_VALUE, .row = i});
        }
    }
    if (mode != 0) {
        on_event(view, &(drom_event){.source = DROM_SOURCE_MODE, .key = DROM_BEGINS});
    }
}

static void on_rule(void *context, uint8_t rule)
{
    timeline *const view = context;
    const int line = plan_rule_line(view->plan, rule);
    if (line == 0 && view->format == FORMAT_TEXT) {
        g_string_append(view_cell(view, RULE), "at start");
    } else if (view->format == FORMAT_TEXT) {
        const char *const file = plan_rule_file(view->plan, rule);
        g_string_append_printf(view_cell(view, RULE), file != NULL ? "%s:%d" : "%sline %d",
                               file != NULL ? file : "", line);
    } else if (line > 0) {
        view_put_now(view,
                     (timeline_row){.kind = ROW_RULE, .data.rule = {line, plan_rule_file(view->plan, rule)}});
    }
}

static void on_action(void *context, const drom_action *action)
{
    timeline *const view = context;
    const char *const output = plan_output_name(view->plan, action->row);
    outcomes_ordered(view, action);
    g_autofree char *text = plan_order_text(view->plan, action);
    if (view->format == FORMAT_JSONL) {
        view_put_now(view,
                     (timeline_row){.kind = ROW_ACTION, .subject = output, .text = g_steal_pointer(&text)});
        return;
    }
    g_string_append_printf(view_cell(view, OUTPUT), "%s %s", output, text);
    view->asked = action->row;
}

timeline *timeline_new(const plan *loaded, sim_bench *bench, output_format format)
{
    timeline *const view = g_new0(timeline, 1);
    view->plan = loaded;
    view->bench = bench;
    view->format = format;
    view->asked = -1;
    view->outputs = g_new0(output_story, plan_output_count(loaded));
    view->heard = g_array_new(FALSE, FALSE, sizeof(heard_press));
    view->movers = g_array_new(FALSE, FALSE, sizeof(unsigned));
    for (int i = 0; i < CELLS; i++) {
        view->cells[i] = g_string_new(NULL);
    }
    view->devices = g_new0(void *, plan_output_count(loaded));
    view->timers = g_new0(uint64_t, plan_timer_count(loaded));
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        outcomes_wire(view, i);
        view->devices[i] = view->outputs[i].device;
    }
    outcomes_observe(view);
    view_find_widths(view);
    if (format == FORMAT_TEXT) {
        put_text("%s\n\n", plan_title(loaded));
        g_autofree char *head =
            g_strdup_printf("%9s    %-*s%-*s%-*s%s\n", "time", view->widths[HEARD], "came in",
                            view->widths[GESTURE], "gesture", view->widths[RULE], "rule", "outputs");
        put_toned(TONE_STRONG, head);
    }
    return view;
}

void timeline_observe_engine(timeline *view, drom_engine *engine)
{
    view->observer = (drom_observer){
        .context = view,
        .frame = on_frame,
        .key = on_key,
        .event = on_event,
        .rule = on_rule,
        .action = on_action,
    };
    drom_engine_observe(engine, &view->observer);
}

void timeline_settle(timeline *view, drom_us wait_us)
{
    view_settle_asked(view);
    for (guint i = 0; i < view->movers->len; i++) {
        outcomes_moved(view, g_array_index(view->movers, unsigned, i));
    }
    if (view->kept != NULL) {
        outcomes_draw(view, wait_us);
    }
}

void timeline_show_fingers(timeline *view, const GArray *script)
{
    view->script = script;
}

void timeline_show_contacts(timeline *view)
{
    view->shows_contacts = true;
}

void timeline_keep(timeline *view, GArray *rows)
{
    view->kept = rows;
}

void timeline_put_chip(timeline *view, const chip_stretch *stretch)
{
    const chip_stretch *const shown = &view->chip_shown;
    const bool is_new = !view->has_chip || lround(stretch->poll_us) != lround(shown->poll_us) ||
                        lround(stretch->masked_us) != lround(shown->masked_us) || stretch->lost > 0;
    view->has_chip = true;
    view->chip.poll_us = MAX(view->chip.poll_us, stretch->poll_us);
    view->chip.masked_us += stretch->masked_us;
    view->chip.lost += stretch->lost;
    view->chip_shown = *stretch;
    if (is_new && view->format == FORMAT_JSONL) {
        view_put(view, (timeline_row){.kind = ROW_CHIP,
                                      .at_us = stretch->from_us,
                                      .until_us = stretch->until_us,
                                      .data.chip = {lround(stretch->poll_us), lround(stretch->masked_us),
                                                    stretch->lost}});
    }
}

/* Writes the chip's total load. */
static void put_chip_summary(const timeline *view, uint64_t now_us)
{
    const double longest_us = sim_bench_load(view->bench).longest_masked_us;
    g_autofree char *masked = longest_us > 0
                                  ? g_strdup_printf("off for up to %.0f µs, %.1f %% of the time", longest_us,
                                                    view->chip.masked_us * 100 / (double)now_us)
                                  : g_strdup("never off");
    put_text("%s: polls up to %.2f ms apart; interrupts %s; %u edge%s lost\n", plan_board(view->plan)->id,
             view->chip.poll_us / 1000, masked, view->chip.lost, view->chip.lost == 1 ? "" : "s");
}

void timeline_end(timeline *view, const char *going_on)
{
    const uint64_t now_us = sim_bench_now(view->bench);
    if (view->format == FORMAT_JSONL) {
        if (going_on != NULL) {
            view_put_now(view, (timeline_row){.kind = ROW_END, .text = g_strdup(going_on)});
        }
        return;
    }
    view_settle_asked(view);
    view_end_row(view);
    end_rows(&view->rows);
    put_text("\n%u press%s in %.3f s\n", view->presses, view->presses == 1 ? "" : "es", (double)now_us / 1e6);
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        put_text("%s: ", plan_output_name(view->plan, i));
        outcomes_sum_up(view, i, now_us);
    }
    if (view->has_chip) {
        put_chip_summary(view, now_us);
    }
    if (going_on != NULL) {
        put_text("still going on: %s\n", going_on);
    }
    const unsigned all = view->met + view->missed;
    if (view->missed > 0) {
        put_text("\n%u of %u expectation%s met; the first that wasn't: %s\n", view->met, all,
                 all == 1 ? "" : "s", view->first_missed);
    } else if (all > 0) {
        put_text("\nall that was expected came true: %u of %u\n", all, all);
    }
}

bool timeline_is_met(const timeline *view, const script_expectation *row, const drom_engine *engine)
{
    return expectation_is_met(row->expected, engine, view->devices);
}

void timeline_put_expected(timeline *view, const script_expectation *expected, const drom_engine *engine)
{
    const bool is_met = timeline_is_met(view, expected, engine);
    g_autofree char *actual = expectation_actual(expected->expected, engine, view->devices);
    view->met += is_met;
    view->missed += !is_met;
    if (!is_met && view->first_missed == NULL) {
        view->first_missed = g_strdup_printf("at %u.%03u s (line %d of the script)", expected->at_ms / 1000,
                                             expected->at_ms % 1000, expected->line);
    }
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_EXPECTED,
                                          .text = g_strdup(expected->text),
                                          .found = g_steal_pointer(&actual),
                                          .data.expected = {is_met, expected->line}});
    } else if (!is_met) {
        g_string_append_printf(view_cell(view, OUTPUT), "EXPECTED: %s; but %s", expected->text, actual);
        view_end_row(view);
    }
}

GPtrArray *timeline_states(const timeline *view, const drom_engine *engine, bool of_outputs)
{
    return expectations_now(view->plan, engine, view->devices, of_outputs);
}

unsigned timeline_met(const timeline *view)
{
    return view->met;
}

unsigned timeline_missed(const timeline *view)
{
    return view->missed;
}

unsigned timeline_presses(const timeline *view)
{
    return view->presses;
}

bool timeline_has_heard(timeline *view, unsigned handset, unsigned key, uint64_t from_us, uint64_t until_us)
{
    for (guint i = 0; i < view->heard->len; i++) {
        const heard_press *const press = &g_array_index(view->heard, heard_press, i);
        if (press->at_us > until_us) {
            break;
        }
        if (press->handset == handset && press->key == key && press->at_us >= from_us) {
            g_array_remove_index(view->heard, i);
            return true;
        }
    }
    return false;
}

void timeline_put_unheard(const timeline *view, const script_press *press, const char *why)
{
    const char *const handset = plan_handset_name(view->plan, press->handset);
    const char *const key = plan_key_name(view->plan, press->handset, press->key);
    if (view->format == FORMAT_JSONL) {
        view_put(view, (timeline_row){.kind = ROW_UNHEARD,
                                      .at_us = press->at_ms * UINT64_C(1000),
                                      .subject = handset,
                                      .key = key,
                                      .text = g_strdup(why),
                                      .data.line = press->line});
        return;
    }
    g_autofree char *where =
        press->line > 0 ? g_strdup_printf(" (line %d of the script)", press->line) : g_strdup("");
    put_text("not heard: %s.%s at %u.%03u s%s: %s\n", handset, key, press->at_ms / 1000, press->at_ms % 1000,
             where, why);
}

bool timeline_put_miscounts(const timeline *view)
{
    bool is_right = true;
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        const output_kind *const kind = plan_output_kind(view->plan, i);
        const char *const name = plan_output_name(view->plan, i);
        const unsigned asked = view->outputs[i].asked;
        const unsigned counted = kind->bench.has_counted != NULL
                                     ? kind->bench.has_counted(view->plan, i, view->outputs[i].device)
                                     : asked;
        if (asked == counted || asked >= ASKS_FOR_ANY) {
            continue;
        }
        is_right = false;
        if (view->format == FORMAT_JSONL) {
            view_put(view, (timeline_row){
                               .kind = ROW_MISCOUNTED, .subject = name, .data.counts = {asked, counted}});
        } else {
            put_text("warning: %s was asked to send %u press%s, and its appliance counted %u\n", name, asked,
                     asked == 1 ? "" : "es", counted);
        }
    }
    return is_right;
}

void timeline_free(timeline *view)
{
    for (int i = 0; i < CELLS; i++) {
        g_string_free(view->cells[i], TRUE);
    }
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        row_clear(&view->outputs[i].drawn);
    }
    g_free(view->outputs);
    g_free(view->devices);
    g_free(view->timers);
    g_free(view->first_missed);
    g_array_unref(view->movers);
    g_array_unref(view->heard);
    g_free(view);
}
