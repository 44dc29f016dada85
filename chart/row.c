#include "chart/row.h"

#include "dromikos/protocols.h"

void row_clear(gpointer of_row)
{
    timeline_row *const unwanted = of_row;
    g_free(unwanted->text);
    g_free(unwanted->found);
    if (unwanted->kind == ROW_DRAWN) {
        g_free(unwanted->data.drawn.colours);
    }
}

GArray *rows_new(void)
{
    GArray *const made = g_array_new(FALSE, FALSE, sizeof(timeline_row));
    g_array_set_clear_func(made, row_clear);
    return made;
}

const timeline_row *rows_at(const GArray *rows, guint i)
{
    return &g_array_index(rows, timeline_row, i);
}

const char *row_kind_name(const timeline_row *row)
{
    static const char *const names[ROW_KINDS] = {
        [ROW_FRAME] = "frame",           [ROW_KEY] = "key",
        [ROW_EVENT] = "event",           [ROW_RULE] = "rule",
        [ROW_ACTION] = "action",         [ROW_OUTPUT] = "output",
        [ROW_CONTACT] = "contact",       [ROW_MOTION] = "motion",
        [ROW_BURST] = "burst",           [ROW_PASSED_ON] = "passed_on",
        [ROW_HAPPENING] = "happening",   [ROW_CHIP] = "chip",
        [ROW_EXPECTED] = "expected",     [ROW_UNHEARD] = "unheard",
        [ROW_MISCOUNTED] = "miscounted", [ROW_END] = "end",
        [ROW_FINGER] = "finger",         [ROW_AIR] = "air",
        [ROW_DRAWN] = "drawn",           [ROW_LIT] = "lit",
        [ROW_TIMER] = "timer",
    };
    return row->kind == ROW_FRAME && row->data.frame.protocol == &drom_unknown ? "unknown" : names[row->kind];
}

const char *gesture_name(uint8_t gesture)
{
    switch ((drom_gesture)gesture) {
    case DROM_PRESS:
        return "press";
    case DROM_REPEAT:
        return "repeat";
    case DROM_HOLD:
        return "hold";
    case DROM_RELEASE:
        return "release";
    case DROM_TAP:
        return "tap";
    case DROM_DOUBLE:
        return "double";
    }
    return "?";
}

const char *gesture_participle(uint8_t gesture)
{
    switch ((drom_gesture)gesture) {
    case DROM_PRESS:
        return "pressed";
    case DROM_REPEAT:
        return "repeated";
    case DROM_HOLD:
        return "held";
    case DROM_RELEASE:
        return "released";
    case DROM_TAP:
        return "tapped";
    case DROM_DOUBLE:
        return "tapped twice";
    }
    return "?";
}

bool row_is_missed(const timeline_row *row)
{
    return row->kind == ROW_UNHEARD || (row->kind == ROW_EXPECTED && !row->data.expected.is_met);
}

uint32_t row_address(const drom_frame *frame, int32_t *vendor)
{
    const uint32_t high = frame->code.address >> 16;
    const bool has_vendor = frame->protocol == &drom_kaseikyo && high != 0;
    *vendor = has_vendor ? (int32_t)(high ^ DROM_KASEIKYO_VENDOR) : -1;
    return has_vendor ? frame->code.address & 0xffff : frame->code.address;
}

char *row_frame_text(const drom_frame *frame)
{
    int32_t vendor;
    const uint32_t address = row_address(frame, &vendor);
    return g_strdup_printf("%s %u %u", frame->protocol->id, address, frame->code.command);
}

char *row_key_text(const timeline_row *row)
{
    return row->subject != NULL ? g_strdup_printf("%s.%s", row->subject, row->key) : g_strdup(row->key);
}
