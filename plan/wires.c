#include "wires.h"

#include "kinds.h"

static void clear_wire(gpointer data)
{
    g_free(((plan_wire *)data)->owner);
}

/* "the board's 5V" */
static const char *fed_text(const char *pin)
{
    g_autofree char *text = g_strdup_printf("the board's %s", pin);
    return g_intern_string(text);
}

/* The pin of the board that feeds it; NULL: something else does. */
static const char *feeder_of(const output_line *line, const board *chosen, bool is_low_on)
{
    const output_kind *const kind = line->kind;
    if (line->supply.is_given || kind->has_own_supply) {
        return NULL;
    }
    return kind->supply != NULL ? chosen->supply_pin : is_low_on ? chosen->logic_pin : NULL;
}

/* What feeds it: what the plan says, or what such a load usually has. */
static const char *supply_of(const output_line *line, const char *feeder)
{
    if (!line->supply.is_given) {
        return feeder != NULL ? fed_text(feeder) : line->kind->supply;
    }
    g_autofree char *text =
        g_strdup_printf("a supply of %u V, %g A", line->supply.value, line->supply.second / 1000.0);
    return g_intern_string(text);
}

static const char *parts_of(const output_kind *kind, const board *chosen, bool is_low_on)
{
    const char *const at_3v3 = is_low_on ? kind->parts_of_low_at_3v3 : kind->parts_at_3v3;
    const bool is_at_3v3 = chosen->logic_pin != chosen->supply_pin;
    return is_at_3v3 && at_3v3 != NULL ? at_3v3 : is_low_on ? kind->parts_of_low : kind->parts;
}

static void add_output(GArray *wires, const plan *loaded, unsigned output)
{
    const output_line *const line = plan_line(loaded, output);
    const output_kind *const kind = line->kind;
    const bool is_low_on = kind->is_low_on != NULL && kind->is_low_on(line);
    const char *const feeder = feeder_of(line, loaded->board, is_low_on);
    for (unsigned i = 0; i < line->pin_count; i++) {
        const plan_wire wire = {
            .pin = board_pin_by_name(loaded->board, line->pins[i].text)->name,
            .owner = g_strdup(line->name.text),
            .kind = kind->name,
            .terminal = line->pin_count > 1 ? kind->terminals[i] : kind->terminal,
            .between = kind->wiring,
            .parts = parts_of(kind, loaded->board, is_low_on),
            .way_out = kind->way_out,
            .supply = supply_of(line, feeder),
            .fed_by = feeder,
            .may_be_mains = kind->may_be_mains,
            .has_no_ground = is_low_on && kind->supply == NULL,
            .load_ma = kind->load_ma(line, loaded->board),
        };
        g_array_append_val(wires, wire);
    }
}

static void add_contact(GArray *wires, const plan *loaded, const word *pin, char *owner, const char *kind)
{
    const plan_wire wire = {.pin = board_pin_by_name(loaded->board, pin->text)->name,
                            .owner = owner,
                            .kind = kind,
                            .terminal = "contact",
                            .between = "closes to ground; the pin rests high by itself"};
    g_array_append_val(wires, wire);
}

GArray *plan_wires(const plan *loaded)
{
    const plan_source *const source = loaded->source;
    GArray *const wires = g_array_new(FALSE, FALSE, sizeof(plan_wire));
    g_array_set_clear_func(wires, clear_wire);
    if (source->receiver_pin.text != NULL) {
        const plan_wire receiver = {.pin = board_pin_by_name(loaded->board, source->receiver_pin.text)->name,
                                    .owner = g_strdup("receiver"),
                                    .kind = "infrared",
                                    .terminal = "output",
                                    .between = "its output; 100 ohms and 10 uF at its supply",
                                    .parts =
                                        "100 Ω in its supply, 10 µF from there to ground (stripe to ground)",
                                    .supply = fed_text(loaded->board->logic_pin),
                                    .fed_by = loaded->board->logic_pin};
        g_array_append_val(wires, receiver);
    }
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        add_output(wires, loaded, i);
    }
    for (guint i = 0; i < source->handsets->len; i++) {
        const GArray *const buttons = g_array_index(source->handsets, handset_line, i).buttons;
        for (guint j = 0; buttons != NULL && j < buttons->len; j++) {
            const button_line *const button = &g_array_index(buttons, button_line, j);
            add_contact(wires, loaded, &button->pin,
                        g_strdup_printf("%s.%s", source_name(source, A_HANDSET, i)->text, button->key.text),
                        "button");
        }
    }
    for (guint i = 0; i < source->switches->len; i++) {
        const switch_line *const line = &g_array_index(source->switches, switch_line, i);
        add_contact(wires, loaded, &line->pin, g_strdup(line->name.text), "switch");
    }
    return wires;
}
