/* A chip on a serial line, simulated: it prints what its receiver hears as runs, ^9000_4500 and so on, and
 * silence in parts as it goes on. Says on its first line of output which terminal to listen to:
 *
 *     build/serial_chip &
 *     build/dromikos listen /dev/pts/N */
#include "sim.h"

#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <termios.h>
#include <unistd.h>

enum { SILENCE_US = 50000, GRACE_US = 300000 };

static void print_silence(FILE *line, uint64_t us)
{
    for (; us >= SILENCE_US; us -= SILENCE_US) {
        fprintf(line, "_%d\n", SILENCE_US);
    }
    fprintf(line, "_%u\n", (unsigned)us);
}

static void print_runs(FILE *line, sim_bench *bench)
{
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    for (size_t i = 0; i + 1 < count; i++) {
        const uint64_t us = edges[i + 1].at_us - edges[i].at_us;
        if (edges[i].is_mark) {
            fprintf(line, "^%u", (unsigned)us);
        } else {
            print_silence(line, us);
        }
    }
    print_silence(line, 1000000);
}

int main(void)
{
    static const drom_code wand[] = {{DROM_NEC, 33, 69}, {DROM_NEC, 33, 67}};
    struct termios settings;
    const int chip = posix_openpt(O_RDWR | O_NOCTTY);
    if (chip < 0 || grantpt(chip) != 0 || unlockpt(chip) != 0) {
        perror("serial_chip");
        return 1;
    }
    const int other_end = open(ptsname(chip), O_RDWR | O_NOCTTY); /* kept open, so that nothing is lost */
    FILE *const line = fdopen(chip, "w");
    if (other_end < 0 || line == NULL || tcgetattr(other_end, &settings) != 0) {
        perror("serial_chip");
        return 1;
    }
    cfmakeraw(&settings);
    tcsetattr(other_end, TCSANOW, &settings);
    puts(ptsname(chip));
    fflush(stdout);
    usleep(GRACE_US); /* until the line is read */
    sim_bench *const bench = sim_bench_new(1);
    for (uint64_t second = 1; second <= 4; second++) { /* play, power, play, power */
        sim_bench_press_once(bench, &drom_nec_waveform, &wand[second % 2], second * 1000000);
    }
    fputs("boot: receiver on pin 8\n",
          line); /* what a chip prints when it starts is no run, and is skipped */
    print_runs(line, bench);
    fflush(line);
    usleep(GRACE_US);
    sim_bench_free(bench);
    fclose(line);
    close(other_end);
}
