/* What the readers of the capture formats share. Private to capture/. */
#ifndef DROMIKOS_CAPTURE_READER_H
#define DROMIKOS_CAPTURE_READER_H

#include "capture/capture.h"

/* The latest valid time: 10 years. A larger time stamp is an error. */
#define CAPTURE_LAST_US (UINT64_C(10) * 366 * 24 * 3600 * 1000000)

enum {
    CAPTURE_MAX_WORD = 255,
    CAPTURE_MAX_LINE = 4096,
};

typedef struct wire {
    char *name;
    char *path; /* with its scopes: top.ir */
    char *id;
    int width;
} wire;

typedef struct capture_run {
    uint64_t us;
    bool is_mark;
} capture_run;

struct capture {
    FILE *file;
    capture_read (*next)(capture *from, capture_edge *edge, GError **error);
    void (*close)(capture *from);
    uint64_t line;
    uint64_t now_us;
    bool is_idle_low;
    bool is_mark;

    /* VCD */
    GPtrArray *wires;              /* of wire */
    GPtrArray *scopes;             /* of names */
    char id[CAPTURE_MAX_WORD + 1]; /* of the selected wire */
    char word[CAPTURE_MAX_WORD + 1];
    uint64_t scale_fs; /* one tick */
    uint64_t ticks;

    /* CSV */
    char text[CAPTURE_MAX_LINE];
    char delimiter;
    int time_column;
    int level_column;
    double us_per_unit;
    double first_time; /* subtracted, if it is negative */
    bool has_time;

    /* runs */
    unsigned garbage;
    bool has_runs;
    bool has_lost;
    bool is_torn; /* some was dropped: the next data may be the rest of a run */
    bool has_more_time;

    /* lists of times */
    GArray *runs; /* of capture_run, mark and space in turn */
    guint next_run;
};

/* Sets an error at the current line. Always false. */
bool capture_fail(const capture *from, GError **error, const char *format, ...) G_GNUC_PRINTF(3, 4);

/* Returns the µs per unit of a time column, by its name: t_us, time_ms, Time [s]. 0 if it is no such name. */
double capture_unit_of(const char *name);

/* Read the heads of the formats; false, with the error set, if they are invalid. */
bool capture_open_vcd(capture *from, const char *signal, GError **error);
bool capture_open_csv(capture *from, const char *signal, GError **error);

/* True if a line begins a list of times, possibly after a name: '9000 4500', 'play: 9000', 'a[3] = {9000'. */
bool capture_is_list(const char *line);

/* Reads lists of times; `head` was read before and comes first. */
bool capture_open_times(capture *from, const char *head, GError **error);

/* Sets the level of the line. True, with the edge filled in, if it changes. */
bool capture_take_level(capture *from, bool is_high, capture_edge *edge);

#endif
