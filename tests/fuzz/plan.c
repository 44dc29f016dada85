/* The plan language: scanner, grammar, and the messages about faults. */
#include "fuzz.h"

#include "plan/language/source.h"

#include <string.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static FILE *nowhere;
    if (memchr(data, '\0', size) != NULL) {
        return 0; /* plan_load() refuses such a file */
    }
    if (nowhere == NULL) {
        nowhere = fopen("/dev/null", "w");
    }
    char *const text = g_malloc(size + 2);
    memcpy(text, data, size);
    memcpy(text + size, "\n", 2);
    report *const faults = report_new();
    report_file(faults, "fuzz.plan", text);
    plan_source_free(plan_parse("fuzzed.plan", text, size + 1, faults));
    report_print(faults, nowhere);
    report_free(faults);
    g_free(text);
    return 0;
}
