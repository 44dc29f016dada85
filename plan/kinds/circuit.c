/* The rows of a circuit. */
#include "plan/kinds/circuit.h"

#include <string.h>

static void clear_part(gpointer data)
{
    circuit_part *const part = data;
    g_free(part->id);
    g_free(part->value);
    g_free(part->note);
}

static void clear_net(gpointer data)
{
    g_free(((circuit_net *)data)->name);
}

static void clear_stage(gpointer data)
{
    g_free(((circuit_stage *)data)->owner);
}

static GArray *rows(gsize size, GDestroyNotify clear)
{
    GArray *const all = g_array_new(FALSE, FALSE, (guint)size);
    if (clear != NULL) {
        g_array_set_clear_func(all, clear);
    }
    return all;
}

circuit *circuit_new(void)
{
    circuit *const made = g_new0(circuit, 1);
    made->nets = rows(sizeof(circuit_net), clear_net);
    made->parts = rows(sizeof(circuit_part), clear_part);
    made->stages = rows(sizeof(circuit_stage), clear_stage);
    made->loads = rows(sizeof(circuit_load), NULL);
    return made;
}

void circuit_free(circuit *unwanted)
{
    g_array_unref(unwanted->nets);
    g_array_unref(unwanted->parts);
    g_array_unref(unwanted->stages);
    g_array_unref(unwanted->loads);
    g_free(unwanted);
}

guint circuit_add_net(circuit *made, char *name, circuit_role role, double volts)
{
    const circuit_net net = {.name = name, .role = role, .volts = volts};
    g_array_append_val(made->nets, net);
    return made->nets->len - 1;
}

const circuit_net *circuit_net_at(const circuit *all, guint net)
{
    return &g_array_index(all->nets, circuit_net, net);
}

const circuit_part *circuit_part_at(const circuit *all, const circuit_stage *stage, circuit_place at)
{
    const guint row = stage->parts[at];
    return row > 0 ? &g_array_index(all->parts, circuit_part, row - 1) : NULL;
}

static const char *letter_of(circuit_symbol symbol)
{
    static const char *const letters[] = {
        [SYMBOL_RESISTOR] = "R", [SYMBOL_CAPACITOR] = "C", [SYMBOL_DIODE] = "D",   [SYMBOL_LED] = "LED",
        [SYMBOL_NPN] = "Q",      [SYMBOL_PNP] = "Q",       [SYMBOL_NMOS] = "Q",    [SYMBOL_COIL] = "K",
        [SYMBOL_MOTOR] = "M",    [SYMBOL_LAMP] = "E",      [SYMBOL_CONTACT] = "S", [SYMBOL_MODULE] = "U",
    };
    return letters[symbol];
}

guint circuit_add_part(circuit *made, const circuit_part *part)
{
    unsigned number = 1;
    for (guint i = 0; i < made->parts->len; i++) {
        const circuit_part *const other = &g_array_index(made->parts, circuit_part, i);
        number += strcmp(letter_of(other->symbol), letter_of(part->symbol)) == 0;
    }
    g_array_append_vals(made->parts, part, 1);
    g_array_index(made->parts, circuit_part, made->parts->len - 1).id =
        g_strdup_printf("%s%u", letter_of(part->symbol), number);
    return made->parts->len;
}

char *circuit_ohms_text(double ohms)
{
    return ohms >= 1000 ? g_strdup_printf("%.3g kΩ", ohms / 1000) : g_strdup_printf("%.3g Ω", ohms);
}
