#include "cli/rehearse/recording.h"

#include "plan/text/csv_table.h"

#include <string.h>

struct recording {
    GPtrArray *seen;     /* the state at the last look; NULL: none */
    GPtrArray *expected; /* a state that was equal twice */
    GArray *rows;        /* of recorded_row */
};

/* A row of the script. */
typedef struct recorded_row {
    uint32_t at_ms;
    guint order;
    char *text;
} recorded_row;

static void clear_row(gpointer data)
{
    g_free(((recorded_row *)data)->text);
}

static GArray *script_rows_new(void)
{
    GArray *const made = g_array_new(FALSE, FALSE, sizeof(recorded_row));
    g_array_set_clear_func(made, clear_row);
    return made;
}

recording *recording_new(void)
{
    recording *const made = g_new0(recording, 1);
    made->rows = script_rows_new();
    return made;
}

void recording_free(recording *unwanted)
{
    g_clear_pointer(&unwanted->seen, g_ptr_array_unref);
    g_clear_pointer(&unwanted->expected, g_ptr_array_unref);
    g_array_unref(unwanted->rows);
    g_free(unwanted);
}

static bool has_text(const GPtrArray *in, const char *text)
{
    guint found;
    return in != NULL && g_ptr_array_find_with_equal_func((GPtrArray *)in, text, g_str_equal, &found);
}

static bool are_equal(const GPtrArray *left, const GPtrArray *right)
{
    bool are = left != NULL && left->len == right->len;
    for (guint i = 0; are && i < left->len; i++) {
        are = has_text(left, g_ptr_array_index(right, i));
    }
    return are;
}

static void add_row(GArray *rows, uint32_t at_ms, char *text)
{
    const recorded_row row = {at_ms, rows->len, text};
    g_array_append_val(rows, row);
}

void recording_look(recording *in, const rehearsal *run)
{
    GPtrArray *const now = timeline_states(run->view, &run->engine, true);
    const uint32_t at_ms = (uint32_t)(sim_bench_now(run->bench) / 1000) + 1;
    const bool is_steady = are_equal(in->seen, now);
    for (guint i = 0; is_steady && in->expected != NULL && i < now->len; i++) {
        const char *const text = g_ptr_array_index(now, i);
        if (!has_text(in->expected, text)) {
            g_autofree char *quoted = csv_quoted(text);
            add_row(in->rows, at_ms, g_strdup_printf("%u,,,,%s\n", at_ms, quoted));
        }
    }
    if (is_steady) {
        g_clear_pointer(&in->expected, g_ptr_array_unref);
        in->expected = g_ptr_array_ref(now);
    }
    g_clear_pointer(&in->seen, g_ptr_array_unref);
    in->seen = now;
}

static gint by_time(gconstpointer left, gconstpointer right)
{
    const recorded_row *const a = left;
    const recorded_row *const b = right;
    return a->at_ms != b->at_ms ? (a->at_ms > b->at_ms) - (a->at_ms < b->at_ms)
                                : (a->order > b->order) - (a->order < b->order);
}

char *recording_text(const recording *script, const rehearsal *run, const GArray *done, unsigned *expected)
{
    GArray *const rows = script_rows_new();
    GString *const text = g_string_new("at_ms,handset,key,held_ms,expect\n");
    for (guint i = 0; i < done->len; i++) {
        const script_press *const press = &g_array_index(done, script_press, i);
        add_row(rows, press->at_ms,
                press->handset == SCRIPT_A_SWITCH
                    ? g_strdup_printf("%u,%s,%s,,\n", press->at_ms, plan_switch_name(run->plan, press->key),
                                      press->closes ? "closes" : "opens")
                    : g_strdup_printf("%u,%s,%s,%u,\n", press->at_ms,
                                      plan_handset_name(run->plan, press->handset),
                                      plan_key_name(run->plan, press->handset, press->key), press->held_ms));
    }
    for (guint i = 0; i < script->rows->len; i++) {
        const recorded_row *const row = &g_array_index(script->rows, recorded_row, i);
        add_row(rows, row->at_ms, g_strdup(row->text));
    }
    g_array_sort(rows, by_time);
    for (guint i = 0; i < rows->len; i++) {
        g_string_append(text, g_array_index(rows, recorded_row, i).text);
    }
    *expected = script->rows->len;
    g_array_unref(rows);
    return g_string_free(text, FALSE);
}
