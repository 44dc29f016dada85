/* The journal of events, a line per time, from a rehearsal's rows. */
#ifndef DROMIKOS_LIVE_JOURNAL_H
#define DROMIKOS_LIVE_JOURNAL_H

#include "chart/picture.h"
#include "chart/row.h"

typedef struct journal journal;

typedef struct journal_line {
    uint64_t at_us;
    char *text;
    unsigned more; /* number of further equal lines */
    picture_ink ink;
    bool is_alert; /* a warning */
} journal_line;

journal *journal_new(void);
void journal_free(journal *unwanted);

void journal_take(journal *into, const timeline_row *taken);

/* Adds a line of another source. */
void journal_add(journal *into, uint64_t at_us, picture_ink ink, const char *text);

unsigned journal_count(const journal *log);
const journal_line *journal_at(const journal *log, unsigned i);

#endif
