/* The sender. Its keys are those that its orders name. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"

#include "dromikos/outputs/sender.h"

#include <math.h>
#include <string.h>

enum { SHIELDED };

enum { MAX_EACH_MS = 2500 };

enum { LED_MV = 1350, LED_MA = 100, /* while it is lit */ BURST_EDGES_S = 630 /* 68 in each 108 ms */ };

static const kind_clause clauses[] = {{"shielded", SHIELDED, .fixed = 1}, {0}};

/* Returns the row of the key among those that it sends. */
static uint32_t key_row(plan *made, const action_words *action, guint each_ms)
{
    const uint32_t row = plan_sent_row(made, action, each_ms);
    if (row >= DROM_SENDER_PRESSES) {
        report_error(made->source->faults, action->where, "'%s' sends %d keys at most", action->name.text,
                     DROM_SENDER_PRESSES);
        return 0;
    }
    return row;
}

static uint32_t send_key(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return DROM_SEND(key_row(made, action, 0), 0);
}

static uint32_t count_of(plan *made, const action_words *action, const char *what)
{
    const uint32_t count = action->values[1].number;
    if (count < 1 || count > 255) {
        report_error(made->source->faults, action->values[1].where, "a key can be sent %s", what);
    }
    return MIN(count, 255);
}

static uint32_t send_frames(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return DROM_SEND(key_row(made, action, 0), count_of(made, action, "with 1 to 255 frames"));
}

static uint32_t send_times(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return DROM_SEND_PRESSES(key_row(made, action, 0), count_of(made, action, "1 to 255 times"));
}

/* 'while held' also holds the key. */
static uint32_t send_or_hold(plan *made, action_words *action, const kind_order *order)
{
    if (action->is_while_held) {
        action->verb = DROM_SENDER_HOLD;
    }
    return send_key(made, action, order) | (action->is_while_held ? DROM_SENDER_PASSES_ON : 0);
}

static uint32_t part_us(const drom_waveform *waveform, const drom_code *code, drom_press_part part)
{
    drom_encoder encoder;
    uint32_t lasts_us = 0;
    if (drom_encode_begin(&encoder, waveform, code, part, false) == DROM_OK) {
        for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
            lasts_us += us;
        }
    }
    return lasts_us;
}

/* Returns the time from the start of a frame to the start of the next of the press. */
static uint32_t period_us(const drom_waveform *waveform, const drom_code *code, drom_press_part part)
{
    const drom_protocol *const protocol = waveform->protocol;
    return (uint32_t)(protocol->period_us != 0 ? protocol->period_us
                                               : part_us(waveform, code, part) + protocol->gap_us);
}

/* Returns the duration of the shortest press. */
static uint32_t press_us(const drom_waveform *waveform, const drom_code *code)
{
    const uint32_t first_us = part_us(waveform, code, DROM_SEND_FIRST);
    const uint32_t repeat_us = part_us(waveform, code, DROM_SEND_REPEAT);
    uint32_t lasts_us = waveform->boundary_gap_us + first_us;
    for (unsigned i = 1; i < waveform->min_frames; i++) {
        lasts_us += i == 1 ? period_us(waveform, code, DROM_SEND_FIRST) - first_us + repeat_us
                           : period_us(waveform, code, DROM_SEND_REPEAT);
    }
    return lasts_us;
}

/* Returns the time from the start of a press to when one more frame of it would be due. */
static uint32_t span_us(const drom_waveform *waveform, const drom_code *code)
{
    const drom_press_part last = waveform->min_frames > 1 ? DROM_SEND_REPEAT : DROM_SEND_FIRST;
    return press_us(waveform, code) - part_us(waveform, code, last) + period_us(waveform, code, last);
}

/* Shortest time between the starts of two presses of a key. */
static uint32_t least_each_us(const drom_waveform *waveform, const drom_code *code)
{
    return span_us(waveform, code) + period_us(waveform, code, DROM_SEND_REPEAT) * 5 / 8;
}

/* Returns an order's key that is sent as separate presses while another is held. */
static uint32_t send_each(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    const phrase_value *const given = &action->values[1];
    const uint32_t row = key_row(made, action, given->number);
    if (!action->is_while_held) {
        report_error(made->source->faults, given->where,
                     "presses go on for as long as a key is held: end this with 'while held'");
    }
    if (report_errors(made->source->faults) == 0) {
        const drom_code *const code = plan_sent_code(made, (guint)action->row, row);
        const uint32_t least_ms = least_each_us(plan_waveform(made, code->protocol), code) / 1000 + 1;
        if (given->number < least_ms || given->number > MAX_EACH_MS) {
            report_error(made->source->faults, given->where, "presses of '%s.%s' can begin each %u to %d ms",
                         action->values[0].name.text, action->values[0].key.text, least_ms, MAX_EACH_MS);
        }
    }
    return DROM_SENDER_PASSES_ON | row;
}

static const kind_order orders[] = {
    {"send KEY", DROM_SENDER_SEND, .can_be_held = true, .value = send_or_hold},
    {"send KEY again each TIME", DROM_SENDER_HOLD, .can_be_held = true, .value = send_each},
    {"send KEY N times", DROM_SENDER_SEND, .value = send_times},
    {"send KEY N frames", DROM_SENDER_SEND, .value = send_frames},
    {"hold KEY", DROM_SENDER_HOLD, .value = send_key},
    {"let go", .verb = DROM_SENDER_LET_GO},
    {0},
};

static uint8_t in_ms(uint32_t us)
{
    return (uint8_t)MIN(us / 1000 + 1, UINT8_MAX);
}

/* Silence that its receiver needs before a frame. */
static uint32_t before_us(const drom_protocol *protocol)
{
    return (protocol->needs & DROM_USES(SINGLE_LEADER)) != 0 ? (uint32_t)protocol->gap_us
                                                             : protocol->lead_in_us;
}

/* Duration of a key's repeat, with the silence before it; and the silence that two frames of another key
 * leave for it. */
static uint32_t repeat_needs_us(const drom_waveform *heard_as, const drom_code *heard)
{
    enum { AROUND_US = 1000 };
    return before_us(heard_as->protocol) + part_us(heard_as, heard, DROM_SEND_REPEAT) + AROUND_US;
}

static uint32_t silence_us(const drom_waveform *sent_as, const drom_code *sent)
{
    return period_us(sent_as, sent, DROM_SEND_REPEAT) - part_us(sent_as, sent, DROM_SEND_REPEAT);
}

/* True if a repeat of one key can be received between two frames of another. Else it isn't known, while the
 * other is sent, whether the key is still down. */
static bool leaves_room(const drom_waveform *sent_as, const drom_code *sent, const drom_waveform *heard_as,
                        const drom_code *heard)
{
    return silence_us(sent_as, sent) >= repeat_needs_us(heard_as, heard);
}

/* Without that a hold is passed on as one press. */
static void of_key(const plan *made, drom_action *action, uint8_t handset, uint8_t key)
{
    const drom_code *const heard = &((const drom_code *)g_ptr_array_index(made->codes, handset))[key];
    const drom_waveform *const heard_as = plan_waveform(made, heard->protocol);
    const drom_code *const sent =
        plan_sent_code(made, action->row, action->value & (DROM_SENDER_PRESSES - 1));
    const bool is_in_presses =
        plan_sent_each(made, (guint)action->row, action->value & (DROM_SENDER_PRESSES - 1)) > 0;
    if (action->verb == DROM_SENDER_HOLD && !is_in_presses && heard_as != NULL && heard_as->pack != NULL &&
        !leaves_room(plan_waveform(made, sent->protocol), sent, heard_as, heard)) {
        action->verb = DROM_SENDER_SEND;
        action->value = DROM_SEND(action->value & (DROM_SENDER_PRESSES - 1), 0);
        action->flags &= (uint8_t)~DROM_WHILE_HELD;
    }
}

/* The pause of a key that is sent as presses, in the core's units. */
static uint8_t each_10ms(const plan *made, guint output, guint row)
{
    const drom_code *const code = plan_sent_code(made, output, row);
    const guint each_ms = plan_sent_each(made, output, row);
    const uint32_t span_ms = span_us(plan_waveform(made, code->protocol), code) / 1000;
    return each_ms > span_ms ? (uint8_t)MIN((each_ms - span_ms + 5) / 10, UINT8_MAX) : 0;
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    const GArray *const sent = g_ptr_array_index(made->sent, output);
    drom_sender_key *const keys = plan_keep(made, MAX(sent->len, 1) * sizeof *keys);
    for (guint i = 0; i < sent->len; i++) {
        const drom_code *const code = plan_sent_code(made, output, i);
        const drom_waveform *const waveform = plan_waveform(made, code->protocol);
        keys[i] = (drom_sender_key){waveform,
                                    code->address,
                                    code->command,
                                    in_ms(press_us(waveform, code)),
                                    in_ms(part_us(waveform, code, DROM_SEND_REPEAT)),
                                    each_10ms(made, output, i)};
    }
    drom_sender_settings *const settings = plan_keep(made, sizeof *settings);
    drom_sender_state *const state = plan_keep(made, sizeof *state);
    settings->keys.rows = keys;
    settings->keys.count = (uint8_t)sent->len;
    settings->pin = plan_pin(made, line, 0);
    settings->is_shielded = line_value(line, SHIELDED, 0) != 0;
    return (drom_output)DROM_SENDER(*settings, *state);
}

static void bake_tables(GString *out, const plan *loaded, guint output)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    if (settings->keys.count == 0) {
        return;
    }
    g_string_append_printf(out, "static const drom_sender_key DROM_FLASH keys_%s[] = {\n",
                           plan_output_name(loaded, output));
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        const drom_sender_key *const key = &settings->keys.rows[i];
        g_string_append_printf(out, "    {&%s_%s_waveform, 0x%x, 0x%x, %u, %u, %u},\n",
                               plan_is_declared(loaded, key->waveform->protocol) ? "own" : "drom",
                               key->waveform->protocol->id, key->address, key->command, key->press_ms,
                               key->repeat_ms, key->each_10ms);
    }
    g_string_append(out, "};\n");
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    if (settings->keys.count > 0) {
        g_string_append_printf(out, ".keys = DROM_ROWS(keys_%s), ", plan_output_name(loaded, output));
    }
    g_string_append_printf(out, ".pin = %u, .is_shielded = %s", settings->pin, c_bool(settings->is_shielded));
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    if (action->verb == DROM_SENDER_LET_GO) {
        return NULL;
    }
    g_autofree char *key = plan_sent_name(loaded, action->row, action->value & (DROM_SENDER_PRESSES - 1));
    const unsigned count = action->verb == DROM_SENDER_SEND ? action->value >> 8 : 0;
    const bool are_presses = (action->value & DROM_SENDER_PRESSES) != 0;
    const guint each_ms = plan_sent_each(loaded, action->row, action->value & (DROM_SENDER_PRESSES - 1));
    g_autofree char *more = count > 0     ? g_strdup_printf(" %u %s", count, are_presses ? "times" : "frames")
                            : each_ms > 0 ? g_strdup_printf(" again each %u ms", each_ms)
                                          : g_strdup("");
    return g_strdup_printf("%s %s%s", action->verb == DROM_SENDER_HOLD ? "hold" : "send", key, more);
}

static activity activity_of(const drom_output *output)
{
    const drom_sender_state *const state = output->state;
    return state->is_held ? ENDLESS : state->waiting > 0 ? ENDING : IDLE;
}

/* Returns the most keys that a list of actions queues without a wait in between that lets it send them; short
 * waits aren't judged. */
static unsigned max_at_once(const drom_action *actions, uint8_t count, guint output)
{
    unsigned max = 0;
    unsigned given = 0;
    for (uint8_t i = 0; i < count; i++) {
        const bool waits = actions[i].target == DROM_TO_WAIT || actions[i].target == DROM_TO_WAIT_FOR;
        const bool sends = actions[i].target == DROM_TO_OUTPUT && actions[i].row == output &&
                           actions[i].verb != DROM_SENDER_LET_GO;
        given = waits ? 0 : given + sends;
        max = MAX(max, given);
    }
    return max;
}

static void vet_queue(const vetting *job, guint output)
{
    const drom_rules_plan *const rules = &plan_tables(job->plan)->rules;
    unsigned max = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        const drom_rule *const rule = &rules->rules.rows[i];
        max = MAX(max, max_at_once(rule->actions.rows, rule->actions.count, output));
        max = MAX(max, max_at_once(rule->otherwise.rows, rule->otherwise.count, output));
    }
    if (max > 1) {
        const char *const name = plan_output_name(job->plan, output);
        vet_add(job->result->times, max <= DROM_SENDER_QUEUE ? VET_FITS : VET_FAILS, name,
                "keys that a rule sends at once can wait", max, DROM_SENDER_QUEUE, "keys",
                g_strdup_printf("what is more is never sent: let the rule wait, as in: wait for %s", name));
    }
}

/* Checks the gaps that a passed-on key leaves. */
static void vet_passed_on(const vetting *job, guint output, const char *handset, const char *key, guint row)
{
    const plan *const made = job->plan;
    const int hand = source_find_handset(made->source, handset);
    const sheet *const keys = hand >= 0 ? g_ptr_array_index(made->sheets, (guint)hand) : NULL;
    const int found = keys != NULL ? sheet_find(keys, key) : -1;
    const drom_code *const heard =
        found >= 0 ? &g_array_index(keys->keys, sheet_key, (guint)found).code : NULL;
    const drom_waveform *const heard_as = heard != NULL ? plan_waveform(made, heard->protocol) : NULL;
    if (heard_as == NULL || heard_as->pack == NULL) {
        return;
    }
    const drom_code *const sent = plan_sent_code(made, output, row);
    const drom_waveform *const sent_as = plan_waveform(made, sent->protocol);
    const char *const name = plan_output_name(made, output);
    const double clock = 0.84; /* tolerance of handsets' clocks, in either direction */
    const double gap_us = clock * period_us(heard_as, heard, DROM_SEND_REPEAT) -
                          part_us(heard_as, heard, DROM_SEND_REPEAT) - DROM_QUIET_US;
    if (press_us(sent_as, sent) > gap_us) {
        g_autofree char *what =
            g_strdup_printf("a press covers repeats of %s.%s, which leaves it", handset, key);
        vet_add(job->result->times, VET_TIGHT, name, what, MAX(gap_us, 0) / 1000,
                press_us(sent_as, sent) / 1000.0, "ms",
                g_strdup("aim its LED at the appliance, and keep that out of the handset's light ("
                         "'rehearse --in-sight' shows what comes of it otherwise)"));
    }
    if (!leaves_room(sent_as, sent, heard_as, heard) && plan_sent_each(made, output, row) == 0) {
        g_autofree char *what =
            g_strdup_printf("%s.%s held is one press: its repeats aren't heard within", handset, key);
        vet_add(job->result->times, VET_TIGHT, name, what, silence_us(sent_as, sent) / 1000.0,
                repeat_needs_us(heard_as, heard) / 1000.0, "ms",
                g_strdup_printf("for presses while it is held: %s as KEY again each 250 ms", key));
    }
}

/* Each pair of keys once. */
static void vet_translations(const vetting *job, guint output)
{
    const GArray *const rules = job->plan->source->rules;
    for (guint i = 0; i < rules->len; i++) {
        const rule_line *const rule = &g_array_index(rules, rule_line, i);
        const trigger *const about =
            rule->triggers->len > 0 ? &g_array_index(rule->triggers, trigger, 0) : NULL;
        for (guint j = 0; about != NULL && about->source == DROM_SOURCE_KEY && j < rule->actions->len; j++) {
            const action_words *const action = &g_array_index(rule->actions, action_words, j);
            if (action->target == DROM_TO_OUTPUT && action->row == (int)output && action->is_while_held &&
                action->verb == DROM_SENDER_HOLD && about->key.text != NULL) {
                vet_passed_on(job, output, about->name.text, about->key.text,
                              action->value & (DROM_SENDER_PRESSES - 1));
            }
        }
    }
}

/* A late edge of a burst lengthens one interval and shortens the next. */
static void vet(const vetting *job, guint output)
{
    vet_queue(job, output);
    const drom_sender_settings *const settings = plan_output(job->plan, output)->settings;
    if (settings->keys.count == 0) { /* no rule sends with it */
        return;
    }
    if (!settings->is_shielded) {
        vet_translations(job, output);
    }
    const double late_us = vet_longest_wait_us(job);
    vet_verdict worst = VET_FITS;
    double bearable_us = INFINITY;
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        const drom_protocol *const protocol = settings->keys.rows[i].waveform->protocol;
        const double its_us = vet_bearable_us(protocol);
        worst = MAX(worst, late_us <= its_us ? VET_FITS : vet_when_late(job, protocol));
        bearable_us = MIN(bearable_us, its_us);
    }
    vet_add(job->result->times, worst, plan_output_name(job->plan, output),
            "an edge of a burst comes late by up to", late_us, bearable_us, "us",
            g_strdup_printf("keep interrupts off in your own code for at most %.0f µs at a time",
                            MAX(0, floor(bearable_us - job->board.alarm_us - job->board.capture_us))));
}

static double edges_s(const output_line *line)
{
    (void)line;
    return BURST_EDGES_S;
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    sim_target *const target = sim_bench_wire_target(bench, settings->pin);
    sim_target_learn(target, settings->keys.rows, settings->keys.count);
    return target;
}

static unsigned asks_for(const plan *loaded, const drom_action *action)
{
    const guint row = action->value & (DROM_SENDER_PRESSES - 1);
    const bool is_counted = (action->value & DROM_SENDER_PRESSES) != 0;
    return action->verb == DROM_SENDER_LET_GO             ? 0
           : action->verb == DROM_SENDER_SEND             ? is_counted ? action->value >> 8 : 1
           : plan_sent_each(loaded, action->row, row) > 0 ? ASKS_FOR_ANY
                                                          : 1;
}

static unsigned has_counted(const plan *loaded, guint output, void *device)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    unsigned presses = 0;
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        presses += sim_target_presses(device, i);
    }
    return presses;
}

enum state { SENDS_NOTHING, SENDS_KEY, SENT_NOTHING, SENT_TIMES, SENT_ONCE };

static const char *const states[] = {
    [SENDS_NOTHING] = "sends nothing", [SENDS_KEY] = "sends KEY",     [SENT_NOTHING] = "sent nothing",
    [SENT_TIMES] = "sent KEY N times", [SENT_ONCE] = "sent KEY once", NULL};

/* Returns the row of an expected key; -1: it doesn't send that key. */
static int sent_row(const plan *loaded, guint output, const phrase_value *key)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    g_autofree char *wanted = g_strdup_printf("%s.%s", key->name.text, key->key.text);
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        g_autofree char *name = plan_sent_name(loaded, output, i);
        if (strcmp(name, wanted) == 0) {
            return i;
        }
    }
    return -1;
}

static char *wrong_state(const plan *loaded, guint output, unsigned state, const phrase_value *values)
{
    return state == SENDS_NOTHING || state == SENT_NOTHING || sent_row(loaded, output, &values[0]) >= 0
               ? NULL
               : g_strdup_printf("no rule has '%s' send '%s.%s'", plan_output_name(loaded, output),
                                 values[0].name.text, values[0].key.text);
}

/* Returns the row of the key whose press is in progress; -1: none. */
static int sends_row(const plan *loaded, guint output)
{
    const drom_sender_state *const state = plan_output(loaded, output)->state;
    return state->waiting > 0 ? state->queue[0].key & (DROM_SENDER_PRESSES - 1) : -1;
}

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    switch ((enum state)state) {
    case SENDS_NOTHING:
        return sends_row(seen->plan, seen->output) < 0;
    case SENDS_KEY:
        return sends_row(seen->plan, seen->output) == sent_row(seen->plan, seen->output, &values[0]);
    case SENT_NOTHING:
        return sim_target_frames(seen->device) + sim_target_unknown(seen->device) == 0;
    case SENT_TIMES:
    case SENT_ONCE:
        break;
    }
    return sim_target_presses(seen->device, (unsigned)sent_row(seen->plan, seen->output, &values[0])) ==
           (state == SENT_TIMES ? values[1].number : 1);
}

static char *state_text(const output_view *seen)
{
    const drom_sender_settings *const settings = seen->row->settings;
    const unsigned frames = sim_target_frames(seen->device) + sim_target_unknown(seen->device);
    GString *const text = g_string_new("has sent");
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        const unsigned presses = sim_target_presses(seen->device, i);
        g_autofree char *name = plan_sent_name(seen->plan, seen->output, i);
        if (presses > 0) {
            g_string_append_printf(text, " %s %u time%s,", name, presses, presses == 1 ? "" : "s");
        }
    }
    g_string_append_printf(text, " %u frame%s in all", frames, frames == 1 ? "" : "s");
    if (sends_row(seen->plan, seen->output) >= 0) {
        g_autofree char *name =
            plan_sent_name(seen->plan, seen->output, (guint)sends_row(seen->plan, seen->output));
        g_string_append_printf(text, ", and sends %s", name);
    }
    return g_string_free(text, FALSE);
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    const unsigned frames = sim_target_frames(seen->device);
    return g_strdup_printf("sent %u frame%s understood, %u that %s", frames,
                           frames == 1 ? " that was" : "s that were", sim_target_unknown(seen->device),
                           sim_target_unknown(seen->device) == 1 ? "wasn't" : "weren't");
}

static void count_costs(const plan *loaded, guint output, plan_cost_sink *sink, void *context)
{
    const drom_sender_settings *const settings = plan_output(loaded, output)->settings;
    unsigned families[3] = {0};
    static const char *const names[] = {"pulse encoder", "phase encoder", "quad encoder"};
    g_autoptr(GHashTable) seen = g_hash_table_new(NULL, NULL);
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        const drom_waveform *const waveform = settings->keys.rows[i].waveform;
        g_hash_table_add(seen, (gpointer)waveform);
        families[waveform->chunk == drom_nec_waveform.chunk   ? 0
                 : waveform->chunk == drom_rc5_waveform.chunk ? 1
                                                              : 2] = 1;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++) {
        if (families[i] > 0) {
            sink(context, names[i], 1);
        }
    }
    sink(context, "sent key", settings->keys.count);
    sink(context, "waveform", g_hash_table_size(seen));
}

static void wire_up(wiring_up *job)
{
    wire_switched(job, 0,
                  &(switched){.symbol = SYMBOL_LED,
                              .value = "infrared LED, 940 nm, 100 mA",
                              .ma = LED_MA,
                              .led_volts = LED_MV / 1000.0,
                              .terminal = "LED"});
    wire_load(job, LED_MA, 0, LED_MA);
}

const output_kind sender_kind = {
    .name = "sender",
    .core = &drom_sender,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", NULL},
            .clauses = clauses,
            .orders = orders,
            .sends_keys = true,
            .has_supply = true,
            .driven = driven_by_driver,
            .order_text = order_text,
        },
    .checks =
        {
            .row = row,
            .of_key = of_key,
        },
    .bake =
        {
            .tables = bake_tables,
            .settings = bake_settings,
        },
    .vet =
        {
            .min_mv = 3000,
            .max_mv = 12000,
            .driver = "a transistor",
            .wire_up = wire_up,
            .count_costs = count_costs,
            .output = vet,
            .timed_edges_s = edges_s,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .asks_for = asks_for,
            .has_counted = has_counted,
            .states = states,
            .is_in_state = is_in_state,
            .wrong_state = wrong_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_BURSTS,
            .sum_up = sum_up,
        },
};
