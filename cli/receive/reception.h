/* A receiver with all protocols: edges in, frames and key events out. For listen and enrol. */
#ifndef DROMIKOS_CLI_RECEPTION_H
#define DROMIKOS_CLI_RECEPTION_H

#include "capture/capture.h"
#include "cli/receive/line_source.h"
#include "plan/handset/sheet.h"

#include "dromikos/dromikos.h"

typedef struct reception reception;

/* Receivers of frames and key events; NULL: none. */
typedef struct reception_sink {
    void *context;
    void (*frame)(void *context, uint64_t at_us, const drom_frame *frame);
    void (*key)(void *context, uint64_t at_us, const drom_key_event *event);
    void (*row_done)(void *context); /* everything caused by a frame has been reported */
} reception_sink;

reception *reception_new(const reception_sink *sink);
void reception_free(reception *unwanted);

/* Gives a handset its sheet; takes both over. Before reception_start(). */
void reception_add_sheet(reception *pipeline, char *name, sheet *keys);

/* Adds a declared protocol, which must stay valid. Before reception_start(). */
void reception_add_protocol(reception *pipeline, drom_protocol_ref protocol);

/* Begins. The last handset has no sheet: it takes unknown codes as they come. */
void reception_start(reception *pipeline);

/* Processes a source to its end. `is_cut`: it ends within a frame. */
capture_read reception_take(reception *pipeline, line_source *source, bool *is_cut, bool *is_in_mark,
                            GError **error);

/* Takes an edge, or the passing of time; and, at the end, all silence that anything waits for. */
void reception_edge(reception *pipeline, const capture_edge *edge);
void reception_until(reception *pipeline, uint64_t until_us);
void reception_end(reception *pipeline);

unsigned reception_handsets(const reception *pipeline);
unsigned reception_keys(const reception *pipeline, unsigned handset);
/* NULL for the handset without a sheet, and its keys. */
const char *reception_handset_name(const reception *pipeline, unsigned handset);
const char *reception_key_name(const reception *pipeline, unsigned handset, unsigned key);
/* Returns the protocol of a code that is received. */
const drom_protocol *reception_protocol(const reception *pipeline, uint8_t number);

const drom_code *reception_code(const reception *pipeline, unsigned handset, unsigned key);

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
const line_facts *reception_facts(const reception *pipeline);

#endif
