/* Violations, whatever the plan, the presses and own code are. */
#include "watch.h"
#include "dromikos/outputs/keyboard.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/servo.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"
#include "dromikos/internal/kept.h"

#include <math.h>

/* The largest delay of an engine that handles each thing in its turn. */
enum { TURN_US = 20000, CLOCK_US = 1 };

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

double late_us(const check_run *in)
{
    return in->plan->source->own_blocks_ms * 1e3 + in->hung_us + in->run->processor.poll_us;
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

/* True if a key of the computer is down. */
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
        const char *const name = name_of(in, i);
        const drom_output_kind *const kind = kind_of(in, i);
        if (kind == &drom_relay && is_driven_at_pins(in, i) != relay_of(in, i)->rests_on) {
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
        } else if (kind == &drom_servo &&
                   sim_bench_is_high(
                       in->bench, ((const drom_servo_settings *)plan_output(in->plan, i)->settings)->pin)) {
            violate(in, "the pin of %s is high after the stop", name);
        } else if (kind == &drom_stepper && !in->was_cut &&
                   ((const drom_stepper_state *)plan_output(in->plan, i)->state)->position !=
                       sim_stepper_position(seen->stepper) - seen->born_at) {
            violate(in, "%s thinks that it is at %d, and is at %ld", name,
                    (int)((const drom_stepper_state *)plan_output(in->plan, i)->state)->position,
                    sim_stepper_position(seen->stepper) - seen->born_at);
        }
    }
    if (has_key_down(in)) {
        violate(in, "a key is down after the stop");
    }
}

/* If a refresh goes out in one piece with interrupts off, a strip waits for silence, and for steppers to
 * stand; else for those that are too fast to be made ahead for a whole refresh. vet reports both. */
static bool may_wait(const check_run *in, unsigned strip)
{
    enum { AIR_US = 300000 /* the longest period of a frame */, PIXEL_US = 32, MAIN_US = 1500 };
    const bool is_masked = in->run->processor.pixels == SIM_PIXELS_MASKED;
    double steps_us = 0;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drom_stepper_settings *const stepper = plan_output(in->plan, i)->settings;
        const bool turns = in->outputs[i].stepper != NULL && in->outputs[i].has_changed;
        steps_us += turns ? 1.0 / stepper->fastest_us : 0;
    }
    return (is_masked && (steps_us > 0 || in->run->noise != SIM_NOISES ||
                          sim_bench_now(in->bench) < in->pressed_us + AIR_US)) ||
           (pixels_of(in, strip) * PIXEL_US + MAIN_US) * steps_us > DROM_TIMED_EDGES - 1;
}

/* Long after the last key was released. */
void check_let_go(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        const uint64_t now_us = sim_bench_now(in->bench);
        if (!seen->is_only_held) {
            continue;
        }
        const drom_output_kind *const kind = kind_of(in, i);
        const bool rests_on = kind == &drom_relay && relay_of(in, i)->rests_on;
        if ((kind == &drom_relay && seen->is_on && !rests_on) || (kind == &drom_lamp && seen->is_on) ||
            (kind == &drom_strip && !is_dark(seen->strip, pixels_of(in, i)) && !may_wait(in, i)) ||
            (kind == &drom_stepper && now_us - seen->changed_us < 1000 * MS && seen->has_changed) ||
            (kind == &drom_motor && motor_drive(in, i) != 0) ||
            (kind == &drom_keyboard && has_key_down(in)) ||
            (kind == &drom_sender && seen->lit_us + 1000 * MS > now_us)) {
            violate(in, "%s goes on though its key was let go", name_of(in, i));
        }
    }
}

/* A key counts as released when its frames have stopped, whatever else happens. */
static void check_release(check_run *in)
{
    enum { SOON_US = 900000 }; /* twice the longest period of a protocol, and a frame that covers repeats */
    const uint64_t now_us = sim_bench_now(in->bench);
    if (in->run->noise == SIM_NOISES && in->presses != in->releases &&
        (double)now_us > (double)in->pressed_us + SOON_US + late_us(in)) {
        violate(in, "%u keys were pressed and %u released", in->presses, in->releases);
    }
}

/* States that destroy a bridge, as far as a clock of whole µs shows them; and its longest run, with the
 * delays of a busy engine. */
static void check_motor(check_run *in, unsigned output)
{
    const drom_motor_settings *const settings = plan_output(in->plan, output)->settings;
    const sim_motion motion = sim_motor_motion(in->outputs[output].motor);
    if (motion.shorts > 0) {
        violate(in, "both sides of the bridge of %s were on", name_of(in, output));
    } else if (motion.nearest_us < settings->dead_ms * 1000.0 - CLOCK_US) {
        violate(in, "%s turned round after %.0f us", name_of(in, output), motion.nearest_us);
    } else if (settings->max_ms > 0 &&
               motion.longest_us > settings->max_ms * 1000.0 + TURN_US + late_us(in)) {
        violate(in, "%s ran for %.0f us", name_of(in, output), motion.longest_us);
    }
}

/* The output of an interlock that was driven last must have been at rest for the pause. */
static void check_pause(check_run *in, const drom_interlock *interlock, uint8_t row)
{
    const uint64_t now_us = sim_bench_now(in->bench);
    for (uint8_t i = 0; i < interlock->outputs.count; i++) {
        const uint8_t other = interlock->outputs.rows[i];
        const seen_output *const seen = &in->outputs[other];
        if (other != row && seen->was_driven && !seen->is_driven &&
            now_us - seen->rested_us + CLOCK_US < interlock->pause_ms * UINT64_C(1000)) {
            violate(in, "%s is on %.3f ms after %s, and the pause is %u ms", name_of(in, row),
                    (double)(now_us - seen->rested_us) / 1e3, name_of(in, other),
                    (unsigned)interlock->pause_ms);
        }
    }
}

/* At most one output of an interlock is driven. */
void check_interlocks(check_run *in)
{
    const drom_outputs_plan *const outputs = &plan_tables(in->plan)->outputs;
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        const drom_interlock *const interlock = &outputs->interlocks.rows[i];
        unsigned driven = 0;
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            const uint8_t row = interlock->outputs.rows[j];
            seen_output *const seen = &in->outputs[row];
            const bool is_driven = is_driven_at_pins(in, row);
            if (is_driven && !seen->is_driven) {
                check_pause(in, interlock, row);
            } else if (!is_driven && seen->is_driven) {
                seen->rested_us = sim_bench_now(in->bench);
                seen->was_driven = true;
            }
            seen->is_driven = is_driven;
            driven += is_driven;
        }
        if (driven > 1) {
            violate(in, "%u are on, of which only one may be", driven);
        }
    }
}

static bool has_other_edges(const check_run *in)
{
    bool has = false;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        has |= kind_of(in, i) == &drom_stepper || kind_of(in, i) == &drom_sender;
    }
    return has;
}

/* A pulse has the plan's width, except for delays of the alarm, and comes at least a period after the one
 * before. While a strip is refreshed, edges of the receiver precede it, one per pixel; and if steps or bursts
 * fill the ring of timed edges, its end may have to wait for main. A stop may cut a pulse short. */
void check_pulse(check_run *in, unsigned servo, bool is_high)
{
    enum { PERIOD_US = 20000, ALARM_US = 100, NOISY_US = 400 };
    const drom_servo_settings *const settings = plan_output(in->plan, servo)->settings;
    seen_output *const seen = &in->outputs[servo];
    const uint64_t now_us = sim_bench_now(in->bench);
    const double since_us = (double)(now_us - seen->rose_us);
    const double off_us = (in->run->noise == SIM_NOISES ? ALARM_US : NOISY_US) +
                          in->plan->source->own_masks_us + (has_other_edges(in) ? late_us(in) : 0);
    if (seen->rose_us == 0 || in->is_stopping) {
        seen->rose_us = is_high ? now_us : 0;
    } else if (is_high) {
        if (since_us < PERIOD_US - off_us) {
            violate(in, "a pulse of %s comes %.0f us after the one before", name_of(in, servo), since_us);
        }
        seen->rose_us = now_us;
    } else if (since_us < MIN(settings->min_us, settings->max_us) - off_us ||
               since_us > MAX(settings->min_us, settings->max_us) + off_us) {
        violate(in, "a pulse of %s is %.0f us wide", name_of(in, servo), since_us);
    }
}

/* Returns how long a switch has been closed. */
static uint64_t closed_for_us(const check_run *in, uint8_t pin)
{
    const GArray *const touches = in->run->touches;
    const uint64_t now_us = sim_bench_now(in->bench);
    uint64_t closed_us = 0;
    for (guint i = 0; touches != NULL && i < touches->len; i++) {
        const life_touch *const touch = &g_array_index(touches, life_touch, i);
        const uint64_t at_us = touch->at_ms * UINT64_C(1000);
        if (touch->pin == pin && in->homes[pin] == 0 && at_us <= now_us) {
            closed_us = touch->is_closed ? now_us - at_us : 0;
        }
    }
    return closed_us;
}

/* The pin of a motor's switch; -1: it has none. */
static int end_pin(const check_run *in, const bool *is_closed)
{
    const drom_contacts_plan *const contacts = &plan_tables(in->plan)->contacts;
    int found = -1;
    for (uint8_t i = 0; i < contacts->contacts.count && is_closed != NULL; i++) {
        found = &contacts->touches[i].is_closed == is_closed ? contacts->contacts.rows[i].pin : found;
    }
    return found;
}

/* A motor stands, or runs the other way, 20 ms after the switch of that end has closed, which bounces for 11
 * ms. A refresh that is under way comes first. */
static void check_ends(check_run *in, unsigned output)
{
    enum { BOUNCES_US = 11000, STRIP_US = 4000 };
    const drom_motor_settings *const motor = plan_output(in->plan, output)->settings;
    const double soon_us = BOUNCES_US + TURN_US + STRIP_US + late_us(in);
    const int drive = motor_drive(in, output);
    const int pin = drive == 0 ? -1 : end_pin(in, drive > 0 ? motor->stops_forward : motor->stops_back);
    if (pin >= 0 && (double)closed_for_us(in, (uint8_t)pin) > soon_us &&
        (double)(sim_bench_now(in->bench) - in->born_us) > soon_us) {
        violate(in, "%s is driven on at its switch", name_of(in, output));
    }
}

static void check_relay(check_run *in, unsigned output)
{
    const seen_output *const seen = &in->outputs[output];
    const uint32_t max_ms = relay_of(in, output)->max_on_ms;
    const double lasted_us = (double)(sim_bench_now(in->bench) - seen->changed_us);
    if (max_ms > 0 && seen->is_on && lasted_us > max_ms * 1e3 + TURN_US + late_us(in)) {
        violate(in, "%s is on for %.1f ms, which may be %u", name_of(in, output), lasted_us / 1e3, max_ms);
    }
}

/* A strip shows its picture within a second, whatever the others do. */
static void check_strip(check_run *in, unsigned output)
{
    enum { LONG_US = 1000000 };
    const drom_strip_state *const state = plan_output(in->plan, output)->state;
    seen_output *const seen = &in->outputs[output];
    const uint64_t now_us = sim_bench_now(in->bench);
    if (state->is_sent || may_wait(in, output)) {
        seen->sent_us = now_us;
    } else if ((double)(now_us - seen->sent_us) > LONG_US + late_us(in)) {
        violate(in, "%s has waited for a refresh since %.3f s", name_of(in, output),
                (double)seen->sent_us / 1e6);
    }
}

/* Home is the first place before the switch at which its coils are as they were at 0. */
static void check_came_home(check_run *in, unsigned output)
{
    const drom_stepper_state *const state = plan_output(in->plan, output)->state;
    seen_output *const seen = &in->outputs[output];
    const bool has_ended = seen->was_homing && state->homing == 0 && !state->is_moving;
    const long at = sim_stepper_position(seen->stepper);
    const long before = at - sim_stepper_home(seen->stepper);
    seen->was_homing = state->homing != 0;
    if (!has_ended || state->position != 0 || at == seen->born_at) {
        return;
    }
    if ((before < 1 || before > 4) && in->homes[seen->home_pin] == 1 &&
        sim_stepper_lost(seen->stepper) == seen->born_lost) {
        violate(in, "%s calls home what is %ld steps before its switch", name_of(in, output), before);
    }
    seen->born_at = at;
}

/* On its way home a stepper passes its switch, or its start if that is behind the switch, by no more than it
 * needs to see the switch and to brake. */
static void check_home(check_run *in, unsigned output)
{
    enum { SEEN_US = 40000, STEPS = 4 };
    const drom_stepper_settings *const settings = plan_output(in->plan, output)->settings;
    const drom_stepper_state *const state = plan_output(in->plan, output)->state;
    seen_output *const seen = &in->outputs[output];
    const long past = sim_stepper_home(seen->stepper) - sim_stepper_position(seen->stepper);
    const double speed = 1e6 / settings->fastest_us;
    const double first_s = settings->first_us / 1e6;
    const double brakes = speed * speed * first_s * first_s / 4;
    const double may = speed * (SEEN_US + late_us(in)) / 1e6 + brakes + STEPS;
    if (state->homing == 0) {
        seen->past = MAX(past, 0);
    } else if (settings->home != NULL && (double)(past - seen->past) > may) {
        violate(in, "%s is %ld steps past its switch on its way home, and was %ld", name_of(in, output), past,
                seen->past);
    }
}

static void check_values(check_run *in)
{
    const drom_rules_plan *const rules = &plan_tables(in->plan)->rules;
    for (uint8_t i = 0; i < rules->values.count; i++) {
        const drom_value *const value = &rules->values.rows[i];
        if (rules->numbers[i] < value->min || rules->numbers[i] > value->max) {
            violate(in, "value %u is %d, beyond its limits", i, rules->numbers[i]);
        }
    }
}

/* Notes the kept values. */
static void note_kept(check_run *in)
{
    const drom_plan *const tables = plan_tables(in->plan);
    kept_row row = {.from_us = sim_bench_now(in->bench)};
    bool has_changed = in->kept->len == 0;
    const kept_row *const last =
        in->kept->len > 0 ? &g_array_index(in->kept, kept_row, in->kept->len - 1) : &row;
    for (uint8_t i = 0; i < tables->kept.values.count && i < MAX_KEPT; i++) {
        row.numbers[i] = tables->rules.numbers[tables->kept.values.rows[i]];
        has_changed |= row.numbers[i] != last->numbers[i];
    }
    if (has_changed) {
        g_array_append_val(in->kept, row);
    }
}

/* Restored values are those of some time in the last 5 s; after a stop, the last ones. */
void check_kept(check_run *in, bool was_stopped)
{
    const drom_plan *const tables = plan_tables(in->plan);
    const double lost_us = was_stopped ? 0 : DROM_KEPT_AFTER_US + 100000 + late_us(in);
    const double now_us = (double)sim_bench_now(in->bench);
    bool is_known = tables->kept.values.count == 0 || in->kept->len == 0;
    for (guint i = 0; i < in->kept->len && !is_known; i++) {
        const kept_row *const row = &g_array_index(in->kept, kept_row, i);
        const double until_us =
            i + 1 < in->kept->len ? (double)g_array_index(in->kept, kept_row, i + 1).from_us : INFINITY;
        is_known = until_us >= now_us - lost_us;
        for (uint8_t j = 0; j < tables->kept.values.count && j < MAX_KEPT; j++) {
            is_known &= row->numbers[j] == tables->rules.numbers[tables->kept.values.rows[j]];
        }
    }
    if (!is_known) {
        violate(in, "the values that are kept are none that there were");
    }
}

void look_at_all(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan) && in->stopped_us == 0; i++) {
        const drom_output_kind *const kind = kind_of(in, i);
        if (kind == &drom_motor) {
            check_ends(in, i);
        } else if (kind == &drom_relay) {
            check_relay(in, i);
        } else if (kind == &drom_strip) {
            check_strip(in, i);
        } else if (kind == &drom_stepper) {
            if (in->homes[in->outputs[i].home_pin] == 1) { /* else another stepper may close its contact */
                check_home(in, i);
            }
            check_came_home(in, i);
        }
    }
    if (in->stopped_us == 0) {
        check_values(in);
        check_release(in);
        note_kept(in);
    }
}

/* With 20 mA per colour and 1 mA per dark pixel. */
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
        violate(in, "%s takes %.1f mA", name_of(in, strip), own_ma + sum * 20.0 / 255);
    }
}

void check_posts(check_run *in)
{
    if (in->posted != in->came) {
        violate(in, "%u events were posted, and %u came", (unsigned)in->posted, (unsigned)in->came);
    }
}

/* True if a step may be too late for the motor, since it is too fast or interrupts are off for too long: vet
 * reports it. */
static bool may_lose(const check_run *in, unsigned stepper)
{
    enum { ALARM_US = 75, NOISY_US = 300 };
    const drom_stepper_settings *const settings = plan_output(in->plan, stepper)->settings;
    return settings->fastest_us <
           4 * (in->plan->source->own_masks_us + (in->run->noise == SIM_NOISES ? ALARM_US : NOISY_US));
}

void check_devices(check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const seen_output *const seen = &in->outputs[i];
        if (seen->motor != NULL) {
            check_motor(in, i);
        }
        if (seen->stepper != NULL && !in->was_cut && in->hung_us == 0 && !may_lose(in, i) &&
            sim_stepper_lost(seen->stepper) > seen->born_lost) {
            violate(in, "%s lost %u steps", name_of(in, i), sim_stepper_lost(seen->stepper));
        }
        if (seen->strip != NULL && sim_strip_wrong(seen->strip) > 0) {
            violate(in, "%s showed %u wrong pixels", name_of(in, i), sim_strip_wrong(seen->strip));
        }
    }
}
