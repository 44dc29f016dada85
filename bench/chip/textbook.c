/* The same stage as a well-written sketch would have it, for comparison: a timer's interrupt samples the
 * receiver's pin every 50 µs into a list of runs; the main loop reads the list when the line has been quiet
 * for 5 ms; the strip goes out with all interrupts masked; delays time the stepper and the infrared LED.
 * Keys, pins and pictures are those of stage.plan. It uses nothing of the library. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdbool.h>
#include <stdint.h>
#include <util/delay.h>

enum { TICK_US = 50, MAX_RUNS = 110, GAP_TICKS = 100, PIXELS = 60, STEP_US = 3334 };

static volatile uint8_t runs[MAX_RUNS]; /* in ticks: mark, space, mark … */
static volatile uint8_t count;
static volatile bool is_done;
static volatile uint16_t time; /* in ticks; wraps after 3 s */

ISR(TIMER1_COMPA_vect)
{
    static uint8_t ticks;
    static bool was_mark;
    const bool is_mark = (PINB & 1) == 0;
    ticks += ticks < 255;
    time++;
    if (is_done) {
        was_mark = is_mark;
        return;
    }
    if (is_mark != was_mark) {
        if ((count > 0 || was_mark) && count < MAX_RUNS) {
            runs[count++] = ticks;
        }
        was_mark = is_mark;
        ticks = 0;
    } else if (!is_mark && count > 0 && ticks > GAP_TICKS) {
        is_done = true;
    }
}

static bool is_about(uint8_t ticks, uint16_t us)
{
    const uint16_t nominal = us / TICK_US;
    return ticks + 2u >= nominal - nominal / 4u && ticks <= nominal + nominal / 4u + 2u;
}

/* Pulse distance: the bits of a frame with this leader, first bit lowest; those over 32 are left out. */
static bool read_pulses(uint16_t mark_us, uint16_t space_us, uint8_t bits, uint16_t middle_us,
                        bool is_msb_first, uint32_t *value)
{
    if (count < 3 + 2 * bits || !is_about(runs[0], mark_us) || !is_about(runs[1], space_us)) {
        return false;
    }
    *value = 0;
    for (uint8_t i = 0; i < bits; i++) {
        const bool is_one = runs[3 + 2 * i] * (uint16_t)TICK_US > middle_us;
        if (is_msb_first) {
            *value = *value << 1 | is_one;
        } else if (i < 32) {
            *value |= (uint32_t)is_one << i;
        } else {
            *value = *value >> 1 | (uint32_t)is_one << 31;
        }
    }
    return true;
}

static bool read_marks(uint8_t bits, uint32_t *value)
{
    if (count < 1 + 2 * bits || !is_about(runs[0], 2400)) {
        return false;
    }
    *value = 0;
    for (uint8_t i = 0; i < bits; i++) {
        *value |= (uint32_t)(runs[2 + 2 * i] > 900 / TICK_US) << i;
    }
    return true;
}

static bool read_phase(uint32_t *value)
{
    uint8_t run = 0;
    uint8_t left = 1; /* of the run, in half bits; the first half of the first bit was silent */
    bool level = false;
    *value = 0;
    for (uint8_t half = 0; half < 28; half++) {
        if (left == 0) {
            if (run >= count) {
                left = 1;
                level = false;
            } else {
                left = runs[run] > 1330 / TICK_US ? 2 : 1;
                level = run % 2 == 0;
                run++;
            }
        }
        left--;
        if (half % 2 == 1) {
            *value = *value << 1 | level;
        }
    }
    return is_about(runs[0], 889) || is_about(runs[0], 1778);
}

/* The same key again within 150 ms is a repeat. */
static void toggle(bool is_second)
{
    static uint8_t last;
    static uint16_t last_at;
    cli();
    const uint16_t now = time;
    sei();
    const uint8_t key = (uint8_t)(runs[0] / 4 * 2 + is_second); /* the leader is enough to know the handset */
    const bool is_repeat = key == last && (uint16_t)(now - last_at) < 150 * 20;
    last = key;
    last_at = now;
    if (is_repeat) {
        return;
    }
    PIND = (uint8_t)(is_second ? 1 << 7 : 1 << 4);
}

static void read_frame(void)
{
    uint32_t value;
    if (read_pulses(9000, 4500, 32, 1100, false, &value)) {
        if ((value & 0xffff) == 0xde21 && ((value >> 16 & 0xff) == 0x45 || (value >> 16 & 0xff) == 0x46)) {
            toggle((value >> 16 & 0xff) == 0x46);
        }
    } else if (read_pulses(9000, 4500, 28, 1100, true, &value)) {
        if ((value >> 20) == 0x5d) {
            toggle((value >> 4 & 0xffff) == 0x1c4);
        }
    } else if (read_pulses(4500, 4500, 32, 1100, false, &value)) {
        if ((value & 0xff) == 0x1c) {
            toggle((value >> 16 & 0xff) == 0x2b);
        }
    } else if (read_pulses(3456, 1728, 48, 860, false, &value)) {
        toggle((value >> 16 & 0xff) == 0x36);
    } else if (read_pulses(8400, 4200, 16, 1050, false, &value)) {
        if ((value & 0xff) == 0x61) {
            toggle((value >> 8 & 0xff) == 0x18);
        }
    } else if (read_pulses(4000, 4000, 24, 1500, true, &value)) {
        if ((value >> 20) == 0xc) {
            toggle((value >> 12 & 0xff) == 0x6f);
        }
    } else if (read_marks(12, &value)) {
        if (value >> 7 == 0x0b) {
            toggle((value & 0x7f) == 0x26);
        }
    } else if (read_phase(&value) && (value >> 6 & 0x1f) == 0x11) {
        toggle((value & 0x3f) == 0x24);
    }
}

static uint8_t bytes[3 * PIXELS];

static inline void show(void)
{
    const uint8_t high = PORTD | 1 << 6;
    const uint8_t low = PORTD & (uint8_t) ~(1 << 6);
    cli();
    for (uint8_t i = 0; i < 3 * PIXELS; i++) {
        uint8_t byte = bytes[i];
        uint8_t left = 8;
        __asm__ volatile(
            "1: out %[port], %[high] \n\t nop \n\t rjmp .+0 \n\t sbrs %[byte], 7 \n\t out %[port], %[low] "
            "\n\t"
            "lsl %[byte] \n\t nop \n\t rjmp .+0 \n\t nop \n\t out %[port], %[low] \n\t rjmp .+0 \n\t"
            "dec %[left] \n\t brne 1b \n\t"
            : [byte] "+r"(byte), [left] "+r"(left)
            : [port] "I"(_SFR_IO_ADDR(PORTD)), [high] "r"(high), [low] "r"(low));
    }
    sei();
}

static void paint(uint8_t shift)
{
    static const uint8_t grb[4][3] = {
        {0x00, 0xff, 0x00}, {0x70, 0xff, 0x00}, {0xff, 0x00, 0x00}, {0x00, 0x00, 0xff}};
    for (uint8_t i = 0; i < PIXELS; i++) {
        for (uint8_t j = 0; j < 3; j++) {
            bytes[3 * i + j] = grb[(uint8_t)(i + shift) / 4 % 4][j];
        }
    }
}

static void step(void)
{
    static const uint8_t fields[4] = {1 << 0 | 1 << 2, 1 << 2 | 1 << 1, 1 << 1 | 1 << 3, 1 << 3 | 1 << 0};
    static uint8_t at;
    at = (uint8_t)(at + 1) % 4;
    PORTC = (uint8_t)((PORTC & 0xf0) | fields[at]);
}

/* Ten µs per turn: the loop's part, and the sampling's. */
static void send_mark(uint16_t us)
{
    TCCR2A |= 1 << COM2B1;
    for (; us >= 10; us -= 10) {
        _delay_us(8.6);
    }
    TCCR2A &= (uint8_t) ~(1 << COM2B1);
}

static void send_space(uint16_t us)
{
    for (; us >= 10; us -= 10) {
        _delay_us(8.6);
    }
}

static inline void send_frame(uint32_t bits)
{
    send_mark(4500);
    send_space(4500);
    for (uint8_t i = 0; i < 32; i++) {
        send_mark(560);
        send_space(bits & 1 ? 1690 : 560);
        bits >>= 1;
    }
    send_mark(560);
}

int main(void)
{
    DDRD = 1 << 3 | 1 << 4 | 1 << 6 | 1 << 7;
    DDRC = 0x0f;
    TCCR1B = 1 << WGM12 | 1 << CS11;
    OCR1A = TICK_US * 2 - 1;
    TIMSK1 = 1 << OCIE1A;
    TCCR2A = 1 << WGM21 | 1 << WGM20;
    TCCR2B = 1 << WGM22 | 1 << CS21;
    OCR2A = 51;
    OCR2B = 17;
    sei();
    for (uint16_t turn = 0;; turn++) {
        paint((uint8_t)(turn / 8 % 16));
#ifndef ONLY_LISTEN /* the presses received with nothing else to do, which shows that it works */
        show();
#endif
        step();
        _delay_us(STEP_US - 2400); /* the rest of a step after painting and showing */
#ifndef ONLY_LISTEN
        if (turn % 32 == 0) { /* every 108 ms, as a held key */
            send_frame(UINT32_C(0xf8070707));
        }
#endif
        if (is_done) {
            read_frame();
            count = 0;
            is_done = false;
        }
    }
}
