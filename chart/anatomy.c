#include "chart/anatomy.h"

#include <math.h>
#include <string.h>

enum { MAX_CHUNKS = 254, PACKED_BITS = 48, FIRST_BITS = 16, NUMBER_BITS = 32 };

/* The chunks of a frame, up to its end. */
typedef struct chunks {
    drom_chunk rows[MAX_CHUNKS];
    unsigned count;
} chunks;

static void take_chunks(const drom_encoder *encoder, chunks *taken)
{
    const drom_waveform *const waveform = encoder->waveform;
    taken->count = 0;
    for (unsigned i = 0; i < MAX_CHUNKS; i++) {
        const drom_chunk chunk = waveform->chunk(encoder, (uint8_t)i);
        if (chunk.us == 0) {
            break;
        }
        taken->rows[taken->count++] = chunk;
    }
}

static bool packed_bit(const drom_encoder *encoder, unsigned bit)
{
    return bit < NUMBER_BITS ? (encoder->bits >> bit & 1) != 0
                             : (encoder->more >> (bit - NUMBER_BITS) & 1) != 0;
}

static void turn_over(drom_encoder *encoder, unsigned bit)
{
    if (bit < NUMBER_BITS) {
        encoder->bits ^= UINT32_C(1) << bit;
    } else {
        encoder->more = (uint16_t)(encoder->more ^ 1u << (bit - NUMBER_BITS));
    }
}

/* Which bit of which number inverts a packed bit. Bits that several invert are check bits. */
typedef struct meaning {
    frame_field field;
    int field_bit;
    unsigned causes;
} meaning;

static drom_encoder packed(const drom_waveform *waveform, const drom_code *code, bool toggle)
{
    drom_encoder encoder = {.waveform = waveform};
    waveform->pack(code, toggle, &encoder);
    return encoder;
}

static void note_causes(meaning *meanings, const drom_encoder *plain, const drom_encoder *turned,
                        frame_field field, int bit)
{
    for (unsigned i = 0; i < PACKED_BITS; i++) {
        if (packed_bit(plain, i) != packed_bit(turned, i)) {
            meanings[i].causes++;
            meanings[i].field = meanings[i].causes > 1 ? FIELD_CHECK : field;
            meanings[i].field_bit = meanings[i].causes > 1 ? -1 : bit;
        }
    }
}

static void find_meanings(const drom_waveform *waveform, const drom_code *code, bool toggle,
                          meaning *meanings)
{
    const drom_encoder plain = packed(waveform, code, toggle);
    for (unsigned i = 0; i < PACKED_BITS; i++) {
        meanings[i] = (meaning){FIELD_CHECK, -1, 0};
    }
    for (int bit = 0; bit < NUMBER_BITS; bit++) {
        drom_code other = *code;
        other.address ^= UINT32_C(1) << bit;
        const drom_encoder turned = packed(waveform, &other, toggle);
        if (UINT32_C(1) << bit <= waveform->max_address) {
            note_causes(meanings, &plain, &turned, FIELD_ADDRESS, bit);
        }
    }
    for (int bit = 0; bit < FIRST_BITS; bit++) {
        drom_code other = *code;
        other.command = (uint16_t)(other.command ^ 1u << bit);
        const drom_encoder turned = packed(waveform, &other, toggle);
        if (1u << bit <= waveform->max_command) {
            note_causes(meanings, &plain, &turned, FIELD_COMMAND, bit);
        }
    }
    const drom_encoder turned = packed(waveform, code, !toggle);
    note_causes(meanings, &plain, &turned, FIELD_TOGGLE, 0);
}

static double time_of(const chunks *in, unsigned chunk)
{
    double us = 0;
    for (unsigned i = 0; i < chunk && i < in->count; i++) {
        us += in->rows[i].us;
    }
    return us;
}

/* Returns the interval of a chunk, and its length. Silence before the first mark isn't an interval. */
static int run_of(const chunks *in, unsigned chunk, double *run_us)
{
    int run = -1;
    bool is_mark = false;
    for (unsigned i = 0; i < in->count; i++) {
        const bool is_new = in->rows[i].is_mark != is_mark;
        if (is_new) {
            if (i > chunk) {
                break;
            }
            run++;
            is_mark = in->rows[i].is_mark;
            *run_us = 0;
        }
        *run_us += in->rows[i].us;
    }
    return run;
}

/* Finds a bit by the differences when it is inverted. False: there are none. */
static bool find_cell(const drom_encoder *plain, const chunks *usual, unsigned bit, frame_cell *cell)
{
    drom_encoder turned = *plain;
    chunks other;
    unsigned first = MAX_CHUNKS;
    unsigned last = 0;
    bool is_length = true;
    turn_over(&turned, bit);
    take_chunks(&turned, &other);
    for (unsigned i = 0; i < usual->count && i < other.count; i++) {
        const drom_chunk *const a = &usual->rows[i];
        const drom_chunk *const b = &other.rows[i];
        if (a->us != b->us || a->is_mark != b->is_mark) {
            first = MIN(first, i);
            last = i;
            is_length &= a->is_mark == b->is_mark;
        }
    }
    if (first == MAX_CHUNKS) {
        return false;
    }
    *cell = (frame_cell){.value = packed_bit(plain, bit), .bits = 1, .run = -1};
    if (is_length) {
        const unsigned deciding = last; /* of a bit with two intervals, the space */
        cell->run = run_of(usual, deciding, &cell->run_us);
        (void)run_of(&other, deciding, &cell->other_us);
    }
    const bool has_mark_before = is_length && first > 0 && !usual->rows[first].is_mark;
    cell->from_us = time_of(usual, has_mark_before ? first - 1 : first);
    cell->until_us = time_of(usual, last + 1);
    return true;
}

static gint by_time(gconstpointer a, gconstpointer b)
{
    const frame_cell *const one = a;
    const frame_cell *const other = b;
    return one->from_us != other->from_us
               ? (one->from_us > other->from_us) - (one->from_us < other->from_us)
               : other->field_bit - one->field_bit; /* of two, the higher one first */
}

/* Two bits that are sent as one space are one cell; a mark that doesn't depend on the bit belongs to the one
 * before. */
static void join_cells(GArray *cells)
{
    for (guint i = 1; i < cells->len;) {
        frame_cell *const one = &g_array_index(cells, frame_cell, i - 1);
        const frame_cell *const next = &g_array_index(cells, frame_cell, i);
        if (fabs(one->from_us - next->from_us) < 1) {
            one->value = one->value << 1 | next->value;
            one->bits++;
            if (fabs(next->other_us - one->run_us) < fabs(one->other_us - one->run_us)) {
                one->other_us = next->other_us; /* the nearer one */
            }
            g_array_remove_index(cells, i);
        } else {
            one->until_us = MAX(one->until_us, MIN(next->from_us, one->until_us + 2000));
            i++;
        }
    }
}

/* The first of two equal bits is the number's, the other one its copy. */
static void find_copies(GArray *cells, const drom_code *code, bool toggle)
{
    const uint32_t numbers[] = {code->address, code->command, toggle};
    for (guint i = 0; i < cells->len; i++) {
        frame_cell *const cell = &g_array_index(cells, frame_cell, i);
        for (guint j = 0; j < i && cell->field_bit >= 0; j++) {
            const frame_cell *const before = &g_array_index(cells, frame_cell, j);
            cell->is_copy |= before->field == cell->field && before->field_bit == cell->field_bit;
        }
        cell->is_inverted = cell->bits == 1 && cell->field_bit >= 0 && cell->field != FIELD_CHECK &&
                            cell->value != (numbers[cell->field] >> cell->field_bit & 1);
    }
}

anatomy anatomy_of(const drom_waveform *waveform, const drom_code *code, bool toggle)
{
    anatomy found = {g_array_new(FALSE, FALSE, sizeof(double)),
                     g_array_new(FALSE, FALSE, sizeof(frame_cell))};
    meaning meanings[PACKED_BITS];
    chunks usual;
    const drom_encoder plain = packed(waveform, code, toggle);
    take_chunks(&plain, &usual);
    find_meanings(waveform, code, toggle, meanings);
    double silence_us = 0; /* before the first mark; a receiver doesn't show it */
    for (unsigned i = 0; i < usual.count && !usual.rows[i].is_mark; i++) {
        silence_us += usual.rows[i].us;
    }
    for (unsigned bit = 0; bit < PACKED_BITS; bit++) {
        frame_cell cell;
        if (find_cell(&plain, &usual, bit, &cell)) {
            cell.field = meanings[bit].field;
            cell.field_bit = meanings[bit].field_bit;
            cell.from_us = MAX(cell.from_us - silence_us, 0);
            cell.until_us -= silence_us;
            g_array_append_val(found.cells, cell);
        }
    }
    g_array_sort(found.cells, by_time);
    join_cells(found.cells);
    find_copies(found.cells, code, toggle);
    bool is_mark = false;
    for (unsigned i = 0; i < usual.count; i++) {
        const double us = usual.rows[i].us;
        if (usual.rows[i].is_mark != is_mark) {
            g_array_append_val(found.runs, us);
            is_mark = usual.rows[i].is_mark;
        } else if (found.runs->len > 0) {
            g_array_index(found.runs, double, found.runs->len - 1) += us;
        }
    }
    if (found.runs->len % 2 == 0 && found.runs->len > 0) { /* nor the silence at its end */
        g_array_set_size(found.runs, found.runs->len - 1);
    }
    return found;
}

void anatomy_clear(anatomy *unwanted)
{
    g_array_unref(unwanted->runs);
    g_array_unref(unwanted->cells);
}
