#include "scale.h"

#include <math.h>

double scale_tick(double least)
{
    const double power = pow(10, floor(log10(least)));
    const double steps = least / power;
    return power * (steps <= 1 ? 1 : steps <= 2 ? 2 : steps <= 5 ? 5 : 10);
}

char *scale_time_text(double us)
{
    return us >= 1e6 || us <= 0 ? g_strdup_printf("%.10g s", us / 1e6)
           : us >= 1000         ? g_strdup_printf("%.10g ms", us / 1000)
                                : g_strdup_printf("%.0f µs", us);
}

GArray *scale_points(void)
{
    return g_array_new(FALSE, FALSE, 2 * sizeof(double));
}

void scale_add_point(GArray *points, double x, double y)
{
    const double point[] = {x, y};
    g_array_append_val(points, point);
}
