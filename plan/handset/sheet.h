/* A handset's sheet: the CSV file (RFC 4180) with the code of each key. */
#ifndef DROMIKOS_PLAN_SHEET_H
#define DROMIKOS_PLAN_SHEET_H

#include "plan/text/report.h"

#include "dromikos/encode.h"

enum { SHEET_MAX_KEYS = 255 };

typedef struct sheet_key {
    char *name;
    drom_code code;                /* without a protocol if the sheet has an error there */
    const drom_protocol *protocol; /* of the code; NULL likewise */
    int line;                      /* of the sheet */
} sheet_key;

typedef struct sheet {
    GArray *keys; /* of sheet_key */
} sheet;

/* Protocols in addition to those of the library. */
typedef struct more_protocols {
    const drom_waveform *const *waveforms;
    size_t count;
} more_protocols;

/* Reads a sheet. `more` may be NULL. Faults go to `faults`, under the sheet's name. NULL if there is no text;
 * a sheet with other errors still has the keys that it names. */
sheet *sheet_read(const char *path, const more_protocols *more, report *faults);

/* Returns a sheet without keys. */
sheet *sheet_new(void);

void sheet_free(sheet *keys);

sheet *sheet_copy(const sheet *keys);

/* Returns the row of a key, -1 if the sheet has none. */
int sheet_find(const sheet *keys, const char *name);

/* Returns the first key with a code; NULL if there is none. */
const sheet_key *sheet_find_code(const sheet *keys, const drom_code *code);

/* Returns the names of all keys, ending with NULL. Free the array, not the names. */
const char **sheet_names(const sheet *keys);

/* True for letters, digits and '_'. */
bool sheet_is_key_name(const char *text);

/* Returns how a protocol of the library with this id, or number, is sent; NULL if there is none. */
const drom_waveform *waveform_by_id(const char *id);
const drom_waveform *waveform_by_number(uint8_t number);

/* Returns "; known are: ...; did you mean 'X'?" for an unknown id. To be freed. */
char *waveform_hint(const char *id);

#endif
