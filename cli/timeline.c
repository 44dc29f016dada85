/* One row an event, in four columns: what came in, the gesture, the rule, and what the outputs did. What
 * follows from something at the same moment goes on in the same row. */
#include "timeline.h"

#include <string.h>

enum cell_of { HEARD, GESTURE, RULE, OUTPUT, CELLS };

static const int widths[CELLS] = {26, 24, 9, 0};

typedef struct output_story {
    sim_relay *relay;
    uint64_t driven_at_us;
    uint64_t on_since_us;
    uint64_t on_us; /* in all */
    unsigned bounces;
    bool is_known; /* it has been driven, and so has a state */
    sim_stepper *stepper;
    sim_strip *strip;
    sim_target *target;
    bool was_moving;
} output_story;

struct timeline {
    const plan *of;
    sim_bench *bench;
    output_format format;
    drom_watch watch;
    GString *cells[CELLS];
    uint64_t row_at_us;
    bool has_row;
    row_writer rows;
    output_story *outputs; /* one of the plan each */
    int asked;             /* the output that an action was about, and hasn't answered yet; -1: none */
    unsigned presses;
    bool has_heard; /* a frame */
};

static void end_row(timeline *told)
{
    if (!told->has_row) {
        return;
    }
    g_autoptr(GString) row = g_string_new(NULL);
    const bool has_rule = told->cells[RULE]->len > 0;
    const bool is_plain = !has_rule && told->cells[OUTPUT]->len == 0;
    for (int i = 0; i < CELLS; i++) {
        g_string_append_printf(row, "%-*s", widths[i], told->cells[i]->str);
        if (i < OUTPUT && (int)told->cells[i]->len >= widths[i]) {
            g_string_append_c(row, ' ');
        }
        g_string_truncate(told->cells[i], 0);
    }
    told->has_row = false;
    put_row(&told->rows, told->row_at_us, g_strchomp(row->str), is_plain ? TONE_PLAIN : TONE_STRONG,
            is_plain);
}

/* An action that changed nothing at once still needs its reason. */
static void settle_asked(timeline *told)
{
    if (told->asked < 0) {
        return;
    }
    const unsigned output = (unsigned)told->asked;
    told->asked = -1;
    if (plan_output_kind(told->of, output) != KIND_RELAY) {
        return;
    }
    const drom_relay_state *const state = plan_output(told->of, output)->state;
    if (state->is_on != state->is_wanted_on) {
        const drom_us wait = drom_deadline_wait(&state->least, (drom_us)told->row_at_us);
        g_string_append_printf(told->cells[OUTPUT], ", in %u ms: its least %s time", wait / 1000,
                               state->is_on ? "on" : "off");
    } else {
        g_string_append_printf(told->cells[OUTPUT], ": is %s already", state->is_on ? "on" : "off");
    }
}

/* The cell to write into: of the row that is being written when it is free there, else of a new one. */
static GString *cell_at(timeline *told, enum cell_of column)
{
    settle_asked(told);
    const uint64_t now_us = sim_bench_now(told->bench);
    bool is_free = told->has_row && told->row_at_us == now_us;
    for (int i = (int)column; i < CELLS; i++) {
        is_free &= told->cells[i]->len == 0;
    }
    if (!is_free) {
        end_row(told);
    }
    told->has_row = true;
    told->row_at_us = now_us;
    return told->cells[column];
}

static json_t *object(const timeline *told, const char *kind)
{
    return json_pack("{s:s, s:I}", "kind", kind, "t_us", (json_int_t)sim_bench_now(told->bench));
}

/* Adds members to an object and writes it. */
static void put_with(json_t *about, json_t *members)
{
    (void)json_object_update(about, members);
    json_decref(members);
    put_json(about);
}

static void on_frame(void *context, const drom_frame *frame)
{
    timeline *const told = context;
    const uint64_t now_us = sim_bench_now(told->bench);
    told->has_heard = true;
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        return;
    }
    if (told->format == FORMAT_JSONL) {
        put_json(frame_json(now_us - (drom_us)((drom_us)now_us - frame->at), frame));
        return;
    }
    GString *const cell = cell_at(told, HEARD);
    if (frame->kind == DROM_FRAME_DITTO) {
        g_string_append_printf(cell, "%s, the same again", frame->code.protocol->id);
    } else {
        g_string_append_printf(cell, "%s %u %u", frame->code.protocol->id, frame->code.address,
                               frame->code.command);
    }
}

static bool uses_taps(const plan *of)
{
    const drom_rules_plan *const rules = &plan_tables(of)->rules;
    bool is_used = false;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        is_used |= (rules->rules.rows[i].gestures & DROM_TAP) != 0;
    }
    return is_used;
}

static void on_key(void *context, const drom_key_event *event)
{
    timeline *const told = context;
    const char *const handset = plan_handset_name(told->of, event->handset);
    const char *const key = plan_key_name(told->of, event->handset, event->key);
    told->presses += event->gesture == DROM_PRESS;
    if (told->format == FORMAT_JSONL) {
        const drom_code *const code =
            &plan_tables(told->of)->keys.handsets.rows[event->handset].codes.rows[event->key];
        put_json(key_json(sim_bench_now(told->bench), event, handset, key, code));
        return;
    }
    if (event->gesture == DROM_TAP && !uses_taps(told->of)) { /* press and release have told it */
        return;
    }
    g_string_append_printf(cell_at(told, GESTURE), "%s.%s %s", handset, key,
                           gesture_participle(event->gesture));
}

static void on_rule(void *context, uint8_t row)
{
    timeline *const told = context;
    const int line = plan_rule_line(told->of, row);
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "rule"), json_pack("{s:i}", "line", line));
        return;
    }
    g_string_append_printf(cell_at(told, RULE), "line %d", line);
}

static void on_action(void *context, const drom_action *action)
{
    timeline *const told = context;
    const char *const output = plan_output_name(told->of, action->output);
    g_autofree char *text = plan_action_text(told->of, action);
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "action"), json_pack("{s:s, s:s}", "output", output, "action", text));
        return;
    }
    if (!told->has_heard) {
        g_string_assign(cell_at(told, RULE), "at start");
    }
    g_string_append_printf(cell_at(told, OUTPUT), "%s %s", output, text);
    told->asked = action->output;
}

static void note_driven(output_story *story, uint64_t at_us, bool is_on)
{
    if (is_on) {
        story->on_since_us = at_us;
    } else if (story->is_known) {
        story->on_us += at_us - story->on_since_us;
    }
    story->is_known = true;
    story->driven_at_us = at_us;
    story->bounces = 0;
}

/* The relay on a pin; -1: none. */
static int relay_on_pin(const timeline *told, uint8_t pin)
{
    int found = -1;
    for (unsigned i = 0; i < plan_output_count(told->of); i++) {
        const sim_relay *const relay = told->outputs[i].relay;
        found = relay != NULL && sim_relay_pin(relay) == pin ? (int)i : found;
    }
    return found;
}

static const drom_relay_settings *relay_settings(const timeline *told, unsigned output)
{
    return plan_output(told->of, output)->settings;
}

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    timeline *const told = context;
    const int relay = relay_on_pin(told, pin);
    if (relay < 0) {
        return;
    }
    const unsigned output = (unsigned)relay;
    const bool is_on = is_high != relay_settings(told, output)->is_active_low;
    const char *const state = is_on ? "on" : "off";
    const bool is_first = !told->outputs[output].is_known;
    note_driven(&told->outputs[output], at_us, is_on);
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "output"),
                 json_pack("{s:s, s:s, s:i, s:s}", "output", plan_output_name(told->of, output), "state",
                           state, "pin", (int)pin, "level", is_high ? "high" : "low"));
    } else if (told->asked == (int)output) {
        told->asked = -1;
        g_string_append_printf(told->cells[OUTPUT], ": %s", state);
    } else {
        g_string_append_printf(cell_at(told, OUTPUT), "%s %s%s", plan_output_name(told->of, output), state,
                               is_first ? ", its rest state" : "");
    }
}

static void on_contact(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed)
{
    timeline *const told = context;
    const unsigned output = (unsigned)relay_on_pin(told, sim_relay_pin(relay));
    const char *const name = plan_output_name(told->of, output);
    output_story *const story = &told->outputs[output];
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "contact"), json_pack("{s:s, s:b}", "output", name, "closed", (int)is_closed));
        return;
    }
    if (is_closed != sim_relay_is_energised(relay)) {
        story->bounces++;
    } else if (sim_relay_is_settled(relay)) {
        GString *const cell = cell_at(told, OUTPUT);
        const uint64_t after_us = at_us - story->driven_at_us;
        g_string_append_printf(cell, "%s contacts %s after %u.%u ms", name, is_closed ? "closed" : "open",
                               (unsigned)(after_us / 1000), (unsigned)(after_us / 100 % 10));
        if (story->bounces > 0) {
            g_string_append_printf(cell, ", %u bounce%s", story->bounces, story->bounces > 1 ? "s" : "");
        }
    }
}

static int output_of(const timeline *told, const void *device)
{
    int found = -1;
    for (unsigned i = 0; i < plan_output_count(told->of); i++) {
        const output_story *const story = &told->outputs[i];
        found = story->target == device || story->strip == device ? (int)i : found;
    }
    return found;
}

static void on_burst(void *context, uint64_t at_us, const sim_target *target)
{
    timeline *const told = context;
    const char *const name = plan_output_name(told->of, (unsigned)output_of(told, target));
    (void)at_us;
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "burst"),
                 json_pack("{s:s, s:s}", "output", name, "heard", sim_target_heard(target)));
        return;
    }
    g_string_append_printf(cell_at(told, OUTPUT), "%s was heard: %s", name, sim_target_heard(target));
}

/* A stepper has begun to move, or stands. */
static void tell_motion(timeline *told, unsigned output)
{
    output_story *const story = &told->outputs[output];
    const drom_stepper_state *const state = plan_output(told->of, output)->state;
    if (state->is_moving == story->was_moving) {
        return;
    }
    story->was_moving = state->is_moving;
    if (told->format == FORMAT_JSONL) {
        put_with(object(told, "motion"),
                 json_pack("{s:s, s:b, s:i}", "output", plan_output_name(told->of, output), "moving",
                           (int)state->is_moving, "position", (int)state->position));
    } else if (!state->is_moving) {
        g_string_append_printf(cell_at(told, OUTPUT), "%s stands at step %d",
                               plan_output_name(told->of, output), (int)state->position);
    }
}

static void wire(timeline *told, unsigned output)
{
    output_story *const story = &told->outputs[output];
    const void *const settings = plan_output(told->of, output)->settings;
    const drom_relay_settings *const relay = settings;
    const drom_stepper_settings *const stepper = settings;
    const drom_strip_settings *const strip = settings;
    const drom_sender_settings *const sender = settings;
    switch (plan_output_kind(told->of, output)) {
    case KIND_RELAY:
        story->relay = sim_bench_wire_relay(told->bench, relay->pin, relay->is_active_low);
        break;
    case KIND_STEPPER: /* one that is a quarter better than the plan asks for */
        story->stepper = sim_bench_wire_stepper(told->bench, stepper->pins, 1.25e6 / stepper->fastest_us);
        break;
    case KIND_STRIP:
        story->strip = sim_bench_wire_strip(told->bench, strip->pin, strip->count, 9);
        break;
    case KIND_SENDER:
        story->target = sim_bench_wire_target(told->bench, sender->pin);
        break;
    case KIND_LAMP:
    case OUTPUT_KINDS:
        break;
    }
}

timeline *timeline_new(const plan *of, sim_bench *bench, output_format format)
{
    timeline *const told = g_new0(timeline, 1);
    told->of = of;
    told->bench = bench;
    told->format = format;
    told->asked = -1;
    told->outputs = g_new0(output_story, plan_output_count(of));
    for (int i = 0; i < CELLS; i++) {
        told->cells[i] = g_string_new(NULL);
    }
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        wire(told, i);
    }
    if (format == FORMAT_TEXT) {
        (void)printf("%s\n\n", plan_title(of));
        g_autofree char *head = g_strdup_printf("%9s    %-*s%-*s%-*s%s\n", "time", widths[HEARD], "came in",
                                                widths[GESTURE], "gesture", widths[RULE], "rule", "outputs");
        put_toned(TONE_STRONG, head);
    }
    sim_bench_watch(bench,
                    &(sim_watch){.context = told, .pin = on_pin, .contact = on_contact, .burst = on_burst});
    return told;
}

void timeline_watch_engine(timeline *told, drom_engine *engine)
{
    told->watch = (drom_watch){
        .context = told,
        .frame = on_frame,
        .key = on_key,
        .rule = on_rule,
        .action = on_action,
    };
    drom_engine_watch(engine, &told->watch);
}

void timeline_settle(timeline *told)
{
    settle_asked(told);
    for (unsigned i = 0; i < plan_output_count(told->of); i++) {
        if (told->outputs[i].stepper != NULL) {
            tell_motion(told, i);
        }
    }
}

/* What an output has done in all. */
static void sum_up(const timeline *told, unsigned output, uint64_t now_us)
{
    const output_story *const story = &told->outputs[output];
    const drom_output *const row = plan_output(told->of, output);
    if (story->relay != NULL) {
        const bool is_on = ((const drom_relay_state *)row->state)->is_on;
        const uint64_t on_us = story->on_us + (is_on ? now_us - story->on_since_us : 0);
        const unsigned switched = sim_relay_operations(story->relay);
        (void)printf("switched %u time%s, on for %.3f s in all, ends %s\n", switched,
                     switched == 1 ? "" : "s", (double)on_us / 1e6, is_on ? "on" : "off");
    } else if (story->stepper != NULL) {
        (void)printf("ends at step %ld, %u steps lost\n", sim_stepper_position(story->stepper),
                     sim_stepper_lost(story->stepper));
    } else if (story->strip != NULL) {
        (void)printf("refreshed %u times, %u wrong pixels\n", sim_strip_refreshes(story->strip),
                     sim_strip_wrong(story->strip));
    } else if (story->target != NULL) {
        (void)printf("sent %u frames that were understood, %u that weren't\n",
                     sim_target_frames(story->target), sim_target_unknown(story->target));
    } else {
        const drom_lamp_state *const lamp = row->state;
        (void)printf("ends at %d %%\n", (lamp->level * 100 + 127) / 255);
    }
}

void timeline_end(timeline *told)
{
    const uint64_t now_us = sim_bench_now(told->bench);
    if (told->format == FORMAT_JSONL) {
        return;
    }
    settle_asked(told);
    end_row(told);
    end_rows(&told->rows);
    (void)printf("\n%u press%s in %.3f s\n", told->presses, told->presses == 1 ? "" : "es",
                 (double)now_us / 1e6);
    for (unsigned i = 0; i < plan_output_count(told->of); i++) {
        (void)printf("%s: ", plan_output_name(told->of, i));
        sum_up(told, i, now_us);
    }
}

void timeline_free(timeline *told)
{
    for (int i = 0; i < CELLS; i++) {
        g_string_free(told->cells[i], TRUE);
    }
    g_free(told->outputs);
    g_free(told);
}
