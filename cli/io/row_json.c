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

static void set_key(json_t *made, const timeline_row *of)
{
    const drom_protocol *const protocol = of->of.pressed.protocol;
    json_t *const names = json_pack("{s:s, s:s?, s:s?}", "gesture", gesture_name(of->of.pressed.gesture),
                                    "handset", of->subject, "key", of->key);
    (void)json_object_update_new(made, names);
    if (protocol != NULL) { /* a button has none */
        (void)json_object_set_new(made, "protocol", json_string(protocol->id));
        (void)json_object_set_new(made, "address", json_integer(of->of.pressed.code.address));
        (void)json_object_set_new(made, "command", json_integer(of->of.pressed.code.command));
    }
    (void)json_object_set_new(made, "held_us", json_integer(of->of.pressed.held_us));
}

/* Returns the members that follow kind and time; NULL: a kind with members of its own. */
static json_t *members_of(const timeline_row *of)
{
    switch (of->kind) {
    case ROW_EVENT:
        return json_pack("{s:s}", "event", of->text);
    case ROW_RULE:
        return json_pack("{s:i, s:s*}", "line", of->of.rule.line, "file", of->of.rule.file);
    case ROW_ACTION:
        return json_pack("{s:s, s:s}", "output", of->subject, "action", of->text);
    case ROW_OUTPUT:
        return json_pack("{s:s, s:s, s:i, s:s}", "output", of->subject, "state",
                         of->of.pin.is_on ? "on" : "off", "pin", (int)of->of.pin.pin, "level",
                         of->of.pin.is_high ? "high" : "low");
    case ROW_CONTACT:
        return json_pack("{s:s, s:b}", "output", of->subject, "closed", (int)of->of.is_on);
    case ROW_MOTION:
        return json_pack("{s:s, s:b, s:i}", "output", of->subject, "moving", (int)of->of.motion.is_moving,
                         "position", (int)of->of.motion.position);
    case ROW_BURST:
        return json_pack("{s:s, s:s, s:s, s:b}", "output", of->subject, "heard", of->text, "key", of->found,
                         "new", (int)of->of.is_on);
    case ROW_PASSED_ON:
        return json_pack("{s:s, s:I}", "output", of->subject, "after_frame_us", (json_int_t)of->of.after_us);
    case ROW_HAPPENING:
        return json_pack("{s:s, s:I}", "what", of->text, "until_us", (json_int_t)of->until_us);
    case ROW_CHIP:
        return json_pack("{s:I, s:I, s:I, s:i}", "until_us", (json_int_t)of->until_us, "poll_us",
                         (json_int_t)of->of.chip.poll_us, "interrupts_off_us",
                         (json_int_t)of->of.chip.masked_us, "lost_edges", (int)of->of.chip.lost);
    case ROW_EXPECTED:
        return json_pack("{s:s, s:b, s:s, s:i}", "expect", of->text, "met", (int)of->of.expected.is_met,
                         "found", of->found, "line", of->of.expected.line);
    case ROW_UNHEARD:
        return json_pack("{s:s, s:s, s:i, s:s}", "handset", of->subject, "key", of->key, "line", of->of.line,
                         "why", of->text);
    case ROW_END:
        return json_pack("{s:s}", "going_on", of->text);
    default:
        return NULL;
    }
}

void put_row_json(const timeline_row *of)
{
    json_t *made;
    if (of->kind == ROW_MISCOUNTED) { /* of the whole rehearsal: it has no time */
        made = json_pack("{s:s, s:s, s:i, s:i}", "kind", row_kind_name(of), "output", of->subject, "asked",
                         (int)of->of.counts.asked, "counted", (int)of->of.counts.counted);
    } else {
        made = json_pack("{s:s, s:I}", "kind", row_kind_name(of), "t_us", (json_int_t)of->at_us);
    }
    if (of->kind == ROW_FRAME) {
        set_frame(made, &of->of.frame);
    } else if (of->kind == ROW_KEY) {
        set_key(made, of);
    } else {
        json_t *const members = members_of(of);
        if (members != NULL) {
            (void)json_object_update_new(made, members);
        }
    }
    put_json(made);
}
