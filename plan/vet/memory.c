/* Does the program fit into flash and RAM? An estimate from measured costs (costs.h). */
#include "plan/vet/checks.h"

#include "plan/model/plan.h"
#include "plan/vet/costs.h"

enum {
    STACK = 256, /* of the theatre, on the simulated chip, and a third more */
    SPARE_RAM = 64,
};

/* Error of the estimate, in either direction. */
static const double OFF = 0.03;

/* A program that is built with the IDE's options is larger by this (tests/sketch.sh). */
static const double IDE_SHARE = 1.085;

static void add_memory(const vetting *job, const char *what, double there, double limit, bool is_sure,
                       bool is_near, const char *way_out, const char *most)
{
    vet_add(job->result->times,
            is_sure   ? VET_FITS
            : is_near ? VET_TIGHT
                      : VET_FAILS,
            "program", what, there, limit, "bytes",
            g_strdup_printf("%s; what costs most: %s", way_out, most));
}

void vet_memory(const vetting *job)
{
    const double limit = (double)job->board.flash - job->board.boot_bytes;
    plan_size size;
    if (!plan_estimate_size(job->plan, &size)) {
        return;
    }
    add_memory(job, "flash, of what the boot loader leaves", size.flash, limit,
               size.flash <= limit * (1 - OFF), size.flash <= limit * (1 + OFF),
               "leave something out, or use a larger chip", size.most);
    if (size.flash <= limit * (1 - OFF)) {
        const double as_sketch = size.flash * IDE_SHARE + job->board.ide_flash;
        add_memory(job, "flash, as a sketch of the IDE", as_sketch, limit, as_sketch <= limit * (1 - OFF),
                   true, "bake it --as program, or leave something out", size.most);
    }
    const double ram = size.ram + STACK;
    add_memory(job, "RAM, with its stack", ram, job->board.ram, ram + SPARE_RAM <= job->board.ram,
               ram <= job->board.ram, "use fewer pixels, or leave something out", size.most_ram);
    g_free(size.most);
    g_free(size.most_ram);
}
