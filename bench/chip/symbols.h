/* The names in a program, from a file beside it. */
#ifndef DROMIKOS_BENCH_SYMBOLS_H
#define DROMIKOS_BENCH_SYMBOLS_H

#include <stdint.h>

enum { CHIP_SYMBOLS = 2000 };

typedef struct chip_symbols {
    struct {
        char name[64];
        uint32_t address;
        uint32_t size;
    } rows[CHIP_SYMBOLS];
    unsigned count;
} chip_symbols;

/* Reads the names of PROGRAM.elf from PROGRAM.elf.nm. Ends the program with a message on an error. */
void symbols_read(chip_symbols *symbols, const char *elf);

/* Returns the address of a name; UINT32_MAX: there is none. */
uint32_t symbols_address(const chip_symbols *symbols, const char *name);

/* Returns the total size of the names that begin so. */
uint32_t symbols_size(const chip_symbols *symbols, const char *prefix);

#endif
