/* What must never happen, whatever the plan and whatever is pressed. */
#include "seen.h"

void violate(check_run *in, const char *format, ...)
{
    if (in->violation == NULL) {
        va_list arguments;
        va_start(arguments, format);
        g_autofree char *what = g_strdup_vprintf(format, arguments);
        va_end(arguments);
        in->violation = g_strdup_printf("at %.3f s: %s", (double)sim_bench_now(in->bench) / 1e6, what);
    }
}

static bool is_dark(const sim_strip *strip, unsigned pixels)
{
    bool is_so = true;
    for (unsigned i = 0; i < pixels; i++) {
        const uint8_t *const bytes = sim_strip_pixel(strip, i);
        is_so &= bytes[0] == 0 && bytes[1] == 0 && bytes[2] == 0;
    }
    return is_so;
}

static bool has_coil_on(const check_run *in, unsigned output)
{
    const drom_stepper_settings *const stepper = plan_output(in->plan, output)->settings;
    bool has = false;
    for (unsigned pin = 0; pin < 4 && !stepper->holds_still; pin++) {
        has |= sim_bench_is_high(in->bench, stepper->pins[pin]);
    }
    return has;
}

/* Is a key of the computer down? */
static bool has_key_down(const check_run *in)
{
    size_t count = 0;
    bool has = false;
    g_autofree sim_key *keys = sim_bench_keys(in->bench, &count);
    for (size_t i = 0; i < count; i++) {
        has |= keys[i].until_us == UINT64_MAX;
    }
    return has;
}

void check_rest(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        const char *const name = line_of(in, i)->name.text;
        const drom_output_kind *const kind = kind_of(in, i);
        if (kind == &drom_relay && seen->is_on != relay_of(in, i)->rests_on) {
            violate(in, "%s isn't at rest after the stop", name);
        } else if ((kind == &drom_lamp && seen->is_on) ||
                   (kind == &drom_strip && !is_dark(seen->strip, pixels_of(in, i)))) {
            violate(in, "%s is lit after the stop", name);
        } else if (kind == &drom_motor && sim_motor_motion(seen->motor).ma > 0) {
            violate(in, "%s is driven after the stop", name);
        } else if (kind == &drom_stepper && has_coil_on(in, i)) {
            violate(in, "a coil of %s is on after the stop", name);
        } else if (kind == &drom_sender && (seen->is_lit || seen->lit_us > in->stopped_us)) {
            violate(in, "%s sends after the stop", name);
        }
    }
}

/* Where a refresh goes out in one piece with interrupts off, a stepper that runs faster than that takes keeps
 * a strip from it for as long as it runs: vet says so of such a board. */
static bool may_wait(const check_run *in)
{
    bool may = false;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        may |= seen->stepper != NULL && seen->has_changed && in->lived->processor.pixels == SIM_PIXELS_MASKED;
    }
    return may;
}

/* Long after the last key was let go. */
void check_let_go(check_run *in)
{
    if (in->releases != in->presses) {
        violate(in, "%u keys were pressed and %u released", in->presses, in->releases);
    }
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        const char *const name = line_of(in, i)->name.text;
        const uint64_t now_us = sim_bench_now(in->bench);
        if (!seen->is_only_held) {
            continue;
        }
        const drom_output_kind *const kind = kind_of(in, i);
        const bool rests_on = kind == &drom_relay && relay_of(in, i)->rests_on;
        if ((kind == &drom_relay && seen->is_on && !rests_on) || (kind == &drom_lamp && seen->is_on) ||
            (kind == &drom_strip && !is_dark(seen->strip, pixels_of(in, i)) && !may_wait(in)) ||
            (kind == &drom_stepper && now_us - seen->changed_us < 1000 * MS && seen->has_changed) ||
            (kind == &drom_motor && drom_motor.is_busy(plan_output(in->plan, i)->state)) ||
            (kind == &drom_keyboard && has_key_down(in)) ||
            (kind == &drom_sender && seen->lit_us + 1000 * MS > now_us)) {
            violate(in, "%s goes on though its key was let go", name);
        }
    }
}

/* What a bridge must never see, as far as a clock of whole µs can show; how long it runs at most, with what a
 * busy engine may be late. */
static void check_motor(check_run *in, unsigned output)
{
    enum { LATE_US = 20000, CLOCK_US = 1 };
    const drom_motor_settings *const settings = plan_output(in->plan, output)->settings;
    const sim_motion motion = sim_motor_motion(in->outputs[output].motor);
    const char *const name = line_of(in, output)->name.text;
    if (motion.shorts > 0) {
        violate(in, "both sides of the bridge of %s were on", name);
    } else if (motion.nearest_us < settings->dead_ms * 1000.0 - CLOCK_US) {
        violate(in, "%s turned round after %.0f us", name, motion.nearest_us);
    } else if (settings->max_ms > 0 && motion.longest_us > settings->max_ms * 1000.0 + LATE_US) {
        violate(in, "%s ran for %.0f us", name, motion.longest_us);
    }
}

/* Of an interlock one is driven at most. */
void look_at_interlocks(check_run *in)
{
    const drom_outputs_plan *const outputs = &plan_tables(in->plan)->outputs;
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        const drom_interlock *const interlock = &outputs->interlocks.rows[i];
        int driven = 0;
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            const drom_output *const output = &outputs->outputs.rows[interlock->outputs.rows[j]];
            driven += output->kind->is_driven(output->state);
        }
        if (driven > 1) {
            violate(in, "%d are on, of which only one may be", driven);
        }
    }
}

/* For how long the switch of a drawn plan has been closed, by the hand that did it. */
static uint64_t closed_for_us(const check_run *in)
{
    const GArray *const touches = in->lived->touches;
    const uint64_t now_us = sim_bench_now(in->bench);
    uint64_t closed_us = 0;
    for (guint i = 0; touches != NULL && i < touches->len; i++) {
        const life_touch *const touch = &g_array_index(touches, life_touch, i);
        const uint64_t at_us = touch->at_ms * UINT64_C(1000);
        if (at_us <= now_us) {
            closed_us = touch->is_closed ? now_us - at_us : 0;
        }
    }
    return closed_us;
}

/* A motor stands, or runs the other way, soon after the switch of that end has closed: it bounces for 11 ms,
 * and is seen when it has been still for some looks. */
void look_at_ends(check_run *in)
{
    enum { SOON_US = 60000 };
    const bool is_closed = closed_for_us(in) > SOON_US;
    for (unsigned i = 0; is_closed && i < plan_output_count(in->plan); i++) {
        if (kind_of(in, i) != &drom_motor) {
            continue;
        }
        const drom_motor_settings *const motor = plan_output(in->plan, i)->settings;
        if ((motor->stops_forward != NULL && sim_bench_is_high(in->bench, motor->forward_pin)) ||
            (motor->stops_back != NULL && sim_bench_is_high(in->bench, motor->back_pin))) {
            violate(in, "%s is driven on at its switch", line_of(in, i)->name.text);
        }
    }
}

/* Of 20 mA a colour and 1 mA a dark pixel. */
void check_current(check_run *in, unsigned strip)
{
    const drom_strip_settings *const settings = plan_output(in->plan, strip)->settings;
    const unsigned own_ma = settings->count;
    unsigned sum = 0;
    for (unsigned i = 0; i < settings->count; i++) {
        const uint8_t *const bytes = sim_strip_pixel(in->outputs[strip].strip, i);
        sum += (unsigned)bytes[0] + bytes[1] + bytes[2];
    }
    if (settings->max_ma > 0 && sum * 20 > (settings->max_ma - own_ma) * 255) {
        violate(in, "%s takes %.1f mA", line_of(in, strip)->name.text, own_ma + sum * 20.0 / 255);
    }
}

void check_devices(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        const char *const name = line_of(in, i)->name.text;
        const drom_stepper_state *const state = plan_output(in->plan, i)->state;
        if (seen->motor != NULL) {
            check_motor(in, i);
        }
        if (seen->stepper != NULL && sim_stepper_lost(seen->stepper) > 0) {
            violate(in, "%s lost %u steps", name, sim_stepper_lost(seen->stepper));
        }
        if (seen->stepper != NULL && in->stopped_us != 0 &&
            state->position != sim_stepper_position(seen->stepper)) {
            violate(in, "%s thinks that it is at %d, and is at %ld", name, (int)state->position,
                    sim_stepper_position(seen->stepper));
        }
        if (in->stopped_us != 0 && has_key_down(in)) {
            violate(in, "a key is down after the stop");
        }
        if (seen->strip != NULL && sim_strip_wrong(seen->strip) > 0) {
            violate(in, "%s showed %u wrong pixels", name, sim_strip_wrong(seen->strip));
        }
    }
}
