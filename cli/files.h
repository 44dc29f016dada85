/* How the verbs write files, and what they don't write over. */
#ifndef DROMIKOS_CLI_FILES_H
#define DROMIKOS_CLI_FILES_H

#include "plan.h"

/* Writes a file, whole or not at all: what a symbolic link leads to, with the rights that it had. To what is
 * no file (a terminal, a pipe) the bytes go as they come. False, and it has been reported, when it can't be
 * written. */
bool write_bytes(const char *verb, const char *path, const char *bytes, gsize length);
bool write_text(const char *verb, const char *path, const char *text);

/* The same, into a folder that is made where it is missing. */
bool write_into_folder(const char *verb, const char *path, const char *text);

/* Before anything is done for it: false, and reported, where it couldn't be written. */
bool can_be_written(const char *verb, const char *path);

/* True, and it has been reported, where a file that is to be written is one of the inputs, which end with
 * NULL; or one that a plan is read from. Whatever the paths to it are. */
bool is_an_input(const char *verb, const char *path, char *const *inputs);
bool is_read_by_plan(const char *verb, const char *path, const plan *loaded);

/* Until unlock(), others that write a file of that folder by this function wait. */
int lock_beside(const char *path);
void unlock(int lock);

#endif
