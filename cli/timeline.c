/* One row an event, in four columns: what came in, the gesture, the rule, and what the outputs did. What
 * follows from something at the same moment goes on in the same row. */
#include "timeline.h"

#include "kinds.h"

#include <string.h>

enum cell_of { HEARD, GESTURE, RULE, OUTPUT, CELLS };

static const int widths[CELLS] = {18, 21, 9, 0};

typedef struct output_story {
    void *device; /* what is wired to it; NULL: nothing that is known */
    uint64_t driven_at_us;
    uint64_t on_since_us;
    uint64_t on_us; /* in all */
    unsigned bounces;
    bool is_known; /* it has been driven, and so has a state */
    bool is_on;
    bool was_moving;
} output_story;

typedef struct heard_press {
    uint64_t at_us;
    unsigned handset;
    unsigned key;
} heard_press;

struct timeline {
    const plan *plan;
    sim_bench *bench;
    output_format format;
    drom_observer observer;
    GString *cells[CELLS];
    uint64_t row_at_us;
    bool has_row;
    row_writer rows;
    output_story *outputs; /* one of the plan each */
    GArray *movers;        /* of unsigned: which of them can move */
    int asked;             /* the output that an action was about, and hasn't answered yet; -1: none */
    unsigned presses;
    GArray *heard;  /* of heard_press: those that were not asked for yet */
    bool has_heard; /* a frame */
};

static void end_row(timeline *view)
{
    if (!view->has_row) {
        return;
    }
    g_autoptr(GString) row = g_string_new(NULL);
    const bool has_rule = view->cells[RULE]->len > 0;
    const bool is_plain = !has_rule && view->cells[OUTPUT]->len == 0;
    for (int i = 0; i < CELLS; i++) {
        g_string_append_printf(row, "%-*s", widths[i], view->cells[i]->str);
        if (i < OUTPUT && (int)view->cells[i]->len >= widths[i]) {
            g_string_append_c(row, ' ');
        }
        g_string_truncate(view->cells[i], 0);
    }
    view->has_row = false;
    put_row(&view->rows, view->row_at_us, g_strchomp(row->str), is_plain ? TONE_PLAIN : TONE_STRONG,
            is_plain);
}

/* An action that changed nothing at once still needs its reason. */
static void settle_asked(timeline *view)
{
    if (view->asked < 0) {
        return;
    }
    const unsigned output = (unsigned)view->asked;
    const output_kind *const kind = plan_output_kind(view->plan, output);
    view->asked = -1;
    if (kind->unanswered != NULL) {
        g_autofree char *why = kind->unanswered(plan_output(view->plan, output), (drom_us)view->row_at_us);
        g_string_append(view->cells[OUTPUT], why);
    }
}

/* The cell to write into: of the row that is being written when it is free there, else of a new one. */
static GString *cell_at(timeline *view, enum cell_of column)
{
    settle_asked(view);
    const uint64_t now_us = sim_bench_now(view->bench);
    bool is_free = view->has_row && view->row_at_us == now_us;
    for (int i = (int)column; i < CELLS; i++) {
        is_free &= view->cells[i]->len == 0;
    }
    if (!is_free) {
        end_row(view);
    }
    view->has_row = true;
    view->row_at_us = now_us;
    return view->cells[column];
}

static json_t *object(const timeline *view, const char *kind)
{
    return json_pack("{s:s, s:I}", "kind", kind, "t_us", (json_int_t)sim_bench_now(view->bench));
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
    timeline *const view = context;
    const uint64_t now_us = sim_bench_now(view->bench);
    view->has_heard = true;
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        return;
    }
    if (view->format == FORMAT_JSONL) {
        put_json(frame_json(now_us - (drom_us)((drom_us)now_us - frame->at), frame));
        return;
    }
    GString *const cell = cell_at(view, HEARD);
    if (frame->kind == DROM_FRAME_REPEAT) {
        g_string_append_printf(cell, "%s again", frame->code.protocol->id);
    } else {
        g_string_append_printf(cell, "%s %u %u", frame->code.protocol->id, frame->code.address,
                               frame->code.command);
    }
}

static bool uses_taps(const plan *loaded)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    bool is_used = false;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        is_used |= (rules->rules.rows[i].gestures & DROM_TAP) != 0;
    }
    return is_used;
}

static void on_key(void *context, const drom_key_event *event)
{
    timeline *const view = context;
    const char *const handset = plan_handset_name(view->plan, event->handset);
    const char *const key = plan_key_name(view->plan, event->handset, event->key);
    if (event->gesture == DROM_PRESS) {
        const heard_press press = {sim_bench_now(view->bench), event->handset, event->key};
        g_array_append_val(view->heard, press);
        view->presses++;
    }
    if (view->format == FORMAT_JSONL) {
        const drom_code *const code =
            &plan_tables(view->plan)->keys.handsets.rows[event->handset].codes.rows[event->key];
        put_json(key_json(sim_bench_now(view->bench), event, handset, key, code));
        return;
    }
    if (event->gesture == DROM_TAP && !uses_taps(view->plan)) { /* press and release have reported it */
        return;
    }
    g_string_append_printf(cell_at(view, GESTURE), "%s.%s %s", handset, key,
                           gesture_participle(event->gesture));
}

static void on_rule(void *context, uint8_t row)
{
    timeline *const view = context;
    const int line = plan_rule_line(view->plan, row);
    if (line == 0) { /* what is done at start */
        return;
    }
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "rule"), json_pack("{s:i}", "line", line));
        return;
    }
    g_string_append_printf(cell_at(view, RULE), "line %d", line);
}

static void on_action(void *context, const drom_action *action)
{
    timeline *const view = context;
    const char *const output = plan_output_name(view->plan, action->row);
    g_autofree char *text = plan_action_text(view->plan, action);
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "action"), json_pack("{s:s, s:s}", "output", output, "action", text));
        return;
    }
    if (!view->has_heard) {
        g_string_assign(cell_at(view, RULE), "at start");
    }
    g_string_append_printf(cell_at(view, OUTPUT), "%s %s", output, text);
    view->asked = action->row;
}

static void note_driven(output_story *story, uint64_t at_us, bool is_on)
{
    if (is_on) {
        story->on_since_us = at_us;
    } else if (story->is_known) {
        story->on_us += at_us - story->on_since_us;
    }
    story->is_known = true;
    story->is_on = is_on;
    story->driven_at_us = at_us;
    story->bounces = 0;
}

/* What is switched by a pin; -1: nothing is. */
static int switched_by(const timeline *view, uint8_t pin, bool *is_active_low)
{
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        const output_kind *const kind = plan_output_kind(view->plan, i);
        if (kind->switched_pin != NULL &&
            kind->switched_pin(plan_output(view->plan, i), is_active_low) == pin) {
            return (int)i;
        }
    }
    return -1;
}

static void on_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    timeline *const view = context;
    bool is_active_low = false;
    const int switched = switched_by(view, pin, &is_active_low);
    if (switched < 0) {
        return;
    }
    const unsigned output = (unsigned)switched;
    const bool is_on = is_high != is_active_low;
    const char *const state = is_on ? "on" : "off";
    const bool is_first = !view->outputs[output].is_known;
    note_driven(&view->outputs[output], at_us, is_on);
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "output"),
                 json_pack("{s:s, s:s, s:i, s:s}", "output", plan_output_name(view->plan, output), "state",
                           state, "pin", (int)pin, "level", is_high ? "high" : "low"));
    } else if (view->asked == (int)output) {
        view->asked = -1;
        g_string_append_printf(view->cells[OUTPUT], ": %s", state);
    } else {
        g_string_append_printf(cell_at(view, OUTPUT), "%s %s%s", plan_output_name(view->plan, output), state,
                               is_first ? ", its rest state" : "");
    }
}

static unsigned output_of(const timeline *view, const void *device)
{
    unsigned found = 0;
    while (view->outputs[found].device != device) {
        found++;
    }
    return found;
}

static void on_contact(void *context, uint64_t at_us, const sim_relay *relay, bool is_closed)
{
    timeline *const view = context;
    const unsigned output = output_of(view, relay);
    const char *const name = plan_output_name(view->plan, output);
    output_story *const story = &view->outputs[output];
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "contact"), json_pack("{s:s, s:b}", "output", name, "closed", (int)is_closed));
        return;
    }
    if (is_closed != sim_relay_is_energised(relay)) {
        story->bounces++;
    } else if (sim_relay_is_settled(relay)) {
        GString *const cell = cell_at(view, OUTPUT);
        const uint64_t after_us = at_us - story->driven_at_us;
        g_string_append_printf(cell, "%s contacts %s after %u.%u ms", name, is_closed ? "closed" : "open",
                               (unsigned)(after_us / 1000), (unsigned)(after_us / 100 % 10));
        if (story->bounces > 0) {
            g_string_append_printf(cell, ", %u bounce%s", story->bounces, story->bounces > 1 ? "s" : "");
        }
    }
}

static void on_burst(void *context, uint64_t at_us, const sim_target *target)
{
    timeline *const view = context;
    const char *const name = plan_output_name(view->plan, output_of(view, target));
    (void)at_us;
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "burst"),
                 json_pack("{s:s, s:s}", "output", name, "heard", sim_target_heard(target)));
        return;
    }
    g_string_append_printf(cell_at(view, OUTPUT), "%s was heard: %s", name, sim_target_heard(target));
}

/* An output has begun to move, or stands. */
static void report_motion(timeline *view, unsigned output)
{
    output_story *const story = &view->outputs[output];
    int32_t position = 0;
    const bool is_moving =
        plan_output_kind(view->plan, output)->moves(plan_output(view->plan, output), &position);
    if (is_moving == story->was_moving) {
        return;
    }
    story->was_moving = is_moving;
    if (view->format == FORMAT_JSONL) {
        put_with(object(view, "motion"),
                 json_pack("{s:s, s:b, s:i}", "output", plan_output_name(view->plan, output), "moving",
                           (int)is_moving, "position", (int)position));
    } else if (!is_moving) {
        g_autofree char *text =
            plan_output_kind(view->plan, output)->place_text(plan_output(view->plan, output));
        g_string_append_printf(cell_at(view, OUTPUT), "%s stands at %s", plan_output_name(view->plan, output),
                               text);
    }
}

static void wire(timeline *view, unsigned output)
{
    const output_kind *const kind = plan_output_kind(view->plan, output);
    if (kind->wire != NULL) {
        view->outputs[output].device = kind->wire(view->bench, plan_output(view->plan, output));
    }
    if (kind->moves != NULL) {
        g_array_append_val(view->movers, output);
    }
}

timeline *timeline_new(const plan *loaded, sim_bench *bench, output_format format)
{
    timeline *const view = g_new0(timeline, 1);
    view->plan = loaded;
    view->bench = bench;
    view->format = format;
    view->asked = -1;
    view->outputs = g_new0(output_story, plan_output_count(loaded));
    view->heard = g_array_new(FALSE, FALSE, sizeof(heard_press));
    view->movers = g_array_new(FALSE, FALSE, sizeof(unsigned));
    for (int i = 0; i < CELLS; i++) {
        view->cells[i] = g_string_new(NULL);
    }
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        wire(view, i);
    }
    if (format == FORMAT_TEXT) {
        (void)printf("%s\n\n", plan_title(loaded));
        g_autofree char *head = g_strdup_printf("%9s    %-*s%-*s%-*s%s\n", "time", widths[HEARD], "came in",
                                                widths[GESTURE], "gesture", widths[RULE], "rule", "outputs");
        put_toned(TONE_STRONG, head);
    }
    sim_bench_observe(
        bench, &(sim_observer){.context = view, .pin = on_pin, .contact = on_contact, .burst = on_burst});
    return view;
}

void timeline_observe_engine(timeline *view, drom_engine *engine)
{
    view->observer = (drom_observer){
        .context = view,
        .frame = on_frame,
        .key = on_key,
        .rule = on_rule,
        .action = on_action,
    };
    drom_engine_observe(engine, &view->observer);
}

void timeline_settle(timeline *view)
{
    settle_asked(view);
    for (guint i = 0; i < view->movers->len; i++) {
        report_motion(view, g_array_index(view->movers, unsigned, i));
    }
}

/* What an output has done in all. */
static void sum_up(const timeline *view, unsigned output, uint64_t now_us)
{
    const output_story *const story = &view->outputs[output];
    const output_kind *const kind = plan_output_kind(view->plan, output);
    const uint64_t on_us = story->on_us + (story->is_on ? now_us - story->on_since_us : 0);
    g_autofree char *text = kind->sum_up(plan_output(view->plan, output), story->device, on_us);
    (void)printf("%s\n", text);
}

void timeline_end(timeline *view)
{
    const uint64_t now_us = sim_bench_now(view->bench);
    if (view->format == FORMAT_JSONL) {
        return;
    }
    settle_asked(view);
    end_row(view);
    end_rows(&view->rows);
    (void)printf("\n%u press%s in %.3f s\n", view->presses, view->presses == 1 ? "" : "es",
                 (double)now_us / 1e6);
    for (unsigned i = 0; i < plan_output_count(view->plan); i++) {
        (void)printf("%s: ", plan_output_name(view->plan, i));
        sum_up(view, i, now_us);
    }
}

unsigned timeline_presses(const timeline *view)
{
    return view->presses;
}

bool timeline_has_heard(timeline *view, unsigned handset, unsigned key, uint64_t from_us, uint64_t until_us)
{
    for (guint i = 0; i < view->heard->len; i++) {
        const heard_press *const press = &g_array_index(view->heard, heard_press, i);
        if (press->at_us > until_us) {
            break;
        }
        if (press->handset == handset && press->key == key && press->at_us >= from_us) {
            g_array_remove_index(view->heard, i);
            return true;
        }
    }
    return false;
}

void timeline_put_unheard(const timeline *view, const script_press *row, const char *why)
{
    const char *const handset = plan_handset_name(view->plan, row->handset);
    const char *const key = plan_key_name(view->plan, row->handset, row->key);
    if (view->format == FORMAT_JSONL) {
        put_json(json_pack("{s:s, s:I, s:s, s:s, s:i, s:s}", "kind", "unheard", "t_us",
                           (json_int_t)row->at_ms * 1000, "handset", handset, "key", key, "line", row->line,
                           "why", why));
        return;
    }
    (void)printf("not heard: %s.%s at %u.%03u s (line %d of the script): %s\n", handset, key,
                 row->at_ms / 1000, row->at_ms % 1000, row->line, why);
}

void timeline_free(timeline *view)
{
    for (int i = 0; i < CELLS; i++) {
        g_string_free(view->cells[i], TRUE);
    }
    g_free(view->outputs);
    g_array_unref(view->movers);
    g_array_unref(view->heard);
    g_free(view);
}
