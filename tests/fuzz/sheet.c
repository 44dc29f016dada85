/* Sheets, and new keys merged into them: rows that could be read before can be read afterwards. */
#include "fuzz.h"

#include "plan/handset/merge.h"

#include <stdio.h>
#include <string.h>
#include <unistd.h>

static sheet *read_text(const char *text, unsigned *errors)
{
    static char path[64];
    if (path[0] == '\0') {
        (void)snprintf(path, sizeof path, "fuzz-sheet-%d.csv", (int)getpid());
    }
    if (!g_file_set_contents(path, text, -1, NULL)) {
        __builtin_trap();
    }
    report *const faults = report_new();
    sheet *const keys = sheet_read(path, NULL, faults);
    *errors = report_errors(faults);
    report_free(faults);
    (void)unlink(path);
    return keys;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    unsigned errors = 0;
    char *const text = g_strndup((const char *)data, size);
    sheet *const keys = read_text(text, &errors);
    if (keys != NULL && errors == 0 && keys->keys->len < SHEET_MAX_KEYS) {
        GArray *const added = g_array_new(FALSE, FALSE, sizeof(sheet_key));
        const sheet_key key = {.name = (char *)"fuzz_key", .code = {DROM_NEC, 1, 2}, .protocol = &drom_nec};
        g_array_append_val(added, key);
        char *const merged = sheet_merge(text, added);
        sheet *const again = read_text(merged, &errors);
        if (again == NULL || errors > 0 || sheet_find(again, "fuzz_key") < 0 ||
            again->keys->len < keys->keys->len) {
            __builtin_trap();
        }
        sheet_free(again);
        g_free(merged);
        g_array_unref(added);
    }
    sheet_free(keys);
    g_free(text);
    return 0;
}
