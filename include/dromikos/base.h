/* What every room shares: status, tables in flash, and how a table is written down.
 *
 * The core is freestanding C11: no heap, no floating point, no recursion, and every loop is bounded by
 * the length of a table. All state lives in structs that the caller owns. */
#ifndef DROMIKOS_BASE_H
#define DROMIKOS_BASE_H

#include "switches.h"

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#define DROM_VERSION "0.1.0"

/** Marks a constant table. On AVR it stays in flash and costs no RAM (this needs -std=gnu11, since named
 *  address spaces are an extension there); everywhere else const is enough. */
#if defined(__FLASH) && !defined(__STRICT_ANSI__)
#define DROM_FLASH __flash
/* avr-gcc 5.4 copies a struct from flash right, but when only part of the copy is used it takes that part out
 * of RAM, at the same address (scalar replacement of aggregates forgets the address space). tests/avr.sh
 * would see it. */
#pragma GCC optimize("no-tree-sra")
#else
#define DROM_FLASH
#endif

/** A function that the compiler is to call, not to copy to where it is called: 32 bits are long on an 8-bit
 * chip. */
#ifdef __AVR__
#define DROM_APART __attribute__((noinline))
#else
#define DROM_APART
#endif

/** The type of a constant table: a pointer to its rows and how many there are (at most 255). */
#define DROM_TABLE(type)                                                                                     \
    struct {                                                                                                 \
        const type DROM_FLASH *rows;                                                                         \
        uint8_t count;                                                                                       \
    }

/** The type of memory that a plan gives: its rows and how many there are (at most 255). */
#define DROM_MEMORY(type)                                                                                    \
    struct {                                                                                                 \
        type *rows;                                                                                          \
        uint8_t count;                                                                                       \
    }

/** Initialises a DROM_TABLE or a DROM_MEMORY from an array, so that rows and count cannot disagree. */
#define DROM_ROWS(array)                                                                                     \
    {                                                                                                        \
        (array), sizeof(array) / sizeof((array)[0])                                                          \
    }

/** A function that only the checks of a plan need. */
#define DROM_CHECKER(function) (DROM_WITH_CHECKS ? (function) : NULL)

/** What a public function returns. */
typedef enum drom_status {
    DROM_OK = 0,
    DROM_BAD_ARGUMENT, /**< a pointer that must be given was null */
    DROM_BAD_PORT,     /**< the port lacks a function */
    DROM_BAD_PLAN,     /**< the plan was refused; drom_fault says where and why */
    DROM_FULL,         /**< there is no room; try again later */
    DROM_NOT_RUNNING,  /**< the engine has stopped, or is stopping */
} drom_status;

#endif
