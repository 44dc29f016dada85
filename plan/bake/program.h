/* The files of a program around a baked plan, as texts; `name` is a C identifier. The plan's board must have
 * a port. All are to be freed. */
#ifndef DROMIKOS_PLAN_PROGRAM_H
#define DROMIKOS_PLAN_PROGRAM_H

#include "plan/model/plan.h"

/* Return NAME.h and NAME.c: NAME_begin(), NAME_poll(), an order function an output, a post function an event.
 */
char *program_header(const plan *loaded, const char *name);
char *program_functions(const plan *loaded, const char *name);

/* Return the file that is the maker's: a sketch in C++, or main.c. */
char *program_sketch(const plan *loaded, const char *name);
char *program_main(const plan *loaded, const char *name);

/* Returns the Makefile of a program that is called `name` and lies in the folder and in src/. */
char *program_makefile(const board *chosen, double mhz, const char *name);

#endif
