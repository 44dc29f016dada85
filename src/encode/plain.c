/* The bits of protocols of your own: the reverse of drom_pulse_unpack_plain() and the like. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"
#include "../../include/dromikos/protocols.h"

static void pack(const drom_code *code, bool toggle, uint8_t count, uint8_t toggle_bit, bool is_msb_first,
                 drom_encoder *encoder)
{
    const uint8_t head = (uint8_t)(count > 32 ? count - 32 : 0);
    const uint8_t kept = (uint8_t)(is_msb_first ? 0 : head); /* bits of the command that are sent first */
    encoder->more =
        (uint16_t)(is_msb_first ? code->address >> 16 : code->command & ((UINT32_C(1) << head) - 1));
    encoder->bits = (uint32_t)code->command >> kept | code->address << (16 - kept);
    if (!toggle || toggle_bit == 0) {
        return;
    }
    const uint8_t index = (uint8_t)(is_msb_first ? count - toggle_bit : toggle_bit - 1);
    const bool is_apart = is_msb_first ? index >= 32 : index < head;
    if (is_apart) {
        encoder->more = (uint16_t)(encoder->more | 1u << (is_msb_first ? index - 32 : index));
    } else {
        encoder->bits |= UINT32_C(1) << (is_msb_first ? index : index - head);
    }
}

void drom_pulse_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)encoder->waveform->timing;
    pack(code, toggle, timing.bits, timing.toggle_bit, timing.is_msb_first, encoder);
}

void drom_phase_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    const drom_phase_timing timing = *(const drom_phase_timing DROM_FLASH *)encoder->waveform->timing;
    pack(code, toggle, timing.bits, timing.toggle_bit, timing.is_msb_first, encoder);
}

void drom_quad_pack_plain(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address << 16 | code->command;
}
