/* A handset's sheet: the CSV file (RFC 4180) that gives each key its code. */
#ifndef DROMIKOS_PLAN_SHEET_H
#define DROMIKOS_PLAN_SHEET_H

#include "report.h"

#include "dromikos/encode.h"

enum { SHEET_MAX_KEYS = 255 };

typedef struct sheet_key {
    char *name;
    drom_code code;                /* without a protocol where the sheet has it wrong */
    const drom_protocol *protocol; /* of the code; NULL likewise */
    int line;                      /* of the sheet */
} sheet_key;

typedef struct sheet {
    GArray *keys; /* of sheet_key */
} sheet;

/* Protocols besides those of the library. */
typedef struct more_protocols {
    const drom_waveform *const *waveforms;
    size_t count;
} more_protocols;

/* Reads a sheet. `more` may be NULL. Faults go to `faults`, under the sheet's name. NULL when there is no
 * text to read; a sheet with other errors holds the keys that it names all the same. */
sheet *sheet_read(const char *path, const more_protocols *more, report *faults);

/* One without keys. */
sheet *sheet_new(void);

void sheet_free(sheet *keys);

sheet *sheet_copy(const sheet *keys);

/* The row of a key, -1 when the sheet lacks it. */
int sheet_find(const sheet *keys, const char *name);

/* The first key with a code; NULL when none has it. */
const sheet_key *sheet_find_code(const sheet *keys, const drom_code *code);

/* The names of all keys, ending with NULL. Free the array, not the names. */
const char **sheet_names(const sheet *keys);

/* True for letters, digits and '_'. */
bool sheet_is_key_name(const char *text);

/* How a protocol of the library with this id, or this number, is sent; NULL when there is none. */
const drom_waveform *waveform_by_id(const char *id);
const drom_waveform *waveform_by_number(uint8_t number);

/* "; known are: ...; did you mean 'X'?" for an id that isn't known. To be freed. */
char *waveform_hint(const char *id);

#endif
