/* The simulated chip, observed cycle by cycle: pins by their edges, handlers and polls by the program
 * counter. */
#include "chip.h"

#include "symbols.h"

#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum {
    CAPTURE_VECTOR = 10,
    PIN_CHANGE_VECTOR = 5, /* of port D */
    ALARM_VECTOR = 12,
    VECTOR_BYTES = 4,
    LAST_VECTOR = 26 * VECTOR_BYTES,
    WITHIN_FRAME_CYCLES = 40000, /* for this long after an edge, a frame is still coming in */
    ENTRY_CYCLES = 4,            /* from the flag to the vector: the simulator doesn't count them */
    PAINT = 0xc5,
    ONE_CYCLES = 10,         /* high for longer than 0.6 µs is a one */
    DARK_CYCLES = 40 * 16,   /* a space after this long without carrier */
    OVER_CYCLES = 8000 * 16, /* the end of a burst after this long without carrier */
    MAX_RUNS = 256,
    MAX_OBSERVED = 8,
    MAX_BYTES = 65536,
};

/* A function whose time is measured. */
typedef struct chip_span {
    uint32_t from; /* address */
    bool is_inside;
    uint64_t entered_at;
    uint16_t stack;
    uint64_t worst;
    uint64_t sum; /* of calls that began while a frame came in */
    unsigned count;
} chip_span;

struct chip {
    avr_t *avr;
    elf_firmware_t firmware;
    avr_irq_t *line;
    bool is_other_mark;
    bool is_hearing_itself;
    bool is_line_mark;
    chip_pin strip_pin;
    chip_strip strip;
    chip_picture *picture;
    chip_stepper stepper;
    chip_observed observed[MAX_OBSERVED]; /* the first two are the relays */
    unsigned observed_count;
    chip_pin carrier;
    uint64_t lit_at; /* the newest edge of the carrier */
    bool is_lit;
    uint64_t burst_from;
    uint64_t burst_until;
    double runs_us[MAX_RUNS];
    unsigned runs;
    uint64_t run_from;
    chip_span capture;
    chip_span alarm;
    chip_span poll;
    uint64_t line_changed_at;
    uint16_t static_end;
    uint8_t bytes[MAX_BYTES]; /* from the serial line */
    unsigned byte_count;
    chip_symbols symbols;
};

static uint16_t stack_of(const avr_t *avr)
{
    return (uint16_t)(avr->data[R_SPL] | avr->data[R_SPH] << 8);
}

/* A refresh is over. */
static void check_picture(chip *mcu)
{
    chip_strip *const strip = &mcu->strip;
    if (strip->bits != 24 * CHIP_PIXELS) {
        strip->cut++;
        return;
    }
    strip->refreshes++;
    strip->wrong_pixels += mcu->picture(strip->bytes);
}

static void on_strip(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    chip *const mcu = context;
    chip_strip *const strip = &mcu->strip;
    const uint64_t lasted = mcu->avr->cycle - mcu->strip_pin.changed_at;
    mcu->strip_pin.changed_at = mcu->avr->cycle;
    if (value == 0 && !mcu->strip_pin.is_high) {
        return; /* it became an output */
    }
    mcu->strip_pin.is_high = value != 0;
    if (value != 0) { /* a low is over */
        if (strip->bits > 0 && lasted >= CHIP_LATCH_CYCLES) {
            check_picture(mcu);
            strip->hasty += lasted < CHIP_LATCHED_CYCLES;
            strip->longest_still = lasted > strip->longest_still ? lasted : strip->longest_still;
            strip->bits = 0;
        } else if (strip->bits > 0 && lasted > strip->longest_gap) {
            strip->longest_gap = lasted;
        }
        return;
    }
    if (strip->bits < 24 * CHIP_PIXELS) {
        uint8_t *const byte = &strip->bytes[strip->bits / 8];
        *byte = (uint8_t)(*byte << 1 | (lasted >= ONE_CYCLES));
    }
    strip->bits++;
}

/* Returns the direction of the field of two coils that are on; -1 if they make none. The pins are wired A0,
 * A2, A1, A3. */
static int field(uint8_t levels)
{
    static const uint8_t order[4] = {0, 2, 1, 3};
    for (int phase = 0; phase < 4; phase++) {
        if (levels == (1u << order[phase] | 1u << order[(phase + 1) % 4])) {
            return phase;
        }
    }
    return -1;
}

enum { RAMP_STEPS = 200 };

static void on_coil(chip *mcu, unsigned pin, bool is_high)
{
    chip_stepper *const stepper = &mcu->stepper;
    const uint64_t now = mcu->avr->cycle;
    stepper->levels = (uint8_t)(is_high ? stepper->levels | 1u << pin : stepper->levels & ~(1u << pin));
    const int phase = field(stepper->levels);
    if (phase < 0 || phase == stepper->phase) {
        return;
    }
    if (stepper->phase >= 0) {
        const int change = (phase - stepper->phase + 4) % 4;
        const uint64_t lasted = now - stepper->stepped_at;
        stepper->bad_steps += change == 2;
        stepper->position += change == 3 ? -1 : change;
        stepper->steps++;
        if (stepper->steps > RAMP_STEPS) {
            stepper->shortest =
                stepper->shortest == 0 || lasted < stepper->shortest ? lasted : stepper->shortest;
            stepper->longest = lasted > stepper->longest ? lasted : stepper->longest;
        }
    }
    stepper->phase = phase;
    stepper->stepped_at = now;
}

#define ON_COIL(pin)                                                                                         \
    static void on_coil_##pin(struct avr_irq_t *irq, uint32_t value, void *context)                          \
    {                                                                                                        \
        (void)irq;                                                                                           \
        on_coil(context, pin, value != 0);                                                                   \
    }
ON_COIL(0)
ON_COIL(1)
ON_COIL(2)
ON_COIL(3)

static void on_observed(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    chip_observed *const pin = context;
    const uint64_t now = pin->mcu->avr->cycle;
    if (pin->is_high) {
        pin->high_cycles += now - pin->at[(pin->count - 1) % 64];
    }
    pin->is_high = value != 0;
    pin->at[pin->count++ % 64] = now;
}

static void end_run(chip *mcu, uint64_t at)
{
    if (mcu->runs < MAX_RUNS) {
        mcu->runs_us[mcu->runs++] = (double)(at - mcu->run_from) / 16;
    }
    mcu->run_from = at;
}

static void update_line(chip *mcu)
{
    const bool is_mark = mcu->is_other_mark || (mcu->is_hearing_itself && mcu->is_lit);
    if (is_mark != mcu->is_line_mark) {
        mcu->is_line_mark = is_mark;
        mcu->line_changed_at = mcu->avr->cycle;
        avr_raise_irq(mcu->line, !is_mark);
    }
}

/* Rising edges of the carrier make a mark; a while without one is a space. */
static void on_carrier(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    chip *const mcu = context;
    const uint64_t now = mcu->avr->cycle;
    if (value == 0) { /* the simulator leaves a pin high that is disconnected from its timer, until the port
                         is written */
        return;
    }
    if (!mcu->is_lit) {
        if (mcu->burst_from == 0 || mcu->burst_until != 0) {
            mcu->burst_from = now;
            mcu->burst_until = 0;
            mcu->runs = 0;
            mcu->run_from = now;
        } else {
            end_run(mcu, now);
        }
        mcu->is_lit = true;
    }
    mcu->lit_at = now;
}

static void observe_carrier(chip *mcu)
{
    const uint64_t now = mcu->avr->cycle;
    if (mcu->is_lit && now - mcu->lit_at > DARK_CYCLES) {
        end_run(mcu, mcu->lit_at);
        mcu->is_lit = false;
        update_line(mcu);
    }
    if (!mcu->is_lit && mcu->burst_from != 0 && mcu->burst_until == 0 && now - mcu->lit_at > OVER_CYCLES) {
        mcu->burst_until = mcu->lit_at;
    }
}

/* Returns the address of a variable in the chip's memory, which must have `count` bytes. */
static uint8_t *memory_of(const chip *mcu, const char *name, unsigned count)
{
    const uint32_t address = symbols_address(&mcu->symbols, name);
    if (address == UINT32_MAX || (address & 0xffff) + count > mcu->avr->ramend + 1u) {
        fprintf(stderr, "chip: the program has no variable '%s' of %u bytes\n", name, count);
        exit(1);
    }
    return &mcu->avr->data[address & 0xffff];
}

void chip_read(const chip *mcu, const char *name, void *bytes, unsigned count)
{
    memcpy(bytes, memory_of(mcu, name, count), count);
}

void chip_write(chip *mcu, const char *name, const void *bytes, unsigned count)
{
    memcpy(memory_of(mcu, name, count), bytes, count);
}

static avr_irq_t *pin_of(const chip *mcu, unsigned pin)
{
    const char port = pin < 8 ? 'D' : pin < 14 ? 'B' : 'C';
    const unsigned bit = pin < 8 ? pin : pin < 14 ? pin - 8 : pin - 14;
    return avr_io_getirq(mcu->avr, AVR_IOCTL_IOPORT_GETIRQ(port), (int)bit);
}

chip_observed *chip_observe_pin(chip *mcu, unsigned pin)
{
    if (mcu->observed_count == MAX_OBSERVED) {
        fprintf(stderr, "chip: more than %d pins to observe\n", MAX_OBSERVED);
        exit(1);
    }
    chip_observed *const observer = &mcu->observed[mcu->observed_count++];
    observer->mcu = mcu;
    avr_irq_register_notify(pin_of(mcu, pin), on_observed, observer);
    return observer;
}

static void on_byte(struct avr_irq_t *irq, uint32_t value, void *context)
{
    chip *const mcu = context;
    (void)irq;
    if (mcu->byte_count < MAX_BYTES) {
        mcu->bytes[mcu->byte_count++] = (uint8_t)value;
    }
}

static void open_serial(chip *mcu)
{
    uint32_t flags = 0;
    (void)avr_ioctl(mcu->avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= (uint32_t) ~(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POOL_SLEEP);
    (void)avr_ioctl(mcu->avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(mcu->avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), on_byte,
                            mcu);
}

unsigned chip_take_bytes(chip *mcu, uint8_t *bytes, unsigned max)
{
    const unsigned count = mcu->byte_count < max ? mcu->byte_count : max;
    memcpy(bytes, mcu->bytes, count);
    memmove(mcu->bytes, mcu->bytes + count, mcu->byte_count - count);
    mcu->byte_count -= count;
    return count;
}

/* A sleeping chip costs no time of the host. */
static void sleep_at_once(avr_t *avr, avr_cycle_count_t cycles)
{
    (void)avr;
    (void)cycles;
}

chip *chip_open(const char *elf, unsigned receiver, unsigned relay_a, unsigned relay_b, chip_picture *picture)
{
    chip *const mcu = calloc(1, sizeof *mcu);
    if (mcu == NULL || elf_read_firmware(elf, &mcu->firmware) != 0 ||
        (mcu->avr = avr_make_mcu_by_name("atmega328p")) == NULL) {
        fprintf(stderr, "chip: %s can't be loaded\n", elf);
        exit(1);
    }
    mcu->picture = picture;
    avr_init(mcu->avr);
    mcu->avr->sleep = sleep_at_once;
    mcu->avr->log = LOG_NONE;
    mcu->avr->frequency = 16000000;
    avr_load_firmware(mcu->avr, &mcu->firmware);
    symbols_read(&mcu->symbols, elf);
    mcu->line = pin_of(mcu, receiver);
    avr_raise_irq(mcu->line, 1);
    avr_irq_register_notify(pin_of(mcu, 6), on_strip, mcu);
    avr_irq_register_notify(pin_of(mcu, 3), on_carrier, mcu);
    avr_irq_register_notify(pin_of(mcu, 14), on_coil_0, mcu);
    avr_irq_register_notify(pin_of(mcu, 15), on_coil_1, mcu);
    avr_irq_register_notify(pin_of(mcu, 16), on_coil_2, mcu);
    avr_irq_register_notify(pin_of(mcu, 17), on_coil_3, mcu);
    (void)chip_observe_pin(mcu, relay_a);
    (void)chip_observe_pin(mcu, relay_b);
    open_serial(mcu);
    mcu->stepper.phase = -1;
    mcu->capture.from = (receiver == 8 ? CAPTURE_VECTOR : PIN_CHANGE_VECTOR) * VECTOR_BYTES;
    mcu->alarm.from = ALARM_VECTOR * VECTOR_BYTES;
    mcu->poll.from = symbols_address(&mcu->symbols, "drom_engine_poll");
    const uint32_t end = symbols_address(&mcu->symbols, "__bss_end");
    mcu->static_end = (uint16_t)(end & 0xffff);
    for (uint32_t i = mcu->static_end; end != UINT32_MAX && i <= mcu->avr->ramend; i++) {
        mcu->avr->data[i] = PAINT;
    }
    return mcu;
}

void chip_close(chip *unwanted)
{
    avr_terminate(unwanted->avr);
    free(unwanted);
}

void chip_set_line(chip *mcu, bool is_mark)
{
    mcu->is_other_mark = is_mark;
    update_line(mcu);
}

void chip_touch(chip *mcu, unsigned pin, bool is_closed)
{
    avr_raise_irq(pin_of(mcu, pin), is_closed ? 0 : 1);
}

void chip_hear_itself(chip *mcu, bool is_hearing)
{
    mcu->is_hearing_itself = is_hearing;
}

/* A handler has ended when interrupts are enabled again; a function, when its return address is off the
 * stack. */
static void observe_span(chip_span *span, const avr_t *avr, bool is_handler, bool is_counted)
{
    if (!span->is_inside) {
        if (avr->pc == span->from) {
            span->is_inside = true;
            span->entered_at = avr->cycle;
            span->stack = stack_of(avr);
        }
        return;
    }
    if (is_handler ? avr->sreg[S_I] != 0 : stack_of(avr) > span->stack) {
        const uint64_t lasted = avr->cycle - span->entered_at + (is_handler ? ENTRY_CYCLES : 0);
        span->worst = lasted > span->worst ? lasted : span->worst;
        span->sum += is_counted ? lasted : 0;
        span->count += is_counted;
        span->is_inside = false;
    }
}

/* A sleeping chip would go on to its next interrupt. */
static avr_cycle_count_t end_sleep(avr_t *avr, avr_cycle_count_t when, void *param)
{
    (void)avr;
    (void)when;
    (void)param;
    return 0;
}

void chip_run(chip *mcu, uint64_t until)
{
    avr_t *const avr = mcu->avr;
    if (until > avr->cycle) {
        avr_cycle_timer_register(avr, until - avr->cycle, end_sleep, NULL);
    }
    while (avr->cycle < until && chip_is_alive(mcu)) {
        (void)avr_run(avr);
        if (avr->pc < LAST_VECTOR || mcu->capture.is_inside ||
            mcu->alarm.is_inside) { /* rare, and this loop is hot */
            observe_span(&mcu->capture, avr, true, false);
            observe_span(&mcu->alarm, avr, true, false);
        }
        if (avr->pc == mcu->poll.from || mcu->poll.is_inside) {
            observe_span(&mcu->poll, avr, false, avr->cycle - mcu->line_changed_at < WITHIN_FRAME_CYCLES);
        }
        if (mcu->burst_from != 0) {
            observe_carrier(mcu);
            update_line(mcu);
        }
    }
}

uint64_t chip_now(const chip *mcu)
{
    return mcu->avr->cycle;
}

bool chip_is_alive(const chip *mcu)
{
    return mcu->avr->state != cpu_Done && mcu->avr->state != cpu_Crashed;
}

const chip_strip *chip_strip_of(const chip *mcu)
{
    return &mcu->strip;
}

const chip_stepper *chip_stepper_of(const chip *mcu)
{
    return &mcu->stepper;
}

chip_observed *chip_relay_of(chip *mcu, unsigned relay)
{
    return &mcu->observed[relay];
}

uint64_t chip_burst_from(const chip *mcu)
{
    return mcu->burst_from;
}

uint64_t chip_lit_at(const chip *mcu)
{
    return mcu->lit_at;
}

uint64_t chip_burst_until(const chip *mcu)
{
    return mcu->burst_until;
}

unsigned chip_take_burst(chip *mcu, double *runs_us, unsigned max)
{
    if (mcu->burst_until == 0 || mcu->runs == 0) {
        return 0;
    }
    const unsigned count = mcu->runs < max ? mcu->runs : max;
    memcpy(runs_us, mcu->runs_us, count * sizeof *runs_us);
    mcu->runs = 0;
    return count;
}

uint64_t chip_worst_capture(const chip *mcu)
{
    return mcu->capture.worst;
}

uint64_t chip_worst_poll(const chip *mcu)
{
    return mcu->poll.worst;
}

double chip_mean_poll(const chip *mcu)
{
    return mcu->poll.count > 0 ? (double)mcu->poll.sum / mcu->poll.count : 0;
}

uint64_t chip_worst_alarm(const chip *mcu)
{
    return mcu->alarm.worst;
}

unsigned chip_deepest_stack(const chip *mcu)
{
    uint32_t lowest = mcu->static_end;
    while (lowest <= mcu->avr->ramend && mcu->avr->data[lowest] == PAINT) {
        lowest++;
    }
    return mcu->avr->ramend + 1u - lowest;
}

unsigned chip_flash(const chip *mcu)
{
    return mcu->firmware.flashsize;
}

unsigned chip_static(const chip *mcu)
{
    return mcu->static_end - 0x100u;
}

unsigned chip_size_of(const chip *mcu, const char *prefix)
{
    return symbols_size(&mcu->symbols, prefix);
}
