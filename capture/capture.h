/* A recorded line of a receiver, edge by edge. */
#ifndef DROMIKOS_CAPTURE_CAPTURE_H
#define DROMIKOS_CAPTURE_CAPTURE_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

/* Why a capture can't be read. */
#define CAPTURE_ERROR capture_error_quark()
GQuark capture_error_quark(void);

typedef enum capture_error {
    CAPTURE_ERROR_FILE,   /* invalid; the message says where and why */
    CAPTURE_ERROR_CHOICE, /* it has several wires, and none or an unknown one was named */
} capture_error;

typedef struct capture capture;

typedef struct capture_edge {
    uint64_t at_us;
    bool is_mark;
    bool after_loss; /* edges before this one were lost */
} capture_edge;

typedef enum capture_read {
    CAPTURE_EDGE,  /* the line changed */
    CAPTURE_TIME,  /* no change up to at_us: from a live source */
    CAPTURE_END,   /* the end; at_us is the last time of the capture */
    CAPTURE_FAULT, /* the error is set */
} capture_read;

/* Starts reading a VCD capture (IEEE 1364, one bit of one wire). `signal` names the wire, and may be NULL
 * where there is only one. A mark is where the line is low, or high with `is_idle_low`. The file stays the
 * caller's. NULL, and `error` set, when the head of the file is wrong. */
capture *capture_open(FILE *file, const char *signal, bool is_idle_low, GError **error);

/* True if a file with this beginning looks like a capture of any format. A file that is meant as something
 * else, and is invalid, may not be recognised. */
bool capture_begins(const char *head);

/* Starts reading runs of a firmware without examining the beginning: a serial line may be in the middle of
 * anything. */
capture *capture_open_runs(FILE *file);

/* Returns the number of lines skipped as they held no runs, and whether any line did. Only a serial line
 * allows such lines. */
unsigned capture_garbage(const capture *from);
bool capture_has_runs(const capture *from);

/* Some of the following data is lost. For a serial line. */
void capture_lose(capture *from);

void capture_free(capture *unwanted);

/* Returns the next change of the line. The line counts as idle until the capture says otherwise; x and z
 * change nothing. Memory doesn't grow with the file. */
capture_read capture_next(capture *from, capture_edge *edge, GError **error);

typedef enum capture_format {
    CAPTURE_VCD,
    CAPTURE_CSV,
} capture_format;

/* Writes a capture: the head, the edges in order, and the end time. */
void capture_write_head(FILE *out, capture_format format);
void capture_write_edge(FILE *out, capture_format format, const capture_edge *edge);
void capture_write_end(FILE *out, capture_format format, uint64_t at_us);

#endif
