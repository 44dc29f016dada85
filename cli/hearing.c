/* The receiver and the keys, driven by a source whose time has 64 bits. */
#include "hearing.h"

#include <string.h>

enum { HOLD_MS = 500, SHORT_MARK_US = 300 };

static const uint16_t hold_times[] = {HOLD_MS};

typedef struct heard_handset {
    char *name;
    sheet *keys;
    GArray *codes; /* of drom_code */
} heard_handset;

struct hearing {
    hearing_sink sink;
    drom_receive_plan receive_plan;
    drom_keys_plan keys_plan;
    drom_receiver receiver;
    drom_keys keys;
    drom_fingerprint fingerprint;
    drom_filter fine;
    GArray *protocols; /* of drom_protocol_ref */
    GArray *handsets;  /* of heard_handset */
    GArray *tables;    /* of drom_handset: what the keys' plan points to */
    line_facts facts;
    uint64_t now_us;
    uint64_t first_edge_us;
    uint64_t mark_at_us;
    bool is_mark;
};

static void clear_handset(gpointer data)
{
    heard_handset *const handset = data;
    g_free(handset->name);
    sheet_free(handset->keys);
    g_array_unref(handset->codes);
}

hearing *hearing_new(const hearing_sink *sink)
{
    hearing *const by = g_new0(hearing, 1);
    by->sink = *sink;
    by->protocols = g_array_new(FALSE, FALSE, sizeof(drom_protocol_ref));
    for (size_t i = 0; i < drom_waveform_count; i++) {
        hearing_add_protocol(by, drom_waveforms[i]->protocol);
    }
    by->handsets = g_array_new(FALSE, FALSE, sizeof(heard_handset));
    g_array_set_clear_func(by->handsets, clear_handset);
    by->tables = g_array_new(FALSE, FALSE, sizeof(drom_handset));
    return by;
}

void hearing_free(hearing *unwanted)
{
    g_array_unref(unwanted->protocols);
    g_free(unwanted->receive_plan.decoders);
    g_free(unwanted->keys_plan.holds);
    g_array_unref(unwanted->handsets);
    g_array_unref(unwanted->tables);
    g_free(unwanted);
}

void hearing_add_protocol(hearing *by, drom_protocol_ref protocol)
{
    enum { MOST_PROTOCOLS = 255 };
    if (by->protocols->len < MOST_PROTOCOLS) {
        g_array_append_val(by->protocols, protocol);
    }
}

void hearing_add_sheet(hearing *by, char *name, sheet *keys)
{
    const drom_handset table = {0};
    const heard_handset handset = {name, keys, g_array_new(FALSE, FALSE, sizeof(drom_code))};
    for (guint i = 0; keys != NULL && i < keys->keys->len; i++) {
        g_array_append_val(handset.codes, g_array_index(keys->keys, sheet_key, i).code);
    }
    g_array_append_val(by->handsets, handset);
    g_array_append_val(by->tables, table);
}

static heard_handset *handset_at(const hearing *by, unsigned handset)
{
    return &g_array_index(by->handsets, heard_handset, handset);
}

/* The tables point into arrays that move when they grow. */
static void renew_tables(hearing *by)
{
    for (guint i = 0; i < by->tables->len; i++) {
        const GArray *const codes = handset_at(by, i)->codes;
        drom_handset *const table = &g_array_index(by->tables, drom_handset, i);
        table->codes.rows = (const drom_code *)(void *)codes->data;
        table->codes.count = (uint8_t)codes->len;
    }
    by->keys_plan.handsets.rows = (const drom_handset *)(void *)by->tables->data;
    by->keys_plan.handsets.count = (uint8_t)by->tables->len;
}

static void on_key(void *context, const drom_key_event *event)
{
    const hearing *const by = context;
    by->sink.key(by->sink.context, by->now_us, event);
}

void hearing_start(hearing *by)
{
    by->receive_plan.protocols.rows = (const drom_protocol_ref *)(void *)by->protocols->data;
    by->receive_plan.protocols.count = (uint8_t)by->protocols->len;
    by->receive_plan.decoders = g_new0(drom_decoder, by->protocols->len);
    by->receive_plan.fine = &by->fine;
    by->receive_plan.unknown.by = &drom_fingerprints;
    by->receive_plan.unknown.memory = &by->fingerprint;
    hearing_add_sheet(by, NULL, NULL);
    by->keys_plan.hold_ms.rows = hold_times;
    by->keys_plan.hold_ms.count = G_N_ELEMENTS(hold_times);
    by->keys_plan.holds = g_new0(drom_hold, by->handsets->len);
    renew_tables(by);
    drom_receiver_init(&by->receiver, &by->receive_plan);
    drom_keys_init(&by->keys, &by->keys_plan, on_key, by);
}

/* A code that no sheet has becomes a key of the last handset, so that its gestures are told too. */
static void make_known(hearing *by, const drom_code *code)
{
    for (guint i = 0; i < by->handsets->len; i++) {
        const GArray *const codes = handset_at(by, i)->codes;
        for (guint j = 0; j < codes->len; j++) {
            if (drom_code_equal(&g_array_index(codes, drom_code, j), code)) {
                return;
            }
        }
    }
    GArray *const codes = handset_at(by, by->handsets->len - 1)->codes;
    if (codes->len < SHEET_MOST_KEYS) {
        g_array_append_val(codes, *code);
        renew_tables(by);
    }
}

static void take_frames(hearing *by)
{
    drom_frame frame;
    while (drom_receiver_advance(&by->receiver, (drom_us)by->now_us, &frame)) {
        const bool is_unknown = frame.code.protocol == &drom_unknown;
        by->facts.unknowns += is_unknown;
        by->facts.frames += !is_unknown;
        if (frame.kind == DROM_FRAME_WHOLE || frame.kind == DROM_FRAME_FURTHER) {
            make_known(by, &frame.code);
        }
        by->sink.frame(by->sink.context, by->now_us - (drom_us)((drom_us)by->now_us - frame.at), &frame);
        drom_keys_frame(&by->keys, &frame);
        by->sink.row_done(by->sink.context);
    }
    drom_keys_advance(&by->keys, (drom_us)by->now_us);
}

void hearing_until(hearing *by, uint64_t until_us)
{
    for (;;) {
        const drom_us wait = drom_sooner(drom_receiver_wait(&by->receiver, (drom_us)by->now_us),
                                         drom_keys_wait(&by->keys, (drom_us)by->now_us));
        if (wait == DROM_NEVER || by->now_us + wait > until_us) {
            break;
        }
        by->now_us += wait;
        take_frames(by);
    }
    if (until_us != UINT64_MAX) {
        by->now_us = until_us;
        take_frames(by);
    }
}

void hearing_end(hearing *by)
{
    hearing_until(by, UINT64_MAX);
}

static void note_edge(hearing *by, const capture_edge *edge)
{
    line_facts *const facts = &by->facts;
    if (facts->edges == 0) {
        by->first_edge_us = edge->at_us;
    }
    facts->edges++;
    facts->lasted_us = edge->at_us - by->first_edge_us;
    if (!edge->is_mark && by->is_mark) {
        const uint64_t us = edge->at_us - by->mark_at_us;
        facts->mark_us += us;
        facts->longest_mark_us = MAX(facts->longest_mark_us, us);
        facts->short_marks += us < SHORT_MARK_US;
    }
    by->mark_at_us = edge->at_us;
    by->is_mark = edge->is_mark;
}

void hearing_edge(hearing *by, const capture_edge *edge)
{
    hearing_until(by, edge->at_us);
    note_edge(by, edge);
    drom_receiver_edge(&by->receiver, &(drom_edge){(drom_us)edge->at_us, edge->is_mark, edge->after_loss}, 0);
}

/* The source stops where a frame, or a mark, was under way. */
static bool is_cut_off(const hearing *by, bool is_mark)
{
    bool is_cut = is_mark;
    for (uint8_t i = 0; i < by->receive_plan.protocols.count; i++) {
        const uint8_t phase = by->receive_plan.decoders[i].phase;
        is_cut |= phase >= DROM_PHASE_OWN;
    }
    return is_cut;
}

capture_read hearing_take(hearing *by, capture *from, bool *is_cut, bool *is_in_mark, GError **error)
{
    capture_edge edge;
    capture_read read = capture_next(from, &edge, error);
    *is_cut = false;
    for (; (read == CAPTURE_EDGE || read == CAPTURE_TIME) && !ferror(stdout);
         read = capture_next(from, &edge, error)) {
        if (read == CAPTURE_EDGE) {
            hearing_edge(by, &edge);
        } else {
            hearing_until(by, edge.at_us);
        }
    }
    if (read == CAPTURE_END) {
        hearing_until(by, edge.at_us);
        *is_cut = is_cut_off(by, edge.is_mark);
        *is_in_mark = edge.is_mark;
        note_edge(by, &(capture_edge){.at_us = edge.at_us}); /* so that the last run counts */
        by->facts.edges--;
    }
    hearing_end(by);
    return read;
}

unsigned hearing_handsets(const hearing *by)
{
    return by->handsets->len;
}

unsigned hearing_keys(const hearing *by, unsigned handset)
{
    return handset_at(by, handset)->codes->len;
}

const char *hearing_handset_name(const hearing *by, unsigned handset)
{
    return handset_at(by, handset)->name;
}

const char *hearing_key_name(const hearing *by, unsigned handset, unsigned key)
{
    const sheet *const keys = handset_at(by, handset)->keys;
    return keys != NULL ? g_array_index(keys->keys, sheet_key, key).name : NULL;
}

const drom_code *hearing_code(const hearing *by, unsigned handset, unsigned key)
{
    return &g_array_index(handset_at(by, handset)->codes, drom_code, key);
}

const line_facts *hearing_facts(const hearing *by)
{
    return &by->facts;
}
