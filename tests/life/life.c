/* What is observed is outside of the engine: pins, duties, pixels, light. What is expected comes from the
 * plan's source, not from what the engine made of it. */
#include "seen.h"

#include <math.h>
#include <string.h>

static void G_GNUC_PRINTF(4, 5)
    report_row(check_run *in, uint64_t at_us, unsigned output, const char *format, ...)
{
    if (in->reported == NULL) {
        return;
    }
    done_row row = {.at_us = at_us, .number = in->reported->len, .output = output};
    va_list arguments;
    va_start(arguments, format);
    (void)vsnprintf(row.text, sizeof row.text, format, arguments);
    va_end(arguments);
    g_array_append_val(in->reported, row);
}

static void on_relay(check_run *in, unsigned output, bool is_on)
{
    seen_output *const seen = &in->outputs[output];
    const drom_relay_settings *const relay = relay_of(in, output);
    const uint64_t now_us = sim_bench_now(in->bench);
    const uint64_t min_us = (uint64_t)(seen->is_on ? relay->min_on_ms : relay->min_off_ms) * MS;
    if (seen->has_changed && seen->is_on == is_on) {
        return;
    }
    if (seen->has_changed && !in->is_stopping && now_us - seen->changed_us < min_us) {
        violate(in, "%s was %s for %.1f ms, which must be %u", line_of(in, output)->name.text,
                seen->is_on ? "on" : "off", (double)(now_us - seen->changed_us) / 1e3,
                seen->is_on ? relay->min_on_ms : relay->min_off_ms);
    }
    report_row(in, now_us, output, "%s", is_on ? "on" : "off");
    seen->is_on = is_on;
    seen->has_changed = true;
    seen->changed_us = now_us;
}

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    check_run *const in = context;
    if (in->stopped_us != 0 && at_us > in->stopped_us) {
        violate(in, "pin %u went %s after the stop at %.3f s", pin, is_high ? "high" : "low",
                (double)in->stopped_us / 1e6);
    }
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        if (kind_of(in, i) == &drom_relay && relay_of(in, i)->pin == pin) {
            on_relay(in, i, is_high != relay_of(in, i)->is_active_low);
        }
    }
}

static uint32_t hash_of(const sim_strip *strip, unsigned pixels)
{
    uint32_t hash = UINT32_C(2166136261);
    for (unsigned i = 0; i < pixels; i++) {
        const uint8_t *const bytes = sim_strip_pixel(strip, i);
        for (unsigned j = 0; j < 3; j++) {
            hash = (hash ^ bytes[j]) * UINT32_C(16777619);
        }
    }
    return hash;
}

static void on_refresh(void *context, uint64_t at_us, const sim_strip *strip)
{
    check_run *const in = context;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        seen_output *const seen = &in->outputs[i];
        const uint32_t picture = seen->strip == strip ? hash_of(strip, pixels_of(in, i)) : seen->picture;
        if (picture != seen->picture) {
            if (seen->is_picture_new && !seen->is_moving) {
                report_row(in, seen->pictured_us, i, "moves");
                seen->is_moving = true;
            }
            seen->picture = picture;
            seen->pictured_us = at_us;
            seen->is_picture_new = true;
        }
        if (seen->strip == strip) {
            check_current(in, i);
        }
    }
}

/* The picture that stands is reported; what an effect goes through is too much. */
static void look_at_strips(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        seen_output *const seen = &in->outputs[i];
        if (seen->is_picture_new && sim_bench_now(in->bench) - seen->pictured_us > 500 * MS) {
            report_row(in, seen->pictured_us, i, "shows %08x", seen->picture);
            seen->is_picture_new = false;
            seen->is_moving = false;
        }
    }
}

static void on_burst(void *context, uint64_t at_us, const sim_target *target)
{
    check_run *const in = context;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        if (in->outputs[i].target == target) {
            report_row(in, at_us, i, "sends %s", sim_target_heard(target));
        }
    }
}

static void on_light(void *context, uint64_t at_us, bool is_on)
{
    seen_output *const seen = context;
    seen->is_lit = is_on;
    seen->lit_us = at_us;
}

/* A fade passes through every level, and a way through every step: some of them are reported, and where they
 * end.
 */
static void on_duty(void *context, uint64_t at_us, uint8_t pin, uint16_t duty)
{
    check_run *const in = context;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drom_lamp_settings *const lamp = plan_output(in->plan, i)->settings;
        if (kind_of(in, i) == &drom_lamp && lamp->pin == pin) {
            const uint16_t lit = lamp->is_active_low ? (uint16_t)(UINT16_MAX - duty) : duty;
            report_row(in, at_us, i, "at %u of 256", (lit + 128u) / 256);
            in->outputs[i].is_on = lit > 255;
        }
    }
}

static void on_key(void *context, const drom_key_event *event)
{
    check_run *const in = context;
    in->presses += event->gesture == DROM_PRESS;
    in->releases += event->gesture == DROM_RELEASE;
    if (in->stopped_us != 0) {
        violate(in, "a key event after the stop");
    }
}

/* Does an order to an output drive another one: itself, one of its motors, its strip? */
static bool does_drive(const check_run *in, const char *ordered, const char *name)
{
    bool does = strcmp(ordered, name) == 0;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const output_line *const line = line_of(in, i);
        for (unsigned j = 0; j < G_N_ELEMENTS(line->members) && strcmp(line->name.text, ordered) == 0; j++) {
            does |= g_strcmp0(line->members[j].text, name) == 0;
        }
    }
    return does;
}

/* Is everything that drives an output undone when a key is let go? */
static bool is_only_held(const check_run *in, unsigned output)
{
    const plan_source *const source = in->plan->source;
    const char *const name = line_of(in, output)->name.text;
    bool is_so = true;
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        const GArray *const lists[] = {rule->actions, rule->otherwise};
        for (guint j = 0; j < lists[0]->len + lists[1]->len; j++) {
            const bool is_first = j < lists[0]->len;
            const action_words *const action =
                &g_array_index(lists[is_first ? 0 : 1], action_words, is_first ? j : j - lists[0]->len);
            is_so &= action->target != DROM_TO_OUTPUT || !does_drive(in, action->name.text, name) ||
                     action->is_while_held;
        }
    }
    return is_so;
}

static void wire(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        seen_output *const seen = &in->outputs[i];
        const drom_stepper_settings *const stepper = plan_output(in->plan, i)->settings;
        const drom_strip_settings *const strip = plan_output(in->plan, i)->settings;
        const drom_sender_settings *const sender = plan_output(in->plan, i)->settings;
        seen->is_only_held = is_only_held(in, i);
        if (kind_of(in, i) == &drom_stepper) {
            seen->stepper = sim_bench_wire_stepper(in->bench, stepper->pins, 1.25e6 / stepper->fastest_us);
        } else if (kind_of(in, i) == &drom_motor) {
            const drom_motor_settings *const motor = plan_output(in->plan, i)->settings;
            seen->motor =
                sim_bench_wire_motor(in->bench, motor->forward_pin, motor->back_pin, motor->speed_pin);
        } else if (kind_of(in, i) == &drom_strip) {
            seen->strip = sim_bench_wire_strip(in->bench, strip->pin, strip->count, 9);
        } else if (kind_of(in, i) == &drom_sender) {
            seen->target = sim_bench_wire_target(in->bench, sender->pin);
            sim_target_follow(seen->target, on_light, seen);
        }
    }
}

static void add_presses(check_run *in)
{
    for (guint i = 0; i < in->lived->presses->len; i++) {
        const life_press *const press = &g_array_index(in->lived->presses, life_press, i);
        const drom_code code =
            plan_tables(in->plan)->keys.handsets.rows[press->handset].codes.rows[press->key];
        const drom_waveform *const waveform = plan_waveform(in->plan, code.protocol);
        if (waveform != NULL && waveform->pack != NULL) {
            (void)sim_bench_press(in->bench, &(sim_press){.waveform = waveform,
                                                          .code = code,
                                                          .at_us = press->at_ms * UINT64_C(1000),
                                                          .held_us = press->held_ms * UINT64_C(1000),
                                                          .room = {.jitter_us = 10, .stretch_us = 20}});
        }
    }
    for (guint i = 0; in->lived->touches != NULL && i < in->lived->touches->len; i++) {
        const life_touch *const touch = &g_array_index(in->lived->touches, life_touch, i);
        sim_bench_touch(in->bench, touch->pin, touch->at_ms * UINT64_C(1000), touch->is_closed);
    }
    if (in->lived->noise != SIM_NOISES) {
        sim_bench_add_noise(in->bench, in->lived->noise, 1000, in->lived->lasts_ms * UINT64_C(1000));
    }
}

/* Each hundredth step is reported, and where the rotor stands for a while. */
static void look_at_steppers(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        seen_output *const seen = &in->outputs[i];
        const long position = seen->stepper != NULL ? sim_stepper_position(seen->stepper) : 0;
        const uint64_t now_us = sim_bench_now(in->bench);
        if (position != seen->position) {
            if (position % 100 == 0) {
                report_row(in, now_us, i, "at step %ld", position);
            }
            seen->position = position;
            seen->changed_us = now_us;
            seen->has_changed = true;
        } else if (seen->stepper != NULL && seen->has_changed && now_us - seen->changed_us > 300 * MS) {
            seen->has_changed = false;
            report_row(in, seen->changed_us, i, "stands at %ld", position);
        }
    }
}

static void look_at_computer(const check_run *in)
{
    enum { SLEEPS_MS = 1000 };
    const uint64_t asleep_us = in->lived->asleep_ms * UINT64_C(1000);
    const uint64_t now_us = sim_bench_now(in->bench);
    const bool is_asleep = asleep_us > 0 && now_us >= asleep_us && now_us < asleep_us + SLEEPS_MS * MS;
    sim_bench_set_computer(in->bench, !is_asleep);
}

static void pass_until(check_run *in, uint64_t until_us)
{
    enum { MAX_POLLS = 2000 }; /* at one moment */
    unsigned polls = 0;
    uint64_t before_us = 0;
    while (sim_bench_now(in->bench) < until_us && in->violation == NULL) {
        const drom_us wait = drom_engine_poll(&in->engine);
        const uint64_t left_us = until_us - sim_bench_now(in->bench);
        (void)sim_bench_sleep(in->bench, (drom_us)MIN(MIN(wait, left_us), 10 * MS));
        polls = sim_bench_now(in->bench) == before_us ? polls + 1 : 0;
        before_us = sim_bench_now(in->bench);
        if (polls > MAX_POLLS) {
            violate(in, "the engine never comes to rest");
        }
        look_at_steppers(in);
        look_at_strips(in);
        look_at_interlocks(in);
        look_at_ends(in);
        look_at_computer(in);
    }
}

static char *live(const plan *loaded, const life *lived, GArray *rows)
{
    enum { LINGERS_MS = 12000, SETTLES_MS = 50, SETTLES_UNHEARD_MS = 150 };
    const unsigned settles_ms =
        lived->asleep_ms > 0 ? SETTLES_UNHEARD_MS : SETTLES_MS; /* it leaves the bus */
    check_run in = {.plan = loaded, .lived = lived, .bench = sim_bench_new(lived->seed), .reported = rows};
    drom_observer observer = {.context = &in, .key = on_key};
    drom_fault fault = {0};
    sim_bench_start_clock_at(in.bench, lived->clock_start);
    sim_bench_set_processor(in.bench, &lived->processor);
    sim_bench_observe(
        in.bench,
        &(sim_observer){
            .context = &in, .pin = on_pin, .refresh = on_refresh, .burst = on_burst, .duty = on_duty});
    if (plan_output_count(loaded) > MAX_OUTPUTS) {
        sim_bench_free(in.bench);
        return NULL;
    }
    wire(&in);
    if (drom_engine_init(&in.engine, plan_tables(loaded), sim_bench_port(in.bench), &fault) != DROM_OK) {
        violate(&in, "the engine refuses the plan: table %d, row %u, item %u, reason %d", (int)fault.part,
                fault.row, fault.item, (int)fault.reason);
    }
    sim_bench_wire_engine(in.bench, &in.engine);
    sim_bench_set_computer(in.bench, true);
    drom_engine_observe(&in.engine, &observer);
    add_presses(&in);
    if (lived->stopped_ms > 0) {
        pass_until(&in, lived->stopped_ms * UINT64_C(1000));
        in.is_stopping = true;
        drom_engine_stop(&in.engine);
        in.stopped_us = sim_bench_now(in.bench);
        pass_until(&in, in.stopped_us + settles_ms * MS);
        if (in.engine.state != DROM_STOPPED) {
            violate(&in, "the engine hasn't stopped");
        }
        check_rest(&in);
        pass_until(&in, in.stopped_us + 500 * MS);
        check_rest(&in);
    } else {
        pass_until(&in, (lived->lasts_ms + (uint64_t)LINGERS_MS) * MS);
        check_let_go(&in);
    }
    check_devices(&in);
    sim_bench_free(in.bench);
    return in.violation;
}

char *life_check(const plan *loaded, const life *lived)
{
    return live(loaded, lived, NULL);
}

static gint compare_rows(gconstpointer a, gconstpointer b)
{
    const done_row *const left = a;
    const done_row *const right = b;
    return left->at_us != right->at_us ? (left->at_us < right->at_us ? -1 : 1)
                                       : (left->number < right->number ? -1 : 1);
}

char *life_timeline(const plan *loaded, const life *lived)
{
    GString *const text = g_string_new(NULL);
    g_autoptr(GArray) rows = g_array_new(FALSE, TRUE, sizeof(done_row));
    g_autofree char *violation = live(loaded, lived, rows);
    g_array_sort(rows, compare_rows);
    for (guint i = 0; i < rows->len; i++) {
        const done_row *const row = &g_array_index(rows, done_row, i);
        g_string_append_printf(text, "%.3f %s %s\n", (double)row->at_us / 1e6,
                               plan_output_name(loaded, row->output), row->text);
    }
    if (violation != NULL) {
        g_string_append_printf(text, "VIOLATION %s\n", violation);
    }
    return g_string_free(text, FALSE);
}
