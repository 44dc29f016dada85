/* The rows of a rehearsal and of a capture as JSON: docs/tool.md lists the fields. */
#include "cli/io/io.h"

static void set_frame(json_t *made, const drom_frame *frame)
{
    if (frame->protocol == &drom_unknown) {
        g_autofree char *fingerprint = g_strdup_printf("%08x", frame->code.address);
        (void)json_object_set_new(made, "fingerprint", json_string(fingerprint));
        (void)json_object_set_new(made, "intervals", json_integer(frame->intervals));
        return;
    }
    (void)json_object_set_new(made, "protocol", json_string(frame->protocol->id));
    if (frame->kind != DROM_FRAME_REPEAT) {
        int32_t vendor;
        (void)json_object_set_new(made, "address", json_integer(row_address(frame, &vendor)));
        (void)json_object_set_new(made, "command", json_integer(frame->code.command));
        if (vendor >= 0) {
            (void)json_object_set_new(made, "vendor", json_integer(vendor));
        }
        if (frame->protocol->has_toggle) {
            (void)json_object_set_new(made, "toggle", json_integer(frame->toggle));
        }
    }
    (void)json_object_set_new(made, "ditto", json_boolean(frame->kind == DROM_FRAME_REPEAT));
    (void)json_object_set_new(made, "margin", json_integer(drom_frame_margin(frame)));
}

static void set_key(json_t *made, const timeline_row *row)
{
    const drom_protocol *const protocol = row->data.pressed.protocol;
    json_t *const names = json_pack("{s:s, s:s?, s:s?}", "gesture", gesture_name(row->data.pressed.gesture),
                                    "handset", row->subject, "key", row->key);
    (void)json_object_update_new(made, names);
    if (protocol != NULL) { /* a button has none */
        (void)json_object_set_new(made, "protocol", json_string(protocol->id));
        (void)json_object_set_new(made, "address", json_integer(row->data.pressed.code.address));
        (void)json_object_set_new(made, "command", json_integer(row->data.pressed.code.command));
    }
    (void)json_object_set_new(made, "held_us", json_integer(row->data.pressed.held_us));
}

/* Returns the members that follow kind and time; NULL: a kind with members of its own. */
static json_t *members_of(const timeline_row *row)
{
    switch (row->kind) {
    case ROW_EVENT:
        return json_pack("{s:s}", "event", row->text);
    case ROW_RULE:
        return json_pack("{s:i, s:s*}", "line", row->data.rule.line, "file", row->data.rule.file);
    case ROW_ACTION:
        return json_pack("{s:s, s:s}", "output", row->subject, "action", row->text);
    case ROW_OUTPUT:
        return json_pack("{s:s, s:s, s:i, s:s}", "output", row->subject, "state",
                         row->data.pin.is_on ? "on" : "off", "pin", (int)row->data.pin.pin, "level",
                         row->data.pin.is_high ? "high" : "low");
    case ROW_CONTACT:
        return json_pack("{s:s, s:b}", "output", row->subject, "closed", (int)row->data.is_on);
    case ROW_MOTION:
        return json_pack("{s:s, s:b, s:i}", "output", row->subject, "moving", (int)row->data.motion.is_moving,
                         "position", (int)row->data.motion.position);
    case ROW_BURST:
        return json_pack("{s:s, s:s, s:s, s:b}", "output", row->subject, "heard", row->text, "key",
                         row->found, "new", (int)row->data.is_on);
    case ROW_PASSED_ON:
        return json_pack("{s:s, s:I}", "output", row->subject, "after_frame_us",
                         (json_int_t)row->data.after_us);
    case ROW_HAPPENING:
        return json_pack("{s:s, s:I}", "what", row->text, "until_us", (json_int_t)row->until_us);
    case ROW_CHIP:
        return json_pack("{s:I, s:I, s:I, s:i}", "until_us", (json_int_t)row->until_us, "poll_us",
                         (json_int_t)row->data.chip.poll_us, "interrupts_off_us",
                         (json_int_t)row->data.chip.masked_us, "lost_edges", (int)row->data.chip.lost);
    case ROW_EXPECTED:
        return json_pack("{s:s, s:b, s:s, s:i}", "expect", row->text, "met", (int)row->data.expected.is_met,
                         "found", row->found, "line", row->data.expected.line);
    case ROW_UNHEARD:
        return json_pack("{s:s, s:s, s:i, s:s}", "handset", row->subject, "key", row->key, "line",
                         row->data.line, "why", row->text);
    case ROW_END:
        return json_pack("{s:s}", "going_on", row->text);
    default:
        return NULL;
    }
}

void put_row_json(const timeline_row *row)
{
    json_t *made;
    if (row->kind == ROW_MISCOUNTED) { /* of the whole rehearsal: it has no time */
        made = json_pack("{s:s, s:s, s:i, s:i}", "kind", row_kind_name(row), "output", row->subject, "asked",
                         (int)row->data.counts.asked, "counted", (int)row->data.counts.counted);
    } else {
        made = json_pack("{s:s, s:I}", "kind", row_kind_name(row), "t_us", (json_int_t)row->at_us);
    }
    if (row->kind == ROW_FRAME) {
        set_frame(made, &row->data.frame);
    } else if (row->kind == ROW_KEY) {
        set_key(made, row);
    } else {
        json_t *const members = members_of(row);
        if (members != NULL) {
            (void)json_object_update_new(made, members);
        }
    }
    put_json(made);
}
