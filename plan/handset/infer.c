/* The groups of lengths show the modulation; then the library's own decoder decides: a guess counts only as
 * far as it reads the capture. */
#include "plan/handset/infer.h"

#include "listener.h"
#include "plan/handset/rhythm.h"

#include <math.h>
#include <string.h>

/* Pulse distance, pulse width, or both lengths by the bit. */
static bool try_pulse(guess *at)
{
    declared_figures *const figures = &at->figures;
    const bool has_two_marks = at->mark_kinds == 2;
    const bool has_two_spaces = at->space_kinds == 2;
    if (at->mark_kinds > 2 || at->space_kinds > 2 || (!has_two_marks && !has_two_spaces)) {
        return false;
    }
    figures->zero_mark_us = rhythm_round(at->mark_groups[0].mean);
    figures->one_mark_us = rhythm_round(at->mark_groups[at->mark_kinds - 1].mean);
    figures->zero_space_us = rhythm_round(at->space_groups[0].mean);
    figures->one_space_us = rhythm_round(at->space_groups[at->space_kinds - 1].mean);
    figures->has_no_stop = has_two_marks && !has_two_spaces;
    figures->bits = figures->has_no_stop ? at->marks : at->marks - 1;
    return true;
}

/* One mark, and four spaces at equal distances. */
static bool try_quad(guess *at)
{
    declared_figures *const figures = &at->figures;
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
    figures->quad_mark_us = (uint32_t)round(at->mark_groups[0].mean);
    figures->quad_space_us = (uint32_t)round(spaces[0].mean);
    figures->quad_step_us = (uint32_t)round(step_us);
    figures->bits = 2 * (at->marks - 1);
    return true;
}

/* True if a frame's halves form bits, with this bit wide (-1: none). A frame without a leader begins in the
 * middle of its first bit. The number of bits goes to `bits`. */
static bool is_phased(const guess *at, const span *frame, double unit_us, double stretch_us, bool begins_half,
                      int wide, unsigned *bits)
{
    unsigned unit = begins_half ? 1 : 0; /* the first half was a space, and so silent */
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
        if (rhythm_marks(frame) < RHYTHM_MIN_MARKS || rhythm_has_leader(at, frame) != at->has_leader) {
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
                continue; /* a leader shows where the first bit begins */
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

/* A press: its first frame that was read. */
typedef struct reading {
    inference *found;
    double last_us;
    uint64_t now_us;
} reading;

static void take_frame(void *context, const drom_frame *frame)
{
    reading *const into = context;
    const double at_us = (double)frame->at;
    if (frame->protocol == &drom_unknown) {
        return;
    }
    into->found->margin = MIN(into->found->margin, drom_frame_margin(frame));
    if (frame->kind == DROM_FRAME_WHOLE) {
        into->found->read++;
        if (into->found->presses->len == 0 || at_us - into->last_us > RHYTHM_PRESS_GAP_US + 100000) {
            g_array_append_val(into->found->presses, frame->code);
        }
    }
    into->last_us = at_us;
}

/* Reads the capture with the library's decoder. */
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

/* Returns the bit, from 1, that differs between two presses of the same key; 0 if there is none. */
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
    for (unsigned half = 4; 2 * half <= bits; half += 4) { /* bytes, or nibbles, that are repeated inverted */
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

static const char *modulation(const declared_figures *figures)
{
    return figures->phase_us != 0                          ? "bi-phase"
           : figures->quad_mark_us != 0                    ? "quaternary"
           : figures->has_no_stop                          ? "pulse width"
           : figures->zero_mark_us == figures->one_mark_us ? "pulse distance"
                                                           : "marks and spaces that both depend on the bit";
}

/* Makes the rows from the figures and reads the capture with them. */
static bool accept(guess *at, inference *found, const char *name)
{
    found->own.figures = at->figures;
    const char *const wrong = declared_fill(&found->own, name);
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
    if (!rhythm_sort(at)) {
        found->why_not = g_strdup(
            "there is no burst of five marks or more; press each key for a moment, near the receiver");
        return;
    }
    found->repeat_frames = rhythm_measure(at);
    const declared_figures common = at->figures;
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
        found->frames += rhythm_marks(frame) >= RHYTHM_MIN_MARKS;
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
                           found->repeat_frames > 0 ? ", and repeat frames while a key is held" : "");
    note_fields(found);
}

inference *infer_protocol(const rhythm *measured, const char *name)
{
    inference *const found = g_new0(inference, 1);
    guess at = {
        .us = (const double *)(void *)measured->us->data,
        .count = measured->us->len,
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
