#include "wiring_notes.h"

#include "wires.h"

#include <string.h>

static const picture_type plain = {12, false, TEXT_FROM, INK_PLAIN};
static const picture_type strong = {12, true, TEXT_FROM, INK_PLAIN};

/* Writes a text into lines of a width. Where the next line would stand. */
static double put_wrapped(picture *canvas, double x, double y, double width, picture_type type,
                          const char *text)
{
    g_auto(GStrv) words = g_strsplit(text, " ", -1);
    g_autoptr(GString) line = g_string_new(NULL);
    for (int i = 0; words[i] != NULL; i++) {
        g_autofree char *longer = g_strconcat(line->str, line->len > 0 ? " " : "", words[i], NULL);
        if (line->len > 0 && picture_width_of(type, longer) > width) {
            picture_text(canvas, x, y, type, line->str);
            y += ROW_PX;
            g_string_assign(line, words[i]);
        } else {
            g_string_assign(line, longer);
        }
    }
    picture_text(canvas, x, y, type, line->str);
    return y + ROW_PX;
}

static double put_alert(const wiring_notes *notes, double x, double y, const char *text)
{
    const picture_type type = {12, true, TEXT_FROM, INK_GROUND};
    g_autofree char *said = g_strdup_printf("! %s", text);
    g_autofree char *shown = picture_shortened(type, said, notes->width - x - MARGIN - 8);
    picture_box(notes->sheet, x - 4, y - 13, picture_width_of(type, shown) + 8, ROW_PX - 1, INK_PLAIN,
                FILL_SOLID);
    picture_text(notes->sheet, x, y, type, shown);
    return y + ROW_PX;
}

/* What is to be checked of a thing, said beside it. */
static double put_findings(const wiring_notes *notes, double x, double y, const plan_wire *wire)
{
    const GPtrArray *const lists[] = {notes->vet->times, notes->vet->pins, notes->vet->currents};
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            const bool is_answered = finding->way_out != NULL && wire->way_out != NULL &&
                                     g_str_has_prefix(finding->way_out, wire->way_out); /* by its parts */
            if (finding->verdict != VET_FITS && !is_answered && strcmp(finding->about, wire->owner) == 0) {
                g_autofree char *text = vet_finding_text(finding);
                y = put_alert(notes, x, y, text);
            }
        }
    }
    return y;
}

double wiring_notes_parts(const wiring_notes *notes, double y)
{
    enum { NAME_PX = 150 };
    picture_text(notes->sheet, MARGIN, y, (picture_type){14, true, TEXT_FROM, INK_PLAIN}, "Parts");
    y += ROW_PX + 4;
    for (guint i = 0; i < notes->wires->len; i++) {
        const plan_wire *const wire = &g_array_index(notes->wires, plan_wire, i);
        if (i > 0 && strcmp(g_array_index(notes->wires, plan_wire, i - 1).owner, wire->owner) == 0) {
            continue;
        }
        g_autofree char *name = picture_shortened(strong, wire->owner, NAME_PX - 12);
        picture_begin(notes->sheet, "parts", wire->owner);
        picture_text(notes->sheet, MARGIN, y, strong, name);
        y = put_wrapped(notes->sheet, MARGIN + NAME_PX, y, notes->width - 2 * MARGIN - NAME_PX, plain,
                        wire->parts != NULL ? wire->parts : wire->between);
        y = put_findings(notes, MARGIN + NAME_PX, y, wire);
        picture_end(notes->sheet);
    }
    return y;
}

double wiring_notes_supplies(const wiring_notes *notes, double y)
{
    g_autoptr(GString) own = g_string_new(NULL);
    bool may_be_mains = false;
    for (guint i = 0; i < notes->wires->len; i++) {
        const plan_wire *const wire = &g_array_index(notes->wires, plan_wire, i);
        const bool is_first =
            i == 0 || strcmp(g_array_index(notes->wires, plan_wire, i - 1).owner, wire->owner) != 0;
        may_be_mains |= wire->may_be_mains;
        if (is_first && wire->supply != NULL && wire->fed_by == NULL) {
            g_string_append_printf(own, "%s%s: %s (takes %.0f mA)",
                                   own->len > 0 ? "; " : "Supplies of their own: ", wire->owner,
                                   wire->supply + strlen("a "), wire->load_ma);
        }
    }
    const double width = notes->width - 2.0 * MARGIN;
    const double top = y - ROW_PX;
    picture_begin(notes->sheet, "supplies", "");
    y = put_wrapped(notes->sheet, MARGIN + INSET_PX, y, width - 2 * INSET_PX, plain,
                    "Wire with USB and all supplies disconnected. Check the order of the receiver's three "
                    "legs, it differs by type. "
                    "A dot joins wires, a hop doesn't.");
    if (own->len > 0) {
        y = put_wrapped(notes->sheet, MARGIN + INSET_PX, y, width - 2 * INSET_PX, plain, own->str);
    }
    if (may_be_mains) {
        y = put_alert(
            notes, MARGIN + INSET_PX + 4, y,
            "what a relay's contacts switch may be mains: test with the mains disconnected, and keep its "
            "wires apart from all others");
    }
    picture_box(notes->sheet, MARGIN, top, width, y - ROW_PX + INSET_PX - top, INK_PLAIN, FILL_NONE);
    picture_end(notes->sheet);
    return y;
}
