/* A row of a rehearsal: something that happened at a time. A rehearsal makes rows; charts, the report and the
 * terminal read them; cli/io writes them as JSON. */
#ifndef DROMIKOS_CHART_ROW_H
#define DROMIKOS_CHART_ROW_H

#include "dromikos/dromikos.h"

#include <glib.h>

/*   kind          subject   text                    and
 *   FRAME         -         -                       frame
 *   KEY           handset   -                       key, pressed
 *   EVENT         -         the event in words      -
 *   RULE          -         -                       rule
 *   ACTION        output    the order in words      -
 *   OUTPUT        output    -                       pin
 *   CONTACT       output    -                       is_on: closed
 *   MOTION        output    -                       motion
 *   BURST         output    the received code       found: the decoded key, "" for none; is_on: a new press
 *   PASSED_ON     output    -                       after_us: since the end of the handset's frame
 *   HAPPENING     -         the event               until_us
 *   CHIP          -         -                       until_us, chip
 *   EXPECTED      -         the expectation         found, expected
 *   UNHEARD       handset   why                     key, line
 *   MISCOUNTED    output    -                       counts
 *   END           -         endless activity        -
 * and for drawing alone:
 *   FINGER        handset   -                       key, until_us
 *   AIR           -         -                       until_us: a signal
 *   DRAWN         output    its state, or NULL      drawn
 *   LIT           output    -                       is_on: its LED
 *   TIMER         timer     -                       until_us: its end, at_us if it doesn't run */
typedef enum row_kind {
    ROW_FRAME,
    ROW_KEY,
    ROW_EVENT,
    ROW_RULE,
    ROW_ACTION,
    ROW_OUTPUT,
    ROW_CONTACT,
    ROW_MOTION,
    ROW_BURST,
    ROW_PASSED_ON,
    ROW_HAPPENING,
    ROW_CHIP,
    ROW_EXPECTED,
    ROW_UNHEARD,
    ROW_MISCOUNTED,
    ROW_END,
    ROW_FINGER,
    ROW_AIR,
    ROW_DRAWN,
    ROW_LIT,
    ROW_TIMER,
    ROW_KINDS
} row_kind;

typedef struct timeline_row {
    row_kind kind;
    uint64_t at_us;
    uint64_t until_us;   /* of what lasts; else 0 */
    const char *subject; /* a name of the plan, which must outlive the row */
    const char *key;     /* likewise */
    char *text;          /* the row's own */
    char *found;         /* likewise */
    union {
        drom_frame frame;
        struct {
            uint8_t gesture; /* a drom_gesture */
            uint32_t held_us;
            const drom_protocol *protocol; /* NULL: a button */
            drom_code code;
        } pressed;
        struct {
            int line;
            const char *file; /* of the plan; NULL: the plan itself */
        } rule;
        struct {
            uint8_t pin;
            bool is_high;
            bool is_on;
        } pin;
        struct {
            bool is_moving;
            int32_t position;
        } motion;
        struct {
            int64_t poll_us;   /* longest time from one poll to the next */
            int64_t masked_us; /* with interrupts off, in all */
            unsigned lost;     /* edges */
        } chip;
        struct {
            bool is_met;
            int line; /* of the script */
        } expected;
        struct {
            unsigned asked;
            unsigned counted;
        } counts;
        struct {
            double value;
            bool has_value;
            bool is_waiting; /* for the reason in the text */
            bool is_end;     /* at a limit */
            unsigned colour_count;
            uint32_t *colours; /* the row's own; each 0xrrggbb */
        } drawn;
        uint64_t after_us;
        int line; /* of the script */
        bool is_on;
    } data;
} timeline_row;

/* Frees the texts and colours of a row. */
void row_clear(gpointer of_row);

/* An array of timeline_row, to be unreferenced. */
GArray *rows_new(void);
const timeline_row *rows_at(const GArray *rows, guint i);

/* "burst", "passed_on": the `kind` of JSON Lines and of the page. */
const char *row_kind_name(const timeline_row *row);

/* "press", "tap": the `gesture` likewise; and "pressed", "tapped", as in the plan language. */
const char *gesture_name(uint8_t gesture);
const char *gesture_participle(uint8_t gesture);

/* True for a press that was not received, and for an expectation that was not met. */
bool row_is_missed(const timeline_row *row);

/* Returns the address of a frame; and the vendor in it, -1 if it has none or kaseikyo's usual one. */
uint32_t row_address(const drom_frame *frame, int32_t *vendor);

/* Returns "nec 4 69" of a frame with a code. To be freed. */
char *row_frame_text(const drom_frame *frame);

/* Returns "wand.play": the key with its handset. To be freed. */
char *row_key_text(const timeline_row *row);

#endif
