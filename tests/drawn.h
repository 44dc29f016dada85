/* Reads an SVG of the tool again: its texts, each with the thing that it belongs to. */
#ifndef DROMIKOS_TESTS_DRAWN_H
#define DROMIKOS_TESTS_DRAWN_H

#include <glib.h>

typedef struct drawn_text {
    double x;
    double y; /* of its base line */
    double width;
    double size;
    char *text;
    char *what; /* class and name of the innermost thing; "" without one */
    char *name;
} drawn_text;

/* The ends of the first line of a thing. */
typedef struct drawn_line {
    double from_y;
    double to_y;
} drawn_line;

typedef struct drawn {
    double width;
    double height;
    GArray *texts;      /* of drawn_text */
    GHashTable *lines;  /* "class name" to drawn_line */
    GHashTable *shapes; /* "class name" to the number of its shapes */
} drawn;

/* Fails the test if it is no SVG, or if a text is cut or overlaps another one. */
drawn drawn_read(const char *svg);
/* Returns what 'dromikos chart' draws with these arguments. Fails the test if it draws nothing. */
drawn drawn_chart(const char *arguments);
void drawn_clear(drawn *unwanted);

/* Returns the number of texts, or of shapes, of a thing. A text of NULL matches any. */
unsigned drawn_texts(const drawn *in, const char *what, const char *name, const char *text);
unsigned drawn_shapes(const drawn *in, const char *what, const char *name);

#endif
