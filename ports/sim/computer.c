/* A computer that gets the reports of a keyboard: which keys are down is what the newest report of each kind
 * says; and it repeats a key that stays down. */
#include "bench.h"

enum {
    REPEAT_AFTER_US = 500000,
    REPEAT_EVERY_US = 33000,
    MODIFIERS = 0xe0, /* the usage of the first one, which is the lowest bit */
    KEYS_FROM = 2,
    BOOT_REPORT = 8
};

/* Is a key down in a report? */
static bool has_key(const sim_report *report, uint8_t usage)
{
    bool has = usage >= MODIFIERS && (report->bytes[0] >> (usage - MODIFIERS) & 1) != 0;
    for (unsigned i = KEYS_FROM; i < BOOT_REPORT; i++) {
        has |= report->bytes[i] == usage;
    }
    return has;
}

static uint16_t media_of(const sim_report *report)
{
    return (uint16_t)(report->bytes[0] | report->bytes[1] << 8);
}

/* The ones that the computer makes of a key until a moment. */
static void repeat(GArray *keys, const sim_key *key, uint64_t until_us)
{
    for (uint64_t at_us = key->at_us + REPEAT_AFTER_US; !key->is_media && at_us < until_us;
         at_us += REPEAT_EVERY_US) {
        sim_key again = *key;
        again.at_us = at_us;
        again.until_us = at_us;
        again.is_repeat = true;
        g_array_append_val(keys, again);
    }
}

/* Of the keys that are down, those that aren't in a report go up. */
static void let_go(GArray *keys, const sim_report *report)
{
    for (guint i = 0; i < keys->len; i++) {
        sim_key *const key = &g_array_index(keys, sim_key, i);
        const bool is_of_kind = key->is_media == (report->count != BOOT_REPORT);
        const bool is_down =
            key->is_media ? media_of(report) == key->usage : has_key(report, (uint8_t)key->usage);
        if (key->until_us == UINT64_MAX && is_of_kind && !is_down) {
            key->until_us = report->at_us;
            const sim_key ended = *key; /* the array may move */
            repeat(keys, &ended, report->at_us);
        }
    }
}

static void press(GArray *keys, const sim_report *report, uint16_t usage, bool is_media)
{
    const sim_key key = {report->at_us, UINT64_MAX, usage, is_media ? 0 : report->bytes[0], is_media, false};
    bool is_down = usage == 0;
    for (guint i = 0; i < keys->len; i++) {
        const sim_key *const other = &g_array_index(keys, sim_key, i);
        is_down |= other->until_us == UINT64_MAX && other->usage == usage && other->is_media == is_media;
    }
    if (!is_down) {
        g_array_append_val(keys, key);
    }
}

static void take(GArray *keys, const sim_report *report)
{
    let_go(keys, report);
    if (report->count != BOOT_REPORT) {
        press(keys, report, media_of(report), true);
        return;
    }
    for (unsigned i = KEYS_FROM; i < BOOT_REPORT; i++) {
        press(keys, report, report->bytes[i], false);
    }
    for (unsigned i = 0; i < 8 && report->bytes[KEYS_FROM] == 0; i++) { /* modifiers alone */
        const bool is_down = (report->bytes[0] >> i & 1) != 0;
        press(keys, report, is_down ? (uint16_t)(MODIFIERS + i) : 0, false);
    }
}

static gint by_time(gconstpointer left, gconstpointer right)
{
    const sim_key *const a = left;
    const sim_key *const b = right;
    return a->at_us < b->at_us ? -1 : a->at_us > b->at_us;
}

sim_key *sim_bench_keys(const sim_bench *bench, size_t *count)
{
    GArray *const keys = g_array_new(FALSE, FALSE, sizeof(sim_key));
    const GArray *const reports = bench->parts.reports;
    for (guint i = 0; i < reports->len; i++) {
        take(keys, &g_array_index(reports, sim_report, i));
    }
    const guint known = keys->len;
    for (guint i = 0; i < known; i++) {
        const sim_key key = g_array_index(keys, sim_key, i);
        if (key.until_us == UINT64_MAX) {
            repeat(keys, &key, (uint64_t)bench->now_us);
        }
    }
    g_array_sort(keys, by_time);
    *count = keys->len;
    return (sim_key *)(void *)g_array_free(keys, FALSE);
}
