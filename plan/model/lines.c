/* The lines of a plan, the pins that they name, and memory that it keeps. */
#include "plan/model/build.h"

gpointer plan_keep(plan *made, gsize size)
{
    gpointer memory = g_malloc0(size);
    g_ptr_array_add(made->kept, memory);
    return memory;
}

const output_line *plan_line(const plan *made, guint output)
{
    return &g_array_index(made->source->outputs, output_line, output);
}

uint8_t plan_pin(const plan *made, const output_line *line, unsigned pin)
{
    return board_pin_by_name(made->board, line->pins[pin].text)->number;
}

const bool *plan_switch(const plan *made, const word *name)
{
    int row = -1;
    if (name->text == NULL || source_find(made->source, name->text, &row) != A_SWITCH) {
        return NULL;
    }
    return &made->touches[made->contacts->len - made->source->switches->len + (guint)row].is_closed;
}

guint plan_touch_of(const plan *loaded, const bool *is_closed)
{
    guint touch = 0;
    while (&loaded->touches[touch].is_closed != is_closed) {
        touch++;
    }
    return touch;
}

uint32_t line_value(const output_line *line, unsigned clause, uint32_t usual)
{
    return line->clauses[clause].is_given ? line->clauses[clause].value : usual;
}

bool line_is_guarded(const output_line *line)
{
    return line->kind->checks.is_guarded != NULL && line->kind->checks.is_guarded(line);
}
