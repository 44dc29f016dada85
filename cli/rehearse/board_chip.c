#include "cli/rehearse/board_chip.h"

#include <math.h>

void chip_use(sim_bench *bench, const plan *loaded)
{
    const board chosen = plan_board_at_its_clock(loaded);
    sim_bench_set_processor(
        bench,
        &(sim_processor){.stamp = plan_has_latch(loaded) ? DROM_STAMP_HARDWARE : DROM_STAMP_INTERRUPT,
                         .pwm_bits = chosen.pwm_bits,
                         .capture_us = chosen.capture_us,
                         .alarm_us = chosen.alarm_us,
                         .poll_us = chosen.poll_us,
                         .pixels = chosen.sends_by_itself ? SIM_PIXELS_BY_HARDWARE : SIM_PIXELS_SLICED});
}

void chip_watch_poll(chip_watch *watch, const sim_bench *bench)
{
    const double now_us = (double)sim_bench_now(bench);
    watch->now.poll_us = fmax(watch->now.poll_us, now_us - watch->polled_us);
    watch->polled_us = now_us;
}

chip_stretch chip_watch_take(chip_watch *watch, const sim_bench *bench)
{
    const sim_load load = sim_bench_load(bench);
    chip_stretch taken = watch->now;
    taken.until_us = sim_bench_now(bench);
    taken.masked_us = load.masked_us - watch->before.masked_us;
    taken.lost = load.merged + load.overrun - watch->before.merged - watch->before.overrun;
    watch->now = (chip_stretch){.from_us = taken.until_us};
    watch->before = load;
    return taken;
}
