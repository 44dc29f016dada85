#include "chart/wiring_notes.h"

#include "plan/model/plan.h"

#include <string.h>

static const picture_type plain = {12, false, TEXT_FROM, INK_PLAIN};
static const picture_type strong = {12, true, TEXT_FROM, INK_PLAIN};

/* Writes a text into lines of a width. Returns the place of the next line. */
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

/* The warnings of a thing, beside it. */
static double put_findings(const wiring_notes *notes, double x, double y, const char *owner)
{
    const GPtrArray *const lists[] = {notes->vet->times, notes->vet->pins, notes->vet->currents};
    for (gsize i = 0; i < G_N_ELEMENTS(lists); i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            if (finding->verdict != VET_FITS && strcmp(finding->about, owner) == 0) {
                g_autofree char *text = vet_finding_text(finding);
                y = put_alert(notes, x, y, text);
            }
        }
    }
    return y;
}

static void add_part_text(GString *out, const circuit_part *part)
{
    g_string_append_printf(out, "%s%s %s", out->len > 0 ? "; " : "", part->id, part->value);
    if (part->note != NULL) {
        g_string_append_printf(out, " (%s)", part->note);
    }
}

/* True if a part belongs to a stage. Parts shared by an output's pins belong to each. */
static bool is_part_of(const wiring_notes *notes, const circuit_stage *stage, guint row)
{
    const circuit_part *const part = &g_array_index(notes->all->parts, circuit_part, row);
    bool is_there = part->output != CIRCUIT_NO_OUTPUT && part->output == stage->output;
    for (unsigned i = 0; i < CIRCUIT_PLACES; i++) {
        is_there |= stage->parts[i] == row + 1;
    }
    return is_there;
}

/* The number of each to buy: "4 x 10 kΩ, 0.25 W". */
static double put_shopping(const wiring_notes *notes, double y)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(g_str_hash, g_str_equal);
    g_autoptr(GString) text = g_string_new("In all: ");
    const GArray *const parts = notes->all->parts;
    for (guint i = 0; i < parts->len; i++) {
        const circuit_part *const part = &g_array_index(parts, circuit_part, i);
        unsigned count = 0;
        for (guint j = i; j < parts->len; j++) {
            count += strcmp(g_array_index(parts, circuit_part, j).value, part->value) == 0;
        }
        if (g_hash_table_add(seen, part->value)) {
            g_string_append_printf(text, "%s%u × %s", i > 0 ? "; " : "", count, part->value);
        }
    }
    return put_wrapped(notes->sheet, MARGIN, y, notes->width - 2 * MARGIN, plain, text->str);
}

double wiring_notes_parts(const wiring_notes *notes, double y)
{
    enum { NAME_PX = 150 };
    const GArray *const stages = notes->all->stages;
    picture_text(notes->sheet, MARGIN, y, (picture_type){14, true, TEXT_FROM, INK_PLAIN}, "Parts");
    y += ROW_PX + 4;
    for (guint i = 0; i < stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(stages, circuit_stage, i);
        g_autoptr(GString) text = g_string_new(NULL);
        if (i > 0 && strcmp(g_array_index(stages, circuit_stage, i - 1).owner, stage->owner) == 0) {
            continue;
        }
        for (guint j = 0; j < notes->all->parts->len; j++) {
            if (is_part_of(notes, stage, j)) {
                add_part_text(text, &g_array_index(notes->all->parts, circuit_part, j));
            }
        }
        g_autofree char *name = picture_shortened(strong, stage->owner, NAME_PX - 12);
        picture_begin(notes->sheet, "parts", stage->owner);
        picture_text(notes->sheet, MARGIN, y, strong, name);
        y = put_wrapped(notes->sheet, MARGIN + NAME_PX, y, notes->width - 2 * MARGIN - NAME_PX, plain,
                        text->str);
        y = put_findings(notes, MARGIN + NAME_PX, y, stage->owner);
        picture_end(notes->sheet);
    }
    picture_begin(notes->sheet, "shopping", "");
    y = put_shopping(notes, y + 4);
    picture_end(notes->sheet);
    return y;
}

/* "curtain: 6 V, 2 A (takes 500 mA, 1500 mA as it starts)". */
static void add_supply(const wiring_notes *notes, GString *out, guint net)
{
    const circuit_net *const feed = circuit_net_at(notes->all, net);
    double ma = 0;
    double start_ma = 0;
    const char *owner = "";
    for (guint i = 0; i < notes->all->loads->len; i++) {
        const circuit_load *const load = &g_array_index(notes->all->loads, circuit_load, i);
        if (load->feed == net) {
            ma += load->ma;
            start_ma += load->start_ma;
            owner = plan_output_name(notes->plan, load->output);
        }
    }
    if (ma > 0 && feed->max_ma > 0) {
        g_autofree char *starts =
            start_ma > ma ? g_strdup_printf(", %.0f mA as it starts", start_ma) : g_strdup("");
        g_string_append_printf(out, "%s%s: %g V, %g A (takes %.0f mA%s)",
                               out->len > 0 ? "; " : "Supplies of their own: ", owner, feed->volts,
                               feed->max_ma / 1000.0, ma, starts);
    }
}

double wiring_notes_supplies(const wiring_notes *notes, double y)
{
    g_autoptr(GString) own = g_string_new(NULL);
    bool may_be_mains = false;
    for (guint i = 0; i < notes->all->nets->len; i++) {
        add_supply(notes, own, i);
    }
    for (guint i = 0; i < plan_output_count(notes->plan); i++) {
        may_be_mains |= plan_output_kind(notes->plan, i)->vet.may_be_mains;
    }
    const double width = notes->width - 2.0 * MARGIN;
    const double top = y - ROW_PX;
    picture_begin(notes->sheet, "supplies", "");
    y = put_wrapped(
        notes->sheet, MARGIN + INSET_PX, y, width - 2 * INSET_PX, plain,
        "Wire with USB and all supplies disconnected. Check the order of the legs of the receiver and "
        "of each transistor in its data sheet: it differs by type. Red is supply, black is ground; "
        "each ground symbol is the same ground. A dot joins wires, a hop doesn't.");
    if (own->len > 0) {
        y = put_wrapped(notes->sheet, MARGIN + INSET_PX, y, width - 2 * INSET_PX, plain, own->str);
    }
    if (may_be_mains) {
        y = put_alert(
            notes, MARGIN + INSET_PX + 4, y,
            "mains behind a relay's contacts: a fuse in its live wire, a closed box, 6 mm between it and "
            "all else, and somebody who may wire mains; test without it");
    }
    picture_box(notes->sheet, MARGIN, top, width, y - ROW_PX + INSET_PX - top, INK_PLAIN, FILL_NONE);
    picture_end(notes->sheet);
    return y;
}
