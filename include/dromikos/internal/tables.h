/* Tables: constant rows in flash, and memory in RAM, each with its number of rows. */
#ifndef DROMIKOS_INTERNAL_TABLES_H
#define DROMIKOS_INTERNAL_TABLES_H

#ifdef __cplusplus
#error "tables are C: write them in a .c file, and declare the plan in a header (docs/by-hand.md)"
#endif

#include "../config.h"

/** Defines a type for a constant table: a pointer to its rows, and their number (at most 255). */
#define DROM_DEFINE_TABLE(name, type)                                                                        \
    typedef struct name {                                                                                    \
        const type DROM_FLASH *rows;                                                                         \
        uint8_t count;                                                                                       \
    } name

/** Defines a type for memory of a plan: a pointer to its rows, and their number (at most 255). */
#define DROM_DEFINE_MEMORY(name, type)                                                                       \
    typedef struct name {                                                                                    \
        type *rows; /* NOLINT(bugprone-macro-parentheses) */                                                 \
        uint8_t count;                                                                                       \
    } name

/** Initialises a table or a memory from an array, so that rows and count can't disagree. */
#define DROM_ROWS(array)                                                                                     \
    {                                                                                                        \
        (array), sizeof(array) / sizeof((array)[0])                                                          \
    }

/** A function that only the checks of a plan call. */
#define DROM_CHECKER(function) (DROM_WITH_CHECKS ? (function) : NULL)

DROM_DEFINE_TABLE(drom_row_table, uint8_t);     /**< rows of another table */
DROM_DEFINE_TABLE(drom_ms_table, uint16_t);     /**< times in ms */
DROM_DEFINE_TABLE(drom_colour_table, uint32_t); /**< colours, 0xrrggbb */

#endif
