/* An SVG of the tool's, read again: its texts, each with the thing that it belongs to. */
#ifndef DROMIKOS_TESTS_DRAWN_H
#define DROMIKOS_TESTS_DRAWN_H

#include <glib.h>

typedef struct drawn_text {
    double x;
    double y; /* of its base line */
    double width;
    double size;
    char *text;
    char *what; /* the innermost thing's class, and name; "" without one */
    char *name;
} drawn_text;

/* Where the first line of a thing begins and ends. */
typedef struct drawn_line {
    double from_y;
    double to_y;
} drawn_line;

typedef struct drawn {
    double width;
    double height;
    GArray *texts;      /* of drawn_text */
    GHashTable *lines;  /* "class name" to drawn_line */
    GHashTable *shapes; /* "class name" to how many shapes belong to it */
} drawn;

/* Fails the test where it is no SVG, or where a text is cut or overlaps another one. */
drawn drawn_read(const char *svg);
/* What 'dromikos chart' draws with these arguments. Fails the test where it doesn't. */
drawn drawn_chart(const char *arguments);
void drawn_clear(drawn *unwanted);

/* How many texts, and shapes, of a thing. The text may be NULL: any will do. */
unsigned drawn_texts(const drawn *in, const char *what, const char *name, const char *text);
unsigned drawn_shapes(const drawn *in, const char *what, const char *name);

#endif
