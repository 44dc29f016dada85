/* The effect of short flickers of light. spikes ELF PIN EVERY: before each press of a key the line is active
 * for 1 to 60 µs, EVERY cycles longer each time; each press must reach its pin. The program's key power
 * toggles the relay on pin 4, play the one on pin 7; PIN is the receiver's. Exit code 1 if a press is lost.
 */
#include "press.h"
#include "wishes.h"

#include "dromikos/dromikos.h"

#include <stdio.h>
#include <stdlib.h>

enum { SHORTEST = 16, LONGEST = 60 * 16, ADDRESS = 0x21, POWER = 0x45, PLAY = 0x43 };

int main(int argc, char **argv)
{
    if (argc != 4 || strtoul(argv[3], NULL, 10) == 0) {
        fprintf(stderr,
                "spikes: say which program, the receiver's pin, and by how many cycles spikes grow\n");
        return 2;
    }
    chip *const mcu = chip_open(argv[1], (unsigned)strtoul(argv[2], NULL, 10), 4, 7, any_picture);
    const unsigned long every = strtoul(argv[3], NULL, 10);
    unsigned spikes = 0;
    unsigned lost = 0;
    wait_ms(mcu, 100);
    for (unsigned long cycles = SHORTEST; cycles <= LONGEST; cycles += every) {
        const chip_observed *const relay = chip_relay_of(mcu, spikes % 2);
        const bool was_high = relay->is_high;
        chip_run(mcu, chip_now(mcu) + spikes % 97);
        chip_set_line(mcu, true);
        chip_run(mcu, chip_now(mcu) + cycles);
        chip_set_line(mcu, false);
        wait_ms(mcu, 15);
        press(mcu, &drom_nec_waveform, ADDRESS, spikes % 2 == 0 ? POWER : PLAY, 60);
        wait_ms(mcu, 20);

        lost += relay->is_high == was_high;
        spikes++;
    }
    char what[120];
    (void)snprintf(what, sizeof what,
                   "with the receiver on pin %s, %u of %u presses after a spike reach their pin", argv[2],
                   spikes - lost, spikes);
    check(lost == 0 && spikes > 0, what);
    close_checked(mcu);
    return wrong_things() > 0 ? 1 : 0;
}
