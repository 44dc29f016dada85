/* A picture as a list of shapes and texts, written as PNG or as SVG: the two can't differ. Independent of
 * handsets. */
#ifndef DROMIKOS_CHART_PICTURE_H
#define DROMIKOS_CHART_PICTURE_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

typedef struct picture picture;

/* The meaning of a shape, which decides its colour on a light and a dark background. */
typedef enum picture_ink {
    INK_GROUND,
    INK_PLAIN,
    INK_FAINT,
    INK_HANDSET,
    INK_OURS,
    INK_SUPPLY,
    INKS
} picture_ink;

/* Returns that colour, 0xrrggbb. */
uint32_t picture_rgb(picture_ink ink, bool is_dark);

typedef enum picture_fill { FILL_SOLID, FILL_HATCHED, FILL_NONE } picture_fill;

typedef enum picture_side { TEXT_FROM /* x */, TEXT_AROUND, TEXT_UP_TO } picture_side;

typedef enum picture_format { PICTURE_PNG, PICTURE_SVG } picture_format;

/* The style of a text. */
typedef struct picture_type {
    double size; /* px */
    bool is_bold;
    picture_side side;
    picture_ink ink;
} picture_type;

/* Creates a picture of this size in px. `title` describes it, for readers who don't see it. */
picture *picture_new(double width, double height, bool is_dark, const char *title);
void picture_free(picture *unwanted);

/* All that follows belongs to a named thing, up to picture_end(): in SVG a group of that class, with the
 * name. */
void picture_begin(picture *in, const char *what, const char *name);
void picture_end(picture *in);

/* A rectangle; without fill, its outline. */
void picture_box(picture *in, double x, double y, double width, double height, picture_ink ink,
                 picture_fill fill);

/* A rectangle of any colour, 0xrrggbb, of a lamp or a strip. */
void picture_colour(picture *in, double x, double y, double width, double height, uint32_t rgb);

/* A line through points, x and y each. */
void picture_line(picture *in, const double *points, unsigned count, picture_ink ink, double width);

/* A filled shape with these corners. */
void picture_shape(picture *in, const double *points, unsigned count, picture_ink ink);

/* A text on a base line. */
void picture_text(picture *in, double x, double y, picture_type type, const char *text);

/* Returns the width of a text, in px. */
double picture_width_of(picture_type type, const char *text);

/* Returns the text, or its two ends with "…" between them, so that it fits. To be freed. */
char *picture_shortened(picture_type type, const char *text, double width);

/* Returns the SVG, to be freed. */
char *picture_svg(const picture *shown);

/* Writes it; false, with the reason in `error`, if that fails. */
bool picture_write(const picture *shown, picture_format format, FILE *out, GError **error);

#endif
