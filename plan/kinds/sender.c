/* The sender. Which keys it sends is what its orders name. */
#include "../kinds.h"
#include "../vetting.h"

#include "dromikos/sender.h"

#include <math.h>

enum { SHIELDED };

enum { LED_MA = 100, /* while it is lit */ BURST_EDGES_S = 630 /* 68 in each 108 ms */ };

static const kind_clause clauses[] = {{"shielded", SHIELDED, .fixed = 1}, {0}};

static uint32_t send_key(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return DROM_SEND(plan_sent_row(made, action), 0);
}

static uint32_t send_times(plan *made, action_words *action, const kind_order *order)
{
    const uint32_t times = action->values[1].number;
    (void)order;
    if (times > 255) {
        report_error(made->source->faults, action->values[1].where, "a key can be sent up to 255 times");
    }
    return DROM_SEND(plan_sent_row(made, action), MIN(times, 255));
}

/* 'while held' holds the key, too. */
static uint32_t send_or_hold(plan *made, action_words *action, const kind_order *order)
{
    if (action->is_while_held) {
        action->verb = DROM_SENDER_HOLD;
    }
    return send_key(made, action, order);
}

static const kind_order orders[] = {
    {"send KEY", DROM_SENDER_SEND, .can_be_held = true, .value = send_or_hold},
    {"send KEY N times", DROM_SENDER_SEND, .value = send_times},
    {"hold KEY", DROM_SENDER_HOLD, .value = send_key},
    {"let go", .verb = DROM_SENDER_LET_GO},
    {0},
};

/* How long the longest frame of a press of a key lasts. */
static uint8_t frame_ms(const drom_waveform *waveform, const drom_code *code)
{
    uint32_t longest_us = 0;
    for (int part = DROM_SEND_FIRST; part <= (int)DROM_SEND_REPEAT; part++) {
        drom_encoder encoder;
        uint32_t lasts_us = 0;
        if (drom_encode_begin(&encoder, waveform, code, (drom_part_of_press)part, false) == DROM_OK) {
            for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
                lasts_us += us;
            }
        }
        longest_us = MAX(longest_us, lasts_us);
    }
    return (uint8_t)MIN(longest_us / 1000 + 1, UINT8_MAX);
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    const GArray *const sent = g_ptr_array_index(made->sent, output);
    drom_sender_key *const keys = plan_keep(made, MAX(sent->len, 1) * sizeof *keys);
    for (guint i = 0; i < sent->len; i++) {
        const drom_code *const code = plan_sent_code(made, output, i);
        const drom_waveform *const waveform = plan_waveform(made, code->protocol);
        keys[i] = (drom_sender_key){waveform, code->address, code->command, frame_ms(waveform, code)};
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
        g_string_append_printf(out, "    {&drom_%s_waveform, 0x%x, 0x%x, %u},\n", key->waveform->protocol->id,
                               key->address, key->command, key->frame_ms);
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
    g_autofree char *key = plan_sent_name(loaded, action->row, action->value & 0xff);
    const unsigned times = action->value >> 8;
    g_autofree char *more = times > 1 ? g_strdup_printf(" %u times", times) : g_strdup("");
    return g_strdup_printf("%s %s%s", action->verb == DROM_SENDER_HOLD ? "hold" : "send", key, more);
}

static activity activity_of(const drom_output *output)
{
    const drom_sender_state *const state = output->state;
    return state->is_held ? ENDLESS : state->waiting > 0 ? ENDING : IDLE;
}

static double load_ma(const output_line *line, const board *chosen)
{
    (void)line;
    (void)chosen;
    return LED_MA;
}

/* An edge of a burst that comes late makes one run longer and the next one shorter. */
static void vet(const vetting *job, guint output)
{
    const drom_sender_settings *const settings = plan_output(job->plan, output)->settings;
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
            g_strdup_printf("keep interrupts off in your own code for at most %.0f us at a time",
                            MAX(0, floor(bearable_us - job->board.alarm_us - job->board.capture_us))));
}

static double edges_s(const output_line *line)
{
    (void)line;
    return BURST_EDGES_S;
}

static void *wire(sim_bench *bench, const drom_output *output)
{
    return sim_bench_wire_target(bench, ((const drom_sender_settings *)output->settings)->pin);
}

static char *sum_up(const drom_output *output, const void *device, uint64_t on_us)
{
    (void)output;
    (void)on_us;
    return g_strdup_printf("sent %u frames that were understood, %u that weren't", sim_target_frames(device),
                           sim_target_unknown(device));
}

const output_kind sender_kind = {
    .name = "sender",
    .head = "NAME on pin PIN",
    .core = &drom_sender,
    .clauses = clauses,
    .orders = orders,
    .wiring = "transistor and infrared LED with its resistor",
    .way_out = "drive it through a transistor, with a diode across a coil",
    .row = row,
    .bake_tables = bake_tables,
    .bake_settings = bake_settings,
    .order_text = order_text,
    .activity = activity_of,
    .load_ma = load_ma,
    .vet = vet,
    .timed_edges_s = edges_s,
    .wire = wire,
    .sum_up = sum_up,
};
