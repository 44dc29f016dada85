/* Each way in which a receiver hears nothing leaves another trace on its line. */
#include "cli/receive/diagnose.h"

enum { FEW_EDGES = 12 };

char *diagnose(const line_facts *facts, const char *path)
{
    const double mark_share = facts->lasted_us > 0 ? (double)facts->mark_us / (double)facts->lasted_us : 0;
    const double short_share = facts->edges > 1 ? (double)facts->short_marks / ((double)facts->edges / 2) : 0;
    if (facts->edges == 0) {
        return g_strdup("nothing recognised: the line never moved. Is it the receiver's output, and has the "
                        "receiver power? "
                        "Then try the handset from near, with fresh batteries");
    }
    if (mark_share > 0.6 && facts->edges >= FEW_EDGES) {
        return g_strdup_printf(
            "nothing recognised: the line is in a mark for %.0f %% of the time, so it idles the other way "
            "round. Try --idle low (or high, if that was low)",
            100 * mark_share);
    }
    if (facts->longest_mark_us >= DIAGNOSE_STUCK_US) {
        return g_strdup_printf(
            "nothing recognised: the line sticks in a mark, once for %.1f s. Is the output shorted, or "
            "wired to the wrong pin, or does it idle low (--idle low)?",
            (double)facts->longest_mark_us / 1e6);
    }
    if (facts->unknowns > 0) {
        return g_strdup_printf(
            "nothing recognised: %u burst%s of a rhythm that no protocol has. The fingerprints can be used "
            "as codes; or let 'dromikos infer %s' find out how they are made",
            facts->unknowns, facts->unknowns == 1 ? "" : "s", path);
    }
    if (facts->edges < FEW_EDGES) {
        return g_strdup_printf("nothing recognised: %" G_GUINT64_FORMAT
                               " edges are too few for a frame. Go nearer, aim at the "
                               "receiver, try fresh batteries",
                               facts->edges);
    }
    if (short_share > 0.7) {
        return g_strdup_printf(
            "nothing recognised: only noise, %" G_GUINT64_FORMAT " edges and nearly all marks under 0.3 ms. "
            "Shade the receiver from lamps and sun, and give it a filter at its supply (100 Ω and "
            "10 µF)",
            facts->edges);
    }
    return g_strdup_printf("nothing recognised in %" G_GUINT64_FORMAT
                           " edges: bits and pieces, but no whole frame. Go nearer, "
                           "aim at the receiver, and press one key of one handset at a time",
                           facts->edges);
}
