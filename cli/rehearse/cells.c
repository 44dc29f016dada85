/* The table of a timeline: its columns, and the row that is being written. */
#include "cli/rehearse/view.h"
#include "dromikos/internal/outputs.h"

#include <string.h>

/* True if a rule uses a handset's keys; others are only sent. */
static bool is_received(const timeline *view, unsigned handset)
{
    const drom_rules_plan *const rules = &plan_tables(view->plan)->rules;
    bool is_so = false;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        is_so |= rules->rules.rows[i].source == DROM_SOURCE_KEY && rules->rules.rows[i].row == handset;
    }
    return is_so;
}

/* The gesture column is as wide as the longest key of a received handset. */
void view_find_widths(timeline *view)
{
    enum { CAME_IN = 18, MIN_WIDTH = 21, MAX_WIDTH = 48, RULE_WIDTH = 9 };
    int longest = MIN_WIDTH;
    for (unsigned i = 0; i < plan_handset_count(view->plan); i++) {
        const int name = (int)g_utf8_strlen(plan_handset_name(view->plan, i), -1);
        for (unsigned j = 0;
             is_received(view, i) && j < plan_tables(view->plan)->keys.handsets.rows[i].codes.count; j++) {
            const int key = (int)g_utf8_strlen(plan_key_name(view->plan, i, j), -1);
            longest = MAX(longest, name + key + (int)strlen(". released, +999 ms  "));
        }
    }
    const int widths[CELLS] = {CAME_IN, MIN(longest, MAX_WIDTH), RULE_WIDTH, 0};
    memcpy(view->widths, widths, sizeof widths);
}

void view_end_row(timeline *view)
{
    if (!view->has_row) {
        return;
    }
    g_autoptr(GString) row = g_string_new(NULL);
    const bool has_rule = view->cells[RULE]->len > 0;
    const bool is_plain = !has_rule && view->cells[OUTPUT]->len == 0;
    const char *const gesture = view->cells[GESTURE]->str;
    const bool is_repeat = is_plain && (gesture[0] == '\0' || g_str_has_suffix(gesture, " repeated"));
    const bool may_repeat = view->may_repeat || is_repeat;
    for (int i = 0; i < CELLS; i++) {
        const int length = (int)g_utf8_strlen(view->cells[i]->str, -1);
        g_string_append_printf(row, "%s%*s", view->cells[i]->str,
                               MAX(view->widths[i] - length, i < OUTPUT ? 1 : 0), "");
        g_string_truncate(view->cells[i], 0);
    }
    view->has_row = false;
    view->may_repeat = false;
    put_row(&view->rows, view->row_at_us, g_strchomp(row->str), is_plain ? TONE_PLAIN : TONE_STRONG,
            may_repeat);
}

/* An action that changed nothing at once needs its reason. */
void view_settle_asked(timeline *view)
{
    if (view->asked < 0) {
        return;
    }
    const unsigned output = (unsigned)view->asked;
    const output_kind *const kind = plan_output_kind(view->plan, output);
    view->asked = -1;
    if (drom_outputs_keep_back(&plan_tables(view->plan)->outputs, (uint8_t)output)) {
        g_string_append(view->cells[OUTPUT], ", once the others are off, and after the pause");
    } else if (kind->bench.unanswered != NULL) {
        const output_view seen = plan_output_view(view->plan, output, view->outputs[output].device);
        g_autofree char *why = kind->bench.unanswered(&seen, (drom_us)view->row_at_us);
        g_string_append(view->cells[OUTPUT], why);
    }
}

/* Writes the presses up to now, a row each. */
static void put_fingers(timeline *view, uint64_t until_us)
{
    for (; view->script != NULL && view->finger < view->script->len; view->finger++) {
        const script_press *const press = &g_array_index(view->script, script_press, view->finger);
        const uint64_t at_us = press->at_ms * UINT64_C(1000);
        if (at_us > until_us) {
            return;
        }
        if (press->handset == SCRIPT_A_SWITCH) { /* it closes and opens at once */
            continue;
        }
        g_autofree char *other = script_text(view->plan, press);
        g_autofree char *text =
            other != NULL
                ? g_steal_pointer(&other)
                : g_strdup_printf("%s.%s down (%u ms)", plan_handset_name(view->plan, press->handset),
                                  plan_key_name(view->plan, press->handset, press->key), press->held_ms);
        put_row(&view->rows, at_us, text, TONE_PLAIN, false);
    }
}

/* Returns the cell to write to: of the current row if it is free there, else of a new one. */
GString *view_cell(timeline *view, enum cell_of column)
{
    view_settle_asked(view);
    const uint64_t now_us = sim_bench_now(view->bench);
    bool is_free = view->has_row && view->row_at_us == now_us;
    for (int i = (int)column; i < CELLS; i++) {
        is_free &= view->cells[i]->len == 0;
    }
    if (!is_free) {
        view_end_row(view);
        put_fingers(view, now_us);
    }
    view->has_row = true;
    view->may_repeat = false;
    view->row_at_us = now_us;
    return view->cells[column];
}

GString *view_cell_again(timeline *view, enum cell_of column)
{
    GString *const cell = view_cell(view, column);
    bool is_alone = true;
    for (int i = 0; i < CELLS; i++) {
        is_alone &= view->cells[i]->len == 0;
    }
    view->may_repeat = is_alone;
    return cell;
}
