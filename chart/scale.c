#include "chart/scale.h"

#include <math.h>
#include <stdbool.h>

double scale_tick(double min)
{
    const double power = pow(10, floor(log10(min)));
    const double steps = min / power;
    return power * (steps <= 1 ? 1 : steps <= 2 ? 2 : steps <= 5 ? 5 : 10);
}

char *scale_time_text(double us)
{
    enum { MINUTE_S = 60 };
    const double seconds = us / 1e6;
    const bool has_minutes = seconds >= 5 * MINUTE_S && fabs(fmod(seconds, MINUTE_S)) < 1e-6;
    return has_minutes            ? g_strdup_printf("%.10g min", seconds / MINUTE_S)
           : us >= 1e6 || us <= 0 ? g_strdup_printf("%.10g s", seconds)
           : us >= 1000           ? g_strdup_printf("%.10g ms", us / 1000)
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
