/* The simulated chip, watched cycle by cycle: pins by their edges, handlers and polls by where the program
 * is. */
#include "chip.h"

#include <simavr/avr_ioport.h>
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
    WITHIN_FRAME_CYCLES = 40000, /* after an edge the frame is still coming in */
    ENTRY_CYCLES = 4,            /* from the flag to the vector: the simulator doesn't count them */
    PAINT = 0xc5,
    ONE_CYCLES = 10,         /* high for longer than 0.6 µs is a one */
    DARK_CYCLES = 40 * 16,   /* without carrier for so long is a space */
    OVER_CYCLES = 8000 * 16, /* and for so long the end of a burst */
    MOST_RUNS = 256,
    MOST_SYMBOLS = 2000,
};

/* A function whose time is measured. */
typedef struct chip_span {
    uint32_t from; /* address */
    bool is_inside;
    uint64_t entered_at;
    uint16_t stack;
    uint64_t worst;
    uint64_t sum; /* of those that began while a frame came in */
    unsigned count;
} chip_span;

typedef struct chip_symbol {
    char name[64];
    uint32_t address;
    uint32_t size;
} chip_symbol;

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
    chip_relay relays[2];
    unsigned relay_bits[2];
    chip_pin carrier;
    uint64_t lit_at; /* the newest edge of the carrier */
    bool is_lit;
    uint64_t burst_from;
    uint64_t burst_until;
    double runs_us[MOST_RUNS];
    unsigned runs;
    uint64_t run_from;
    chip_span capture;
    chip_span alarm;
    chip_span poll;
    uint64_t line_changed_at;
    uint16_t static_end;
    chip_symbol symbols[MOST_SYMBOLS];
    unsigned symbol_count;
};

static uint16_t stack_of(const avr_t *avr)
{
    return (uint16_t)(avr->data[R_SPL] | avr->data[R_SPH] << 8);
}

/* A refresh is over. */
static void check_picture(chip *of)
{
    chip_strip *const strip = &of->strip;
    if (strip->bits != 24 * CHIP_PIXELS) {
        strip->cut++;
        return;
    }
    strip->refreshes++;
    strip->wrong_pixels += of->picture(strip->bytes);
}

static void on_strip(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    chip *const of = context;
    chip_strip *const strip = &of->strip;
    const uint64_t lasted = of->avr->cycle - of->strip_pin.changed_at;
    of->strip_pin.changed_at = of->avr->cycle;
    if (value == 0 && !of->strip_pin.is_high) {
        return; /* it became an output */
    }
    of->strip_pin.is_high = value != 0;
    if (value != 0) { /* a low is over */
        if (strip->bits > 0 && lasted >= CHIP_LATCH_CYCLES) {
            check_picture(of);
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

/* Where the field of two coils that are on points; -1 when they make none. The pins are wired A0, A2, A1, A3.
 */
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

static void on_coil(chip *of, unsigned pin, bool is_high)
{
    chip_stepper *const stepper = &of->stepper;
    const uint64_t now = of->avr->cycle;
    stepper->levels = (uint8_t)(is_high ? stepper->levels | 1u << pin : stepper->levels & ~(1u << pin));
    const int phase = field(stepper->levels);
    if (phase < 0 || phase == stepper->phase) {
        return;
    }
    if (stepper->phase >= 0) {
        const int by = (phase - stepper->phase + 4) % 4;
        const uint64_t lasted = now - stepper->stepped_at;
        stepper->bad_steps += by != 1;
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

static void note_switched(chip *of, unsigned relay)
{
    chip_relay *const to = &of->relays[relay];
    to->at[to->count++ % 64] = of->avr->cycle;
}

static void on_relay_0(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    (void)value;
    note_switched(context, 0);
}

static void on_relay_1(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    (void)value;
    note_switched(context, 1);
}

static void end_run(chip *of, uint64_t at)
{
    if (of->runs < MOST_RUNS) {
        of->runs_us[of->runs++] = (double)(at - of->run_from) / 16;
    }
    of->run_from = at;
}

static void update_line(chip *of)
{
    const bool is_mark = of->is_other_mark || (of->is_hearing_itself && of->is_lit);
    if (is_mark != of->is_line_mark) {
        of->is_line_mark = is_mark;
        of->line_changed_at = of->avr->cycle;
        avr_raise_irq(of->line, !is_mark);
    }
}

/* Rising edges of the carrier make a mark; what hasn't had one for a while is a space. */
static void on_carrier(struct avr_irq_t *irq, uint32_t value, void *context)
{
    (void)irq;
    chip *const of = context;
    const uint64_t now = of->avr->cycle;
    if (value ==
        0) { /* the simulator leaves a pin high that is taken off its timer, until the port is written */
        return;
    }
    if (!of->is_lit) {
        if (of->burst_from == 0 || of->burst_until != 0) {
            of->burst_from = now;
            of->burst_until = 0;
            of->runs = 0;
            of->run_from = now;
        } else {
            end_run(of, now);
        }
        of->is_lit = true;
    }
    of->lit_at = now;
}

static void watch_carrier(chip *of)
{
    const uint64_t now = of->avr->cycle;
    if (of->is_lit && now - of->lit_at > DARK_CYCLES) {
        end_run(of, of->lit_at);
        of->is_lit = false;
        update_line(of);
    }
    if (!of->is_lit && of->burst_from != 0 && of->burst_until == 0 && now - of->lit_at > OVER_CYCLES) {
        of->burst_until = of->lit_at;
    }
}

/* Symbols come from a file beside the program, a line each as 'avr-nm -P -t x' writes them: name, kind,
 * address, size. */
static void read_symbols(chip *of, const char *elf)
{
    char path[512];
    char line[256];
    (void)snprintf(path, sizeof path, "%s.nm", elf);
    FILE *const names = fopen(path, "r");
    if (names == NULL) {
        fprintf(stderr, "chip: there is no %s; write it with: avr-nm -P -t x %s >%s\n", path, elf, path);
        exit(1);
    }
    while (of->symbol_count < MOST_SYMBOLS && fgets(line, sizeof line, names) != NULL) {
        chip_symbol *const symbol = &of->symbols[of->symbol_count];
        char *at = strchr(line, ' ');
        if (at == NULL || strlen(at) < 4) {
            continue;
        }
        (void)snprintf(symbol->name, sizeof symbol->name, "%.*s", (int)(at - line), line);
        symbol->address = (uint32_t)strtoul(at + 3, &at, 16); /* past the kind */
        symbol->size = (uint32_t)strtoul(at, NULL, 16);
        of->symbol_count++;
    }
    (void)fclose(names);
}

static uint32_t address_of(const chip *of, const char *name)
{
    for (unsigned i = 0; i < of->symbol_count; i++) {
        if (strcmp(of->symbols[i].name, name) == 0) {
            return of->symbols[i].address;
        }
    }
    return UINT32_MAX;
}

static void watch_pin(chip *of, char port, unsigned bit, avr_irq_notify_t notify)
{
    avr_irq_register_notify(avr_io_getirq(of->avr, AVR_IOCTL_IOPORT_GETIRQ(port), (int)bit), notify, of);
}

chip *chip_open(const char *elf, unsigned receiver, unsigned relay_a, unsigned relay_b, chip_picture *picture)
{
    chip *const of = calloc(1, sizeof *of);
    if (of == NULL || elf_read_firmware(elf, &of->firmware) != 0 ||
        (of->avr = avr_make_mcu_by_name("atmega328p")) == NULL) {
        fprintf(stderr, "chip: %s can't be loaded\n", elf);
        exit(1);
    }
    of->picture = picture;
    avr_init(of->avr);
    of->avr->log = LOG_NONE;
    of->avr->frequency = 16000000;
    avr_load_firmware(of->avr, &of->firmware);
    read_symbols(of, elf);
    of->line = receiver == 8 ? avr_io_getirq(of->avr, AVR_IOCTL_IOPORT_GETIRQ('B'), 0)
                             : avr_io_getirq(of->avr, AVR_IOCTL_IOPORT_GETIRQ('D'), (int)receiver);
    avr_raise_irq(of->line, 1);
    watch_pin(of, 'D', 6, on_strip);
    watch_pin(of, 'D', 3, on_carrier);
    watch_pin(of, 'C', 0, on_coil_0);
    watch_pin(of, 'C', 1, on_coil_1);
    watch_pin(of, 'C', 2, on_coil_2);
    watch_pin(of, 'C', 3, on_coil_3);
    watch_pin(of, 'D', relay_a, on_relay_0);
    watch_pin(of, 'D', relay_b, on_relay_1);
    of->stepper.phase = -1;
    of->capture.from = (receiver == 8 ? CAPTURE_VECTOR : PIN_CHANGE_VECTOR) * VECTOR_BYTES;
    of->alarm.from = ALARM_VECTOR * VECTOR_BYTES;
    of->poll.from = address_of(of, "drom_engine_poll");
    const uint32_t end = address_of(of, "__bss_end");
    of->static_end = (uint16_t)(end & 0xffff);
    for (uint32_t i = of->static_end; end != UINT32_MAX && i <= of->avr->ramend; i++) {
        of->avr->data[i] = PAINT;
    }
    return of;
}

void chip_close(chip *unwanted)
{
    avr_terminate(unwanted->avr);
    free(unwanted);
}

void chip_set_line(chip *of, bool is_mark)
{
    of->is_other_mark = is_mark;
    update_line(of);
}

void chip_hear_itself(chip *of, bool is_hearing)
{
    of->is_hearing_itself = is_hearing;
}

/* A handler is over when interrupts are open again; a function, when its return address is off the stack. */
static void watch_span(chip_span *span, const avr_t *avr, bool is_handler, bool is_counted)
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

void chip_run(chip *of, uint64_t until)
{
    avr_t *const avr = of->avr;
    while (avr->cycle < until && chip_is_alive(of)) {
        (void)avr_run(avr);
        if (avr->pc < LAST_VECTOR || of->capture.is_inside ||
            of->alarm.is_inside) { /* seldom, and this loop is hot */
            watch_span(&of->capture, avr, true, false);
            watch_span(&of->alarm, avr, true, false);
        }
        if (avr->pc == of->poll.from || of->poll.is_inside) {
            watch_span(&of->poll, avr, false, avr->cycle - of->line_changed_at < WITHIN_FRAME_CYCLES);
        }
        if (of->burst_from != 0) {
            watch_carrier(of);
            update_line(of);
        }
    }
}

uint64_t chip_now(const chip *of)
{
    return of->avr->cycle;
}

bool chip_is_alive(const chip *of)
{
    return of->avr->state != cpu_Done && of->avr->state != cpu_Crashed;
}

const chip_strip *chip_strip_of(const chip *of)
{
    return &of->strip;
}

const chip_stepper *chip_stepper_of(const chip *of)
{
    return &of->stepper;
}

chip_relay *chip_relay_of(chip *of, unsigned relay)
{
    return &of->relays[relay];
}

uint64_t chip_burst_from(const chip *of)
{
    return of->burst_from;
}

uint64_t chip_burst_until(const chip *of)
{
    return of->burst_until;
}

unsigned chip_take_burst(chip *of, double *runs_us, unsigned most)
{
    if (of->burst_until == 0 || of->runs == 0) {
        return 0;
    }
    const unsigned count = of->runs < most ? of->runs : most;
    memcpy(runs_us, of->runs_us, count * sizeof *runs_us);
    of->runs = 0;
    return count;
}

uint64_t chip_worst_capture(const chip *of)
{
    return of->capture.worst;
}

uint64_t chip_worst_poll(const chip *of)
{
    return of->poll.worst;
}

double chip_mean_poll(const chip *of)
{
    return of->poll.count > 0 ? (double)of->poll.sum / of->poll.count : 0;
}

uint64_t chip_worst_alarm(const chip *of)
{
    return of->alarm.worst;
}

unsigned chip_deepest_stack(const chip *of)
{
    uint32_t lowest = of->static_end;
    while (lowest <= of->avr->ramend && of->avr->data[lowest] == PAINT) {
        lowest++;
    }
    return of->avr->ramend + 1u - lowest;
}

unsigned chip_flash(const chip *of)
{
    return of->firmware.flashsize;
}

unsigned chip_static(const chip *of)
{
    return of->static_end - 0x100u;
}

unsigned chip_size_of(const chip *of, const char *prefix)
{
    unsigned size = 0;
    for (unsigned i = 0; i < of->symbol_count; i++) {
        size += strncmp(of->symbols[i].name, prefix, strlen(prefix)) == 0 ? of->symbols[i].size : 0;
    }
    return size;
}
