/* What the outputs did: pins, contacts, motion, light, as the bench sees them. */
#include "cli/rehearse/view.h"
#include "dromikos/internal/outputs.h"

#include "plan/model/plan.h"

#include <math.h>
#include <string.h>

/* Values that are closer are drawn as one. */
static const double SAME_VALUE = 1e-9;

static output_view view_of(const timeline *view, unsigned output)
{
    return plan_output_view(view->plan, output, view->outputs[output].device);
}

/* Notes a key that is to be sent as another. */
void outcomes_ordered(timeline *view, const drom_action *action)
{
    const output_kind *const kind = plan_output_kind(view->plan, action->row);
    if (kind->bench.asks_for != NULL) {
        view->outputs[action->row].asked += kind->bench.asks_for(view->plan, action);
    }
    view->outputs[action->row].is_passing_on = kind->words.sends_keys && action->verb != kind->core->undo;
}

/* The LED of an output goes on or off. */
static void on_light(void *context, uint64_t at_us, bool is_on)
{
    enum { LONGEST_AFTER_US = 1000000 };
    output_story *const story = context;
    timeline *const view = story->view;
    if (view->kept != NULL) {
        view_put_now(
            view, (timeline_row){.kind = ROW_LIT,
                                 .subject = plan_output_name(view->plan, (unsigned)(story - view->outputs)),
                                 .data.is_on = is_on});
    }
    if (!is_on || !story->is_passing_on) {
        return;
    }
    const char *const name = plan_output_name(view->plan, (unsigned)(story - view->outputs));
    const uint64_t after_us = at_us - sim_bench_spoken_at(view->bench);
    story->is_passing_on = false;
    if (after_us > LONGEST_AFTER_US) { /* it wasn't caused by a key */
        return;
    }
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_PASSED_ON, .subject = name, .data.after_us = after_us});
    } else {
        g_string_append_printf(view_cell(view, OUTPUT), "%s began %.1f ms after the frame", name,
                               (double)after_us / 1000);
    }
}

static void note_driven(output_story *story, uint64_t at_us, bool is_on)
{
    if (is_on) {
        story->on_since_us = at_us;
    } else if (story->is_known) {
        story->on_us += at_us - story->on_since_us;
    }
    story->is_known = true;
    story->is_on = is_on;
    story->driven_at_us = at_us;
    story->bounces = 0;
}

/* Returns the output that a pin switches; -1: none. */
static int switched_by(const timeline *view, uint8_t pin, bool *is_active_low)
{
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        const output_kind *const kind = plan_output_kind(view->plan, i);
        if (kind->bench.switched_pin != NULL &&
            kind->bench.switched_pin(plan_output(view->plan, i), is_active_low) == pin) {
            return (int)i;
        }
    }
    return -1;
}

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    timeline *const view = context;
    bool is_active_low = false;
    const int switched = switched_by(view, pin, &is_active_low);
    if (switched < 0) {
        return;
    }
    const unsigned output = (unsigned)switched;
    const bool is_on = is_high != is_active_low;
    const char *const state = is_on ? "on" : "off";
    const bool is_first = !view->outputs[output].is_known;
    note_driven(&view->outputs[output], at_us, is_on);
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_OUTPUT,
                                          .subject = plan_output_name(view->plan, output),
                                          .data.pin = {pin, is_high, is_on}});
    } else if (view->asked == (int)output) {
        view->asked = -1;
        g_string_append_printf(view->cells[OUTPUT], ": %s", state);
    } else {
        g_string_append_printf(view_cell(view, OUTPUT), "%s %s%s", plan_output_name(view->plan, output),
                               state, is_first ? ", its rest state" : "");
    }
}

static unsigned output_of(const timeline *view, const void *device)
{
    unsigned found = 0;
    while (view->outputs[found].device != device) {
        found++;
    }
    return found;
}

static void on_contact(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed)
{
    timeline *const view = context;
    const unsigned output = output_of(view, relay);
    const char *const name = plan_output_name(view->plan, output);
    output_story *const story = &view->outputs[output];
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_CONTACT, .subject = name, .data.is_on = is_closed});
        return;
    }
    if (!view->shows_contacts) {
        return;
    }
    if (is_closed != sim_relay_is_energised(relay)) {
        story->bounces++;
    } else if (sim_relay_is_settled(relay)) {
        GString *const cell = view_cell(view, OUTPUT);
        const uint64_t after_us = at_us - story->driven_at_us;
        g_string_append_printf(cell, "%s contacts %s after %u.%u ms", name, is_closed ? "closed" : "open",
                               (unsigned)(after_us / 1000), (unsigned)(after_us / 100 % 10));
        if (story->bounces > 0) {
            g_string_append_printf(cell, ", %u bounce%s", story->bounces, story->bounces > 1 ? "s" : "");
        }
    }
}

/* ", understood 135 ms after wand.vol_up pressed", after a key. */
static char *after_press(const timeline *view, uint64_t at_us)
{
    enum { JUST_US = 1000000 };
    const heard_press *const press = &view->newest;
    if (press->at_us == 0 || at_us - press->at_us > JUST_US) {
        return g_strdup("");
    }
    return g_strdup_printf(
        ", understood %u ms after %s.%s pressed", (unsigned)((at_us - press->at_us) / 1000),
        plan_handset_name(view->plan, press->handset), plan_key_name(view->plan, press->handset, press->key));
}

static void on_burst(void *context, uint64_t at_us, const sim_target *target)
{
    timeline *const view = context;
    const unsigned output = output_of(view, target);
    const char *const name = plan_output_name(view->plan, output);
    bool is_new = false;
    const int key = sim_target_newest(target, &is_new);
    g_autofree char *sent = key >= 0 ? plan_sent_name(view->plan, output, (uint32_t)key) : g_strdup("");
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_BURST,
                                          .subject = name,
                                          .text = g_strdup(sim_target_heard(target)),
                                          .found = g_steal_pointer(&sent),
                                          .data.is_on = is_new});
    } else if (key < 0) {
        g_string_append_printf(view_cell(view, OUTPUT), "%s was heard: %s", name, sim_target_heard(target));
    } else if (is_new) {
        g_autofree char *after = after_press(view, at_us);
        g_string_append_printf(view_cell(view, OUTPUT), "%s sent %s%s", name, sent, after);
    } else {
        g_string_append_printf(view_cell_again(view, OUTPUT), "%s sent it again", name);
    }
}

/* An output has begun to move, or stopped. */
void outcomes_moved(timeline *view, unsigned output)
{
    output_story *const story = &view->outputs[output];
    int32_t position = 0;
    const bool is_moving =
        plan_output_kind(view->plan, output)->bench.moves(plan_output(view->plan, output), &position);
    const bool is_news = story->is_placed && !is_moving && position != story->position; /* at once */
    story->position = is_moving ? story->position : position;
    story->is_placed = true;
    if (is_moving == story->was_moving && !is_news) {
        return;
    }
    story->was_moving = is_moving;
    if (view->format == FORMAT_JSONL) {
        view_put_now(view, (timeline_row){.kind = ROW_MOTION,
                                          .subject = plan_output_name(view->plan, output),
                                          .data.motion = {is_moving, position}});
    } else if (!is_moving) {
        const output_view seen = view_of(view, output);
        g_autofree char *text = plan_output_kind(view->plan, output)->bench.place_text(&seen);
        g_string_append_printf(view_cell(view, OUTPUT), "%s %s", plan_output_name(view->plan, output), text);
    }
}

void outcomes_wire(timeline *view, unsigned output)
{
    const output_kind *const kind = plan_output_kind(view->plan, output);
    if (kind->bench.wire != NULL) {
        view->outputs[output].device = kind->bench.wire(view->bench, view->plan, output);
    }
    view->outputs[output].view = view;
    if (kind->words.sends_keys) {
        sim_target_follow(view->outputs[output].device, on_light, &view->outputs[output]);
    }
    if (kind->bench.moves != NULL) {
        g_array_append_val(view->movers, output);
    }
}

void outcomes_observe(timeline *view)
{
    sim_bench_observe(
        view->bench,
        &(sim_observer){.context = view, .pin = on_pin, .contact = on_contact, .burst = on_burst});
}

/* Its state in words, with what it waits for, or its limit. */
static void put_state(const timeline *view, unsigned output, timeline_row *drawn)
{
    const output_kind *const kind = plan_output_kind(view->plan, output);
    const output_view seen = view_of(view, output);
    g_autofree char *state = kind->bench.state_text(&seen);
    g_autofree char *end = kind->bench.end != NULL ? kind->bench.end(&seen) : NULL;
    const bool is_kept_back = drom_outputs_keep_back(&plan_tables(view->plan)->outputs, (uint8_t)output);
    g_autofree char *waits = is_kept_back                ? g_strdup("others are off first")
                             : kind->bench.waits != NULL ? kind->bench.waits(&seen)
                                                         : NULL;
    drawn->text = waits != NULL ? g_strdup(waits)
                  : end != NULL ? g_strdup_printf("%s at %s", state, end)
                                : g_strdup(state);
    drawn->data.drawn.is_waiting = waits != NULL;
    drawn->data.drawn.is_end = waits == NULL && end != NULL;
}

/* Returns the row that draws an output's current state. */
static timeline_row drawn_now(const timeline *view, unsigned output)
{
    enum { MAX_PIXELS = 100 };
    const output_kind *const kind = plan_output_kind(view->plan, output);
    const output_view seen = view_of(view, output);
    uint32_t rgb[MAX_PIXELS];
    timeline_row drawn = {.kind = ROW_DRAWN, .subject = plan_output_name(view->plan, output)};
    if (kind->bench.drawn != NULL) {
        drawn.data.drawn.has_value = true;
        drawn.data.drawn.value = kind->bench.drawn(&seen);
    }
    const unsigned count = kind->bench.colours != NULL ? kind->bench.colours(&seen, rgb, MAX_PIXELS) : 0;
    if (count > 0) {
        drawn.data.drawn.colour_count = count;
        drawn.data.drawn.colours = g_memdup2(rgb, count * sizeof *rgb);
    }
    if (kind->bench.drawn_as != DRAWN_AS_COLOURS) {
        put_state(view, output, &drawn);
    }
    return drawn;
}

static timeline_row copy_of(const timeline_row *drawn)
{
    timeline_row made = *drawn;
    made.text = g_strdup(drawn->text);
    made.data.drawn.colours =
        g_memdup2(drawn->data.drawn.colours, drawn->data.drawn.colour_count * sizeof(uint32_t));
    return made;
}

static bool is_equal(const timeline_row *a, const timeline_row *b)
{
    return fabs(a->data.drawn.value - b->data.drawn.value) < SAME_VALUE && g_strcmp0(a->text, b->text) == 0 &&
           a->data.drawn.is_waiting == b->data.drawn.is_waiting &&
           a->data.drawn.is_end == b->data.drawn.is_end &&
           a->data.drawn.colour_count == b->data.drawn.colour_count &&
           (a->data.drawn.colour_count == 0 || memcmp(a->data.drawn.colours, b->data.drawn.colours,
                                                      a->data.drawn.colour_count * sizeof(uint32_t)) == 0);
}

/* Writes the end of each timer, if it has changed. */
static void draw_timers(timeline *view, uint64_t now_us)
{
    enum { SAME_US = 1000 };
    for (unsigned i = 0; i < plan_timer_count(view->plan); i++) {
        uint64_t left_us = 0;
        const bool runs = plan_timer_runs(view->plan, i, (drom_us)now_us, &left_us);
        const uint64_t until_us = runs ? now_us + left_us : 0;
        const uint64_t shown_us = view->timers[i];
        if (until_us > shown_us + SAME_US || until_us + SAME_US < shown_us) {
            view->timers[i] = until_us;
            view_put_now(view, (timeline_row){.kind = ROW_TIMER,
                                              .subject = plan_timer_name(view->plan, i),
                                              .until_us = MAX(until_us, now_us)});
        }
    }
}

void outcomes_draw(timeline *view, drom_us wait_us)
{
    enum { EACH_US = 5000 };
    const uint64_t now_us = sim_bench_now(view->bench);
    if (view->drawn_us != 0 && now_us - view->drawn_us < EACH_US && wait_us < EACH_US) {
        return;
    }
    view->drawn_us = now_us;
    draw_timers(view, now_us);
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        const drawing how = plan_output_kind(view->plan, i)->bench.drawn_as;
        if (how == DRAWN_AS_NOTHING || how == DRAWN_AS_BURSTS) {
            continue;
        }
        output_story *const story = &view->outputs[i];
        timeline_row drawn = drawn_now(view, i);
        if (story->is_drawn && is_equal(&drawn, &story->drawn)) {
            row_clear(&drawn);
            continue;
        }
        row_clear(&story->drawn);
        story->drawn = copy_of(&drawn);
        story->is_drawn = true;
        view_put_now(view, drawn);
    }
}

/* Writes an output's summary. */
void outcomes_sum_up(const timeline *view, unsigned output, uint64_t now_us)
{
    const output_story *const story = &view->outputs[output];
    const output_kind *const kind = plan_output_kind(view->plan, output);
    const uint64_t on_us = story->on_us + (story->is_on ? now_us - story->on_since_us : 0);
    const output_view seen = view_of(view, output);
    g_autofree char *text = kind->bench.sum_up(&seen, on_us);
    put_text("%s\n", text);
}
