/* The rows of a loaded plan: their number, their names, and what they are doing. */
#include "plan/model/build.h"

#include "sim.h"

#include <string.h>

const drom_plan *plan_tables(const plan *loaded)
{
    return &loaded->tables;
}

const char *plan_title(const plan *loaded)
{
    return loaded->source->title.text;
}

const board *plan_board(const plan *loaded)
{
    return loaded->board;
}

double plan_mhz(const plan *loaded)
{
    return loaded->source->board_mhz > 0 ? loaded->source->board_mhz : loaded->board->mhz;
}

board plan_board_at_its_clock(const plan *loaded)
{
    const double slower = loaded->board->facts_mhz / plan_mhz(loaded);
    board chosen = *loaded->board;
    chosen.capture_us *= slower;
    chosen.alarm_us *= slower;
    chosen.poll_us *= slower;
    chosen.longest_poll_us *= slower;
    chosen.masked_us *= chosen.sends_by_itself ? slower : 1; /* a pixel takes as long as the strip says */
    return chosen;
}

double plan_own_masks_us(const plan *loaded)
{
    return loaded->source->own_masks_us;
}

double plan_own_blocks_us(const plan *loaded)
{
    return loaded->source->own_blocks_ms * 1000.0;
}

bool plan_has_latch(const plan *loaded)
{
    const char *const receiver = loaded->source->receiver_pin.text;
    return receiver != NULL && board_pin_by_name(loaded->board, receiver)->has_latch;
}

const drom_waveform *plan_waveform(const plan *loaded, uint8_t number)
{
    const drom_waveform *found = waveform_by_number(number);
    for (guint i = 0; i < loaded->waveforms->len; i++) {
        const drom_waveform *const own = g_ptr_array_index(loaded->waveforms, i);
        found = own->protocol->number == number && own->pack != NULL ? own : found;
    }
    return found;
}

unsigned plan_declared_count(const plan *loaded)
{
    return loaded->waveforms->len;
}

const drom_waveform *plan_declared_waveform(const plan *loaded, unsigned own)
{
    return g_ptr_array_index(loaded->waveforms, own);
}

const drom_protocol *plan_protocol(const plan *loaded, uint8_t number)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        if (receive->protocols.rows[i]->number == number) {
            return receive->protocols.rows[i];
        }
    }
    return number == DROM_UNKNOWN ? &drom_unknown : NULL;
}

bool plan_is_declared(const plan *loaded, drom_protocol_ref protocol)
{
    bool is_found = false;
    for (unsigned i = 0; i < plan_declared_count(loaded); i++) {
        is_found |= plan_declared_waveform(loaded, i)->protocol == protocol;
    }
    return is_found;
}

unsigned plan_handset_count(const plan *loaded)
{
    return loaded->handsets->len;
}

unsigned plan_output_count(const plan *loaded)
{
    return loaded->outputs->len;
}

const char *plan_handset_name(const plan *loaded, unsigned handset)
{
    return g_array_index(loaded->source->handsets, handset_line, handset).name.text;
}

GPtrArray *plan_paths(const plan *loaded)
{
    GPtrArray *const paths = g_ptr_array_new();
    for (guint i = 0; i < loaded->source->files->len; i++) {
        g_ptr_array_add(paths, (gpointer)g_array_index(loaded->source->files, included_file, i).path);
    }
    g_ptr_array_extend(paths, loaded->sheet_paths, NULL, NULL);
    return paths;
}

const char *plan_sheet_path(const plan *loaded, unsigned handset)
{
    return g_ptr_array_index(loaded->sheet_paths, handset);
}

static const sheet *sheet_of(const plan *loaded, unsigned handset)
{
    return g_ptr_array_index(loaded->sheets, handset);
}

sheet *plan_copy_sheet(const plan *loaded, unsigned handset)
{
    return sheet_copy(sheet_of(loaded, handset));
}

const char *plan_key_name(const plan *loaded, unsigned handset, unsigned key)
{
    return g_array_index(sheet_of(loaded, handset)->keys, sheet_key, key).name;
}

const char *plan_output_name(const plan *loaded, unsigned output)
{
    return g_array_index(loaded->source->outputs, output_line, output).name.text;
}

const drom_output *plan_output(const plan *loaded, unsigned output)
{
    return &loaded->tables.outputs.outputs.rows[output];
}

const output_kind *plan_output_kind(const plan *loaded, unsigned output)
{
    return plan_line(loaded, output)->kind;
}

output_view plan_output_view(const plan *loaded, unsigned output, const void *device)
{
    return (output_view){loaded, output, plan_output(loaded, output), device};
}

static bool is_any(const plan *loaded, activity wanted)
{
    bool is_so = false;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        is_so |= plan_output_kind(loaded, i)->bench.activity(plan_output(loaded, i)) == wanted;
    }
    return is_so;
}

bool plan_is_ending(const plan *loaded)
{
    return is_any(loaded, ENDING);
}

bool plan_is_endless(const plan *loaded)
{
    return is_any(loaded, ENDLESS);
}

void plan_lose_power(const plan *loaded, drom_engine *engine, sim_bench *bench)
{
    const drom_port *const port = sim_bench_port(bench);
    sim_bench_cut_power(bench);
    port->edges->stop(port->context);
    for (guint i = 0; i < loaded->outputs->len; i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        const drom_output *const output = plan_output(loaded, i);
        if (kind->bench.go_dark != NULL) {
            kind->bench.go_dark(loaded, i, &engine->timing, bench);
        } else {
            kind->core->rest(output->settings, output->state, &engine->timing);
        }
    }
}

void plan_has_power(sim_bench *bench)
{
    sim_bench_set_computer(bench, true);
}

char *plan_parts_text(const plan *loaded, unsigned output)
{
    GString *const text = g_string_new(NULL);
    for (guint i = 0; i < loaded->outputs->len; i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        const char *const whole = plan_line(loaded, i)->members[0].text;
        unsigned first = 0;
        if (kind->bench.pixels != NULL && strcmp(whole, plan_output_name(loaded, output)) == 0) {
            const unsigned last = kind->bench.pixels(loaded, i, &first);
            g_string_append_printf(text, "%s%s %u-%u", text->len > 0 ? ", " : "", plan_output_name(loaded, i),
                                   first, last);
        }
    }
    return g_string_free(text, text->len == 0);
}

unsigned plan_timer_count(const plan *loaded)
{
    return loaded->tables.rules.timers.count;
}

static bool runs(const drom_timer *timer, drom_us now, uint64_t *left_us)
{
    *left_us = drom_until(now, timer->part.at) + (uint64_t)timer->more_parts * DROM_TIMER_PART_MS * 1000;
    return timer->part.is_armed;
}

bool plan_timer_runs(const plan *loaded, unsigned timer, drom_us now, uint64_t *left_us)
{
    return runs(&loaded->tables.rules.timers.rows[timer], now, left_us);
}

bool plan_waits(const plan *loaded, const drom_engine *engine, uint64_t *left_us)
{
    const drom_rules_plan *const rules = &loaded->tables.rules;
    const drom_us now = engine->timing.now;
    uint64_t one_us = 0;
    bool waits = runs(&engine->rules.back, now, &one_us);
    *left_us = waits ? one_us : 0;
    for (uint8_t i = 0; i < rules->timers.count; i++) {
        const bool is_of_every = strchr(plan_timer_name(loaded, i), ' ') != NULL; /* which never ends */
        if (!is_of_every && plan_timer_runs(loaded, i, now, &one_us)) {
            waits = true;
            *left_us = MAX(*left_us, one_us);
        }
    }
    for (uint8_t i = 0; i < rules->sequences.count; i++) {
        const drom_sequence *const sequence = &rules->sequences.rows[i];
        waits |= sequence->is_waiting;
        if (sequence->is_waiting && sequence->waits_for == DROM_NONE) {
            *left_us = MAX(*left_us, drom_until(now, sequence->until.at));
        }
    }
    return waits;
}

bool plan_never_sleeps(const plan *loaded)
{
    return loaded->contacts->len > 0 || loaded->tables.guard.ms > 0;
}

static int contact_pin(const plan *loaded, unsigned handset, unsigned row)
{
    for (guint i = 0; i < loaded->contacts->len; i++) {
        const drom_contact *const contact = &g_array_index(loaded->contacts, drom_contact, i);
        if (contact->handset == handset && contact->row == row) {
            return contact->pin;
        }
    }
    return -1;
}

int plan_button_pin(const plan *loaded, unsigned handset, unsigned key)
{
    return contact_pin(loaded, handset, key);
}

uint8_t plan_switch_pin(const plan *loaded, unsigned which)
{
    return (uint8_t)contact_pin(loaded, DROM_NONE, which);
}

unsigned plan_switch_count(const plan *loaded)
{
    return source_count(loaded->source, A_SWITCH);
}

const char *plan_switch_name(const plan *loaded, unsigned which)
{
    return source_name(loaded->source, A_SWITCH, which)->text;
}

const char *plan_event_name(const plan *loaded, unsigned which)
{
    return source_name(loaded->source, AN_EVENT, which)->text;
}

int plan_find_switch(const plan *loaded, const char *name)
{
    int row;
    return source_find(loaded->source, name, &row) == A_SWITCH ? row : -1;
}

int plan_find_event(const plan *loaded, const char *name)
{
    int row;
    return source_find(loaded->source, name, &row) == AN_EVENT ? row : -1;
}

int plan_find_keyboard(const plan *loaded, const char *name)
{
    int row;
    const bool is_output = source_find(loaded->source, name, &row) == AN_OUTPUT;
    return is_output && (plan_output_kind(loaded, (unsigned)row)->core->needs & DROM_USES(HID)) != 0 ? row
                                                                                                     : -1;
}

int plan_find_handset(const plan *loaded, const char *name)
{
    const int found = source_find_handset(loaded->source, name);
    return found < (int)loaded->heard_handsets ? found : -1;
}

int plan_find_key(const plan *loaded, unsigned handset, const char *name)
{
    return sheet_find(sheet_of(loaded, handset), name);
}

char *plan_hint_handset(const plan *loaded, const char *name)
{
    g_autofree const char **names = g_new0(const char *, loaded->handsets->len + 1);
    for (guint i = 0; i < loaded->handsets->len; i++) {
        names[i] = plan_handset_name(loaded, i);
    }
    return did_you_mean(name, names);
}

char *plan_hint_key(const plan *loaded, unsigned handset, const char *name)
{
    g_autofree const char **names = sheet_names(sheet_of(loaded, handset));
    return did_you_mean(name, names);
}
