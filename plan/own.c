/* From a handful of figures to the rows of a protocol. What a plan needn't say is derived: where a frame can
 * begin, and what is too short to be part of one. */
#include "own.h"

#include "dromikos/protocols.h"

#include <string.h>

enum {
    MOST_US = 30000,
    MOST_BARE_MARK_US = 2000, /* 32 of them are summed up in 16 bits */
    MOST_PULSE_BITS = 48,
    MOST_PHASE_BITS = 48,
    KEPT_BITS = 32,
    USUAL_PERIOD_MS = 110,
};

/* The bits in the order in which the encoder wants them; the reverse of drom_pulse_unpack_plain(). */
static void pack_bits(const drom_code *code, bool toggle, uint8_t count, uint8_t toggle_bit,
                      bool is_msb_first, drom_encoder *encoder)
{
    const uint8_t head = count > 32 ? (uint8_t)(count - 32) : 0;
    uint64_t value = (uint64_t)code->address << 16 | code->command;
    if (toggle && toggle_bit != 0) {
        value |= UINT64_C(1) << (is_msb_first ? count - toggle_bit : toggle_bit - 1);
    }
    if (is_msb_first) {
        encoder->more = (uint16_t)(value >> 32);
        encoder->bits = (uint32_t)value;
    } else {
        encoder->more = (uint16_t)(value & ((UINT64_C(1) << head) - 1));
        encoder->bits = (uint32_t)(value >> head);
    }
}

static void pack_pulse(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    const drom_pulse_timing *const timing = encoder->waveform->timing;
    pack_bits(code, toggle, timing->bits, timing->toggle_bit, timing->is_msb_first, encoder);
}

static void pack_phase(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    const drom_phase_timing *const timing = encoder->waveform->timing;
    pack_bits(code, toggle, timing->bits, timing->toggle_bit, timing->is_msb_first, encoder);
}

static const char *check(const own_figures *is)
{
    const uint32_t times[] = {is->quad_mark_us,    is->quad_space_us,  is->quad_step_us,  is->leader_mark_us,
                              is->leader_space_us, is->zero_mark_us,   is->zero_space_us, is->one_mark_us,
                              is->one_space_us,    is->ditto_space_us, is->phase_us};
    const uint32_t zero_us = is->zero_mark_us + is->zero_space_us;
    const uint32_t one_us = is->one_mark_us + is->one_space_us;
    const uint32_t longer_us = zero_us > one_us ? zero_us : one_us;
    const uint32_t shorter_us = zero_us > one_us ? one_us : zero_us;
    for (size_t i = 0; i < G_N_ELEMENTS(times); i++) {
        if (times[i] > MOST_US) {
            return "its times may be up to 30000 us";
        }
    }
    if (is->toggle_bit > is->bits || is->wide_bit > is->bits) {
        return "it has no such bit; the first that is sent is bit 1";
    }
    if ((is->leader_mark_us == 0) != (is->leader_space_us == 0)) {
        return "its leader needs a mark and a space";
    }
    if (is->phase_us != 0) {
        return is->bits < 2 || is->bits > MOST_PHASE_BITS  ? "a bi-phase frame has 2 to 48 bits"
               : is->phase_us < 100 || is->phase_us > 3000 ? "half a bit lasts 100 to 3000 us"
               : zero_us != 0 || one_us != 0 ? "it is either bi-phase, or has a 'zero' and a 'one'"
                                             : NULL;
    }
    if (is->quad_mark_us != 0) {
        return is->bits < 4 || is->bits > KEPT_BITS || is->bits % 2 != 0
                   ? "a quaternary frame has 4 to 32 bits, two by two"
               : is->leader_mark_us == 0     ? "a quaternary protocol needs a leader"
               : is->is_lsb_first            ? "a quaternary protocol is msb first"
               : zero_us != 0 || one_us != 0 ? "it is either quaternary, or has a 'zero' and a 'one'"
               : is->quad_mark_us < 100 || is->quad_space_us < 100 || is->quad_step_us < 50
                   ? "its mark and space last 100 us or more, and the step 50"
                   : NULL;
    }
    if (is->zero_mark_us < 100 || is->zero_space_us < 100 || is->one_mark_us < 100 ||
        is->one_space_us < 100) {
        return "it needs 'zero' and 'one', each a mark and a space of 100 us or more; or 'phase'";
    }
    if (longer_us * 10 < shorter_us * 13) {
        return "its 'zero' and 'one' are too much alike: together, mark and space must differ by 30 %";
    }
    if (is->has_no_stop && is->leader_mark_us == 0) {
        return "without a stop mark it needs a leader, against which the last mark is held";
    }
    if (is->leader_mark_us == 0 && is->bits > KEPT_BITS) {
        return "a frame without a leader has 4 to 32 bits";
    }
    if (is->leader_mark_us == 0 && is->zero_mark_us > MOST_BARE_MARK_US) {
        return "without a leader, marks last 2000 us at most";
    }
    return is->bits < 4 || is->bits > MOST_PULSE_BITS ? "a frame has 4 to 48 bits" : NULL;
}

static uint16_t shortest_run(const own_figures *is)
{
    uint32_t least = is->phase_us != 0       ? is->phase_us
                     : is->quad_mark_us != 0 ? is->quad_mark_us
                                             : is->zero_mark_us;
    const uint32_t others[] = {is->zero_space_us, is->one_mark_us, is->one_space_us, is->quad_mark_us,
                               is->quad_space_us};
    for (size_t i = 0; i < G_N_ELEMENTS(others); i++) {
        least = others[i] != 0 && others[i] < least ? others[i] : least;
    }
    return (uint16_t)least;
}

static void fill_pulse(own_protocol *own)
{
    const own_figures *const is = &own->figures;
    own->pulse = (drom_pulse_timing){
        .leader_mark_us = (uint16_t)is->leader_mark_us,
        .leader_space_us = (uint16_t)is->leader_space_us,
        .ditto_space_us = (uint16_t)is->ditto_space_us,
        .zero_mark_us = (uint16_t)is->zero_mark_us,
        .zero_space_us = (uint16_t)is->zero_space_us,
        .one_mark_us = (uint16_t)is->one_mark_us,
        .one_space_us = (uint16_t)is->one_space_us,
        .bits = (uint8_t)is->bits,
        .is_msb_first = !is->is_lsb_first,
        .has_no_stop = is->has_no_stop,
        .toggle_bit = (uint8_t)is->toggle_bit,
    };
    own->protocol.step = drom_pulse_step;
    own->protocol.timing = &own->pulse;
    own->protocol.unpack = drom_pulse_unpack_plain;
    own->waveform.chunk = drom_pulse_chunk;
    own->waveform.pack = pack_pulse;
}

static void fill_phase(own_protocol *own)
{
    enum { NO_BIT = 255 };
    const own_figures *const is = &own->figures;
    const uint32_t leader_us = is->leader_mark_us + is->leader_space_us;
    own->phase = (drom_phase_timing){
        .leader_mark_us = (uint16_t)is->leader_mark_us,
        .leader_space_us = (uint16_t)is->leader_space_us,
        .unit_us = (uint16_t)is->phase_us,
        .leader_units = (uint8_t)((leader_us + is->phase_us / 2) / is->phase_us),
        .leader_mark_units = (uint8_t)((is->leader_mark_us + is->phase_us / 2) / is->phase_us),
        .bits = (uint8_t)is->bits,
        .double_bit = is->wide_bit != 0 ? (uint8_t)(is->wide_bit - 1) : NO_BIT,
        .is_one_mark_first = !is->is_one_space_first,
        .is_msb_first = !is->is_lsb_first,
        .toggle_bit = (uint8_t)is->toggle_bit,
    };
    own->protocol.step = drom_phase_step;
    own->protocol.timing = &own->phase;
    own->protocol.unpack = drom_phase_unpack_plain;
    own->waveform.chunk = drom_phase_chunk;
    own->waveform.pack = is->bits <= KEPT_BITS ? pack_phase : NULL; /* of more, the first are not kept */
}

static void pack_quad(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address << 16 | code->command;
}

static void fill_quad(own_protocol *own)
{
    const own_figures *const is = &own->figures;
    own->quad = (drom_quad_timing){
        .leader_mark_us = (uint16_t)is->leader_mark_us,
        .leader_space_us = (uint16_t)is->leader_space_us,
        .mark_us = (uint16_t)is->quad_mark_us,
        .space_us = (uint16_t)is->quad_space_us,
        .step_us = (uint16_t)is->quad_step_us,
        .bits = (uint8_t)is->bits,
    };
    own->protocol.step = drom_quad_step;
    own->protocol.timing = &own->quad;
    own->protocol.unpack = drom_quad_unpack_plain;
    own->waveform.chunk = drom_quad_chunk;
    own->waveform.pack = pack_quad;
}

const char *own_protocol_fill(own_protocol *own, const char *name)
{
    const own_figures *const is = &own->figures;
    const char *const wrong = check(is);
    if (wrong != NULL) {
        return wrong;
    }
    if (strlen(name) >= sizeof own->protocol.id) {
        return "its name may have 11 letters";
    }
    const uint16_t shortest_us = shortest_run(is);
    const bool has_leader = is->leader_mark_us != 0;
    const uint32_t data_mark_us =
        is->phase_us != 0 ? 2 * is->phase_us : MAX(is->zero_mark_us, is->one_mark_us);
    const uint32_t first_us = has_leader ? is->leader_mark_us : data_mark_us;
    const uint32_t least_us = has_leader ? first_us * 3 / 5 : shortest_us / 3u;
    const uint32_t space_us = is->phase_us != 0 ? 2 * is->phase_us : MAX(is->zero_space_us, is->one_space_us);
    g_strlcpy(own->protocol.id, name, sizeof own->protocol.id);
    own->protocol.glitch_us = shortest_us >= 520 ? 250 : shortest_us >= 400 ? 120 : 40;
    own->protocol.first_mark_least_us = (uint16_t)(least_us > 420 || has_leader ? least_us : least_us / 2);
    own->protocol.first_mark_most_us = (uint16_t)(first_us + first_us / 7 + 260);
    own->protocol.lead_in_us = has_leader ? 0 : (uint16_t)MAX(space_us * 5 / 4 + 300, 3000);
    own->protocol.period_us = is->period_ms * 1000;
    own->protocol.gap_us = is->gap_ms * 1000;
    if (is->period_ms == 0 && is->gap_ms == 0) {
        own->protocol.period_us = USUAL_PERIOD_MS * 1000;
        own->protocol.has_any_period = true;
    }
    own->protocol.length = (uint8_t)is->bits;
    own->protocol.rank = 9; /* what the library knows goes first */
    own->protocol.has_ditto = is->ditto_space_us != 0;
    own->protocol.has_toggle = is->toggle_bit != 0;
    if (is->phase_us != 0) {
        fill_phase(own);
    } else if (is->quad_mark_us != 0) {
        fill_quad(own);
    } else {
        fill_pulse(own);
    }
    const uint32_t bit_us[] = {is->zero_mark_us + is->zero_space_us, is->one_mark_us + is->one_space_us};
    uint32_t shortest_bit_us = MIN(bit_us[0], bit_us[1]);
    uint32_t longest_bit_us = MAX(bit_us[0], bit_us[1]);
    if (is->phase_us != 0) {
        shortest_bit_us = longest_bit_us = 2 * is->phase_us;
    } else if (is->quad_mark_us != 0) {
        shortest_bit_us = (is->quad_mark_us + is->quad_space_us) / 2;
        longest_bit_us = shortest_bit_us + 3 * is->quad_step_us / 2;
    }
    const uint32_t leader_us = is->leader_mark_us + is->leader_space_us;
    own->protocol.least_ms =
        (uint8_t)MIN((leader_us + (is->bits - 1) * shortest_bit_us) * 92 / 100000, UINT8_MAX);
    own->waveform.longest_ms =
        (uint8_t)MIN((leader_us + (is->bits + 2) * longest_bit_us) / 1000 + 1, UINT8_MAX);
    const uint32_t kept = is->phase_us != 0 ? MIN(is->bits, KEPT_BITS) : is->bits;
    const uint32_t address_bits = kept > 16 ? kept - 16 : 0;
    own->waveform.protocol = &own->protocol;
    own->waveform.timing = own->protocol.timing;
    own->waveform.most_address = (uint32_t)((UINT64_C(1) << address_bits) - 1);
    own->waveform.most_command = (uint16_t)(is->bits >= 16 ? UINT16_MAX : (1u << is->bits) - 1);
    return NULL;
}

char *own_protocol_text(const own_figures *is, const char *name)
{
    GString *const text = g_string_new(NULL);
    g_string_printf(text, "protocol %s: %u bits, %s first", name, is->bits, is->is_lsb_first ? "lsb" : "msb");
    if (is->leader_mark_us != 0) {
        g_string_append_printf(text, ", leader %u %u", is->leader_mark_us, is->leader_space_us);
    }
    if (is->phase_us != 0) {
        g_string_append_printf(text, ", phase %u, one %s first", is->phase_us,
                               is->is_one_space_first ? "space" : "mark");
    } else if (is->quad_mark_us != 0) {
        g_string_append_printf(text, ", quad %u %u %u", is->quad_mark_us, is->quad_space_us,
                               is->quad_step_us);
    } else {
        g_string_append_printf(text, ", zero %u %u, one %u %u", is->zero_mark_us, is->zero_space_us,
                               is->one_mark_us, is->one_space_us);
    }
    g_string_append(text, is->has_no_stop ? ", no stop" : "");
    if (is->ditto_space_us != 0) {
        g_string_append_printf(text, ", ditto %u", is->ditto_space_us);
    }
    if (is->toggle_bit != 0) {
        g_string_append_printf(text, ", toggle bit %u", is->toggle_bit);
    }
    if (is->wide_bit != 0) {
        g_string_append_printf(text, ", wide bit %u", is->wide_bit);
    }
    if (is->period_ms != 0) {
        g_string_append_printf(text, ", period %u ms", is->period_ms);
    }
    if (is->gap_ms != 0) {
        g_string_append_printf(text, ", gap %u ms", is->gap_ms);
    }
    return g_string_free(text, FALSE);
}
