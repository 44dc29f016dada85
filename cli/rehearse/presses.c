/* Presses without a script: given as words, or one of each key that a rule names. */
#include "cli/rehearse/presses.h"

#include "cli/io/io.h"
#include "plan/text/phrase.h"

#include <string.h>

enum {
    FIRST_MS = 500,
    BETWEEN_MS = 1000,
    TAP_MS = 100,
    LONGER_MS = 200,
    TWICE_MS = 150,
    LONGEST_MS = 600000
};

static void add(GArray *presses, unsigned handset, unsigned key, uint32_t held_ms)
{
    const script_press *const last =
        presses->len > 0 ? &g_array_index(presses, script_press, presses->len - 1) : NULL;
    const script_press press = {
        .at_ms = last != NULL ? last->at_ms + last->held_ms + BETWEEN_MS : FIRST_MS,
        .held_ms = held_ms,
        .handset = handset,
        .key = key,
    };
    g_array_append_val(presses, press);
}

/* Returns the nearest name of a key, or of a handset if that is unknown. */
static char *hint_press(const plan *with, const char *name, const char *dot)
{
    g_autoptr(GPtrArray) handsets = g_ptr_array_new();
    unsigned handset = 0;
    for (unsigned i = 0; i < plan_handset_count(with); i++) {
        const char *const other = plan_handset_name(with, i);
        g_ptr_array_add(handsets, (gpointer)other);
        if (dot != NULL && strlen(other) == (size_t)(dot - name) && g_str_has_prefix(name, other)) {
            handset = i + 1;
        }
    }
    g_ptr_array_add(handsets, NULL);
    if (dot != NULL && handset == 0) {
        g_autofree char *unknown = g_strndup(name, (size_t)(dot - name));
        return did_you_mean(unknown, (const char *const *)handsets->pdata);
    }
    return handsets->len > 1
               ? plan_hint_key(with, handset > 0 ? handset - 1 : 0, dot != NULL ? dot + 1 : name)
               : g_strdup("");
}

/* "power" or "wand.power"; false if there is no such key, or several, which has been reported. */
static bool find_key(const plan *with, const char *name, unsigned *handset, unsigned *key)
{
    const char *const dot = strchr(name, '.');
    g_autoptr(GPtrArray) others = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < plan_handset_count(with); i++) {
        const char *const its_name = plan_handset_name(with, i);
        const bool is_meant = dot == NULL || (strlen(its_name) == (size_t)(dot - name) &&
                                              strncmp(its_name, name, strlen(its_name)) == 0);
        const int row = is_meant ? plan_find_key(with, i, dot != NULL ? dot + 1 : name) : -1;
        if (row >= 0) {
            *handset = i;
            *key = (unsigned)row;
            g_ptr_array_add(others, g_strdup_printf("%s.%s", its_name, plan_key_name(with, i, *key)));
        }
    }
    if (others->len == 1) {
        return true;
    }
    if (others->len > 1) {
        g_ptr_array_add(others, NULL);
        g_autofree char *all = g_strjoinv(", ", (char **)others->pdata);
        complain("rehearse", "'%s' is a key of several handsets; say which: %s", name, all);
        return false;
    }
    if (g_file_test(name, G_FILE_TEST_EXISTS)) {
        complain("rehearse", "'%s' is a file: one script or capture, or presses, not both", name);
        return false;
    }
    g_autofree char *hint = hint_press(with, name, dot);
    complain("rehearse", "'%s' is neither a file nor a key of the plan's handsets%s", name, hint);
    return false;
}

/* "", "held 2 s". False if it is neither, which has been reported. */
static bool read_time(const char *text, uint32_t *held_ms)
{
    static const char *const phrases[] = {"", "held TIME", "held for TIME", NULL};
    static const char *const then[] = {"the end", NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    report *const faults = report_new();
    report_file(faults, "the press", text);
    GArray *const tokens = plan_tokens(text, faults, (place){1, 1, 1, 0});
    const int said =
        phrase_match(faults, (wording){tokens, 0, tokens->len - 1, false}, phrases, "", then, values);
    *held_ms = said > 0 ? values[0].number : TAP_MS;
    if (said > 0 && (*held_ms < 1 || *held_ms > LONGEST_MS)) {
        report_error(faults, values[0].where, "a key is held for 1 ms to 10 min");
    }
    const bool is_good = report_errors(faults) == 0;
    report_print(faults, stderr);
    report_free(faults);
    g_array_unref(tokens);
    return is_good;
}

GArray *presses_read(const plan *with, char *const *words)
{
    GArray *const presses = g_array_new(FALSE, FALSE, sizeof(script_press));
    for (int i = 0; words[i] != NULL; i++) {
        const size_t length = strcspn(words[i], " ");
        g_autofree char *name = g_strndup(words[i], length);
        unsigned handset = 0;
        unsigned key = 0;
        uint32_t held_ms = 0;
        if (!find_key(with, name, &handset, &key) || !read_time(words[i] + length, &held_ms)) {
            g_array_unref(presses);
            return NULL;
        }
        add(presses, handset, key, held_ms);
    }
    return presses;
}

/* Long enough for each hold of the key's rules, and twice if a rule needs that. */
static void add_key(GArray *presses, const plan *with, unsigned handset, unsigned key)
{
    const drom_plan *const tables = plan_tables(with);
    uint32_t held_ms = TAP_MS;
    uint8_t gestures = 0;
    for (uint8_t i = 0; i < tables->rules.rules.count; i++) {
        const drom_rule *const rule = &tables->rules.rules.rows[i];
        if (rule->source != DROM_SOURCE_KEY || rule->row != handset || rule->key != key) {
            continue;
        }
        gestures |= rule->gestures;
        if ((rule->gestures & DROM_HOLD) != 0) {
            held_ms = MAX(held_ms, tables->keys.hold_ms.rows[rule->hold] + (uint32_t)LONGER_MS);
        }
        if ((rule->gestures & DROM_REPEAT) != 0) {
            held_ms = MAX(held_ms, (uint32_t)(TAP_MS + 2 * LONGER_MS));
        }
    }
    if (gestures != 0) {
        add(presses, handset, key, held_ms);
    }
    if ((gestures & DROM_DOUBLE) != 0) {
        add(presses, handset, key, TAP_MS);
        add(presses, handset, key, TAP_MS);
        script_press *const second = &g_array_index(presses, script_press, presses->len - 1);
        second->at_ms -= BETWEEN_MS - TWICE_MS;
    }
}

GArray *presses_of_rules(const plan *with)
{
    GArray *const presses = g_array_new(FALSE, FALSE, sizeof(script_press));
    for (unsigned i = 0; i < plan_handset_count(with); i++) {
        const unsigned count = plan_tables(with)->keys.handsets.rows[i].codes.count;
        for (unsigned key = 0; key < count; key++) {
            add_key(presses, with, i, key);
        }
    }
    return presses;
}
