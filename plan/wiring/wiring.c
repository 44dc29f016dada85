/* The circuit of a plan: the parts of each kind, the receiver, and contacts. */
#include "plan/wiring/wiring.h"

#include "plan/kinds/wires.h"

#include <string.h>

static void add_receiver(circuit *made, const plan *loaded, const word *pin)
{
    wiring_up job = {made, loaded, loaded->board, NULL, CIRCUIT_NO_OUTPUT};
    const guint fed = circuit_add_net(made, g_strdup("receiver +"), NET_SIGNAL, 0);
    const char *const name = board_pin_by_name(loaded->board, pin->text)->name;
    circuit_stage stage = {.form = FORM_RECEIVER,
                           .pin = name,
                           .owner = g_strdup("receiver"),
                           .kind = "infrared",
                           .terminal = "output",
                           .output = CIRCUIT_NO_OUTPUT,
                           .feed = made->logic,
                           .pin_net = circuit_add_net(made, g_strdup_printf("pin %s", name), NET_SIGNAL, 0)};
    stage.parts[PLACE_SERIES] = wire_resistor(&job, 100, 0.001, made->logic, fed);
    stage.parts[PLACE_CAPACITOR] =
        wire_part(&job, SYMBOL_CAPACITOR, 10e-6, 0, g_strdup("10 µF, 16 V"), fed, made->ground);
    const module_leg legs[] = {{"OUT", stage.pin_net}, {"GND", made->ground}, {"+", fed}, {0}};
    stage.parts[PLACE_MODULE] = wire_module(&job, MODULE_RECEIVER, "infrared receiver, 38 kHz", legs);
    g_array_append_val(made->stages, stage);
}

/* A contact to ground; the pin has a pull-up, its own or a resistor. */
static void add_contact(circuit *made, const plan *loaded, const word *pin, char *owner, const char *kind)
{
    wiring_up job = {made, loaded, loaded->board, NULL, CIRCUIT_NO_OUTPUT};
    const board_pin *const where = board_pin_by_name(loaded->board, pin->text);
    circuit_stage stage = {.form = FORM_CONTACT,
                           .pin = where->name,
                           .owner = owner,
                           .kind = kind,
                           .terminal = "contact",
                           .output = CIRCUIT_NO_OUTPUT,
                           .feed = made->logic,
                           .pin_net =
                               circuit_add_net(made, g_strdup_printf("pin %s", where->name), NET_SIGNAL, 0)};
    stage.parts[PLACE_LOAD] =
        wire_part(&job, SYMBOL_CONTACT, 0, 0, g_strdup(kind), stage.pin_net, made->ground);
    if (where->is_input_only) {
        stage.parts[PLACE_PULL] = wire_resistor(&job, WIRE_PULL_OHMS, 0, made->logic, stage.pin_net);
    }
    g_array_append_val(made->stages, stage);
}

static void add_contacts(circuit *made, const plan *loaded)
{
    const plan_source *const source = loaded->source;
    for (guint i = 0; i < source->handsets->len; i++) {
        const GArray *const buttons = g_array_index(source->handsets, handset_line, i).buttons;
        for (guint j = 0; buttons != NULL && j < buttons->len; j++) {
            const button_line *const button = &g_array_index(buttons, button_line, j);
            add_contact(made, loaded, &button->pin,
                        g_strdup_printf("%s.%s", source_name(source, A_HANDSET, i)->text, button->key.text),
                        "button");
        }
    }
    for (guint i = 0; i < source->switches->len; i++) {
        const switch_line *const line = &g_array_index(source->switches, switch_line, i);
        add_contact(made, loaded, &line->pin, g_strdup(line->name.text), "switch");
    }
}

static guint add_board_net(circuit *made, const char *pin, double volts)
{
    const guint net = circuit_add_net(made, g_strdup(pin), NET_SUPPLY, volts);
    g_array_index(made->nets, circuit_net, net).is_boards = true;
    return net;
}

circuit *circuit_of(const plan *loaded)
{
    const board *const chosen = loaded->board;
    circuit *const made = circuit_new();
    made->ground = circuit_add_net(made, g_strdup("GND"), NET_GROUND, 0);
    made->supply = add_board_net(made, chosen->supply_pin, 5);
    made->logic = strcmp(chosen->logic_pin, chosen->supply_pin) == 0
                      ? made->supply
                      : add_board_net(made, chosen->logic_pin, chosen->logic_volts);
    if (loaded->source->receiver_pin.text != NULL) {
        add_receiver(made, loaded, &loaded->source->receiver_pin);
    }
    for (guint i = 0; i < plan_output_count(loaded); i++) {
        wiring_up job = {made, loaded, chosen, plan_line(loaded, i), i};
        if (job.line->kind->vet.wire_up != NULL) {
            job.line->kind->vet.wire_up(&job);
        }
    }
    add_contacts(made, loaded);
    return made;
}
