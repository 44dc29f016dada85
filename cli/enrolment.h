/* A handset's keys on their way into a sheet: presses that agree become a key, and each key is saved as soon
 * as it is known. */
#ifndef DROMIKOS_CLI_ENROLMENT_H
#define DROMIKOS_CLI_ENROLMENT_H

#include "hearing.h"
#include "plan.h"

typedef struct enrolment {
    hearing *pipeline;
    GPtrArray *names; /* in the order in which the keys are pressed; empty: they are typed as the keys come */
    GArray *keys;     /* of sheet_key: those that are done */
    sheet *known;     /* the sheet that is added to, as it was read last; NULL: there is none */
    char *known_text;
    const more_protocols *more;
    const plan *plan;       /* whose other sheets shall not have the same codes, or NULL */
    const char *sheet_path; /* NULL: standard output */
    drom_code last;
    drom_code before_last;
    unsigned agreed;  /* presses in a row that said the same */
    unsigned presses; /* of the key that is pressed now */
    unsigned noises;  /* while it was */
    unsigned times;   /* how many must agree */
    bool allows_twins;
    bool is_live;
    bool has_reported_toggle;
    bool has_failed; /* what is known can't be saved */
    bool is_waiting; /* for the name of the key that was pressed: `last` */
} enrolment;

/* Reads the sheet that is added to. What is no file, a terminal say, has none to begin with. An exit code. */
int enrolment_read(enrolment *in);

/* The key that is to be pressed; NULL when all are done, or its name isn't known yet. */
const char *enrolment_wanted(const enrolment *in);

/* Says which key to press, on a serial line. */
void enrolment_ask(const enrolment *in);

/* Takes a press. */
void enrolment_press(enrolment *in, uint64_t at_us, const drom_code *code);

/* Gives the key that is waiting its name. NULL, or why that can't be. */
const char *enrolment_name(enrolment *in, const char *name);

#endif
