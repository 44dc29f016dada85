/* The baked program in a simulated chip: chip MCU MHZ ELF STIMULUS TRACE [host|boot|hung]. Plays the stimulus
 * to its pins, and compares them with the trace of the same plan on the bench: each pin's values one by one,
 * each within 5 ms; for a strip the pictures that stand for a while. Exit code 1 if something differs, with a
 * message. */
#include "host.h"
#include "same.h"

#include "mcus.h"
#include "symbols.h"

#include <simavr/avr_ioport.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>

#include <stdlib.h>
#include <string.h>

enum {
    LOOK_US = 500,     /* interval at which duties are read */
    ONE_CYCLES = 10,   /* high for longer than 0.6 us, at 16 MHz, is a one */
    LATCH_US = 50,     /* low for this long ends a picture */
    LATE_US = 7000,    /* the sum of several waits */
    CONTACT_US = 5000, /* and the interval at which a contact is read, on the chip at other moments than on
                          the bench */
    PICTURE_LATE_US = 50000, /* frames may delay a refresh */
    STANDS_US = 200000,      /* shorter pictures are part of an effect */
    MAX_PIXEL_BYTES = 3 * 1000,
    MAX_POLL_US = 500, /* at 16 MHz, as vet reports */
    LATEST_START = 16000000,
    UDCON_AT = 0xe0,
    DETACH_BIT = 1
};

typedef struct chip chip;

typedef struct chip_pin {
    chip *mcu;
    unsigned number;
    bool is_high;
    uint64_t changed_at;
    uint8_t bytes[MAX_PIXEL_BYTES];
    unsigned bits;
} chip_pin;

struct chip {
    avr_t *avr;
    const mcu *model;
    unsigned mhz;
    const same_stimulus *with;
    same_trace trace;
    chip_pin pins[MCU_MAX_PINS];
    uint32_t poll_at; /* the address of drom_engine_poll() */
    bool is_polling;
    uint16_t stack; /* at the beginning of a poll */
    uint64_t polled_at;
    uint64_t worst_poll; /* cycles */
    uint64_t lit_at_us;
    bool is_high[MCU_MAX_PINS]; /* of those that are driven from outside */
    unsigned given;             /* events of the stimulus */
    usb_host host;              /* if the plan types */
    bool has_host;
    uint64_t detached_at; /* cycle at which the chip left the bus; 0: it has not */
    bool is_boot;         /* the computer chooses the boot protocol */
    uint64_t started_at;  /* cycle: the simulator's timer takes 33 ms until the program has read it */
};

/* Since the engine was started. */
static uint64_t now_us(const chip *mcu)
{
    return (mcu->avr->cycle - mcu->started_at) / mcu->mhz;
}

static void take_bit(chip_pin *pin, uint64_t lasted)
{
    if (pin->bits < 8 * MAX_PIXEL_BYTES) {
        uint8_t *const byte = &pin->bytes[pin->bits / 8];
        *byte = (uint8_t)(*byte << 1 | (lasted >= ONE_CYCLES));
    }
    pin->bits++;
}

/* The picture is complete when the pin has been low for a while. */
static void show_picture(chip_pin *pin)
{
    const unsigned bytes = 3 * pin->mcu->with->pixels[pin->number];
    if (pin->bits == 8 * bytes) {
        same_note(&pin->mcu->trace, pin->number, (pin->changed_at - pin->mcu->started_at) / pin->mcu->mhz,
                  same_checksum(pin->bytes, bytes));
    }
    pin->bits = 0;
}

/* The carrier is on: a burst begins, if it was dark for long enough. */
static void light(chip *mcu, unsigned pin)
{
    if (now_us(mcu) - mcu->lit_at_us > SAME_DARK_US) {
        same_note(&mcu->trace, pin, now_us(mcu), mcu->trace.counts[pin] + 1);
    }
    mcu->lit_at_us = now_us(mcu);
}

static void watch_carrier(chip *mcu)
{
    const mcu_pwm *const carrier = &mcu->model->carrier;
    if (carrier->control != 0 && mcu->with->kinds[carrier->pin] == SAME_CARRIER &&
        (mcu->avr->data[carrier->control] >> carrier->bit & 1) != 0) {
        light(mcu, carrier->pin);
    }
}

static void on_change(struct avr_irq_t *irq, uint32_t value, void *context)
{
    chip_pin *const pin = context;
    chip *const mcu = pin->mcu;
    const bool is_high = value != 0;
    const uint64_t lasted = mcu->avr->cycle - pin->changed_at;
    (void)irq;
    switch (mcu->with->kinds[pin->number]) {
    case SAME_LEVEL:
        same_note(&mcu->trace, pin->number, now_us(mcu), is_high);
        break;
    case SAME_STRIP:
        if (is_high && lasted >= (uint64_t)LATCH_US * mcu->mhz) {
            show_picture(pin);
        } else if (!is_high && pin->is_high) {
            take_bit(pin, lasted);
        }
        break;
    case SAME_CARRIER:
        if (is_high) {
            light(mcu, pin->number);
        }
        break;
    default:
        break;
    }
    pin->is_high = is_high;
    pin->changed_at = mcu->avr->cycle;
}

static avr_irq_t *pin_of(const chip *mcu, unsigned pin)
{
    return avr_io_getirq(mcu->avr, AVR_IOCTL_IOPORT_GETIRQ(mcu_port(mcu->model, pin)),
                         (int)mcu_bit(mcu->model, pin));
}

/* Drives an input permanently: the simulator releases it when its port is written. */
static void drive(chip *mcu, unsigned pin, bool is_high)
{
    const char port = mcu_port(mcu->model, pin);
    mcu->is_high[pin] = is_high;
    avr_ioport_external_t external = {.name = (unsigned char)port};
    for (unsigned i = 0; i < mcu->model->pins; i++) {
        if (mcu_port(mcu->model, i) == port && (mcu->with->is_contact[i] || i == mcu->with->receiver)) {
            external.mask = (external.mask | 1u << mcu_bit(mcu->model, i)) & 0xff;
            external.value = (external.value | (unsigned)mcu->is_high[i] << mcu_bit(mcu->model, i)) & 0xff;
        }
    }
    (void)avr_ioctl(mcu->avr, AVR_IOCTL_IOPORT_SET_EXTERNAL(port), &external);
    avr_raise_irq(pin_of(mcu, pin), is_high);
}

/* Returns what drives a pin with PWM: its timer, or its port. */
static unsigned duty_of(const chip *mcu, unsigned pin)
{
    const uint8_t *const data = mcu->avr->data;
    for (const mcu_pwm *pwm = mcu->model->pwm; pwm->control != 0; pwm++) {
        if (pwm->pin == pin && (data[pwm->control] >> pwm->bit & 1) != 0) {
            return data[pwm->compare] + 1u;
        }
    }
    return (data[mcu_port_address(mcu->model, pin)] >> mcu_bit(mcu->model, pin) & 1) != 0 ? 255 : 0;
}

static avr_cycle_count_t look(struct avr_t *avr, avr_cycle_count_t when, void *context)
{
    chip *const mcu = context;
    (void)when;
    for (unsigned pin = 0; pin < mcu->model->pins; pin++) {
        if (mcu->with->kinds[pin] == SAME_PWM) {
            same_note(&mcu->trace, pin, now_us(mcu), duty_of(mcu, pin));
        }
        if (mcu->with->kinds[pin] == SAME_STRIP && mcu->pins[pin].bits > 0 && !mcu->pins[pin].is_high &&
            avr->cycle - mcu->pins[pin].changed_at > (uint64_t)LATCH_US * mcu->mhz) {
            show_picture(&mcu->pins[pin]);
        }
    }
    return avr->cycle + (uint64_t)LOOK_US * mcu->mhz;
}

/* The computer asks for a report. */
static avr_cycle_count_t ask_for_report(struct avr_t *avr, avr_cycle_count_t when, void *context)
{
    chip *const mcu = context;
    (void)when;
    if (!host_poll(&mcu->host)) {
        (void)printf("WRONG    the computer got a report that is none\n");
        exit(1);
    }
    return avr->cycle + (uint64_t)mcu->host.poll_ms * 1000 * mcu->mhz;
}

/* Timers of the simulator, since a sleeping chip jumps to the next of them at once. */
static avr_cycle_count_t give(struct avr_t *avr, avr_cycle_count_t when, void *context)
{
    chip *const mcu = context;
    const same_stimulus *const with = mcu->with;
    (void)when;
    for (; mcu->given < with->count && with->events[mcu->given].at_us <= now_us(mcu); mcu->given++) {
        const same_event *const event = &with->events[mcu->given];
        drive(mcu, event->is_contact ? event->pin : with->receiver, !event->is_on);
    }
    return mcu->given < with->count ? mcu->started_at + with->events[mcu->given].at_us * mcu->mhz
                                    : avr->cycle + (uint64_t)LOOK_US * mcu->mhz;
}

/* Keeps the simulator running while the chip sleeps. */
static void pass(struct avr_t *avr, avr_cycle_count_t cycles)
{
    (void)avr;
    (void)cycles;
}

/* A poll is over when its return address is off the stack. */
static void watch_poll(chip *mcu)
{
    const avr_t *const avr = mcu->avr;
    const uint16_t stack = (uint16_t)(avr->data[R_SPL] | avr->data[R_SPH] << 8);
    if (!mcu->is_polling && avr->pc == mcu->poll_at) {
        mcu->is_polling = true;
        mcu->stack = stack;
        mcu->polled_at = avr->cycle;
    } else if (mcu->is_polling && stack > mcu->stack) {
        const uint64_t lasted = avr->cycle - mcu->polled_at;
        mcu->worst_poll = lasted > mcu->worst_poll ? lasted : mcu->worst_poll;
        mcu->is_polling = false;
    }
}

static bool play(chip *mcu)
{
    int state = cpu_Running;
    while (mcu->avr->pc != mcu->poll_at && mcu->avr->cycle < LATEST_START && state != cpu_Crashed) {
        state = avr_run(mcu->avr);
    }
    if (mcu->has_host) {
        const char *wrong = host_enumerate(&mcu->host, mcu->avr);
        wrong = wrong == NULL && mcu->is_boot ? host_choose(&mcu->host, true) : wrong;
        if (wrong != NULL) {
            (void)printf("WRONG    %s\n", wrong);
            exit(1);
        }
        avr_cycle_timer_register(mcu->avr, 1, ask_for_report, mcu);
    }
    mcu->started_at = mcu->avr->cycle;
    for (unsigned pin = 0; pin < mcu->model->pins; pin++) { /* earlier changes count as of now */
        for (unsigned i = 0; i < mcu->trace.counts[pin]; i++) {
            mcu->trace.changes[pin][i].at_us = 0;
        }
    }
    avr_cycle_timer_register(mcu->avr, 1, look, mcu);
    avr_cycle_timer_register(mcu->avr, 1, give, mcu);
    while (now_us(mcu) < mcu->with->end_us && state != cpu_Done && state != cpu_Crashed) {
        watch_poll(mcu);
        watch_carrier(mcu);
        if (mcu->detached_at == 0 && mcu->has_host && (mcu->avr->data[UDCON_AT] & DETACH_BIT) != 0) {
            mcu->detached_at = mcu->avr->cycle;
        }
        state = avr_run(mcu->avr);
    }
    return state != cpu_Done && state != cpu_Crashed;
}

static void open_chip(chip *mcu, const char *path)
{
    static elf_firmware_t firmware;
    static chip_symbols symbols;
    if (elf_read_firmware(path, &firmware) != 0 ||
        (mcu->avr = avr_make_mcu_by_name(mcu->model->name)) == NULL) {
        fprintf(stderr, "same: %s can't be loaded\n", path);
        exit(1);
    }
    avr_init(mcu->avr);
    mcu->avr->log = LOG_NONE;
    mcu->avr->sleep = pass;
    mcu->avr->frequency = mcu->mhz * 1000000;
    avr_load_firmware(mcu->avr, &firmware);
    symbols_read(&symbols, path);
    mcu->poll_at = symbols_address(&symbols, "drom_engine_poll");
    for (unsigned pin = 0; pin < mcu->model->pins; pin++) {
        mcu->pins[pin] = (chip_pin){.mcu = mcu, .number = pin};
        if (mcu->with->kinds[pin] != SAME_NONE) {
            avr_irq_register_notify(pin_of(mcu, pin), on_change, &mcu->pins[pin]);
        }
        if (mcu->with->is_contact[pin] || pin == mcu->with->receiver) {
            drive(mcu, pin, true);
        }
    }
}

static same_trace read_trace(const char *path)
{
    same_trace read = {0};
    char line[256];
    FILE *const file = fopen(path, "r");
    while (file != NULL && fgets(line, sizeof line, file) != NULL) {
        unsigned long long us = 0;
        unsigned pin = 0;
        unsigned value = 0;
        if (sscanf(line, "%llu %u %u", &us, &pin, &value) == 3 && pin < SAME_PINS) {
            same_note(&read, pin, us, value);
        }
    }
    if (file == NULL) {
        fprintf(stderr, "same: %s can't be read\n", path);
        exit(1);
    }
    (void)fclose(file);
    return read;
}

/* Compares only values that stand for a while. */
static void keep_standing(same_trace *trace, unsigned pin, uint64_t end_us)
{
    same_change *const changes = trace->changes[pin];
    unsigned kept = 0;
    for (unsigned i = 0; i < trace->counts[pin]; i++) {
        const uint64_t until_us = i + 1 < trace->counts[pin] ? changes[i + 1].at_us : end_us;
        if (until_us - changes[i].at_us >= STANDS_US) {
            changes[kept++] = changes[i];
        }
    }
    trace->counts[pin] = kept;
}

static unsigned failures;

/* Returns the largest difference in time between a pin's value and the trace's. */
static double compare(const same_trace *chips, const same_trace *benchs, unsigned pin, uint64_t late_us)
{
    double worst_us = 0;
    const unsigned counts[] = {chips->counts[pin], benchs->counts[pin]};
    for (unsigned i = 0; i < counts[0] || i < counts[1]; i++) {
        const same_change nothing = {0, 0};
        const same_change a = i < counts[0] ? chips->changes[pin][i] : nothing;
        const same_change b = i < counts[1] ? benchs->changes[pin][i] : nothing;
        const double apart_us = a.at_us > b.at_us ? (double)(a.at_us - b.at_us) : (double)(b.at_us - a.at_us);
        if (i >= counts[0] || i >= counts[1] || a.value != b.value || apart_us > (double)late_us) {
            (void)printf(
                "WRONG    pin %u, value %u of %u and %u: on the chip %u at %.3f s, on the bench %u at "
                "%.3f s\n",
                pin, i + 1, counts[0], counts[1], a.value, (double)a.at_us / 1e6, b.value,
                (double)b.at_us / 1e6);
            failures++;
            return worst_us;
        }
        worst_us = apart_us > worst_us ? apart_us : worst_us;
    }
    return worst_us;
}

/* Compares the reports that the computer took with those of the bench, one by one. Returns the number. */
static unsigned compare_reports(const chip *mcu, const char *trace)
{
    enum {
        BOOT_BYTES = 8,
        TAKEN_LATE_US = 30000
    }; /* a poll of the computer's, and those of the reports before */
    char line[256];
    unsigned count = 0;
    FILE *const file = fopen(trace, "r");
    while (file != NULL && fgets(line, sizeof line, file) != NULL && failures == 0) {
        char *at = line;
        const uint64_t us = strtoull(line, &at, 10);
        if (strncmp(at, " report", strlen(" report")) != 0) {
            continue;
        }
        at += strlen(" report");
        host_report expected = {0};
        for (; *at == ' ' && expected.count < HOST_MAX_BYTES; expected.count++) {
            expected.bytes[expected.count] = (uint8_t)strtoul(at, &at, 16);
        }
        if (mcu->is_boot && expected.count != BOOT_BYTES) {
            continue; /* the boot protocol has no media keys */
        }
        const host_report *const got = &mcu->host.reports[count];
        const uint64_t at_us = count < mcu->host.count ? (got->at - mcu->started_at) / mcu->mhz : 0;
        if (count >= mcu->host.count || got->count != expected.count ||
            memcmp(got->bytes, expected.bytes, expected.count) != 0 || at_us + LATE_US < us ||
            at_us > us + TAKEN_LATE_US) {
            (void)printf("WRONG    report %u at %.3f s isn't that of the bench: %s", count + 1,
                         (double)at_us / 1e6, line);
            failures++;
        }
        count++;
    }
    if (file != NULL) {
        (void)fclose(file);
    }
    if (count != mcu->host.count && failures == 0) {
        (void)printf("WRONG    %u reports, and %u on the bench\n", mcu->host.count, count);
        failures++;
    }
    return count;
}

/* The program hangs half a second after a key went down: the guard detaches the keyboard 250 ms later, so
 * that the computer releases the key; then the watchdog resets the chip. Returns the exit code. */
static int check_detached(const chip *mcu)
{
    enum { LATEST_MS = 500 + 250 + 100 };
    const unsigned count = mcu->host.count;
    const host_report *const last = count > 0 ? &mcu->host.reports[count - 1] : NULL;
    const bool was_down = last != NULL && last->bytes[2] != 0;
    const double ms =
        was_down && mcu->detached_at > last->at ? (double)(mcu->detached_at - last->at) / mcu->mhz / 1000 : 0;
    const bool is_good = ms > 0 && ms < LATEST_MS;
    (void)printf("%s%u reports, the last with a key %s; detached %.0f ms later\n", is_good ? "" : "WRONG    ",
                 count, was_down ? "down" : "up", ms);
    return is_good ? 0 : 1;
}

int main(int argc, char **argv)
{
    static chip mcu;
    const char *const mode = argc == 7 ? argv[6] : "";
    const bool is_hung = strcmp(mode, "hung") == 0;
    mcu.is_boot = strcmp(mode, "boot") == 0;
    mcu.has_host = mcu.is_boot || is_hung || strcmp(mode, "host") == 0;
    if (argc != 6 && !mcu.has_host) {
        fprintf(stderr, "chip MCU MHZ ELF STIMULUS TRACE [host|boot|hung]\n");
        return 2;
    }
    mcu.model = mcu_by_name(argv[1]);
    mcu.mhz = (unsigned)strtoul(argv[2], NULL, 10);
    const same_stimulus with = same_read(argv[4]);
    same_trace expected = read_trace(argv[5]);
    mcu.with = &with;
    open_chip(&mcu, argv[3]);
    if (!play(&mcu)) {
        (void)printf("WRONG    the program ended\n");
        return 1;
    }
    if (is_hung) {
        return check_detached(&mcu);
    }
    bool has_contacts = false;
    for (unsigned pin = 0; pin < mcu.model->pins; pin++) {
        has_contacts |= with.is_contact[pin];
    }
    unsigned pins = 0;
    unsigned changes = 0;
    double worst_us = 0;
    for (unsigned pin = 0; pin < mcu.model->pins; pin++) {
        const bool is_strip = with.kinds[pin] == SAME_STRIP;
        if (is_strip) {
            keep_standing(&mcu.trace, pin, with.end_us);
            keep_standing(&expected, pin, with.end_us);
        }
        const double apart_us =
            compare(&mcu.trace, &expected, pin,
                    is_strip ? PICTURE_LATE_US : LATE_US + (has_contacts ? CONTACT_US : 0));
        worst_us = !is_strip && apart_us > worst_us ? apart_us : worst_us;
        pins += with.kinds[pin] != SAME_NONE;
        changes += expected.counts[pin];
    }
    const unsigned reports = mcu.has_host ? compare_reports(&mcu, argv[5]) : 0;
    const double poll_us = (double)mcu.worst_poll / mcu.mhz;
    const unsigned allowed_us = MAX_POLL_US * 16 / mcu.mhz;
    if (poll_us < 1 || poll_us > allowed_us) {
        (void)printf("WRONG    a poll took %.0f us, where %u are allowed\n", poll_us, allowed_us);
        failures++;
    }
    if (failures == 0) {
        if (mcu.has_host) {
            (void)printf("%u reports; ", reports);
        }
        (void)printf("%u pins, %u changes in %.0f s, %.2f ms apart at most; the worst poll %.0f us\n", pins,
                     changes, (double)with.end_us / 1e6, worst_us / 1000, poll_us);
    }
    avr_terminate(mcu.avr);
    return failures == 0 ? 0 : 1;
}
