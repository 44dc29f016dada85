/* Captures of every format: VCD, CSV, runs. */
#include "fuzz.h"

#include "capture/capture.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    FILE *const file = size > 0 ? fmemopen((void *)data, size, "rb") : NULL;
    GError *error = NULL;
    capture_edge edge;
    if (file == NULL) {
        return 0;
    }
    capture *const from = capture_open(file, size % 2 ? NULL : "ir", size % 3 == 0, &error);
    capture_read read = from != NULL ? capture_next(from, &edge, &error) : CAPTURE_FAULT;
    uint64_t last_us = 0;
    while (read == CAPTURE_EDGE || read == CAPTURE_TIME) {
        if (edge.at_us < last_us) {
            __builtin_trap();
        }
        last_us = edge.at_us;
        read = capture_next(from, &edge, &error);
    }
    if ((read == CAPTURE_FAULT) != (error != NULL)) {
        __builtin_trap();
    }
    g_clear_error(&error);
    capture_free(from);
    (void)fclose(file);
    return 0;
}
