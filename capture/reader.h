/* What the readers of the capture formats share. Private to capture/. */
#ifndef DROMIKOS_CAPTURE_READER_H
#define DROMIKOS_CAPTURE_READER_H

#include "capture.h"

/* The last moment that is believed: 10 years. Past it a time stamp is a mistake. */
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
    char id[CAPTURE_MAX_WORD + 1]; /* of the wire that is read */
    char word[CAPTURE_MAX_WORD + 1];
    uint64_t scale_fs; /* one tick */
    uint64_t ticks;

    /* CSV */
    char text[CAPTURE_MAX_LINE];
    char delimiter;
    int time_column;
    int level_column;
    double us_per_unit;
    double first_time; /* taken off, where it is negative */
    bool has_time;

    /* runs */
    unsigned garbage;
    bool has_runs;
    bool has_lost;
    bool is_torn; /* some was dropped: what comes next may be the rest of a run */
    bool has_more_time;
};

/* Sets an error at the line that is being read. Always false. */
bool capture_fail(const capture *from, GError **error, const char *format, ...) G_GNUC_PRINTF(3, 4);

/* The µs in the unit of a time column, by its name: t_us, time_ms, Time [s]. 0 when it is no such name. */
double capture_unit_of(const char *name);

/* The heads of the formats; false, and the error set, when they are wrong. */
bool capture_open_vcd(capture *from, const char *signal, GError **error);
bool capture_open_csv(capture *from, const char *signal, GError **error);

/* The level of the line is now this. True, and the edge filled in, when that is a change. */
bool capture_take_level(capture *from, bool is_high, capture_edge *edge);

#endif
