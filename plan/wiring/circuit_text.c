/* Describes in words what is between a pin and its load. */
#include "plan/wiring/wiring.h"

#include <string.h>

char *circuit_between_text(const circuit *all, const circuit_stage *stage)
{
    const circuit_part *const module = circuit_part_at(all, stage, PLACE_MODULE);
    const circuit_part *const buffer = circuit_part_at(all, stage, PLACE_BUFFER);
    const circuit_part *const load = circuit_part_at(all, stage, PLACE_LOAD);
    const circuit_part *const gate = circuit_part_at(all, stage, PLACE_SWITCH);
    const circuit_part *const limit = circuit_part_at(all, stage, PLACE_LIMIT);
    const char *const feed = circuit_net_at(all, stage->feed)->name;
    const char *const diode = stage->parts[PLACE_DIODE] != 0 ? ", a diode across it" : "";
    g_autofree char *ohms = limit != NULL ? circuit_ohms_text(limit->amount) : g_strdup("");
    g_autofree char *device = load == NULL                  ? g_strdup("")
                              : load->symbol == SYMBOL_COIL ? g_strdup("coil")
                              : load->symbol == SYMBOL_LED
                                  ? g_strdup("LED")
                                  : g_strndup(load->value, strcspn(load->value, ", "));
    g_autofree char *loaded = limit != NULL ? g_strdup_printf("%s with %s", device, ohms) : g_strdup(device);
    const char *const transistor_text = gate == NULL                  ? ""
                                        : gate->symbol == SYMBOL_NMOS ? "MOSFET"
                                        : gate->symbol == SYMBOL_NPN  ? "NPN transistor"
                                                                      : "PNP transistor";
    if (module != NULL && stage->form == FORM_MODULE) {
        return g_strdup_printf("%s%s of the %.*s, fed by %s", buffer != NULL ? "through a buffer, " : "",
                               module->names[buffer != NULL ? 0 : stage->leg],
                               (int)strcspn(module->value, ","), module->value, feed);
    }
    switch (stage->form) {
    case FORM_LED:
        return g_strdup_printf("%s and LED, to ground", ohms);
    case FORM_LED_LOW:
        return g_strdup_printf("%s and LED, from %s", ohms, feed);
    case FORM_LOW_SIDE:
        return g_strdup_printf("%s to ground; %s from %s%s", transistor_text, loaded, feed, diode);
    case FORM_HIGH_SIDE:
        return g_strdup_printf("%s from %s; %s to ground%s", transistor_text, feed, loaded, diode);
    case FORM_INVERTED:
        return g_strdup_printf("NPN transistor that turns a MOSFET off; %s from %s%s", loaded, feed, diode);
    case FORM_MODULE:
        break;
    case FORM_CONTACT:
        return g_strdup(stage->parts[PLACE_PULL] != 0 ? "closes to ground; 10 kΩ pull the pin up"
                                                      : "closes to ground; the pin rests high by itself");
    case FORM_RECEIVER:
        return g_strdup_printf("its output; 100 Ω from %s and 10 µF at its supply", feed);
    }
    return g_strdup("");
}
