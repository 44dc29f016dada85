/* How the verbs write files, and which they don't overwrite. */
#ifndef DROMIKOS_CLI_FILES_H
#define DROMIKOS_CLI_FILES_H

#include "plan/model/plan.h"

/* Writes a file, completely or not at all, through a symbolic link, keeping its permissions. Bytes for a
 * terminal or a pipe are written directly. False on an error, which has been reported. */
bool write_bytes(const char *verb, const char *path, const char *bytes, gsize length);
bool write_text(const char *verb, const char *path, const char *text);

/* The same, into a folder that is created if it doesn't exist. */
bool write_into_folder(const char *verb, const char *path, const char *text);

/* Checks beforehand: false if it couldn't be written, which has been reported. */
bool can_be_written(const char *verb, const char *path);

/* True if a file to write is one of the inputs, a list ending with NULL, or one that a plan reads, by
 * whatever path; it has been reported. */
bool is_an_input(const char *verb, const char *path, char *const *inputs);
bool is_read_by_plan(const char *verb, const char *path, const plan *loaded);

/* Until unlock(), other writers of this folder by this function wait. */
int lock_beside(const char *path);
void unlock(int lock);

#endif
