/* What the theatre's own program sends of the amplifier's key, interval by interval; and whether it would
 * send another protocol. */
#include "lantern_plan.h"

#include "dromikos/encode.h"

#include <stdio.h>

#ifdef DROM_PLAN
const drom_port DROM_PORT = {.facts = {.can_slice = true}}; /* nothing here runs on it */
#endif

int main(void)
{
    const drom_code volume_up = {&drom_samsung32, 0x7, 0x7};
    const drom_code play = {&drom_nec, 0x21, 0x43};
    drom_encoder encoder;
    for (int part = DROM_SEND_FIRST; part <= DROM_SEND_REPEAT; part++) {
        if (drom_encode_begin(&encoder, &drom_samsung32_waveform, &volume_up, (drom_part_of_press)part,
                              false) != DROM_OK) {
            return 1;
        }
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            (void)printf("%u ", us);
        }
        (void)printf("\n");
    }
    (void)printf("another: %d\n",
                 drom_encode_begin(&encoder, &drom_nec_waveform, &play, DROM_SEND_FIRST, false));
    return 0;
}
