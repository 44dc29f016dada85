/* Two interrupts have exact times: the capture stores an edge in one ring, the alarm takes a timed edge from
 * the other. Each takes less than 5 µs, the longest pause that a strip tolerates between two pixels. */
#include "../../src/compiler.h"

#include "chips/chip.h"
#ifdef CHIP_PLACES
#include "chips/places.h"
#endif

#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

/* One of three, out of a list that is a macro of the chip. */
#define FIRST_OF(a, b, c) a
#define SECOND_OF(a, b, c) b
#define THIRD_OF(a, b, c) c
#define PICK(which, ...) which(__VA_ARGS__)

enum { SHORTEST_SLEEP_US = 100, FAST_CLOCK = F_CPU == 16000000, COUNTS_PER_US = FAST_CLOCK ? 2 : 1 };

drom_engine drom_avr_engine;

/* The upper bits of the clock, which counts half µs, and µs at 8 MHz: at most 17 bits, so that µs have 32.
 * Timer 1 is the lower 16. */
static volatile uint32_t clock_high;

/* The port register of a pin. */
DROM_NOINLINE static volatile uint8_t *port_of(uint8_t pin)
{
    return chip_port(pin);
}

static uint8_t bit_of(uint8_t pin)
{
    uint8_t mask = 1;
    for (uint8_t i = chip_bit(pin); i > 0; i--) {
        mask = (uint8_t)(mask << 1);
    }
    return mask;
}

/* The data direction register is below the port register, and the input register below that. */
static void make_output(uint8_t pin)
{
    *(port_of(pin) - 1) |= bit_of(pin);
}

#if DROM_WITH_GUARD
volatile uint8_t drom_avr_unfed;
#endif

ISR(TIMER1_OVF_vect)
{
    clock_high++;
#if DROM_WITH_GUARD
    const uint8_t unfed = drom_avr_unfed;
    if (unfed > 0) {
        drom_avr_unfed = (uint8_t)(unfed - 1);
        if (unfed == 1) {
            TIMSK0 |= 1 << OCIE0A; /* from now on the guard acts */
        }
    }
#endif
}

/* Returns the time of a count of timer 1 that was read just now, with interrupts masked. */
static inline drom_us time_of(uint16_t low)
{
    uint32_t high = clock_high;
    if ((TIFR1 & (1 << TOV1)) != 0 && low < 0x8000) { /* it has wrapped, and its interrupt is pending */
        high++;
    }
#if F_CPU == 16000000
    const bool is_odd = (high & UINT32_C(0x10000)) != 0; /* the highest of 33 bits */
    return (high << 16 | low) >> 1 | (is_odd ? UINT32_C(0x80000000) : 0);
#else
    return high << 16 | low;
#endif
}

/* Saves and restores the registers of the two short handlers. They are written in assembler because of their
 * limits: 80 cycles for an edge, and both fit into the pause between two pixels. */
#define ENTER "push r24 \n\t in r24, __SREG__ \n\t push r24 \n\t push r25 \n\t push r30 \n\t push r31 \n\t"
#define LEAVE                                                                                                \
    "pop r31 \n\t pop r30 \n\t pop r25 \n\t pop r24 \n\t out __SREG__, r24 \n\t pop r24 \n\t reti \n\t"

/* drom_ring_put() of r25:r24, whose bit 0 is the level, and the handler's end. */
#define PUT_AND_LEAVE                                                                                        \
    "lds r30, %[head] \n\t"                                                                                  \
    "lds r31, %[tail] \n\t"                                                                                  \
    "sub r31, r30 \n\t"                                                                                      \
    "cpi r31, %[full] \n\t"                                                                                  \
    "breq 8f \n\t"                                                                                           \
    "mov r31, r30 \n\t"                                                                                      \
    "inc r31 \n\t"                                                                                           \
    "sts %[head], r31 \n\t"                                                                                  \
    "andi r30, %[last] \n\t"                                                                                 \
    "lsl r30 \n\t"                                                                                           \
    "ldi r31, 0 \n\t"                                                                                        \
    "subi r30, lo8(-(%[slots])) \n\t"                                                                        \
    "sbci r31, hi8(-(%[slots])) \n\t"                                                                        \
    "st Z, r24 \n\t"                                                                                         \
    "std Z+1, r25 \n\t"                                                                                      \
    "9: \n\t" LEAVE "8: \n\t"                                                                                \
    "sts %[lost_at], r30 \n\t"                                                                               \
    "ldi r31, 1 \n\t"                                                                                        \
    "sts %[has_lost], r31 \n\t"                                                                              \
    "rjmp 9b \n\t"
#define RING                                                                                                 \
    [head] "i"(&drom_avr_engine.input.ring.head), [tail] "i"(&drom_avr_engine.input.ring.tail),              \
        [slots] "i"(drom_avr_engine.input.ring.slots), [lost_at] "i"(&drom_avr_engine.input.ring.lost_at),   \
        [has_lost] "i"(&drom_avr_engine.input.ring.has_lost), [full] "i"(256 - DROM_EDGES),                  \
        [last] "i"(DROM_EDGES - 1)

/* Makes room for the level in a count of timer 1. */
#if F_CPU == 16000000
#define COUNT_TO_SLOT "andi r24, 0xfe \n\t"
#define EDGE_TO_COUNT "lsl r24 \n\t rol r25 \n\t"
#else
#define COUNT_TO_SLOT "lsl r24 \n\t rol r25 \n\t"
#define EDGE_TO_COUNT ""
#endif

#if defined(CHIP_LATCH_PIN) && DROM_RECEIVER_PIN == CHIP_LATCH_PIN
#define RECEIVER_PINS CHIP_LATCH_INPUT
#define RECEIVER_BIT CHIP_LATCH_BIT
#define RECEIVER_STAMP DROM_STAMP_HARDWARE
/* Sets the timer to the other edge. That may set its flag, which is cleared. */
#define TURN_ROUND                                                                                           \
    "ldi r31, %[flip] \n\t"                                                                                  \
    "eor r30, r31 \n\t"                                                                                      \
    "sts %[control], r30 \n\t"                                                                               \
    "ldi r31, 1 << %[flag] \n\t"                                                                             \
    "sbic %[flags], %[flag] \n\t"                                                                            \
    "out %[flags], r31 \n\t"

/* The timer latches edges of one direction, and the handler sets it to the other one, then reads the pin: a
 * change after the read sets the flag again. If the pulse is over by then, it was a glitch: the timer is set
 * back, and the next edge may have come meanwhile. The count is in half µs; without its last bit it is what
 * the ring stores. */
ISR(TIMER1_CAPT_vect, ISR_NAKED)
{
    __asm__ volatile(ENTER "lds r30, %[control] \n\t"
                           "1: \n\t" TURN_ROUND "sbrc r30, %[edge] \n\t"
                           "rjmp 2f \n\t"
                           "sbis %[pins], %[bit] \n\t" /* it rose: is it still high? */
                           "rjmp 4f \n\t"
                           "rjmp 3f \n\t"
                           "2: sbic %[pins], %[bit] \n\t" /* it fell: is it still low? */
                           "rjmp 4f \n\t"
                           "3: lds r24, %[low] \n\t"
                           "lds r25, %[low]+1 \n\t" COUNT_TO_SLOT "sbrc r30, %[edge] \n\t"
                           "ori r24, 1 \n\t" /* it fell: a mark begins */
                           "rjmp 7f \n\t"
                           "4: \n\t" TURN_ROUND "sbrc r30, %[edge] \n\t"
                           "rjmp 5f \n\t"
                           "sbis %[pins], %[bit] \n\t"
                           "rjmp 1b \n\t"
                           "rjmp 9f \n\t"
                           "5: sbic %[pins], %[bit] \n\t"
                           "rjmp 1b \n\t"
                           "rjmp 9f \n\t"
                           "7: \n\t" PUT_AND_LEAVE ::RING,
                     [control] "i"(_SFR_MEM_ADDR(TCCR1B)), [edge] "I"(ICES1), [flip] "i"(1 << ICES1),
                     [pins] "I"(_SFR_IO_ADDR(RECEIVER_PINS)), [bit] "I"(RECEIVER_BIT),
                     [flags] "I"(_SFR_IO_ADDR(TIFR1)), [flag] "I"(ICF1), [low] "i"(_SFR_MEM_ADDR(ICR1)));
}

static void open_receiver(void)
{
    TIMSK1 |= 1 << ICIE1; /* ICES1 is 0: the first edge falls */
}
#else
#ifndef CHIP_RECEIVER
#error "a receiver on DROM_RECEIVER_PIN has no interrupt on this chip: avr.h lists the pins that do"
#endif
#define RECEIVER_VECTOR PICK(FIRST_OF, CHIP_RECEIVER)
#define RECEIVER_PINS PICK(SECOND_OF, CHIP_RECEIVER)
#define RECEIVER_BIT PICK(THIRD_OF, CHIP_RECEIVER)
#define RECEIVER_STAMP DROM_STAMP_INTERRUPT
/* The handler reads the clock, and is late by as long as interrupts were masked. */
ISR(RECEIVER_VECTOR, ISR_NAKED)
{
    __asm__ volatile(
        ENTER "lds r24, %[low] \n\t"
              "lds r25, %[low]+1 \n\t" COUNT_TO_SLOT "sbis %[pins], %[bit] \n\t"
              "ori r24, 1 \n\t" PUT_AND_LEAVE ::RING,
        [low] "i"(_SFR_MEM_ADDR(TCNT1)), [pins] "I"(_SFR_IO_ADDR(RECEIVER_PINS)), [bit] "I"(RECEIVER_BIT));
}

static void open_receiver(void)
{
    CHIP_OPEN_RECEIVER;
}
#endif

bool drom_avr_line_is_active(void)
{
    return (RECEIVER_PINS & 1 << RECEIVER_BIT) == 0;
}

static drom_us now(void *context)
{
    (void)context;
    const uint8_t status = SREG;
    cli();
    const uint16_t low = TCNT1;
    const drom_us at = time_of(low);
    SREG = status;
    return at;
}

/* The bits of `toggles`: a byte for each of three ports, written to its input register; and one for the
 * carrier, whose other bits may be another port's. */
typedef union toggles {
    uint32_t all;
    uint8_t bytes[4];
} toggles;

enum { OTHERS = 3 };

/* Loads the address of the first timed edge into Z, from the tail in r30: six bytes per slot. */
#define FIRST_TIMED_EDGE                                                                                     \
    "andi r30, %[last] \n\t"                                                                                 \
    "lsl r30 \n\t"                                                                                           \
    "mov r31, r30 \n\t"                                                                                      \
    "lsl r30 \n\t"                                                                                           \
    "add r30, r31 \n\t"                                                                                      \
    "ldi r31, 0 \n\t"                                                                                        \
    "subi r30, lo8(-(%[slots])) \n\t"                                                                        \
    "sbci r31, hi8(-(%[slots])) \n\t"

_Static_assert(sizeof(drom_timed_edge) == 6 && offsetof(drom_timed_edge, at) == 4,
               "the alarm's handler counts on it");

#ifdef CHIP_OTHER_INPUT
#define OTHERS_OPERAND , [other] "I"(_SFR_IO_ADDR(CHIP_OTHER_INPUT))
#define END_IF_EQUAL "brne 4f \n\t rjmp 2f \n\t 4: \n\t" /* too far for breq */
#else
#define OTHERS_OPERAND
#define END_IF_EQUAL "breq 2f \n\t"
#endif

/* Inverts the pins of the first timed edge, and sets the alarm to the next. An edge that is due already gets
 * a short delay, so that the handler stays short. */
ISR(TIMER1_COMPB_vect, ISR_NAKED)
{
    __asm__ volatile(ENTER "lds r30, %[tail] \n\t"
                           "lds r31, %[head] \n\t"
                           "cp r30, r31 \n\t" END_IF_EQUAL FIRST_TIMED_EDGE "ld r24, Z \n\t"
                           "out %[first], r24 \n\t"
                           "ldd r24, Z+1 \n\t"
                           "out %[second], r24 \n\t"
                           "ldd r24, Z+2 \n\t"
                           "out %[third], r24 \n\t"
                           "ldd r24, Z+3 \n\t" CHIP_TOGGLE_OTHERS "lds r25, %[carrier] \n\t"
                           "eor r25, r24 \n\t"
                           "sts %[carrier], r25 \n\t"
                           "lds r30, %[tail] \n\t"
                           "inc r30 \n\t"
                           "sts %[tail], r30 \n\t"
                           "lds r31, %[head] \n\t"
                           "cp r30, r31 \n\t"
                           "breq 2f \n\t" FIRST_TIMED_EDGE "ldd r24, Z+4 \n\t"
                           "ldd r25, Z+5 \n\t" EDGE_TO_COUNT "lds r30, %[now] \n\t"
                           "lds r31, %[now]+1 \n\t"
                           "adiw r30, 10 \n\t" /* the clock when the alarm is set */
                           "sub r30, r24 \n\t"
                           "sbc r31, r25 \n\t"
                           "brmi 1f \n\t"
                           "add r24, r30 \n\t"
                           "adc r25, r31 \n\t"
                           "1: sts %[alarm]+1, r25 \n\t"
                           "sts %[alarm], r24 \n\t"
                           "3: \n\t" LEAVE "2: lds r24, %[mask] \n\t"
                           "andi r24, %[off] \n\t"
                           "sts %[mask], r24 \n\t"
                           "rjmp 3b \n\t" ::[tail] "i"(&drom_avr_engine.timing.timed_edges.tail),
                     [head] "i"(&drom_avr_engine.timing.timed_edges.head),
                     [slots] "i"(drom_avr_engine.timing.timed_edges.slots), [last] "i"(DROM_TIMED_EDGES - 1),
                     [first] "I"(_SFR_IO_ADDR(PICK(FIRST_OF, CHIP_EDGE_INPUTS))),
                     [second] "I"(_SFR_IO_ADDR(PICK(SECOND_OF, CHIP_EDGE_INPUTS))),
                     [third] "I"(_SFR_IO_ADDR(PICK(THIRD_OF, CHIP_EDGE_INPUTS))),
                     [carrier] "i"(_SFR_MEM_ADDR(CHIP_CARRIER_CONTROL)), [now] "i"(_SFR_MEM_ADDR(TCNT1)),
                     [alarm] "i"(_SFR_MEM_ADDR(OCR1B)), [mask] "i"(_SFR_MEM_ADDR(TIMSK1)),
                     [off] "i"(0xff & ~(1 << OCIE1B)) OTHERS_OPERAND);
}

/* Clears the alarm's flag, which an old setting may have left, with interrupts masked. Some simulators clear
 * the register's other flags as well: their handlers run first. */
static void forget_old_alarm(void)
{
    for (;;) {
        cli();
        const uint8_t flags = TIFR1;
        if ((flags & 1 << OCF1B) == 0) {
            return;
        }
        if ((flags & (1 << ICF1 | 1 << TOV1)) == 0) {
            TIFR1 = 1 << OCF1B;
            return;
        }
        sei();
        __asm__ volatile("nop \n\t nop \n\t");
    }
}

static void arm_alarm(void *context, const drom_timed_edges *timed_edges)
{
    (void)context;
    const uint8_t status = SREG;
    cli();
    if ((TIMSK1 & (1 << OCIE1B)) == 0 && !drom_timed_edges_are_empty(timed_edges)) {
        const uint16_t at = (uint16_t)(drom_timed_edges_first(timed_edges)->at * COUNTS_PER_US);
        OCR1B = at;
        forget_old_alarm();
        if ((int16_t)(TCNT1 + 8 - at) >= 0) {
            OCR1B = TCNT1 + 8;
        }
        TIMSK1 |= 1 << OCIE1B;
    }
    SREG = status;
}

static void stop_alarm(void *context)
{
    (void)context;
    const uint8_t status = SREG;
    cli();
    TIMSK1 &= (uint8_t) ~(1 << OCIE1B);
    SREG = status;
}

static void write_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    volatile uint8_t *const port = port_of(pin);
    const uint8_t bit = bit_of(pin);
    const uint8_t status = SREG;
    cli();
    *port = is_high ? *port | bit : *port & (uint8_t)~bit;
    SREG = status;
    make_output(pin);
}

static bool read_pin(void *context, uint8_t pin)
{
    (void)context;
    volatile uint8_t *const port = port_of(pin);
    const uint8_t bit = bit_of(pin);
    if ((*(port - 1) & bit) != 0 || (*port & bit) == 0) {
        const uint8_t status = SREG;
        cli();
        *(port - 1) &= (uint8_t)~bit;
        *port |= bit;
        SREG = status;
    }
    return (*(port - 2) & bit) != 0;
}

/* A pin of another port has no timed edges. */
static uint32_t toggle_pin(void *context, uint8_t pin)
{
    (void)context;
    const uint8_t byte = chip_edge_byte(pin);
    toggles turned = {.all = 0};
    if (byte < OTHERS) {
        turned.bytes[byte] = bit_of(pin);
#ifdef CHIP_OTHER_PIN
    } else if (pin == CHIP_OTHER_PIN) {
        turned.bytes[OTHERS] = CHIP_OTHER_MASK;
#endif
    } else {
        return 0;
    }
    make_output(pin);
    return turned.all;
}

#define SET_TIMER(number, compare, control, bit)                                                             \
    case number:                                                                                             \
        if (level != 0) {                                                                                    \
            (compare) = (uint8_t)(level - 1);                                                                \
            (control) |= 1 << (bit);                                                                         \
        } else {                                                                                             \
            (control) &= (uint8_t) ~(1 << (bit));                                                            \
        }                                                                                                    \
        return true;

/* A pin is high for one count more than its compare register; at level 0 it is disconnected from its timer.
 * False if the pin has no timer. */
static bool set_timer(uint8_t pin, uint8_t level)
{
    switch (pin) {
        CHIP_PWM(SET_TIMER)
    default:
        return false;
    }
}

/* At both ends of the range the pin has a constant level. */
static void write_pwm(void *context, uint8_t pin, uint16_t duty)
{
    const uint8_t level = (uint8_t)(duty == UINT16_MAX ? 0 : duty >> 8);
    if (set_timer(pin, level) && level != 0) {
        make_output(pin);
    } else {
        write_pin(context, pin, duty >= 0x8000);
    }
}

/* The carrier's timer counts the chip's clock divided by 8; at 8 MHz the clock itself, where its 8 bits
 * suffice. */
static uint32_t ready_carrier(void *context, uint8_t pin, uint8_t khz)
{
    enum { LOWEST_FAST_KHZ = F_CPU / 256000 + 1 };
    toggles turned = {.all = 0};
    if (pin != CHIP_CARRIER_PIN || khz < 20) {
        return 0;
    }
    const bool is_fast = !FAST_CLOCK && khz >= LOWEST_FAST_KHZ;
    chip_open_carrier((uint8_t)((is_fast ? F_CPU / 1000 : F_CPU / 8000) / khz - 1), is_fast);
    write_pin(context, pin, false);
    turned.bytes[OTHERS] = 1 << CHIP_CARRIER_BIT;
    return turned.all;
}

/* Sends one pixel, with interrupts masked: 24 bits of 20 cycles, high for 6 of them for a zero and 13 for a
 * one. The port is read again for each pixel, as the alarm may have changed its other pins. */
static inline const uint8_t *send_pixel(volatile uint8_t *port, uint8_t bit, const uint8_t *bytes)
{
    const uint8_t high = *port | bit;
    const uint8_t low = *port & (uint8_t)~bit;
    uint8_t byte;
    uint8_t left = 24;
    uint8_t in_byte;
    __asm__ volatile("1: ld %[byte], %a[bytes]+ \n\t"  /* 2 */
                     "ldi %[in], 8 \n\t"               /* 1 */
                     "2: st %a[port], %[high] \n\t"    /* 2: the pin rises at its end */
                     "nop \n\t rjmp .+0 \n\t"          /* 3 */
                     "sbrs %[byte], 7 \n\t"            /* 1, or 2 where a one skips */
                     "st %a[port], %[low] \n\t"        /* 2: a zero falls, 6 after it rose */
                     "lsl %[byte] \n\t"                /* 1 */
                     "nop \n\t rjmp .+0 \n\t nop \n\t" /* 4 */
                     "st %a[port], %[low] \n\t"        /* 2: a one falls, 13 after it rose */
                     "dec %[left] \n\t"                /* 1 */
                     "breq 3f \n\t"                    /* 1 */
                     "dec %[in] \n\t"                  /* 1 */
                     "breq 1b \n\t"                    /* 1, or 2 to the next byte, which takes 2 more */
                     "rjmp 2b \n\t"                    /* 2 */
                     "3: \n\t"
                     : [byte] "=&d"(byte), [in] "=&d"(in_byte), [left] "+d"(left), [bytes] "+x"(bytes)
                     : [port] "z"(port), [high] "r"(high), [low] "r"(low)
                     : "memory");
    return bytes;
}

/* Runs one pending handler: two in a row would be too long a pause for the strip. After sei a chip executes
 * one instruction before it takes an interrupt, and after a handler one before the next, which here is cli.
 * Some simulators execute two: find_opening() has detected it, and set GPIOR0's first bit, which makes the
 * code skip the first cli. */
static inline void let_one_in(void)
{
    __asm__ volatile(
        "sei \n\t sbis %[is_noted], 0 \n\t cli \n\t nop \n\t cli \n\t" ::[is_noted] "I"(_SFR_IO_ADDR(GPIOR0))
        : "memory");
}

/* Lets timer 1 overflow while interrupts are masked, and detects whether its handler runs after one
 * instruction. */
static void find_opening(void)
{
    cli();
    clock_high = 0;
    TCNT1 = 0xffff;
    while ((TIFR1 & 1 << TOV1) == 0) {
    }
    __asm__ volatile("sei \n\t nop \n\t cli \n\t" ::: "memory");
    GPIOR0 = clock_high == 0;
}

static void send_pixels(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count)
{
    (void)context;
    volatile uint8_t *const port = port_of(pin);
    const uint8_t bit = bit_of(pin);
    const uint8_t *const end = bytes + count;
    make_output(pin);
    cli();
    while (bytes != end) {
        bytes = send_pixel(port, bit, bytes);
        let_one_in();
    }
    sei();
}

EMPTY_INTERRUPT(TIMER1_COMPA_vect)

/* Sleeps until an interrupt: an edge, the alarm, the end of `wait`, or the clock, which wraps every 33 ms, at
 * 8 MHz every 66 ms. */
static volatile bool is_woken;

static void wake(void *context)
{
    (void)context;
    is_woken = true;
}

static void sleep(void *context, drom_wait wait)
{
    (void)context;
    if (wait < SHORTEST_SLEEP_US) {
        return;
    }
    SMCR = 0; /* idle mode: the timers run on */
    cli();
    if (drom_ring_is_empty(&drom_avr_engine.input.ring) && !is_woken) {
        if (wait < 60000 / COUNTS_PER_US) {
            OCR1A = (uint16_t)(TCNT1 + (uint16_t)wait * COUNTS_PER_US);
            TIMSK1 |= 1 << OCIE1A;
        }
        sleep_enable();
        sei();
        sleep_cpu();
        sleep_disable();
        cli();
        TIMSK1 &= (uint8_t) ~(1 << OCIE1A);
    }
    is_woken = false;
    sei();
}

static const drom_port_clock DROM_FLASH the_clock = {.now = now, .sleep = sleep, .wake = wake};
static const drom_port_pins DROM_FLASH the_pins = {.write = write_pin,
                                                   .read = DROM_WITH_INPUTS ? read_pin : NULL};
static const drom_port_pwm DROM_FLASH the_pwm = {.write = write_pwm, .bits = 8};
static const drom_port_edges DROM_FLASH the_edges = {
    .toggle = toggle_pin,
    .ready_carrier = DROM_WITH_CARRIER ? ready_carrier : NULL,
    .arm = arm_alarm,
    .stop = stop_alarm,
};
static const drom_port_pixels DROM_FLASH the_pixels = {.begin = send_pixels, .can_slice = true};

const drom_port DROM_FLASH drom_avr_port = {
    .facts =
        {
            .stamp = RECEIVER_STAMP,
            .latency_us = 38,
            .pins = CHIP_PINS,
        },
    .clock = &the_clock,
    .pins = &the_pins,
    .pwm = DROM_WITH_PWM ? &the_pwm : NULL,
    .edges = DROM_WITH_TIMED_EDGES ? &the_edges : NULL,
    .pixels = DROM_WITH_PIXELS ? &the_pixels : NULL,
#if DROM_WITH_HID
    .hid = &drom_avr_hid,
#endif
#if DROM_WITH_GUARD
    .guard = &drom_avr_guard,
#endif
#if DROM_WITH_KEPT
    .store = &drom_avr_store,
#endif
};

void drom_avr_open(void)
{
    TCCR1A = 0;
    TCCR1B = 1 << CS11; /* the chip's clock divided by 8 */
    TIMSK1 = 1 << TOIE1;
    TCCR0A = 1 << WGM01 | 1 << WGM00;
    TCCR0B = 1 << CS01 | 1 << CS00;
    CHIP_OPEN_PWM;
    find_opening();
    open_receiver();
    sei();
}
