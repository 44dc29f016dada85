/* Any rhythm, and infer's result: a line that a plan accepts. */
#include "fuzz.h"

#include "plan/handset/infer.h"
#include <string.h>
#include "plan/language/source.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    rhythm heard = {g_array_new(FALSE, FALSE, sizeof(double))};
    for (size_t i = 0; i < size && i < 3000; i++) {
        const double us = 60 + data[i] * (data[i] > 200 ? 700.0 : 20.0);
        g_array_append_val(heard.us, us);
    }
    inference *const found = infer_protocol(&heard, "found");
    if (found->is_found) {
        char *const line = declared_text(&found->own.figures, "found");
        char *const text = g_strconcat(line, "\n", NULL);
        report *const faults = report_new();
        report_file(faults, "fuzz.plan", text);
        plan_source_free(plan_parse("inferred.plan", text, strlen(text), faults));
        if (report_errors(faults) > 0) {
            report_print(faults, stderr);
            __builtin_trap();
        }
        report_free(faults);
        g_free(text);
        g_free(line);
    } else if (found->why_not == NULL) {
        __builtin_trap();
    }
    inference_free(found);
    g_array_unref(heard.us);
    return 0;
}
