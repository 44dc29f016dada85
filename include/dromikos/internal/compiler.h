/* What depends on the compiler: constant tables in flash. */
#ifndef DROMIKOS_INTERNAL_COMPILER_H
#define DROMIKOS_INTERNAL_COMPILER_H

/** Marks a constant table. On AVR the table stays in flash and takes no RAM; elsewhere const is enough. Named
 * address spaces are an extension of GNU C, so that C++ and -std=c11 don't have them: tables are C files,
 * compiled as gnu11. */
#if defined(__FLASH) && !defined(__STRICT_ANSI__)
#define DROM_FLASH __flash
#else
#define DROM_FLASH
#endif

#endif
