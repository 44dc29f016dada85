/* Lengths are sorted into groups: a step of a tenth of the length separates two groups, if it isn't small
 * compared with the largest step. Everything else is measured by the groups. */
#include "plan/handset/rhythm.h"

#include <math.h>

enum { BURST_GAP_US = 12000 };

static gint by_length(gconstpointer left, gconstpointer right)
{
    const double a = *(const double *)left;
    const double b = *(const double *)right;
    return (a > b) - (a < b);
}

/* The groups of lengths: a step of a tenth separates two, if it is a quarter of the largest. Groups of less
 * than a fiftieth are outliers. */
static unsigned find_groups(GArray *lengths, group *groups)
{
    const double *const us = (const double *)(void *)lengths->data;
    unsigned found = 0;
    double largest = 0;
    g_array_sort(lengths, by_length);
    for (guint i = 1; i < lengths->len; i++) {
        largest = fmax(largest, fmin(us[i] / us[i - 1] - 1, 0.5));
    }
    const double parting = fmax(largest / 4, 0.1);
    for (guint i = 0; i < lengths->len;) {
        double sum = us[i];
        guint end = i + 1;
        while (end < lengths->len && us[end] / us[end - 1] - 1 < parting) {
            sum += us[end++];
        }
        if ((end - i) * 50 >= lengths->len && found < RHYTHM_MAX_GROUPS) {
            groups[found++] = (group){sum / (end - i), end - i};
        }
        i = end;
    }
    return found;
}

uint32_t rhythm_round(double us)
{
    return (uint32_t)(round(us / 5) * 5);
}

/* Returns the longest length that isn't rare. */
static double longest_usual(const group *groups, unsigned kinds, guint total)
{
    double longest = 0;
    for (unsigned i = 0; i < kinds; i++) {
        longest = groups[i].count * 12 >= total ? groups[i].mean : longest;
    }
    return longest;
}

static void add_frame(guess *at, guint first, guint last, double at_us)
{
    span frame = {first, last, at_us, at_us};
    for (guint i = first; i <= last; i++) {
        frame.until_us += at->us[i];
    }
    g_array_append_val(at->frames, frame);
}

/* Divides the rhythm at silences that no frame has: over 12 ms, or much longer than the spaces of its bits.
 * The space after a first mark may be a leader's. */
static void cut_frames(guess *at, double gap_us)
{
    double now_us = 0;
    double first_us = 0;
    guint first = 0;
    g_array_set_size(at->frames, 0);
    for (guint i = 0; i < at->count; i++) {
        const bool is_gap = i % 2 == 1 && at->us[i] > (i == first + 1 ? BURST_GAP_US : gap_us);
        now_us += at->us[i];
        if (is_gap) {
            add_frame(at, first, i - 1, first_us);
            first = i + 1;
            first_us = now_us;
        }
    }
    if (first < at->count) {
        add_frame(at, first, at->count - 1 - (at->count - 1) % 2, first_us);
    }
}

guint rhythm_marks(const span *frame)
{
    return (frame->last - frame->first) / 2 + 1;
}

/* The lengths of one level in all whole frames, without the first, which may be the leader's. */
static GArray *lengths_of(const guess *at, guint level)
{
    GArray *const lengths = g_array_new(FALSE, FALSE, sizeof(double));
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        for (guint j = frame->first + 2 + level; j <= frame->last && rhythm_marks(frame) >= RHYTHM_MIN_MARKS;
             j += 2) {
            g_array_append_val(lengths, at->us[j]);
        }
    }
    return lengths;
}

static void group_lengths(guess *at)
{
    GArray *const marks = lengths_of(at, 0);
    GArray *const spaces = lengths_of(at, 1);
    at->mark_kinds = find_groups(marks, at->mark_groups);
    at->space_kinds = find_groups(spaces, at->space_groups);
    g_array_unref(marks);
    g_array_unref(spaces);
}

bool rhythm_has_leader(const guess *at, const span *frame)
{
    const double mark_us = at->mark_groups[at->mark_kinds - 1].mean;
    const double space_us = at->space_groups[at->space_kinds - 1].mean;
    return frame->last > frame->first + 1 &&
           (at->us[frame->first] > 1.45 * mark_us || at->us[frame->first + 1] > 1.45 * space_us);
}

/* Finds the number of marks of most frames, and whether those have a leader. */
static void find_usual_frame(guess *at)
{
    guint votes[2][256] = {{0}};
    guint max = 0;
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        const bool has_leader = rhythm_has_leader(at, frame);
        const guint marks = rhythm_marks(frame) - has_leader;
        if (rhythm_marks(frame) < RHYTHM_MIN_MARKS || marks >= G_N_ELEMENTS(votes[0])) {
            continue;
        }
        if (++votes[has_leader][marks] > max) {
            max = votes[has_leader][marks];
            at->marks = marks;
            at->has_leader = has_leader;
        }
    }
}

static bool is_usual(const guess *at, const span *frame)
{
    return rhythm_marks(frame) >= RHYTHM_MIN_MARKS && rhythm_has_leader(at, frame) == at->has_leader &&
           rhythm_marks(frame) - at->has_leader == at->marks;
}

static void measure_leader(guess *at)
{
    double mark_us = 0;
    double space_us = 0;
    unsigned count = 0;
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        if (at->has_leader && is_usual(at, frame)) {
            mark_us += at->us[frame->first];
            space_us += at->us[frame->first + 1];
            count++;
        }
    }
    if (count > 0) {
        at->figures.leader_mark_us = rhythm_round(mark_us / count);
        at->figures.leader_space_us = rhythm_round(space_us / count);
    }
}

/* A burst of a leader and one mark is a ditto. */
static unsigned find_repeat_frame(guess *at)
{
    double space_us = 0;
    unsigned count = 0;
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        if (at->has_leader && rhythm_marks(frame) == 2 &&
            fabs(at->us[frame->first] / at->figures.leader_mark_us - 1) < 0.2) {
            space_us += at->us[frame->first + 1];
            count++;
        }
    }
    if (count > 0) {
        at->figures.ditto_space_us = rhythm_round(space_us / count);
    }
    return count;
}

/* Between frames of a press: which varies less, the time from start to start or the silence? */
static void find_period(guess *at)
{
    double sums[2] = {0};
    double squares[2] = {0};
    unsigned count = 0;
    for (guint i = 1; i < at->frames->len; i++) {
        const span *const before = &g_array_index(at->frames, span, i - 1);
        const span *const frame = &g_array_index(at->frames, span, i);
        const double times[2] = {frame->at_us - before->at_us, frame->at_us - before->until_us};
        for (int j = 0; j < 2 && times[1] < RHYTHM_PRESS_GAP_US; j++) {
            sums[j] += times[j];
            squares[j] += times[j] * times[j];
        }
        count += times[1] < RHYTHM_PRESS_GAP_US;
    }
    if (count == 0) {
        return;
    }
    const double period_us = sums[0] / count;
    const double gap_us = sums[1] / count;
    const bool is_period =
        squares[0] / count - period_us * period_us <= squares[1] / count - gap_us * gap_us + 1;
    at->figures.period_ms = is_period ? (uint32_t)round(period_us / 1000) : 0;
    at->figures.gap_ms = is_period ? 0 : (uint32_t)fmax(1, round(gap_us / 1000));
}

bool rhythm_sort(guess *at)
{
    cut_frames(at, BURST_GAP_US);
    group_lengths(at);
    if (at->mark_kinds == 0 || at->space_kinds == 0) {
        return false;
    }
    GArray *const spaces = lengths_of(at, 1);
    const double usual_us = longest_usual(at->space_groups, at->space_kinds, spaces->len);
    g_array_unref(spaces);
    cut_frames(at, fmin(BURST_GAP_US, fmax(1.6 * usual_us, 1500)));
    group_lengths(at);
    return at->mark_kinds > 0 && at->space_kinds > 0;
}

unsigned rhythm_measure(guess *at)
{
    find_usual_frame(at);
    measure_leader(at);
    find_period(at);
    return find_repeat_frame(at);
}
