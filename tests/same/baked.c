/* A baked plan: baked STIMULUS. Compiled with -DPLAN=NAME_plan and -DHEADER="NAME_plan.h". */
#include "bench.h"

#include HEADER

int main(int argc, char **argv)
{
    const same_stimulus with = same_read(argc > 1 ? argv[1] : "");
    return same_play(&PLAN, &with) ? 0 : 1;
}
