/* From a few figures to the rows of a protocol. What a plan needn't say is derived: where a frame can begin,
 * and what is too short to be part of one. */
#include "plan/handset/declared.h"

#include "listener.h"

#include "dromikos/protocols.h"

#include <string.h>

enum {
    MAX_US = 11000,       /* with a slow clock a longer space would be the silence between two bursts */
    MAX_FRAME_US = 60000, /* for families whose decoders measure a frame as a whole, in 16 bits */
    MAX_HEADERLESS_MARK_US = 2000, /* the sum of 32 of them has 16 bits */
    MAX_PULSE_BITS = 48,
    MAX_PHASE_BITS = 48,
    KEPT_BITS = 32,
    USUAL_PERIOD_MS = 110,
    USUAL_CARRIER_KHZ = 38,
    MIN_CARRIER_KHZ = 20,
    MAX_CARRIER_KHZ = 60,
};

static const char *check(const declared_figures *figures)
{
    const uint32_t times[] = {figures->quad_mark_us,   figures->quad_space_us,   figures->quad_step_us,
                              figures->leader_mark_us, figures->leader_space_us, figures->zero_mark_us,
                              figures->zero_space_us,  figures->one_mark_us,     figures->one_space_us,
                              figures->ditto_space_us, figures->phase_us};
    const uint32_t zero_us = figures->zero_mark_us + figures->zero_space_us;
    const uint32_t one_us = figures->one_mark_us + figures->one_space_us;
    const uint32_t longer_us = zero_us > one_us ? zero_us : one_us;
    const uint32_t shorter_us = zero_us > one_us ? one_us : zero_us;
    for (size_t i = 0; i < G_N_ELEMENTS(times); i++) {
        if (times[i] > MAX_US) {
            return "its marks and spaces may be up to 11000 µs; a longer one ends a burst";
        }
    }
    if (figures->carrier_khz != 0 &&
        (figures->carrier_khz < MIN_CARRIER_KHZ || figures->carrier_khz > MAX_CARRIER_KHZ)) {
        return "its carrier has 20 to 60 kHz";
    }
    if (figures->toggle_bit > figures->bits || figures->wide_bit > figures->bits) {
        return "it has no such bit; the first that is sent is bit 1";
    }
    if ((figures->leader_mark_us == 0) != (figures->leader_space_us == 0)) {
        return "its leader needs a mark and a space";
    }
    if (figures->wide_bit != 0 && figures->phase_us == 0) {
        return "only a bi-phase protocol has a wide bit";
    }
    if (figures->ditto_space_us != 0 &&
        (figures->leader_mark_us == 0 || figures->phase_us != 0 || figures->quad_mark_us != 0)) {
        return "only a protocol with a leader, a 'zero' and a 'one' has repeat frames";
    }
    const uint32_t leader_us = figures->leader_mark_us + figures->leader_space_us;
    const uint32_t half_us = figures->phase_us != 0 ? figures->phase_us : 1;
    const uint32_t leader_halves = (leader_us + half_us / 2) / half_us;
    if (figures->phase_us != 0) {
        return figures->bits < 2 || figures->bits > MAX_PHASE_BITS   ? "a bi-phase frame has 2 to 48 bits"
               : figures->phase_us < 100 || figures->phase_us > 3000 ? "half a bit lasts 100 to 3000 µs"
               : zero_us != 0 || one_us != 0 ? "it is either bi-phase, or has a 'zero' and a 'one'"
               : leader_us + (figures->bits + 1) * 2 * figures->phase_us > MAX_FRAME_US
                   ? "a bi-phase frame lasts 60 ms at most"
               : leader_us != 0 && (leader_halves < 1 || leader_halves > 100)
                   ? "its leader must last 1 to 100 times half a bit"
               : leader_us != 0 && figures->toggle_bit == 1
                   ? "a bit that may begin with a space can't come right "
                     "after a leader, so that its toggle bit "
                     "isn't the first"
                   : NULL;
    }
    if (figures->quad_mark_us != 0) {
        return figures->bits < 4 || figures->bits > KEPT_BITS || figures->bits % 2 != 0
                   ? "a quaternary frame has 4 to 32 bits, two by two"
               : figures->leader_mark_us == 0 ? "a quaternary protocol needs a leader"
               : figures->is_lsb_first        ? "a quaternary protocol is msb first"
               : zero_us != 0 || one_us != 0  ? "it is either quaternary, or has a 'zero' and a 'one'"
               : figures->quad_mark_us < 100 || figures->quad_space_us < 100 || figures->quad_step_us < 50
                   ? "its mark and space last 100 µs or more, and the step 50"
               : figures->quad_space_us + 3 * figures->quad_step_us > MAX_US
                   ? "its longest space may be up to 11000 µs; a longer one ends a burst"
               : leader_us +
                           figures->bits / 2 *
                               (figures->quad_mark_us + figures->quad_space_us + 3 * figures->quad_step_us) >
                       MAX_FRAME_US
                   ? "a quaternary frame lasts 60 ms at most"
               : figures->toggle_bit != 0 ? "a quaternary protocol has no toggle bit"
                                          : NULL;
    }
    if (figures->zero_mark_us < 100 || figures->zero_space_us < 100 || figures->one_mark_us < 100 ||
        figures->one_space_us < 100) {
        return "it needs 'zero' and 'one', each a mark and a space of 100 µs or more; or 'phase'";
    }
    if (longer_us * 10 < shorter_us * 13) {
        return "its 'zero' and 'one' are too much alike: together, mark and space must differ by 30 %";
    }
    if (figures->has_no_stop && figures->leader_mark_us == 0) {
        return "without a stop mark it needs a leader, against which the last mark is held";
    }
    if (figures->leader_mark_us == 0 && figures->bits > KEPT_BITS) {
        return "a frame without a leader has 4 to 32 bits";
    }
    if (figures->leader_mark_us == 0 && figures->zero_mark_us > MAX_HEADERLESS_MARK_US) {
        return "without a leader, marks last 2000 µs at most";
    }
    return figures->bits < 4 || figures->bits > MAX_PULSE_BITS ? "a frame has 4 to 48 bits" : NULL;
}

static uint16_t shortest_run(const declared_figures *figures)
{
    uint32_t min = figures->phase_us != 0       ? figures->phase_us
                   : figures->quad_mark_us != 0 ? figures->quad_mark_us
                                                : figures->zero_mark_us;
    const uint32_t others[] = {figures->zero_space_us,   figures->one_mark_us,   figures->one_space_us,
                               figures->quad_mark_us,    figures->quad_space_us, figures->leader_mark_us,
                               figures->leader_space_us, figures->ditto_space_us};
    for (size_t i = 0; i < G_N_ELEMENTS(others); i++) {
        min = others[i] != 0 && others[i] < min ? others[i] : min;
    }
    return (uint16_t)min;
}

static void fill_pulse(declared_protocol *own)
{
    const declared_figures *const figures = &own->figures;
    own->pulse = (drom_pulse_timing){
        .leader_mark_us = (uint16_t)figures->leader_mark_us,
        .leader_space_us = (uint16_t)figures->leader_space_us,
        .ditto_space_us = (uint16_t)figures->ditto_space_us,
        .zero_mark_us = (uint16_t)figures->zero_mark_us,
        .zero_space_us = (uint16_t)figures->zero_space_us,
        .one_mark_us = (uint16_t)figures->one_mark_us,
        .one_space_us = (uint16_t)figures->one_space_us,
        .bits = (uint8_t)figures->bits,
        .is_msb_first = !figures->is_lsb_first,
        .has_no_stop = figures->has_no_stop,
        .toggle_bit = (uint8_t)figures->toggle_bit,
    };
    own->protocol.step = drom_pulse_step;
    own->protocol.accepts = drom_pulse_accepts;
    own->protocol.timing = &own->pulse;
    own->protocol.unpack = drom_pulse_unpack_plain;
    own->waveform.chunk = drom_pulse_chunk;
    own->waveform.pack = drom_pulse_pack_plain;
}

static void fill_phase(declared_protocol *own)
{
    enum { NO_BIT = 255 };
    const declared_figures *const figures = &own->figures;
    const uint32_t leader_us = figures->leader_mark_us + figures->leader_space_us;
    own->phase = (drom_phase_timing){
        .leader_mark_us = (uint16_t)figures->leader_mark_us,
        .leader_space_us = (uint16_t)figures->leader_space_us,
        .unit_us = (uint16_t)figures->phase_us,
        .leader_units = (uint8_t)((leader_us + figures->phase_us / 2) / figures->phase_us),
        .leader_mark_units = (uint8_t)((figures->leader_mark_us + figures->phase_us / 2) / figures->phase_us),
        .bits = (uint8_t)figures->bits,
        .double_bit = figures->wide_bit != 0 ? (uint8_t)(figures->wide_bit - 1) : NO_BIT,
        .is_one_mark_first = !figures->is_one_space_first,
        .is_msb_first = !figures->is_lsb_first,
        .toggle_bit = (uint8_t)figures->toggle_bit,
    };
    own->protocol.step = drom_phase_step;
    own->protocol.accepts = drom_phase_accepts;
    own->protocol.timing = &own->phase;
    own->protocol.unpack = drom_phase_unpack_plain;
    own->waveform.chunk = drom_phase_chunk;
    own->waveform.pack =
        figures->bits <= KEPT_BITS ? drom_phase_pack_plain : NULL; /* of more bits, the first are not kept */
}

static void fill_quad(declared_protocol *own)
{
    const declared_figures *const figures = &own->figures;
    own->quad = (drom_quad_timing){
        .leader_mark_us = (uint16_t)figures->leader_mark_us,
        .leader_space_us = (uint16_t)figures->leader_space_us,
        .mark_us = (uint16_t)figures->quad_mark_us,
        .space_us = (uint16_t)figures->quad_space_us,
        .step_us = (uint16_t)figures->quad_step_us,
        .bits = (uint8_t)figures->bits,
    };
    own->protocol.step = drom_quad_step;
    own->protocol.accepts = drom_quad_accepts;
    own->protocol.timing = &own->quad;
    own->protocol.unpack = drom_quad_unpack_plain;
    own->waveform.chunk = drom_quad_chunk;
    own->waveform.pack = drom_quad_pack_plain;
}

/* True if a frame begins like nec's: then a shorter one of them is accepted only after the silence that
 * follows it, and so is this one if the plan has a longer one. */
static bool begins_like_nec(const declared_figures *figures)
{
    const bool is_pulse = figures->phase_us == 0 && figures->quad_mark_us == 0;
    return is_pulse && figures->leader_mark_us >= 7300 && figures->leader_mark_us <= 10600 &&
           figures->leader_space_us >= 3600 && figures->leader_space_us <= 5300;
}

const char *declared_fill(declared_protocol *own, const char *name)
{
    const declared_figures *const figures = &own->figures;
    const char *const wrong = check(figures);
    if (wrong != NULL) {
        return wrong;
    }
    if (strlen(name) >= sizeof own->id) {
        return "its name may have 11 letters";
    }
    const uint16_t shortest_us = shortest_run(figures);
    const bool has_leader = figures->leader_mark_us != 0;
    const uint32_t data_mark_us =
        figures->phase_us != 0 ? 2 * figures->phase_us : MAX(figures->zero_mark_us, figures->one_mark_us);
    const uint32_t first_us = has_leader ? figures->leader_mark_us : data_mark_us;
    const uint32_t min_us = has_leader ? first_us * 3 / 5 : shortest_us / 3u;
    const uint32_t space_us =
        figures->phase_us != 0 ? 2 * figures->phase_us : MAX(figures->zero_space_us, figures->one_space_us);
    g_strlcpy(own->id, name, sizeof own->id);
    own->protocol.id = own->id;
    own->protocol.number = DROM_OWN_PROTOCOL;
    own->protocol.glitch_us = shortest_us >= 520 ? 250 : shortest_us >= 400 ? 120 : 40;
    own->protocol.first_mark_min_us = (uint16_t)(min_us > 420 || has_leader ? min_us : min_us / 2);
    own->protocol.first_mark_max_us = (uint16_t)(first_us + first_us / 7 + 260);
    own->protocol.lead_in_us = has_leader ? 0 : (uint16_t)MAX(space_us * 5 / 4 + 300, 3000);
    own->protocol.period_us = figures->period_ms * 1000;
    own->protocol.gap_us = figures->gap_ms * 1000;
    if (figures->period_ms == 0 && figures->gap_ms == 0) {
        own->protocol.period_us = USUAL_PERIOD_MS * 1000;
        own->protocol.has_any_period = true;
    }
    own->protocol.length = (uint8_t)figures->bits;
    own->protocol.rank = 9; /* the library's protocols have priority */
    if (begins_like_nec(figures)) {
        own->protocol.group = DROM_GROUP_LEADER_9MS;
        own->protocol.silence_us = (uint16_t)MAX(space_us * 5 / 4 + 300, 2300);
    }
    own->protocol.has_ditto = figures->ditto_space_us != 0;
    own->protocol.has_toggle = figures->toggle_bit != 0;
    if (figures->phase_us != 0) {
        fill_phase(own);
    } else if (figures->quad_mark_us != 0) {
        fill_quad(own);
    } else {
        fill_pulse(own);
    }
    const uint32_t bit_us[] = {figures->zero_mark_us + figures->zero_space_us,
                               figures->one_mark_us + figures->one_space_us};
    uint32_t shortest_bit_us = MIN(bit_us[0], bit_us[1]);
    uint32_t longest_bit_us = MAX(bit_us[0], bit_us[1]);
    if (figures->phase_us != 0) {
        shortest_bit_us = longest_bit_us = 2 * figures->phase_us;
    } else if (figures->quad_mark_us != 0) {
        shortest_bit_us = (figures->quad_mark_us + figures->quad_space_us) / 2;
        longest_bit_us = shortest_bit_us + 3 * figures->quad_step_us / 2;
    }
    const uint32_t leader_us = figures->leader_mark_us + figures->leader_space_us;
    own->protocol.min_ms =
        (uint8_t)MIN((leader_us + (figures->bits - 1) * shortest_bit_us) * 92 / 100000, UINT8_MAX);
    own->waveform.longest_ms =
        (uint8_t)MIN((leader_us + (figures->bits + 2) * longest_bit_us) / 1000 + 1, UINT8_MAX);
    const uint32_t kept = figures->phase_us != 0 ? MIN(figures->bits, KEPT_BITS) : figures->bits;
    const uint32_t address_bits = kept > 16 ? kept - 16 : 0;
    own->waveform.protocol = &own->protocol;
    own->waveform.timing = own->protocol.timing;
    own->waveform.carrier_khz =
        (uint8_t)(figures->carrier_khz != 0 ? figures->carrier_khz : USUAL_CARRIER_KHZ);
    own->waveform.max_address = (uint32_t)((UINT64_C(1) << address_bits) - 1);
    own->waveform.max_command = (uint16_t)(figures->bits >= 16 ? UINT16_MAX : (1u << figures->bits) - 1);
    return NULL;
}

/* What a receiver decoded of a press. */
typedef struct read_back {
    const drom_protocol *protocol;
    drom_code code;
    unsigned whole;         /* frames with this code */
    unsigned repeat_frames; /* after one of them */
    unsigned others;
} read_back;

static void take_frame(void *context, const drom_frame *frame)
{
    read_back *const back = context;
    if (frame->kind == DROM_FRAME_REPEAT) {
        back->repeat_frames++;
    } else if (drom_code_equal(&frame->code, &back->code)) {
        back->whole++;
    } else {
        back->others += frame->protocol == back->protocol;
    }
}

/* Two frames of a press, from a handset whose clock is off by this. */
static bool is_read_back(const drom_waveform *waveform, const drom_code *code, bool toggle, double clock)
{
    const drom_protocol_ref only = waveform->protocol;
    sim_listener listener;
    read_back back = {.protocol = only, .code = *code};
    drom_us now = 1000000;
    sim_listener_open_with(&listener, &only, 1, take_frame, &back);
    listener.plan.unknown.memory = NULL; /* as in a plan, where glitches may be longer */
    drom_receiver_init(&listener.receiver, &listener.plan);
    for (int part = DROM_SEND_FIRST; part <= (int)DROM_SEND_REPEAT; part++) {
        drom_encoder encoder;
        bool is_mark = true;
        drom_encode_start(&encoder, waveform, code, (drom_press_part)part, toggle);
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            sim_listener_edge(&listener, now, is_mark);
            now += (drom_us)(us * clock + 0.5);
            is_mark = !is_mark;
        }
        sim_listener_edge(&listener, now, false);
        now += 100000;
    }
    sim_listener_pass(&listener, now);
    return back.others == 0 && back.whole >= 1 && back.whole + back.repeat_frames == 2;
}

const char *declared_misread(const drom_waveform *waveform, const drom_code *code)
{
    static const double clocks[] = {1, 0.965, 1.035}; /* 3 %, and some reserve for rounding */
    const drom_protocol *const protocol = waveform->protocol;
    const bool has_toggle = protocol->has_toggle;
    bool is_read = true;
    for (size_t i = 0; i < 2 * G_N_ELEMENTS(clocks) && is_read && waveform->pack != NULL; i++) {
        const bool toggle = i % 2 == 1;
        is_read = (toggle && !has_toggle) || is_read_back(waveform, code, toggle, clocks[i / 2]);
    }
    if (is_read) {
        return NULL;
    }
    drom_encoder encoder;
    drom_encode_start(&encoder, waveform, code, DROM_SEND_FIRST, false);
    (void)drom_encode_next(&encoder);
    const drom_phase_timing *const timing = waveform->timing;
    if (protocol->step == drom_phase_step && timing->leader_mark_us != 0 &&
        drom_encode_next(&encoder) > timing->leader_space_us) {
        return "its first bit begins with a space, which no receiver can separate from the leader's";
    }
    if (protocol->step == drom_phase_step && timing->leader_mark_us == 0) {
        return "without a leader, its first bit must begin with a space: a one, with 'one space first'";
    }
    return "no receiver reads it back: its figures are too much alike, or too close to those of a pause";
}

char *declared_text(const declared_figures *figures, const char *name)
{
    GString *const text = g_string_new(NULL);
    g_string_printf(text, "protocol %s: %u bits, %s first", name, figures->bits,
                    figures->is_lsb_first ? "lsb" : "msb");
    if (figures->leader_mark_us != 0) {
        g_string_append_printf(text, ", leader %u %u", figures->leader_mark_us, figures->leader_space_us);
    }
    if (figures->phase_us != 0) {
        g_string_append_printf(text, ", phase %u, one %s first", figures->phase_us,
                               figures->is_one_space_first ? "space" : "mark");
    } else if (figures->quad_mark_us != 0) {
        g_string_append_printf(text, ", quad %u %u %u", figures->quad_mark_us, figures->quad_space_us,
                               figures->quad_step_us);
    } else {
        g_string_append_printf(text, ", zero %u %u, one %u %u", figures->zero_mark_us, figures->zero_space_us,
                               figures->one_mark_us, figures->one_space_us);
    }
    g_string_append(text, figures->has_no_stop ? ", no stop" : "");
    if (figures->ditto_space_us != 0) {
        g_string_append_printf(text, ", ditto %u", figures->ditto_space_us);
    }
    if (figures->toggle_bit != 0) {
        g_string_append_printf(text, ", toggle bit %u", figures->toggle_bit);
    }
    if (figures->wide_bit != 0) {
        g_string_append_printf(text, ", wide bit %u", figures->wide_bit);
    }
    if (figures->period_ms != 0) {
        g_string_append_printf(text, ", period %u ms", figures->period_ms);
    }
    if (figures->carrier_khz != 0) {
        g_string_append_printf(text, ", carrier %u kHz", figures->carrier_khz);
    }
    if (figures->gap_ms != 0) {
        g_string_append_printf(text, ", gap %u ms", figures->gap_ms);
    }
    return g_string_free(text, FALSE);
}
