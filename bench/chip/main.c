/* Presses of every key, at random moments, on a chip that is busy with all else: what came of each? */
#include "chip.h"

#include "listener.h"

#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { CYCLES_PER_US = 16, KEYS = 16, WARM_UP_US = 1500000, LATEST_US = 6000 };

/* The keys of keys.csv: two a protocol, of which the second is worked by the second relay. */
static const struct {
    const drom_waveform *waveform;
    uint32_t address;
    uint16_t command; /* of the first; the second's is one more */
} handsets[KEYS / 2] = {
    {&drom_nec_waveform, 0x21, 0x45},     {&drom_samsung32_waveform, 0x1c, 0x2a}, {&drom_jvc_waveform, 0x61, 0x17},
    {&drom_kaseikyo_waveform, 0x40, 0x35}, {&drom_sirc12_waveform, 0x0b, 0x25},   {&drom_rc5_waveform, 0x11, 0x23},
    {&drom_lg28_waveform, 0x5d, 0x1c3},   {&drom_rca_waveform, 0x0c, 0x6e},
};

typedef struct score {
    unsigned pressed;
    unsigned heard;
    unsigned lost;
    unsigned drowned; /* of those: every frame met our own burst */
    unsigned spared;  /* pressed into our own burst, all of it */
    unsigned false_keys;
    double slowest_us; /* from the last informative edge to the relay */
    unsigned bursts;
    unsigned bad_bursts;
    double least_burst_us;
    double most_burst_us;
} score;

/* What an ideal receiver says of the frames of a press. */
typedef struct hearing {
    drom_us informed_at; /* of the first frame */
    bool is_heard;
} hearing;

static void on_frame(void *context, const drom_frame *frame)
{
    hearing *const to = context;
    if (!to->is_heard && frame->code.protocol != &drom_unknown) {
        to->is_heard = true;
        to->informed_at = frame->at + frame->lasted_us;
    }
}

static uint64_t seed;

static uint32_t draw(uint32_t least, uint32_t most)
{
    seed = seed * UINT64_C(6364136223846793005) + UINT64_C(1442695040888963407);
    return least + (uint32_t)((seed >> 33) % (most - least + 1));
}

/* A samsung32 frame of the hall's volume_up, as another appliance would read it: 4.5 ms and 4.5 ms, then bits by the
 * length of the space. */
static bool is_right_burst(const double *runs_us, unsigned count)
{
    uint32_t bits = 0;
    if (count != 67 || runs_us[0] < 4300 || runs_us[0] > 4700 || runs_us[1] < 4300 || runs_us[1] > 4700) {
        return false;
    }
    for (unsigned i = 0; i < 32; i++) {
        bits |= (uint32_t)(runs_us[3 + 2 * i] > 1100) << i;
    }
    return bits == UINT32_C(0xf8070707);
}

static void take_bursts(chip *on, score *of)
{
    double runs_us[256];
    const unsigned count = chip_take_burst(on, runs_us, 256);
    if (count == 0) {
        return;
    }
    of->bursts++;
    of->bad_bursts += !is_right_burst(runs_us, count);
    for (unsigned i = 2; i + 1 < count; i += 2) { /* the marks of the bits */
        of->least_burst_us = of->least_burst_us == 0 || runs_us[i] < of->least_burst_us ? runs_us[i] : of->least_burst_us;
        of->most_burst_us = runs_us[i] > of->most_burst_us ? runs_us[i] : of->most_burst_us;
    }
}

/* Runs on, and says whether our own burst went out at some moment from then to now. */
static bool run_and_listen(chip *on, uint64_t until, score *of)
{
    bool has_sent = false;
    while (chip_now(on) < until && chip_is_alive(on)) {
        const uint64_t from = chip_now(on);
        const uint64_t next = from + 4000 * CYCLES_PER_US;
        chip_run(on, next < until ? next : until);
        const uint64_t ended = chip_burst_until(on);
        has_sent |= chip_burst_from(on) != 0 && (ended == 0 || ended >= from);
        take_bursts(on, of);
    }
    return has_sent;
}

/* jvc and lg28 are told from nec by the silence after them alone: that informs of them, and no edge. */
static unsigned silence_us(drom_protocol_ref protocol)
{
    return protocol == &drom_jvc || protocol == &drom_lg28 ? protocol->silence_us : 0;
}

/* A press of `key`: the edges of its frames go to the pin. */
static void press(chip *on, unsigned key, score *of, bool is_shielded)
{
    const unsigned handset = key / 2;
    const uint64_t origin = chip_now(on);
    sim_bench *const bench = sim_bench_new(draw(1, UINT32_MAX - 1));
    sim_listener ideal;
    hearing heard = {0};
    const sim_press finger = {
        .waveform = handsets[handset].waveform,
        .code = {handsets[handset].waveform->protocol, handsets[handset].address,
                 (uint16_t)(handsets[handset].command + key % 2)},
        .frames = draw(1, 3),
        .at_us = 200,
        .room = {.clock_error = ((double)draw(0, 60) - 30) / 1000,
                 .stretch_us = (double)draw(0, 120) - 60,
                 .jitter_us = 30},
    };
    sim_bench_set_toggle(bench, draw(0, 1));
    (void)sim_bench_press(bench, &finger);
    const drom_protocol_ref only = finger.waveform->protocol;
    sim_listener_open_with(&ideal, &only, 1, on_frame, &heard);
    sim_listener_hear(&ideal, bench);
    chip_relay *const relay = chip_relay_of(on, key % 2);
    chip_relay *const other = chip_relay_of(on, 1 - key % 2);
    const unsigned before = relay->count;
    const unsigned others = other->count;
    bool is_every_frame_met = true;
    bool is_met = false; /* this frame */
    size_t edges = 0;
    const sim_edge *const edge = sim_bench_edges(bench, &edges);
    int marks = 0;
    uint64_t last_us = 0;
    for (size_t i = 0; i < edges; i++) {
        if (edge[i].at_us - last_us > 8000 && i > 0) { /* between two frames */
            is_every_frame_met &= is_met;
            is_met = false;
            (void)run_and_listen(on, origin + edge[i].at_us * CYCLES_PER_US, of);
        } else {
            is_met |= run_and_listen(on, origin + edge[i].at_us * CYCLES_PER_US, of);
        }
        marks += edge[i].is_mark ? 1 : -1;
        chip_set_line(on, marks > 0);
        last_us = edge[i].at_us;
    }
    is_every_frame_met &= is_met && !is_shielded;
    sim_bench_free(bench);
    (void)run_and_listen(on, origin + (last_us + LATEST_US) * CYCLES_PER_US, of);
    const bool is_heard = relay->count == before + 1;
    of->pressed++;
    of->heard += is_heard;
    of->spared += is_every_frame_met;
    of->lost += !is_heard;
    of->drowned += !is_heard && is_every_frame_met;
    of->false_keys += (other->count - others) + (relay->count > before + 1 ? relay->count - before - 1 : 0);
    if (is_heard && heard.is_heard && is_shielded) {
        const uint64_t acted = relay->at[(relay->count - 1) % 64];
        const double us = (double)(acted - origin) / CYCLES_PER_US - heard.informed_at - silence_us(only);
        of->slowest_us = us > of->slowest_us ? us : of->slowest_us;
    }
}

static void tell(const char *what, const char *value, const char *budget)
{
    (void)printf("%-44s  %-26s %s\n", what, value, budget);
}

#define TELL(what, budget, ...)                                                                              \
    do {                                                                                                     \
        char value[64];                                                                                      \
        (void)snprintf(value, sizeof value, __VA_ARGS__);                                                    \
        tell(what, value, budget);                                                                           \
    } while (0)

/* chip ELF PRESSES shielded|unshielded [budgets]: with 'budgets' it fails where one is missed. */
int main(int argc, char **argv)
{
    if (argc < 4) {
        fprintf(stderr, "chip: say which program, how many presses, and shielded or unshielded\n");
        return 2;
    }
    const unsigned presses = (unsigned)strtoul(argv[2], NULL, 10);
    const bool is_shielded = strcmp(argv[3], "shielded") == 0;
    chip *const on = chip_open(argv[1], 4, 7);
    score of = {0};
    unsigned last = KEYS;
    seed = 20260101;
    chip_hear_itself(on, !is_shielded);
    chip_run(on, (uint64_t)WARM_UP_US * CYCLES_PER_US);
    for (unsigned i = 0; i < presses && chip_is_alive(on); i++) {
        unsigned key = draw(0, KEYS - 1);
        key = key == last ? (key + 1) % KEYS : key;
        last = key;
        (void)run_and_listen(on, chip_now(on) + (uint64_t)draw(12000, 60000) * CYCLES_PER_US + draw(0, 15), &of);
        press(on, key, &of, is_shielded);
    }
    const chip_strip *const strip = chip_strip_of(on);
    const chip_stepper *const stepper = chip_stepper_of(on);
    const double seconds = (double)chip_now(on) / 16e6;
    const unsigned pixels = chip_size_of(on, "pixels_");
    (void)printf("%s, %s, %.0f s of the chip's time\n\n", argv[1], argv[3], seconds);
    TELL("keys heard, of those pressed", "all", "%u of %u", of.heard, of.pressed);
    if (!is_shielded) {
        TELL("  not heard, every frame met our own burst", "", "%u of %u", of.drowned, of.spared);
        TELL("  not heard, though some frame did not", "0", "%u", of.lost - of.drowned);
    }
    TELL("keys that nobody pressed", "0", "%u", of.false_keys);
    TELL("wrong pixels", "0", "%u", strip->wrong_pixels);
    TELL("refreshes cut short", "0", "%u", strip->cut);
    TELL("refreshes a second", "", "%.0f", strip->refreshes / seconds);
    TELL("longest gap in the strip's data", "9 us", "%.2f us", (double)strip->longest_gap / CYCLES_PER_US);
    TELL("steps, of which wrong", "0", "%u, %u", stepper->steps, stepper->bad_steps);
    TELL("step interval, shortest to longest", "3334 us", "%.0f to %.0f us", (double)stepper->shortest / CYCLES_PER_US,
         (double)stepper->longest / CYCLES_PER_US);
    TELL("bursts sent, of which unreadable", "0", "%u, %u", of.bursts, of.bad_bursts);
    TELL("marks of bits, shortest to longest", "560 us", "%.0f to %.0f us", of.least_burst_us, of.most_burst_us);
    TELL("capture interrupt, worst", "80 cycles", "%llu cycles", (unsigned long long)chip_worst_capture(on));
    TELL("alarm interrupt, worst", "", "%llu cycles", (unsigned long long)chip_worst_alarm(on));
    TELL("drom_engine_poll(), worst", "250 us", "%.0f us", (double)chip_worst_poll(on) / CYCLES_PER_US);
    if (is_shielded) {
        TELL("last informative edge to relay, worst", "1000 us", "%.0f us", of.slowest_us);
    }
    TELL("RAM, but for pixels", "512 bytes", "%u bytes", chip_static(on) - pixels);
    TELL("stack", "256 bytes", "%u bytes", chip_deepest_stack(on));
    TELL("flash", "14336 bytes", "%u bytes", chip_flash(on));
    const bool is_alive = chip_is_alive(on);
    if (!is_alive) {
        (void)printf("the program has ended, or crashed\n");
    }
    chip_close(on);
    return is_alive ? 0 : 1;
}
