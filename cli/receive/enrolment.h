/* Enrolment: presses that agree become a key of a sheet, and each key is saved at once. */
#ifndef DROMIKOS_CLI_ENROLMENT_H
#define DROMIKOS_CLI_ENROLMENT_H

#include "cli/receive/reception.h"
#include "plan/model/plan.h"

typedef struct enrolment {
    reception *pipeline;
    GPtrArray
        *names;   /* in the order in which the keys are pressed; empty: names are typed as the keys come */
    GArray *keys; /* of sheet_key: the finished ones */
    sheet *known; /* the sheet that is extended, as last read; NULL: none */
    char *known_text;
    const more_protocols *more;
    const plan *plan;       /* whose other sheets shall not have the same codes, or NULL */
    const char *sheet_path; /* NULL: standard output */
    drom_code last;
    drom_code before_last;
    unsigned agreed;  /* consecutive presses that agree */
    unsigned presses; /* of the current key */
    unsigned noises;  /* while it was */
    unsigned times;   /* how many must agree */
    bool allows_twins;
    bool is_live;
    bool has_reported_toggle;
    bool has_failed; /* the keys can't be saved */
    bool is_waiting; /* for the name of the pressed key: `last` */
} enrolment;

/* Reads the sheet that is extended; a terminal, for example, is empty. Returns an exit code. */
int enrolment_read(enrolment *in);

/* Returns the key to press; NULL when all are done, or if its name isn't known yet. */
const char *enrolment_wanted(const enrolment *in);

/* Asks for the next key, on a serial line. */
void enrolment_ask(const enrolment *in);

/* Takes a press. */
void enrolment_press(enrolment *in, uint64_t at_us, const drom_code *code);

/* Names the waiting key. Returns NULL, or the reason why it can't. */
const char *enrolment_name(enrolment *in, const char *name);

#endif
