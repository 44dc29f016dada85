#include "same.h"

#include <stdlib.h>
#include <string.h>

static void *allocate(size_t size)
{
    void *const memory = calloc(1, size);
    if (memory == NULL) {
        fprintf(stderr, "same: out of memory\n");
        exit(1);
    }
    return memory;
}

static same_kind kind_by_name(const char *name)
{
    static const char *const names[] = {"", "level", "pwm", "carrier", "strip"};
    for (unsigned i = SAME_LEVEL; i <= SAME_STRIP; i++) {
        if (strcmp(names[i], name) == 0) {
            return (same_kind)i;
        }
    }
    return SAME_NONE;
}

static bool take_line(same_stimulus *made, const char *line)
{
    char kind[16];
    unsigned pin = 0;
    unsigned count = 0;
    int level = 0;
    unsigned long long us = 0;
    if (sscanf(line, "wire %15s %u %u", kind, &pin, &count) == 3 && pin < SAME_PINS) {
        made->kinds[pin] = kind_by_name(kind);
        made->pixels[pin] = count;
        return made->kinds[pin] != SAME_NONE;
    }
    if (sscanf(line, "receiver %u", &made->receiver) == 1) {
        return true;
    }
    if (sscanf(line, "end %llu", &us) == 1) {
        made->end_us = us;
        return true;
    }
    const bool is_contact = sscanf(line, "contact %llu %u %d", &us, &pin, &level) == 3 && pin < SAME_PINS;
    if ((is_contact || sscanf(line, "line %llu %d", &us, &level) == 2) && made->count < SAME_MAX_EVENTS) {
        made->events[made->count++] = (same_event){us, is_contact, (uint8_t)pin, level != 0};
        made->is_contact[pin] |= is_contact;
        return true;
    }
    return false;
}

static int by_time(const void *left, const void *right)
{
    const same_event *const a = left;
    const same_event *const b = right;
    return (a->at_us > b->at_us) - (a->at_us < b->at_us);
}

same_stimulus same_read(const char *path)
{
    char line[256];
    same_stimulus made = {.events = allocate(SAME_MAX_EVENTS * sizeof(same_event))};
    FILE *const file = fopen(path, "r");
    bool is_good = file != NULL;
    while (is_good && fgets(line, sizeof line, file) != NULL) {
        is_good = take_line(&made, line);
    }
    if (!is_good) {
        fprintf(stderr, "same: %s can't be read\n", path);
        exit(1);
    }
    (void)fclose(file);
    qsort(made.events, made.count, sizeof made.events[0],
          by_time); /* glibc's keeps the order of equal ones */
    return made;
}

void same_note(same_trace *trace, unsigned pin, uint64_t at_us, unsigned value)
{
    const unsigned count = trace->counts[pin];
    if (trace->changes[pin] == NULL) {
        trace->changes[pin] = allocate(SAME_MAX_EVENTS * sizeof(same_change));
    }
    const unsigned before = count > 0 ? trace->changes[pin][count - 1].value : 0;
    if (count == SAME_MAX_EVENTS) {
        fprintf(stderr, "same: pin %u has more than %d changes\n", pin, SAME_MAX_EVENTS);
        exit(1);
    }
    if (value != before) {
        trace->changes[pin][trace->counts[pin]++] = (same_change){at_us, value};
    }
}

void same_print(const same_trace *trace)
{
    for (unsigned pin = 0; pin < SAME_PINS; pin++) {
        for (unsigned i = 0; i < trace->counts[pin]; i++) {
            (void)printf("%llu %u %u\n", (unsigned long long)trace->changes[pin][i].at_us, pin,
                         trace->changes[pin][i].value);
        }
    }
}

unsigned same_checksum(const uint8_t *bytes, unsigned count)
{
    unsigned sum = 0;
    bool is_dark = true;
    for (unsigned i = 0; i < count; i++) {
        sum = sum * 31 + bytes[i];
        is_dark = is_dark && bytes[i] == 0;
    }
    return is_dark ? 0 : sum | 1;
}
