#include "chart/picture.h"

#include "plan/text/plain.h"

#include <cairo.h>
#include <errno.h>
#include <math.h>
#include <pango/pangocairo.h>
#include <string.h>

static const char FONT[] = "DejaVu Sans";

enum { HATCH_PX = 5, RGB_OWN = INKS };

/* Colours on a light and a dark background: text with a contrast of 4.5 to 1, lines 3 to 1. */
static const uint32_t inks[2][INKS] = {
    {0xfaf8f2, 0x1e1e1e, 0x86827a, 0x0072b2, 0xb84a00, 0xc0182c},
    {0x16181a, 0xece9e1, 0x7d7f83, 0x56b4e9, 0xf0803c, 0xff6b78},
};

typedef enum shape_of { A_BOX, A_LINE, A_SHAPE, A_TEXT, A_BEGIN, AN_END } shape_of;

typedef struct element {
    shape_of what;
    picture_ink ink; /* RGB_OWN: `rgb` */
    picture_fill fill;
    uint32_t rgb;
    double width; /* of a line */
    double *points;
    unsigned count;
    picture_type type;
    char *text;
    char *name;
} element;

struct picture {
    double width;
    double height;
    bool is_dark;
    char *title;
    GArray *elements;
};

static void free_element(gpointer data)
{
    element *const unwanted = data;
    g_free(unwanted->points);
    g_free(unwanted->text);
    g_free(unwanted->name);
}

picture *picture_new(double width, double height, bool is_dark, const char *title)
{
    picture *const made = g_new0(picture, 1);
    *made = (picture){width, height, is_dark, plain_text(title), g_array_new(FALSE, FALSE, sizeof(element))};
    g_array_set_clear_func(made->elements, free_element);
    return made;
}

void picture_free(picture *unwanted)
{
    if (unwanted != NULL) {
        g_array_unref(unwanted->elements);
        g_free(unwanted->title);
        g_free(unwanted);
    }
}

static void add(picture *in, element added, const double *points, unsigned count)
{
    added.points = g_memdup2(points, (gsize)2 * count * sizeof *points);
    added.count = count;
    g_array_append_val(in->elements, added);
}

void picture_begin(picture *in, const char *what, const char *name)
{
    add(in, (element){.what = A_BEGIN, .text = g_strdup(what), .name = plain_text(name)}, NULL, 0);
}

void picture_end(picture *in)
{
    add(in, (element){.what = AN_END}, NULL, 0);
}

void picture_box(picture *in, double x, double y, double width, double height, picture_ink ink,
                 picture_fill fill)
{
    const double points[] = {x, y, width, height};
    add(in, (element){.what = A_BOX, .ink = ink, .fill = fill}, points, 2);
}

void picture_colour(picture *in, double x, double y, double width, double height, uint32_t rgb)
{
    const double points[] = {x, y, width, height};
    add(in, (element){.what = A_BOX, .ink = (picture_ink)RGB_OWN, .rgb = rgb}, points, 2);
}

void picture_line(picture *in, const double *points, unsigned count, picture_ink ink, double width)
{
    add(in, (element){.what = A_LINE, .ink = ink, .width = width}, points, count);
}

void picture_shape(picture *in, const double *points, unsigned count, picture_ink ink)
{
    add(in, (element){.what = A_SHAPE, .ink = ink}, points, count);
}

void picture_text(picture *in, double x, double y, picture_type type, const char *text)
{
    const double point[] = {x, y};
    add(in, (element){.what = A_TEXT, .ink = type.ink, .type = type, .text = plain_text(text)}, point, 1);
}

static PangoLayout *layout_of(cairo_t *cairo, picture_type type, const char *text)
{
    PangoLayout *const layout = pango_cairo_create_layout(cairo);
    PangoFontDescription *const font = pango_font_description_from_string(FONT);
    g_autofree char *plain = plain_text(text);
    pango_font_description_set_absolute_size(font, type.size * PANGO_SCALE);
    pango_font_description_set_weight(font, type.is_bold ? PANGO_WEIGHT_BOLD : PANGO_WEIGHT_NORMAL);
    pango_layout_set_font_description(layout, font);
    pango_layout_set_single_paragraph_mode(layout, TRUE);
    pango_layout_set_text(layout, plain, -1);
    pango_font_description_free(font);
    return layout;
}

double picture_width_of(picture_type type, const char *text)
{
    static cairo_t *measure; /* kept, as hundreds of texts are measured */
    if (measure == NULL) {
        cairo_surface_t *const surface = cairo_image_surface_create(CAIRO_FORMAT_A8, 1, 1);
        measure = cairo_create(surface);
        cairo_surface_destroy(surface);
    }
    PangoLayout *const layout = layout_of(measure, type, text);
    int width = 0;
    pango_layout_get_size(layout, &width, NULL);
    g_object_unref(layout);
    return (double)width / PANGO_SCALE;
}

char *picture_shortened(picture_type type, const char *text, double width)
{
    g_autofree char *valid = plain_text(text);
    const long letters = g_utf8_strlen(valid, -1);
    if (picture_width_of(type, valid) <= width) {
        return g_steal_pointer(&valid);
    }
    char *longest = g_strdup("…");
    long fits =
        1; /* the letters that fit, and the first number that doesn't: no letter is narrower than a pixel */
    long too_many = MIN(letters, (long)fmax(width, 2));
    while (too_many - fits > 1) {
        const long kept = (fits + too_many) / 2;
        g_autofree char *head = g_utf8_substring(valid, 0, kept - kept / 2);
        g_autofree char *tail = g_utf8_substring(valid, letters - kept / 2, letters);
        char *const shortened = g_strconcat(head, "…", tail, NULL);
        if (picture_width_of(type, shortened) <= width) {
            g_free(longest);
            longest = shortened;
            fits = kept;
        } else {
            g_free(shortened);
            too_many = kept;
        }
    }
    return longest;
}

uint32_t picture_rgb(picture_ink ink, bool is_dark)
{
    return inks[is_dark][ink];
}

static uint32_t rgb_of(const picture *shown, const element *drawn)
{
    return drawn->ink == (picture_ink)RGB_OWN ? drawn->rgb : picture_rgb(drawn->ink, shown->is_dark);
}

static void set_ink(cairo_t *cairo, uint32_t rgb)
{
    cairo_set_source_rgb(cairo, (rgb >> 16 & 0xff) / 255.0, (rgb >> 8 & 0xff) / 255.0, (rgb & 0xff) / 255.0);
}

/* The lines of a box's hatching: rising, HATCH_PX apart. Each is two points. */
static GArray *hatching(const double *box)
{
    GArray *const lines = g_array_new(FALSE, FALSE, 4 * sizeof(double));
    const double x = box[0];
    const double y = box[1];
    const double width = box[2];
    const double height = box[3];
    for (unsigned i = 1; i * HATCH_PX < width + height; i++) {
        const double sum = i * HATCH_PX; /* x + y from the upper left corner */
        const double left = MAX(0, sum - height);
        const double right = MIN(width, sum);
        const double line[4] = {x + left, y + sum - left, x + right, y + sum - right};
        g_array_append_val(lines, line);
    }
    return lines;
}

static void draw_box(const picture *shown, const element *drawn, cairo_t *cairo)
{
    const double *const box = drawn->points;
    set_ink(cairo, rgb_of(shown, drawn));
    if (drawn->fill == FILL_SOLID) {
        cairo_rectangle(cairo, box[0], box[1], box[2], box[3]);
        cairo_fill(cairo);
        return;
    }
    cairo_set_line_width(cairo, 1);
    cairo_rectangle(cairo, box[0] + 0.5, box[1] + 0.5, MAX(box[2] - 1, 0), MAX(box[3] - 1, 0));
    cairo_stroke(cairo);
    if (drawn->fill == FILL_HATCHED) {
        g_autoptr(GArray) lines = hatching(box);
        for (guint i = 0; i < lines->len; i++) {
            const double *const line = (const double *)(const void *)lines->data + (gsize)4 * i;
            cairo_move_to(cairo, line[0], line[1]);
            cairo_line_to(cairo, line[2], line[3]);
        }
        cairo_stroke(cairo);
    }
}

static void draw_path(const picture *shown, const element *drawn, cairo_t *cairo)
{
    set_ink(cairo, rgb_of(shown, drawn));
    for (gsize i = 0; i < drawn->count; i++) {
        cairo_line_to(cairo, drawn->points[2 * i], drawn->points[2 * i + 1]);
    }
    if (drawn->what == A_SHAPE) {
        cairo_fill(cairo);
    } else {
        cairo_set_line_width(cairo, drawn->width);
        cairo_stroke(cairo);
    }
}

static double left_of(const element *drawn, double width)
{
    return drawn->points[0] - (drawn->type.side == TEXT_AROUND  ? width / 2
                               : drawn->type.side == TEXT_UP_TO ? width
                                                                : 0);
}

static void draw_text(const picture *shown, const element *drawn, cairo_t *cairo)
{
    PangoLayout *const layout = layout_of(cairo, drawn->type, drawn->text);
    int width = 0;
    pango_layout_get_size(layout, &width, NULL);
    set_ink(cairo, rgb_of(shown, drawn));
    cairo_move_to(cairo, left_of(drawn, (double)width / PANGO_SCALE),
                  drawn->points[1] - (double)pango_layout_get_baseline(layout) / PANGO_SCALE);
    pango_cairo_show_layout(cairo, layout);
    cairo_new_path(cairo);
    g_object_unref(layout);
}

static void draw(const picture *shown, cairo_t *cairo)
{
    set_ink(cairo, inks[shown->is_dark][INK_GROUND]);
    cairo_paint(cairo);
    for (guint i = 0; i < shown->elements->len; i++) {
        const element *const drawn = &g_array_index(shown->elements, element, i);
        switch (drawn->what) {
        case A_BOX:
            draw_box(shown, drawn, cairo);
            break;
        case A_LINE:
        case A_SHAPE:
            draw_path(shown, drawn, cairo);
            break;
        case A_TEXT:
            draw_text(shown, drawn, cairo);
            break;
        case A_BEGIN:
        case AN_END:
            break;
        }
    }
}

/* "12.50", in any locale. */
static void put_number(GString *out, const char *before, double number)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];
    g_string_append_printf(out, "%s%s", before, g_ascii_formatd(text, sizeof text, "%.2f", number));
}

static void put_attribute(GString *out, const char *name, double number)
{
    g_string_append_printf(out, " %s=\"", name);
    put_number(out, "", number);
    g_string_append_c(out, '"');
}

static void put_points(GString *out, const double *points, unsigned count)
{
    for (gsize i = 0; i < count; i++) {
        put_number(out, i == 0 ? "M" : "L", points[2 * i]);
        put_number(out, ",", points[2 * i + 1]);
    }
}

static void put_box(GString *out, const picture *shown, const element *drawn)
{
    const double *const box = drawn->points;
    const uint32_t rgb = rgb_of(shown, drawn);
    const double inset = drawn->fill == FILL_SOLID ? 0 : 0.5;
    g_string_append(out, "<rect");
    put_attribute(out, "x", box[0] + inset);
    put_attribute(out, "y", box[1] + inset);
    put_attribute(out, "width", MAX(box[2] - 2 * inset, 0));
    put_attribute(out, "height", MAX(box[3] - 2 * inset, 0));
    g_string_append_printf(
        out, drawn->fill == FILL_SOLID ? " fill=\"#%06x\"/>\n" : " fill=\"none\" stroke=\"#%06x\"/>\n", rgb);
    if (drawn->fill == FILL_HATCHED) {
        g_autoptr(GArray) lines = hatching(box);
        g_string_append(out, "<path d=\"");
        for (guint i = 0; i < lines->len; i++) {
            const double *const line = (const double *)(const void *)lines->data + (gsize)4 * i;
            put_points(out, line, 2);
        }
        g_string_append_printf(out, "\" fill=\"none\" stroke=\"#%06x\"/>\n", rgb);
    }
}

static void put_path(GString *out, const picture *shown, const element *drawn)
{
    const uint32_t rgb = rgb_of(shown, drawn);
    g_string_append(out, "<path d=\"");
    put_points(out, drawn->points, drawn->count);
    if (drawn->what == A_SHAPE) {
        g_string_append_printf(out, "Z\" fill=\"#%06x\"/>\n", rgb);
    } else {
        g_string_append_printf(out, "\" fill=\"none\" stroke=\"#%06x\"", rgb);
        put_attribute(out, "stroke-width", drawn->width);
        g_string_append(out, "/>\n");
    }
}

/* With its measured width, so that another font can't make texts overlap. */
static void put_text(GString *out, const picture *shown, const element *drawn)
{
    const double width = picture_width_of(drawn->type, drawn->text);
    g_autofree char *escaped = g_markup_escape_text(drawn->text, -1);
    if (width <= 0) {
        return;
    }
    g_string_append(out, "<text");
    put_attribute(out, "x", left_of(drawn, width));
    put_attribute(out, "y", drawn->points[1]);
    put_attribute(out, "font-size", drawn->type.size);
    put_attribute(out, "textLength", width);
    g_string_append_printf(out, "%s lengthAdjust=\"spacingAndGlyphs\" fill=\"#%06x\">%s</text>\n",
                           drawn->type.is_bold ? " font-weight=\"bold\"" : "", rgb_of(shown, drawn), escaped);
}

char *picture_svg(const picture *shown)
{
    GString *const out = g_string_new("<svg xmlns=\"http://www.w3.org/2000/svg\" role=\"img\"");
    g_autofree char *title = g_markup_escape_text(shown->title, -1);
    put_attribute(out, "width", shown->width);
    put_attribute(out, "height", shown->height);
    g_string_append(out, " viewBox=\"0 0 ");
    put_number(out, "", shown->width);
    put_number(out, " ", shown->height);
    g_string_append_printf(out, "\" font-family=\"%s, sans-serif\">\n<title>%s</title>\n", FONT, title);
    g_string_append_printf(out, "<rect width=\"100%%\" height=\"100%%\" fill=\"#%06x\"/>\n",
                           inks[shown->is_dark][INK_GROUND]);
    for (guint i = 0; i < shown->elements->len; i++) {
        const element *const drawn = &g_array_index(shown->elements, element, i);
        switch (drawn->what) {
        case A_BOX:
            put_box(out, shown, drawn);
            break;
        case A_LINE:
        case A_SHAPE:
            put_path(out, shown, drawn);
            break;
        case A_TEXT:
            put_text(out, shown, drawn);
            break;
        case A_BEGIN: {
            g_autofree char *name = g_markup_escape_text(drawn->name, -1);
            g_string_append_printf(out, "<g class=\"%s\" data-name=\"%s\">\n", drawn->text, name);
            break;
        }
        case AN_END:
            g_string_append(out, "</g>\n");
            break;
        }
    }
    g_string_append(out, "</svg>\n");
    return g_string_free(out, FALSE);
}

static cairo_status_t write_bytes(void *closure, const unsigned char *bytes, unsigned length)
{
    return fwrite(bytes, 1, length, closure) == length ? CAIRO_STATUS_SUCCESS : CAIRO_STATUS_WRITE_ERROR;
}

static bool write_png(const picture *shown, FILE *out)
{
    cairo_surface_t *const surface =
        cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)lround(shown->width), (int)lround(shown->height));
    cairo_t *const cairo = cairo_create(surface);
    draw(shown, cairo);
    const cairo_status_t status = cairo_surface_write_to_png_stream(surface, write_bytes, out);
    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
    return status == CAIRO_STATUS_SUCCESS;
}

bool picture_write(const picture *shown, picture_format format, FILE *out, GError **error)
{
    bool is_written = false;
    if (format == PICTURE_PNG) {
        is_written = write_png(shown, out);
    } else {
        g_autofree char *svg = picture_svg(shown);
        is_written = fputs(svg, out) >= 0;
    }
    if (!is_written || fflush(out) != 0) {
        g_set_error(error, G_FILE_ERROR, (gint)g_file_error_from_errno(errno), "%s", g_strerror(errno));
        return false;
    }
    return true;
}
