#include "chart/waveform.h"

#include "chart/dissection.h"
#include "chart/overview.h"
#include "chart/scale.h"

#include <math.h>
#include <string.h>

enum {
    LEFT = 124,
    RIGHT = 30,
    BREAK_PX = 60,
    SILENCE_US = 20000, /* longer silence is cut, with its length */
    FRAMES_SHOWN = 3,   /* of a press: further ones show nothing new */
    CELL_PX = 8,        /* from this width on bits show their values: all of a frame, or none */
    FIELD_PX = 4,       /* and below this only fields */
    LOW_MARGIN = 30     /* percent */
};

static const picture_type small = {12, false, TEXT_AROUND, INK_PLAIN};

/* A time that is drawn to scale. */
typedef struct piece {
    uint64_t from_us;
    uint64_t until_us;
    double x;
} piece;

typedef struct sketch {
    const heard_line *heard;
    const waveform_view *view;
    picture *canvas;
    GArray *pieces;
    double px_per_us;
    double top; /* of the waveform */
    double bottom;
} sketch;

/* Finds the bursts between two times: time is cut at longer silences. */
static void find_pieces(sketch *in, uint64_t from_us, uint64_t until_us)
{
    enum { BEFORE_US = 2000 };
    for (guint i = 0; i < in->heard->edges->len; i++) {
        const uint64_t at_us = heard_edge(in->heard, i)->at_us;
        piece *const last =
            in->pieces->len > 0 ? &g_array_index(in->pieces, piece, in->pieces->len - 1) : NULL;
        if (at_us < from_us || at_us > until_us) {
            continue;
        }
        if (last != NULL && at_us <= last->until_us + SILENCE_US) {
            last->until_us = at_us + BEFORE_US;
        } else {
            const piece next = {at_us > BEFORE_US ? at_us - BEFORE_US : 0, at_us + BEFORE_US, 0};
            g_array_append_val(in->pieces, next);
        }
    }
}

static void place_pieces(sketch *in)
{
    double us = 0;
    for (guint i = 0; i < in->pieces->len; i++) {
        const piece *const one = &g_array_index(in->pieces, piece, i);
        us += (double)(one->until_us - one->from_us);
    }
    const double breaks = (double)BREAK_PX * MAX((double)in->pieces->len - 1, 0);
    in->px_per_us = (in->view->width - LEFT - RIGHT - breaks) / MAX(us, 1);
    double x = LEFT;
    for (guint i = 0; i < in->pieces->len; i++) {
        piece *const one = &g_array_index(in->pieces, piece, i);
        one->x = x;
        x += (double)(one->until_us - one->from_us) * in->px_per_us + BREAK_PX;
    }
}

static double x_in(const sketch *in, double at_us)
{
    double x = LEFT;
    for (guint i = 0; i < in->pieces->len; i++) {
        const piece *const one = &g_array_index(in->pieces, piece, i);
        if (at_us >= (double)one->from_us) {
            x = one->x +
                MIN(at_us - (double)one->from_us, (double)(one->until_us - one->from_us)) * in->px_per_us;
        }
    }
    return x;
}

static double y_of(const sketch *in, bool is_mark)
{
    return is_mark == in->view->is_mark_high ? in->top : in->bottom;
}

static void draw_piece(const sketch *in, const piece *one)
{
    g_autoptr(GArray) points = scale_points();
    bool is_mark = false;
    scale_add_point(points, one->x, y_of(in, false));
    for (guint i = 0; i < in->heard->edges->len; i++) {
        const capture_edge *const edge = heard_edge(in->heard, i);
        if (edge->at_us >= one->from_us && edge->at_us <= one->until_us && edge->is_mark != is_mark) {
            const double x = x_in(in, (double)edge->at_us);
            scale_add_point(points, x, y_of(in, is_mark));
            scale_add_point(points, x, y_of(in, edge->is_mark));
            is_mark = edge->is_mark;
        }
    }
    scale_add_point(points, x_in(in, (double)one->until_us), y_of(in, is_mark));
    picture_line(in->canvas, (const double *)(const void *)points->data, points->len, INK_HANDSET, 1.5);
}

/* "98.3 ms", and two strokes: time is cut there. */
static void draw_break(const sketch *in, const piece *before, const piece *after)
{
    const double x = after->x - BREAK_PX / 2.0;
    const double y = y_of(in, false);
    g_autofree char *text = g_strdup_printf("%.0f ms", (double)(after->from_us - before->until_us) / 1000);
    const double strokes[2][4] = {{x - 6, y + 8, x - 1, y - 8}, {x + 1, y + 8, x + 6, y - 8}};
    picture_line(in->canvas, strokes[0], 2, INK_PLAIN, 1.5);
    picture_line(in->canvas, strokes[1], 2, INK_PLAIN, 1.5);
    picture_text(in->canvas, x, y_of(in, true) + (in->view->is_mark_high ? 20 : -8), small, text);
}

/* A frame with its place. */
typedef struct drawn_frame {
    const sketch *in;
    dissection frame;
} drawn_frame;

static const char *field_name(const frame_cell *cell)
{
    static const char *const names[] = {"address", "command", "toggle", "check"};
    static const char *const inverted[] = {"address inverted", "command inverted", "toggle inverted",
                                           "check"};
    static const char *const again[] = {"address again", "command again", "toggle again", "check"};
    return !cell->is_copy      ? names[cell->field]
           : cell->is_inverted ? inverted[cell->field]
                               : again[cell->field];
}

/* Returns the longest text of a field that fits: "address 33 (0x21), lowest bit first", or less. To be freed.
 */
static char *field_text(const drawn_frame *part, const frame_cell *first, const frame_cell *last, double room)
{
    const drom_code *const code = &part->frame.heard->frame.code;
    const char *const name = field_name(first);
    const unsigned number = first->field == FIELD_ADDRESS   ? (unsigned)code->address
                            : first->field == FIELD_COMMAND ? code->command
                                                            : part->frame.heard->frame.toggle;
    const bool is_said = !first->is_copy && first->field != FIELD_CHECK;
    g_autofree char *hex =
        is_said && first->field != FIELD_TOGGLE ? g_strdup_printf(" (0x%02x)", number) : g_strdup("");
    char *texts[3] = {NULL, is_said ? g_strdup_printf("%s %u%s", name, number, hex) : g_strdup(name),
                      g_strdup(name)};
    if (is_said && first == last && first->field != FIELD_TOGGLE) { /* one bit apart from the others */
        g_free(texts[1]);
        texts[1] =
            g_strdup_printf("%s, bit %d%s", name, first->field_bit, first->is_inverted ? " inverted" : "");
    }
    texts[0] = is_said && first != last
                   ? g_strdup_printf("%s, %s bit first", texts[1],
                                     first->field_bit < last->field_bit ? "lowest" : "highest")
                   : g_strdup(texts[1]);
    char *fits = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        if (fits == NULL && picture_width_of(small, texts[i]) <= room) {
            fits = g_steal_pointer(&texts[i]);
        }
        g_free(texts[i]);
    }
    return fits != NULL ? fits : g_strdup("");
}

/* A bracket over cells, and its text. */
static void draw_bracket(const sketch *in, double from, double until, double y, const char *text)
{
    const double line[] = {from + 1, y + 6, from + 1, y, until - 1, y, until - 1, y + 6};
    picture_line(in->canvas, line, 4, INK_PLAIN, 1);
    if (text[0] != '\0') {
        picture_text(in->canvas, (from + until) / 2, y - 6, small, text);
    }
}

static const frame_cell *cell_at(const drawn_frame *part, guint i)
{
    return &g_array_index(part->frame.parts.cells, frame_cell, i);
}

static void draw_fields(const drawn_frame *part, double y)
{
    for (guint i = 0; i < part->frame.parts.cells->len;) {
        const frame_cell *const first = cell_at(part, i);
        const frame_cell *last = first;
        for (i++;
             i < part->frame.parts.cells->len && strcmp(field_name(cell_at(part, i)), field_name(first)) == 0;
             i++) {
            last = cell_at(part, i);
        }
        const double from = x_in(part->in, dissection_us(&part->frame, first->from_us));
        const double until = x_in(part->in, dissection_us(&part->frame, last->until_us));
        g_autofree char *text = field_text(part, first, last, until - from - 4);
        draw_bracket(part->in, from, until, y, text);
    }
}

/* Of the bits of a frame. */
static double narrowest_px(const drawn_frame *part)
{
    double narrowest = INFINITY;
    for (guint i = 0; i < part->frame.parts.cells->len; i++) {
        const frame_cell *const cell = cell_at(part, i);
        const double from = x_in(part->in, dissection_us(&part->frame, cell->from_us));
        narrowest = MIN(narrowest, x_in(part->in, dissection_us(&part->frame, cell->until_us)) - from);
    }
    return narrowest;
}

static void draw_bits(const drawn_frame *part, double y)
{
    const sketch *const in = part->in;
    const bool have_values = narrowest_px(part) >= CELL_PX;
    for (guint i = 0; i < part->frame.parts.cells->len; i++) {
        const frame_cell *const cell = cell_at(part, i);
        const double from = x_in(in, dissection_us(&part->frame, cell->from_us));
        const double until = x_in(in, dissection_us(&part->frame, cell->until_us));
        const double tick[] = {from, y - 14, from, in->bottom};
        if (until - from < FIELD_PX) {
            continue;
        }
        picture_line(in->canvas, tick, 2, INK_FAINT, 0.5);
        if (!have_values) {
            continue;
        }
        char text[8];
        (void)g_snprintf(text, sizeof text, cell->bits == 2 ? "%u%u" : "%u", cell->value >> (cell->bits - 1),
                         cell->value & 1);
        picture_text(in->canvas, (from + until) / 2, y, small, text);
    }
}

static void draw_margins(const drawn_frame *part, double base, double height)
{
    const sketch *const in = part->in;
    bit_margin worst = {.percent = -1};
    double worst_x = 0;
    for (guint i = 0; i < part->frame.parts.cells->len; i++) {
        const frame_cell *const cell = cell_at(part, i);
        const bit_margin margin = dissection_margin(&part->frame, cell);
        if (margin.percent < 0) {
            continue;
        }
        const double from = x_in(in, dissection_us(&part->frame, cell->from_us));
        const double until = x_in(in, dissection_us(&part->frame, cell->until_us));
        const double bar = MAX(height * margin.percent / 100, 1);
        picture_box(in->canvas, from + 1, base - bar, MAX(until - from - 2, 2), bar, INK_HANDSET,
                    margin.percent < LOW_MARGIN ? FILL_HATCHED : FILL_SOLID);
        if (worst.percent < 0 || margin.percent < worst.percent) {
            worst = margin;
            worst_x = (from + until) / 2;
        }
    }
    if (worst.percent >= 0) {
        const double line[] = {LEFT, base, in->view->width - RIGHT, base};
        const picture_type beside = {12, false, TEXT_UP_TO, INK_PLAIN};
        picture_line(in->canvas, line, 2, INK_PLAIN, 1);
        picture_text(in->canvas, LEFT - 8, base - height + 12, beside, "as it should be");
        picture_text(in->canvas, LEFT - 8, base + 4, beside, "another bit");
        const double actual_us =
            dissection_edge_us(&part->frame, worst.run + 1) - dissection_edge_us(&part->frame, worst.run);
        g_autofree char *text =
            g_strdup_printf("worst: %s of %.0f µs, another bit from %.0f µs on",
                            worst.run % 2 == 0 ? "mark" : "space", actual_us, worst.limit_us);
        const double width = picture_width_of(small, text);
        const double x = CLAMP(worst_x, LEFT + width / 2, in->view->width - RIGHT - width / 2);
        const double arrow[] = {worst_x, base + 4, worst_x - 4, base + 11, worst_x + 4, base + 11};
        picture_shape(in->canvas, arrow, 3, INK_PLAIN);
        picture_text(in->canvas, x, base + 26, small, text);
    }
}

/* Leader and stop, by name; a frame without bits has one name. */
static void draw_parts(const drawn_frame *part, double y)
{
    const guint cells = part->frame.parts.cells->len;
    const double begin = x_in(part->in, dissection_us(&part->frame, 0));
    const double first =
        cells > 0 ? x_in(part->in, dissection_us(&part->frame, cell_at(part, 0)->from_us)) : begin;
    const double last =
        cells > 0 ? x_in(part->in, dissection_us(&part->frame, cell_at(part, cells - 1)->until_us)) : begin;
    const double end = x_in(part->in, dissection_edge_us(&part->frame, part->frame.parts.runs->len));
    if (first > begin + 2) {
        draw_bracket(part->in, begin, first, y,
                     picture_width_of(small, "leader") < first - begin ? "leader" : "");
    }
    if (end > last + 2) {
        picture_text(part->in->canvas, last + 6, y - 6, (picture_type){12, false, TEXT_FROM, INK_PLAIN},
                     "stop");
    }
}

static void draw_frame(const sketch *in, const heard_frame *heard, bool is_first)
{
    enum { FIELDS_Y = 130, BITS_Y = 160, MARGIN_PX = 60, UNDER_PX = 130 };
    drawn_frame part = {.in = in};
    const double from = x_in(in, (double)heard->at_us);
    const double until = x_in(in, (double)heard->at_us + heard->frame.lasted_us);
    if (dissection_begin(&part.frame, in->heard, heard)) {
        draw_parts(&part, FIELDS_Y);
        draw_fields(&part, FIELDS_Y);
        draw_bits(&part, BITS_Y);
        if (is_first) {
            draw_margins(&part, in->bottom + UNDER_PX, MARGIN_PX);
        }
        anatomy_clear(&part.frame.parts);
        return;
    }
    const bool is_unknown = heard->frame.protocol == &drom_unknown;
    g_autofree char *text =
        is_unknown ? g_strdup_printf("unknown: %u marks and spaces", heard->frame.intervals)
                   : g_strdup(heard->frame.kind == DROM_FRAME_REPEAT ? "repeat" : heard->frame.protocol->id);
    const double width = picture_width_of(small, text);
    const double middle = CLAMP((from + until) / 2, LEFT + width / 2, in->view->width - RIGHT - width / 2);
    const double line[] = {from, FIELDS_Y + 6, from, FIELDS_Y, until, FIELDS_Y, until, FIELDS_Y + 6};
    picture_line(in->canvas, line, 4, INK_PLAIN, 1);
    picture_text(in->canvas, middle, FIELDS_Y - 6, small, text);
}

/* Times from the first mark on, at pieces with room for them. */
static void draw_time(const sketch *in, double y)
{
    enum { APART_PX = 80, LABEL_PX = 30 };
    const piece *const first = &g_array_index(in->pieces, piece, 0);
    const double tick = scale_tick(APART_PX / in->px_per_us);
    const double zero_us = (double)first->from_us + 2000;
    for (guint i = 0; i < in->pieces->len; i++) {
        const piece *const one = &g_array_index(in->pieces, piece, i);
        double free_from = one->x - LABEL_PX;
        const unsigned begin = (unsigned)MAX(ceil(((double)one->from_us - zero_us) / tick), 0);
        const unsigned end = (unsigned)MAX(floor(((double)one->until_us - zero_us) / tick), 0);
        for (unsigned j = begin; j <= end; j++) {
            const double at = j * tick;
            const double x = x_in(in, zero_us + at);
            const double line[] = {x, y, x, y + 6};
            g_autofree char *text = at > 0 ? scale_time_text(at) : g_strdup("0 ms");
            const double width = picture_width_of(small, text);
            picture_line(in->canvas, line, 2, INK_PLAIN, 1);
            if (x - width / 2 >= free_from && x + width / 2 <= in->view->width) {
                picture_text(in->canvas, x, y + 20, small, text);
                free_from = x + width / 2 + 8;
            }
        }
    }
}

static char *heading_of(const heard_frame *heard)
{
    const drom_frame *const frame = &heard->frame;
    if (frame->protocol == &drom_unknown) {
        return g_strdup_printf("not recognised: a burst of %u marks and spaces", frame->intervals);
    }
    if (frame->kind != DROM_FRAME_WHOLE) {
        return g_strdup_printf("%s, a repeat, read", frame->protocol->id);
    }
    g_autofree char *toggle =
        frame->protocol->has_toggle ? g_strdup_printf(", toggle %u", frame->toggle) : g_strdup("");
    return g_strdup_printf("%s, address %u, command %u%s, read, worst bit %u %%", frame->protocol->id,
                           (unsigned)frame->code.address, frame->code.command, toggle,
                           drom_frame_margin(frame));
}

/* The longest time at which bits are visible. */
static picture *draw_detail(const heard_line *line, const waveform_view *view, uint64_t from_us,
                            uint64_t until_us)
{
    enum { WAVE_TOP = 190, MIN_PX = 110, MAX_PX = 300, TIME_GAP = 16, UNDER_PX = 180 };
    const double wave_px = CLAMP(view->height - WAVE_TOP - UNDER_PX, MIN_PX, MAX_PX);
    sketch in = {.heard = line,
                 .view = view,
                 .pieces = g_array_new(FALSE, FALSE, sizeof(piece)),
                 .top = WAVE_TOP,
                 .bottom = WAVE_TOP + wave_px};
    const heard_frame *first = NULL;
    for (guint i = 0; i < line->frames->len && first == NULL; i++) {
        const bool is_in =
            heard_frame_at(line, i)->at_us >= from_us && heard_frame_at(line, i)->at_us <= until_us;
        first = is_in ? heard_frame_at(line, i) : NULL;
    }
    g_autofree char *heading = first != NULL ? heading_of(first) : g_strdup("nothing was recognised");
    const double needed = WAVE_TOP + wave_px + UNDER_PX;
    in.canvas = picture_new(view->width, view->is_fitted ? needed : MAX(view->height, needed), view->is_dark,
                            heading);
    find_pieces(&in, from_us, until_us);
    picture_text(in.canvas, 20, 32, (picture_type){18, true, TEXT_FROM, INK_PLAIN}, heading);
    if (in.pieces->len > 0) {
        place_pieces(&in);
        g_autofree char *below =
            g_strdup_printf("as the receiver's output is: high when idle, low during a mark; from %.3f s",
                            (double)g_array_index(in.pieces, piece, 0).from_us / 1e6);
        picture_text(in.canvas, 20, 54, (picture_type){13, false, TEXT_FROM, INK_PLAIN},
                     view->is_mark_high ? "as the light is: up during a mark" : below);
        const picture_type beside = {12, false, TEXT_UP_TO, INK_PLAIN};
        picture_text(in.canvas, LEFT - 8, y_of(&in, false) + 4, beside,
                     view->is_mark_high ? "dark" : "high, idle");
        picture_text(in.canvas, LEFT - 8, y_of(&in, true) + 4, beside,
                     view->is_mark_high ? "light" : "low, mark");
        picture_begin(in.canvas, "waveform", "line");
        for (guint i = 0; i < in.pieces->len; i++) {
            const piece *const one = &g_array_index(in.pieces, piece, i);
            draw_piece(&in, one);
            if (i > 0) {
                draw_break(&in, one - 1, one);
            }
        }
        picture_end(in.canvas);
        for (guint i = 0; i < line->frames->len; i++) {
            const heard_frame *const heard = heard_frame_at(line, i);
            if (heard->at_us >= from_us && heard->at_us <= until_us) {
                picture_begin(in.canvas, "frame", heard->frame.protocol->id);
                draw_frame(&in, heard, heard == first);
                picture_end(in.canvas);
            }
        }
        draw_time(&in, in.bottom + TIME_GAP);
    }
    if (line->advice != NULL) {
        picture_text(in.canvas, 20, 76, (picture_type){13, false, TEXT_FROM, INK_PLAIN}, line->advice);
    }
    g_array_unref(in.pieces);
    return in.canvas;
}

/* Returns the end of the first frames of a press, or, for a time, of all frames. */
static uint64_t end_of_press(const heard_line *line, unsigned press)
{
    const uint64_t from_us = g_array_index(line->presses, uint64_t, press - 1);
    const uint64_t next_us =
        press < line->presses->len ? g_array_index(line->presses, uint64_t, press) : UINT64_MAX;
    uint64_t until_us = from_us;
    unsigned shown = 0;
    for (guint i = 0; i < line->frames->len && shown < FRAMES_SHOWN; i++) {
        const heard_frame *const heard = heard_frame_at(line, i);
        if (heard->at_us >= from_us && heard->at_us < next_us) {
            until_us = heard->at_us + heard->frame.lasted_us + 1000;
            shown++;
        }
    }
    return until_us;
}

picture *waveform_draw(const heard_line *heard, const waveform_view *view)
{
    enum { DETAIL_US = 400000 };
    const uint64_t all_us =
        overview_last_edge(heard) - (heard->edges->len > 0 ? heard_edge(heard, 0)->at_us : 0);
    if (view->press > 0) {
        return draw_detail(heard, view, g_array_index(heard->presses, uint64_t, view->press - 1),
                           end_of_press(heard, view->press));
    }
    const uint64_t until_us = view->until_us > 0 ? view->until_us : UINT64_MAX;
    const uint64_t asked_us = view->until_us > 0 ? view->until_us - view->from_us : all_us;
    return asked_us <= DETAIL_US ? draw_detail(heard, view, view->from_us, until_us)
                                 : overview_draw(heard, view);
}
