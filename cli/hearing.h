/* A receiver with all protocols: edges in, frames and key events out. For listen and enrol. */
#ifndef DROMIKOS_CLI_HEARING_H
#define DROMIKOS_CLI_HEARING_H

#include "capture.h"
#include "sheet.h"
#include "source.h"

#include "dromikos/dromikos.h"

typedef struct hearing hearing;

/* Receivers of frames and key events; NULL: none. */
typedef struct hearing_sink {
    void *context;
    void (*frame)(void *context, uint64_t at_us, const drom_frame *frame);
    void (*key)(void *context, uint64_t at_us, const drom_key_event *event);
    void (*row_done)(void *context); /* everything caused by a frame has been reported */
} hearing_sink;

hearing *hearing_new(const hearing_sink *sink);
void hearing_free(hearing *unwanted);

/* Gives a handset its sheet; takes both over. Before hearing_start(). */
void hearing_add_sheet(hearing *pipeline, char *name, sheet *keys);

/* Adds a declared protocol, which must stay valid. Before hearing_start(). */
void hearing_add_protocol(hearing *pipeline, drom_protocol_ref protocol);

/* Begins. The last handset has no sheet: it takes unknown codes as they come. */
void hearing_start(hearing *pipeline);

/* Processes a source to its end. `is_cut`: it ends within a frame. */
capture_read hearing_take(hearing *pipeline, line_source *source, bool *is_cut, bool *is_in_mark,
                          GError **error);

/* Takes an edge, or the passing of time; and, at the end, all silence that anything waits for. */
void hearing_edge(hearing *pipeline, const capture_edge *edge);
void hearing_until(hearing *pipeline, uint64_t until_us);
void hearing_end(hearing *pipeline);

unsigned hearing_handsets(const hearing *pipeline);
unsigned hearing_keys(const hearing *pipeline, unsigned handset);
/* NULL for the handset without a sheet, and its keys. */
const char *hearing_handset_name(const hearing *pipeline, unsigned handset);
const char *hearing_key_name(const hearing *pipeline, unsigned handset, unsigned key);
/* Returns the protocol of a code that is received. */
const drom_protocol *hearing_protocol(const hearing *pipeline, uint8_t number);

const drom_code *hearing_code(const hearing *pipeline, unsigned handset, unsigned key);

/* Statistics of the line. */
typedef struct line_facts {
    uint64_t edges;
    uint64_t mark_us;   /* in all */
    uint64_t lasted_us; /* from the first edge to the last */
    uint64_t longest_mark_us;
    uint64_t short_marks; /* under 300 µs */
    unsigned unknowns;    /* bursts of no protocol */
    unsigned frames;
} line_facts;
const line_facts *hearing_facts(const hearing *pipeline);

#endif
