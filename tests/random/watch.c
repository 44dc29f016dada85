/* Observations are outside of the engine: pins, duties, pixels, light. */
#include "watch.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/servo.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

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
    const uint64_t lasted_us = now_us - seen->changed_us;
    if (seen->has_changed && seen->is_on == is_on) {
        return;
    }
    if (seen->has_changed && !in->is_stopping && lasted_us < min_us) {
        violate(in, "%s was %s for %.1f ms, which must be %u", name_of(in, output),
                seen->is_on ? "on" : "off", (double)lasted_us / 1e3,
                seen->is_on ? relay->min_on_ms : relay->min_off_ms);
    }
    report_row(in, now_us, output, "%s", is_on ? "on" : "off");
    seen->is_on = is_on;
    seen->is_output = true;
    seen->has_changed = true;
    seen->changed_us = now_us;
}

/* An output that rests on may have to wait for the pause of its interlock. */
static bool may_change_after_stop(const check_run *in, uint8_t pin)
{
    bool may = false;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        may |= kind_of(in, i) == &drom_relay && relay_of(in, i)->pin == pin && relay_of(in, i)->rests_on &&
               in->engine.state == DROM_STOPPING;
    }
    return may;
}

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    check_run *const in = context;
    if (in->stopped_us != 0 && at_us > in->stopped_us && !may_change_after_stop(in, pin)) {
        violate(in, "pin %u went %s after the stop at %.3f s", pin, is_high ? "high" : "low",
                (double)in->stopped_us / 1e6);
    }
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drom_servo_settings *const servo = plan_output(in->plan, i)->settings;
        if (kind_of(in, i) == &drom_relay && relay_of(in, i)->pin == pin) {
            on_relay(in, i, is_high != relay_of(in, i)->is_active_low);
        } else if (kind_of(in, i) == &drom_servo && servo->pin == pin) {
            check_pulse(in, i, is_high);
        }
    }
    check_interlocks(in);
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
        if (seen->strip != strip) {
            continue;
        }
        const uint32_t picture = in->reported != NULL ? hash_of(strip, pixels_of(in, i)) : seen->picture;
        if (picture != seen->picture) {
            if (seen->is_picture_new && !seen->is_moving) {
                report_row(in, seen->pictured_us, i, "moves");
                seen->is_moving = true;
            }
            seen->picture = picture;
            seen->pictured_us = at_us;
            seen->is_picture_new = true;
        }
        check_current(in, i);
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

/* The duty of a pin, as light. */
static uint16_t lit_of(const drom_lamp_settings *lamp, uint16_t duty)
{
    return lamp->is_active_low ? (uint16_t)(UINT16_MAX - duty) : duty;
}

/* A fade passes through every level, and a way through every step: some of them are reported, and their ends.
 */
static void on_duty(void *context, uint64_t at_us, uint8_t pin, uint16_t duty)
{
    check_run *const in = context;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drom_lamp_settings *const lamp = plan_output(in->plan, i)->settings;
        if (kind_of(in, i) == &drom_lamp && lamp->pin == pin) {
            const uint16_t lit = lit_of(lamp, duty);
            report_row(in, at_us, i, "at %u of 256", (lit + 128u) / 256);
            in->outputs[i].is_on = lit > 255;
        }
    }
    check_interlocks(in);
}

static void on_key(void *context, const drom_key_event *event)
{
    check_run *const in = context;
    if (g_getenv("DBG"))
        fprintf(stderr, "%.3f key %d.%d gesture %d\n", (double)sim_bench_now(in->bench) / 1e6, event->handset,
                event->key, event->gesture);
    in->hand_presses += event->gesture == DROM_PRESS && event->handset == 0;
    in->presses += event->gesture == DROM_PRESS;
    in->releases += event->gesture == DROM_RELEASE;
    if (in->stopped_us != 0) {
        violate(in, "a key event after the stop");
    }
}

static void on_event(void *context, const drom_event *event)
{
    check_run *const in = context;
    in->came += event->source == DROM_SOURCE_POSTED;
}

/* True if a name is an output's, or that of a group with it. */
static bool is_named(const check_run *in, const char *ordered, const char *name)
{
    bool is_it = strcmp(ordered, name) == 0;
    const GArray *const groups = in->plan->source->groups;
    for (guint i = 0; i < groups->len; i++) {
        const group_line *const group = &g_array_index(groups, group_line, i);
        for (guint j = 0; j < group->members->len && strcmp(group->name.text, ordered) == 0; j++) {
            is_it |= strcmp(g_array_index(group->members, word, j).text, name) == 0;
        }
    }
    return is_it;
}

/* True if an order to an output drives another one: itself, one of its motors, its strip, the strip's parts.
 */
static bool does_drive(const check_run *in, const char *ordered, const char *name)
{
    bool does = is_named(in, ordered, name);
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const output_line *const line = line_of(in, i);
        for (unsigned j = 0; j < G_N_ELEMENTS(line->members); j++) {
            const char *const member = line->members[j].text;
            does |= is_named(in, ordered, line->name.text) && g_strcmp0(member, name) == 0;
            does |= member != NULL && is_named(in, ordered, member) && strcmp(line->name.text, name) == 0;
        }
    }
    return does;
}

/* True if everything that drives an output is undone when a key is released. */
static bool is_only_held(const check_run *in, unsigned output)
{
    const plan_source *const source = in->plan->source;
    bool is_so = true;
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        const GArray *const lists[] = {rule->actions, rule->otherwise};
        for (guint j = 0; j < lists[0]->len + lists[1]->len; j++) {
            const bool is_first = j < lists[0]->len;
            const action_words *const action =
                &g_array_index(lists[is_first ? 0 : 1], action_words, is_first ? j : j - lists[0]->len);
            const bool stays = kind_of(in, output) == &drom_lamp && action->verb == DROM_LAMP_DIM;
            is_so &= action->target != DROM_TO_OUTPUT ||
                     !does_drive(in, action->name.text, name_of(in, output)) ||
                     (action->is_while_held && !stays);
        }
    }
    return is_so;
}

/* Returns the rotor's place after stepping back this far: the contact is there. */
static void wire_home(check_run *in, unsigned output)
{
    const clause_given *const clauses = line_of(in, output)->clauses;
    for (unsigned i = 0; i < MAX_CLAUSES; i++) {
        const int found = clauses[i].is_given && clauses[i].name.text != NULL
                              ? plan_find_switch(in->plan, clauses[i].name.text)
                              : -1;
        if (found >= 0) {
            const uint8_t pin = plan_switch_pin(in->plan, (unsigned)found);
            in->homes[pin]++;
            in->outputs[output].home_pin = pin;
            sim_stepper_set_home(in->outputs[output].stepper, pin,
                                 -(long)g_rand_int_range(in->dice, 0, 300) /
                                     g_rand_int_range(in->dice, 1, 40));
        }
    }
}

static void wire(check_run *in, unsigned output)
{
    seen_output *const seen = &in->outputs[output];
    const drom_stepper_settings *const stepper = plan_output(in->plan, output)->settings;
    const drom_strip_settings *const strip = plan_output(in->plan, output)->settings;
    const drom_sender_settings *const sender = plan_output(in->plan, output)->settings;
    const drom_motor_settings *const motor = plan_output(in->plan, output)->settings;
    if (kind_of(in, output) == &drom_stepper) {
        seen->stepper = sim_bench_wire_stepper(in->bench, stepper->pins, 1.25e6 / stepper->fastest_us);
        wire_home(in, output);
    } else if (kind_of(in, output) == &drom_motor) {
        seen->motor = sim_bench_wire_motor(in->bench, motor->forward_pin, motor->back_pin, motor->speed_pin);
    } else if (kind_of(in, output) == &drom_strip) {
        seen->strip = sim_bench_wire_strip(in->bench, strip->pin, strip->count, 9);
    } else if (kind_of(in, output) == &drom_sender) {
        seen->target = sim_bench_wire_target(in->bench, sender->pin);
        sim_target_follow(seen->target, on_light, seen);
        if (!sender->is_shielded) {
            sim_bench_hear_itself(in->bench, true);
        }
    }
}

void watch(check_run *in)
{
    sim_bench_observe(
        in->bench,
        &(sim_observer){
            .context = in, .pin = on_pin, .refresh = on_refresh, .burst = on_burst, .duty = on_duty});
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        in->outputs[i].is_only_held = is_only_held(in, i);
        wire(in, i);
    }
}

void watch_anew(check_run *in)
{
    in->observer = (drom_observer){.context = in, .key = on_key, .event = on_event};
    drom_engine_observe(&in->engine, &in->observer);
    in->born_us = sim_bench_now(in->bench);
    in->is_stopping = false;
    in->presses = 0;
    in->releases = 0;
    in->posted = 0;
    in->came = 0;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        seen_output *const seen = &in->outputs[i];
        seen->has_changed = false;
        seen->was_driven = false;
        seen->rose_us = 0;
        seen->sent_us = in->born_us;
        if (seen->stepper != NULL) {
            seen->born_at = sim_stepper_position(seen->stepper);
            seen->born_lost = sim_stepper_lost(seen->stepper);
        }
    }
}

bool is_driven_at_pins(const check_run *in, unsigned output)
{
    if (kind_of(in, output) == &drom_motor) {
        return motor_drive(in, output) != 0;
    }
    return in->outputs[output].is_output && in->outputs[output].is_on;
}

int motor_drive(const check_run *in, unsigned output)
{
    const drom_motor_settings *const motor = plan_output(in->plan, output)->settings;
    const bool has_speed = motor->speed_pin != DROM_NONE;
    if (has_speed && sim_bench_duty(in->bench, motor->speed_pin) == 0) {
        return 0;
    }
    if (motor->forward_pin == DROM_NONE) {
        return 1;
    }
    return has_speed ? sim_bench_is_high(in->bench, motor->forward_pin) -
                           sim_bench_is_high(in->bench, motor->back_pin)
                     : (sim_bench_duty(in->bench, motor->forward_pin) > 0) -
                           (sim_bench_duty(in->bench, motor->back_pin) > 0);
}

/* A standing picture is reported; the pictures of an effect would be too many. */
static void look_at_strip(check_run *in, unsigned output)
{
    seen_output *const seen = &in->outputs[output];
    if (seen->is_picture_new && sim_bench_now(in->bench) - seen->pictured_us > 500 * MS) {
        report_row(in, seen->pictured_us, output, "shows %08x", seen->picture);
        seen->is_picture_new = false;
        seen->is_moving = false;
    }
}

/* Each hundredth step is reported, and the places at which the rotor stands for a while. */
static void look_at_stepper(check_run *in, unsigned output)
{
    seen_output *const seen = &in->outputs[output];
    const long position = sim_stepper_position(seen->stepper);
    const uint64_t now_us = sim_bench_now(in->bench);
    if (position != seen->position) {
        if (position % 100 == 0) {
            report_row(in, now_us, output, "at step %ld", position);
        }
        seen->position = position;
        seen->changed_us = now_us;
        seen->has_changed = true;
    } else if (seen->has_changed && now_us - seen->changed_us > 300 * MS) {
        seen->has_changed = false;
        report_row(in, seen->changed_us, output, "stands at %ld", position);
    }
}

void look_at_outputs(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        if (in->outputs[i].stepper != NULL) {
            look_at_stepper(in, i);
        } else if (in->outputs[i].strip != NULL) {
            look_at_strip(in, i);
        }
    }
}
