/* A folder with a program: what the tool wrote there may be written again, what is the maker's is left. */
#ifndef DROMIKOS_CLI_FOLDER_H
#define DROMIKOS_CLI_FOLDER_H

#include <glib.h>
#include <stdbool.h>

typedef struct program_folder program_folder;

/* Opens a folder for a program of a sort ("an ear", "a sketch"): a new one, an empty one, or one that this
 * function made for the same sort. NULL if it is another, or if its last part is no name that the IDE accepts
 * for a sketch: this has been reported, and `code` is the exit code. */
program_folder *folder_open(const char *verb, const char *path, const char *sort, int *code);

/* Returns the folder's own name. */
const char *folder_name(const program_folder *folder);

/* Writes a file of the tool's, relative to the folder. False on an error, which has been reported. */
bool folder_put(program_folder *folder, const char *file, const char *text);

/* Writes the shipped sources of a list below src/, with a drom_config.h, and the licence. */
bool folder_put_sources(program_folder *folder, const GPtrArray *files, const char *config);

/* The same for a file that is the maker's from then on: one that exists is left. */
bool folder_put_once(program_folder *folder, const char *file, const char *text);

/* Removes the files that were written before and are not needed any more, and notes the others. False on an
 * error, which has been reported. */
bool folder_finish(program_folder *folder);

void folder_free(program_folder *folder);

#endif
