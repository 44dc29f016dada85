/* Lengths are sorted into groups, the groups tell the modulation, and then the receiver itself is asked: a
 * guess counts only as far as the library's own decoder reads the capture with it. */
#include "infer.h"

#include "listener.h"

#include <math.h>
#include <string.h>

enum {
    BURST_GAP_US = 12000,
    LEAST_MARKS = 5, /* of a whole frame */
    MOST_GROUPS = 6,
    PRESS_GAP_US = 180000, /* between two presses */
};

/* A frame: from its first mark to its last. Indices into the rhythm, whose even ones are marks. */
typedef struct span {
    guint first;
    guint last;
    double at_us;
    double until_us;
} span;

typedef struct group {
    double mean;
    unsigned count;
} group;

/* On the way. */
typedef struct guess {
    const double *us;
    guint count;
    GArray *frames; /* of span: all of them */
    guint marks;    /* of the usual whole frame, its leader left out */
    bool has_leader;
    group mark_groups[MOST_GROUPS];
    group space_groups[MOST_GROUPS];
    unsigned mark_kinds;
    unsigned space_kinds;
    own_figures figures;
} guess;

static gint by_length(gconstpointer left, gconstpointer right)
{
    const double a = *(const double *)left;
    const double b = *(const double *)right;
    return (a > b) - (a < b);
}

/* The groups into which lengths fall: a step of a tenth parts two, if it is a quarter of the largest. Groups
 * of less than a fiftieth are strays. */
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
        if ((end - i) * 50 >= lengths->len && found < MOST_GROUPS) {
            groups[found++] = (group){sum / (end - i), end - i};
        }
        i = end;
    }
    return found;
}

static double round_to_5(double us)
{
    return round(us / 5) * 5;
}

/* The longest length that is no rarity. */
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

/* Cuts the rhythm at silences that no frame has: over 12 ms, or much longer than the spaces of its bits. The
 * space behind a first mark may be a leader's. */
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

static guint marks_of(const span *frame)
{
    return (frame->last - frame->first) / 2 + 1;
}

/* The lengths of one level in all whole frames, without the first, which may be the leader's. */
static GArray *lengths_of(const guess *at, guint level)
{
    GArray *const lengths = g_array_new(FALSE, FALSE, sizeof(double));
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        for (guint j = frame->first + 2 + level; j <= frame->last && marks_of(frame) >= LEAST_MARKS; j += 2) {
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

static bool begins_with_leader(const guess *at, const span *frame)
{
    const double mark_us = at->mark_groups[at->mark_kinds - 1].mean;
    const double space_us = at->space_groups[at->space_kinds - 1].mean;
    return frame->last > frame->first + 1 &&
           (at->us[frame->first] > 1.45 * mark_us || at->us[frame->first + 1] > 1.45 * space_us);
}

/* The number of marks that most frames have, and whether those have a leader. */
static void find_usual_frame(guess *at)
{
    guint votes[2][256] = {{0}};
    guint most = 0;
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        const bool has_leader = begins_with_leader(at, frame);
        const guint marks = marks_of(frame) - has_leader;
        if (marks_of(frame) < LEAST_MARKS || marks >= G_N_ELEMENTS(votes[0])) {
            continue;
        }
        if (++votes[has_leader][marks] > most) {
            most = votes[has_leader][marks];
            at->marks = marks;
            at->has_leader = has_leader;
        }
    }
}

static bool is_usual(const guess *at, const span *frame)
{
    return marks_of(frame) >= LEAST_MARKS && begins_with_leader(at, frame) == at->has_leader &&
           marks_of(frame) - at->has_leader == at->marks;
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
        at->figures.leader_mark_us = (uint32_t)round_to_5(mark_us / count);
        at->figures.leader_space_us = (uint32_t)round_to_5(space_us / count);
    }
}

/* A burst of a leader and one mark says "the same again". */
static unsigned find_ditto(guess *at)
{
    double space_us = 0;
    unsigned count = 0;
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        if (at->has_leader && marks_of(frame) == 2 &&
            fabs(at->us[frame->first] / at->figures.leader_mark_us - 1) < 0.2) {
            space_us += at->us[frame->first + 1];
            count++;
        }
    }
    if (count > 0) {
        at->figures.ditto_space_us = (uint32_t)round_to_5(space_us / count);
    }
    return count;
}

/* From frame to frame of one press: which varies less, from start to start or the silence between them? */
static void find_period(guess *at)
{
    double sums[2] = {0};
    double squares[2] = {0};
    unsigned count = 0;
    for (guint i = 1; i < at->frames->len; i++) {
        const span *const before = &g_array_index(at->frames, span, i - 1);
        const span *const frame = &g_array_index(at->frames, span, i);
        const double times[2] = {frame->at_us - before->at_us, frame->at_us - before->until_us};
        for (int j = 0; j < 2 && times[1] < PRESS_GAP_US; j++) {
            sums[j] += times[j];
            squares[j] += times[j] * times[j];
        }
        count += times[1] < PRESS_GAP_US;
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

/* Pulse distance, pulse width, or both lengths told by the bit. */
static bool try_pulse(guess *at)
{
    own_figures *const is = &at->figures;
    const bool has_two_marks = at->mark_kinds == 2;
    const bool has_two_spaces = at->space_kinds == 2;
    if (at->mark_kinds > 2 || at->space_kinds > 2 || (!has_two_marks && !has_two_spaces)) {
        return false;
    }
    is->zero_mark_us = (uint32_t)round_to_5(at->mark_groups[0].mean);
    is->one_mark_us = (uint32_t)round_to_5(at->mark_groups[at->mark_kinds - 1].mean);
    is->zero_space_us = (uint32_t)round_to_5(at->space_groups[0].mean);
    is->one_space_us = (uint32_t)round_to_5(at->space_groups[at->space_kinds - 1].mean);
    is->has_no_stop = has_two_marks && !has_two_spaces;
    is->bits = is->has_no_stop ? at->marks : at->marks - 1;
    return true;
}

/* One mark, and spaces that are as many steps apart as two bits can tell. */
static bool try_quad(guess *at)
{
    own_figures *const is = &at->figures;
    const group *const spaces = at->space_groups;
    if (at->mark_kinds != 1 || at->space_kinds != 4 || !at->has_leader) {
        return false;
    }
    const double step_us = (spaces[3].mean - spaces[0].mean) / 3;
    for (int i = 1; i < 3; i++) {
        if (fabs(spaces[i].mean - spaces[0].mean - i * step_us) > step_us / 5) {
            return false;
        }
    }
    is->quad_mark_us = (uint32_t)round(at->mark_groups[0].mean);
    is->quad_space_us = (uint32_t)round(spaces[0].mean);
    is->quad_step_us = (uint32_t)round(step_us);
    is->bits = 2 * (at->marks - 1);
    return true;
}

/* Do a frame's halves pair up as bits, with this bit wide (-1: none)? A frame without a leader begins in the
 * middle of its first bit. The number of bits goes to `bits`. */
static bool is_phased(const guess *at, const span *frame, double unit_us, double stretch_us, bool begins_half,
                      int wide, unsigned *bits)
{
    unsigned unit = begins_half ? 1 : 0; /* the first half was a space, and so silence */
    bool first_level = false;
    for (guint i = frame->first + (at->has_leader ? 2 : 0); i <= frame->last; i++) {
        const bool is_mark = (i - frame->first) % 2 == 0;
        const double plain_us = at->us[i] + (is_mark ? -stretch_us : stretch_us);
        const int units = (int)round(plain_us / unit_us);
        if (units < 1 || units > 3) {
            return false;
        }
        for (int j = 0; j < units; j++, unit++) {
            const unsigned wide_at = wide < 0 ? UINT_MAX : 2 * (unsigned)wide;
            const unsigned into = unit >= wide_at ? unit - wide_at : 0;
            const bool is_wide = unit >= wide_at && into < 4;
            const unsigned half = unit < wide_at ? unit : is_wide ? wide_at + into / 2 : unit - 2;
            const bool is_first_unit = !is_wide || into % 2 == 0;
            if (half % 2 == 0 && is_first_unit) {
                first_level = is_mark;
            } else if (half % 2 == 0 ? is_mark != first_level : is_mark == first_level) {
                return false;
            }
        }
    }
    *bits = (unit - (wide >= 0 ? 2 : 0) + 1) / 2;
    return true;
}

static bool are_phased(const guess *at, double unit_us, double stretch_us, bool begins_half, int wide,
                       unsigned *bits)
{
    unsigned good = 0;
    unsigned all = 0;
    unsigned lengths[256] = {0};
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        unsigned found = 0;
        if (marks_of(frame) < LEAST_MARKS || begins_with_leader(at, frame) != at->has_leader) {
            continue;
        }
        all++;
        if (is_phased(at, frame, unit_us, stretch_us, begins_half, wide, &found) &&
            found < G_N_ELEMENTS(lengths)) {
            good++;
            if (++lengths[found] > lengths[*bits]) {
                *bits = found;
            }
        }
    }
    return all > 0 && good * 10 >= all * 8;
}

static bool try_phase(guess *at)
{
    const double mark_us = at->mark_groups[0].mean;
    const double space_us = at->space_groups[0].mean;
    const double unit_us = (mark_us + space_us) / 2;
    const double stretch_us = (mark_us - space_us) / 2;
    if (at->mark_kinds > 3 || at->space_kinds > 3 || fabs(stretch_us) > unit_us / 2 ||
        (at->mark_kinds == 1 && at->space_kinds == 1)) {
        return false;
    }
    for (int begins_half = 0; begins_half < 2; begins_half++) {
        for (int wide = -1; wide < 16; wide++) {
            unsigned bits = 0;
            if (begins_half && at->has_leader) {
                continue; /* a leader says where the first bit begins */
            }
            if (are_phased(at, unit_us, stretch_us, begins_half, wide, &bits)) {
                at->figures.phase_us = (uint32_t)round(unit_us);
                at->figures.bits = bits;
                at->figures.wide_bit = (uint32_t)(wide + 1);
                at->figures.is_one_space_first = begins_half || !at->has_leader;
                return true;
            }
        }
    }
    return false;
}

/* One press: its first frame that was read. */
typedef struct reading {
    inference *found;
    double last_us;
    uint64_t now_us;
} reading;

static void take_frame(void *context, const drom_frame *frame)
{
    reading *const into = context;
    const double at_us = (double)frame->at;
    if (frame->code.protocol == &drom_unknown) {
        return;
    }
    into->found->margin = MIN(into->found->margin, frame->margin);
    if (frame->kind == DROM_FRAME_WHOLE) {
        into->found->read++;
        if (into->found->presses->len == 0 || at_us - into->last_us > PRESS_GAP_US + 100000) {
            g_array_append_val(into->found->presses, frame->code);
        }
    }
    into->last_us = at_us;
}

/* Lets the library's own decoder read the capture. */
static void read_back(const guess *at, inference *found)
{
    sim_listener listener;
    const drom_protocol_ref protocol = &found->own.protocol;
    reading into = {.found = found};
    drom_us now = 100000;
    found->read = 0;
    found->margin = 100;
    g_array_set_size(found->presses, 0);
    sim_listener_open_with(&listener, &protocol, 1, take_frame, &into);
    sim_listener_pass(&listener, now);
    for (guint i = 0; i < at->count; i++) {
        sim_listener_edge(&listener, now, i % 2 == 0);
        now += (drom_us)fmin(at->us[i] + 0.5, 2000000);
    }
    if (at->count % 2 == 1) {
        sim_listener_edge(&listener, now, false);
    }
    sim_listener_pass(&listener, now + 500000);
}

static uint64_t value_of(const drom_code *code)
{
    return (uint64_t)code->address << 16 | code->command;
}

/* The bit, from 1, that is another at each press, where the same key was pressed twice; 0 when there is none.
 */
static uint32_t find_toggle(const inference *found)
{
    const unsigned bits = found->own.figures.bits;
    for (unsigned bit = 1; bit <= bits && found->presses->len >= 4; bit++) {
        const uint64_t mask = UINT64_C(1) << (found->own.figures.is_lsb_first ? bit - 1 : bits - bit);
        bool flips = true;
        unsigned equal = 0;
        for (guint i = 1; i < found->presses->len; i++) {
            const uint64_t change = value_of(&g_array_index(found->presses, drom_code, i)) ^
                                    value_of(&g_array_index(found->presses, drom_code, i - 1));
            flips &= (change & mask) != 0;
            equal += change == mask;
        }
        if (flips && equal >= 2) {
            return bit;
        }
    }
    return 0;
}

static void note_fields(inference *found)
{
    const unsigned bits = found->own.figures.bits;
    const bool is_lsb_first = found->own.figures.is_lsb_first;
    uint64_t varying = 0;
    for (guint i = 1; i < found->presses->len; i++) {
        varying |= value_of(&g_array_index(found->presses, drom_code, i)) ^
                   value_of(&g_array_index(found->presses, drom_code, 0));
    }
    g_autoptr(GString) map = g_string_new(NULL);
    for (unsigned bit = 1; bit <= bits; bit++) {
        const uint64_t mask = UINT64_C(1) << (is_lsb_first ? bit - 1 : bits - bit);
        const bool is_toggle = bit == found->own.figures.toggle_bit;
        const bool is_set =
            found->presses->len > 0 && (value_of(&g_array_index(found->presses, drom_code, 0)) & mask) != 0;
        const bool is_kept = found->own.figures.phase_us == 0 || bits - bit < 32;
        g_string_append_c(map, !is_kept                ? '.'
                               : is_toggle             ? 't'
                               : (varying & mask) != 0 ? 'v'
                               : is_set                ? '1'
                                                       : '0');
    }
    g_string_append_printf(found->notes,
                           "in the order in which they are sent, 'v' varies with the key%s: %s\n",
                           found->own.figures.toggle_bit != 0 ? ", 't' is the toggle bit" : "", map->str);
    for (unsigned half = 4; 2 * half <= bits; half += 4) { /* bytes, or nibbles, sent again inverted */
        for (unsigned from = 1; from + 2 * half - 1 <= bits; from += half) {
            bool is_inverted = found->presses->len >= 2;
            bool is_varying = false;
            for (guint i = 0; i < found->presses->len && is_inverted; i++) {
                const uint64_t value = value_of(&g_array_index(found->presses, drom_code, i));
                for (unsigned j = 0; j < half && is_inverted; j++) {
                    const unsigned a = is_lsb_first ? from + j - 1 : bits - from - j;
                    const unsigned b = is_lsb_first ? from + half + j - 1 : bits - from - half - j;
                    is_inverted = ((value >> a ^ value >> b) & 1) == 1;
                    is_varying |= (varying >> a & 1) != 0;
                }
            }
            if (is_inverted && is_varying) {
                g_string_append_printf(found->notes, "bits %u to %u are bits %u to %u again, inverted\n",
                                       from + half, from + 2 * half - 1, from, from + half - 1);
            }
        }
    }
}

static const char *modulation(const own_figures *is)
{
    return is->phase_us != 0                     ? "bi-phase"
           : is->quad_mark_us != 0               ? "quaternary"
           : is->has_no_stop                     ? "pulse width"
           : is->zero_mark_us == is->one_mark_us ? "pulse distance"
                                                 : "marks and spaces that both depend on the bit";
}

/* Fills the rows from the figures and reads the capture with them. */
static bool accept(guess *at, inference *found, const char *name)
{
    found->own.figures = at->figures;
    const char *const wrong = own_protocol_fill(&found->own, name);
    if (wrong != NULL) {
        g_free(found->why_not);
        found->why_not = g_strdup_printf("it looks like %s, but %s", modulation(&at->figures), wrong);
        return false;
    }
    read_back(at, found);
    return true;
}

static void explain(const guess *at, inference *found)
{
    if (found->why_not != NULL) {
        return;
    }
    found->why_not =
        g_strdup_printf("its marks have %u and its spaces %u lengths, and they fit no coding that is known",
                        at->mark_kinds, at->space_kinds);
}

static void infer_from(guess *at, inference *found, const char *name)
{
    cut_frames(at, BURST_GAP_US);
    group_lengths(at);
    if (at->mark_kinds == 0 || at->space_kinds == 0) {
        found->why_not = g_strdup(
            "there is no burst of five marks or more; press each key for a moment, near the receiver");
        return;
    }
    GArray *const spaces = lengths_of(at, 1);
    const double usual_us = longest_usual(at->space_groups, at->space_kinds, spaces->len);
    g_array_unref(spaces);
    cut_frames(at, fmin(BURST_GAP_US, fmax(1.6 * usual_us, 1500)));
    group_lengths(at);
    if (at->mark_kinds == 0 || at->space_kinds == 0) {
        found->why_not = g_strdup(
            "its bursts have no two lengths in common; press each key for a moment, near the receiver");
        return;
    }
    find_usual_frame(at);
    measure_leader(at);
    found->dittos = find_ditto(at);
    find_period(at);
    const own_figures common = at->figures;
    found->is_found = try_phase(at) && accept(at, found, name) && found->read > 0;
    if (!found->is_found) {
        at->figures = common;
        found->is_found = try_pulse(at) && accept(at, found, name) && found->read > 0;
    }
    if (!found->is_found) {
        at->figures = common;
        found->is_found = try_quad(at) && accept(at, found, name) && found->read > 0;
    }
    for (guint i = 0; i < at->frames->len; i++) {
        const span *const frame = &g_array_index(at->frames, span, i);
        found->frames += marks_of(frame) >= LEAST_MARKS;
    }
    if (!found->is_found) {
        explain(at, found);
        return;
    }
    at->figures.toggle_bit = find_toggle(found);
    if (at->figures.toggle_bit != 0) {
        (void)accept(at, found, name);
    }
    g_string_append_printf(found->notes, "%s, %u bits%s%s\n", modulation(&at->figures), at->figures.bits,
                           at->has_leader ? ", with a leader" : ", without a leader",
                           found->dittos > 0 ? ", and dittos while a key is held" : "");
    note_fields(found);
}

inference *infer_protocol(const rhythm *of, const char *name)
{
    inference *const found = g_new0(inference, 1);
    guess at = {
        .us = (const double *)(void *)of->us->data,
        .count = of->us->len,
        .frames = g_array_new(FALSE, FALSE, sizeof(span)),
    };
    found->presses = g_array_new(FALSE, FALSE, sizeof(drom_code));
    found->notes = g_string_new(NULL);
    infer_from(&at, found, name);
    g_array_unref(at.frames);
    return found;
}

void inference_free(inference *unwanted)
{
    g_free(unwanted->why_not);
    g_array_unref(unwanted->presses);
    g_string_free(unwanted->notes, TRUE);
    g_free(unwanted);
}
