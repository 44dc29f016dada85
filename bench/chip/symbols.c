/* A line each, as 'avr-nm -P -t x' writes them: name, kind, address, size. */
#include "symbols.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

void symbols_read(chip_symbols *symbols, const char *elf)
{
    char path[512];
    char line[256];
    (void)snprintf(path, sizeof path, "%s.nm", elf);
    FILE *const names = fopen(path, "r");
    if (names == NULL) {
        fprintf(stderr, "chip: there is no %s; write it with: avr-nm -P -t x %s >%s\n", path, elf, path);
        exit(1);
    }
    while (symbols->count < CHIP_SYMBOLS && fgets(line, sizeof line, names) != NULL) {
        const unsigned row = symbols->count;
        char *at = strchr(line, ' ');
        if (at == NULL || strlen(at) < 4) {
            continue;
        }
        (void)snprintf(symbols->rows[row].name, sizeof symbols->rows[row].name, "%.*s", (int)(at - line),
                       line);
        symbols->rows[row].address = (uint32_t)strtoul(at + 3, &at, 16); /* past the kind */
        symbols->rows[row].size = (uint32_t)strtoul(at, NULL, 16);
        symbols->count++;
    }
    (void)fclose(names);
}

uint32_t symbols_address(const chip_symbols *symbols, const char *name)
{
    for (unsigned i = 0; i < symbols->count; i++) {
        const char *const symbol = symbols->rows[i].name;
        const size_t length = strlen(name);
        if (strncmp(symbol, name, length) == 0 && (symbol[length] == '\0' || symbol[length] == '.')) {
            return symbols->rows[i].address; /* the linker's optimiser adds to names, after a full stop */
        }
    }
    return UINT32_MAX;
}

uint32_t symbols_size(const chip_symbols *symbols, const char *prefix)
{
    uint32_t size = 0;
    for (unsigned i = 0; i < symbols->count; i++) {
        size += strncmp(symbols->rows[i].name, prefix, strlen(prefix)) == 0 ? symbols->rows[i].size : 0;
    }
    return size;
}
