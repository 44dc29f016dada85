/* The receiver and the keys, with a source whose time has 64 bits. */
#include "cli/receive/reception.h"

#include "dromikos/internal/keys.h"
#include "dromikos/internal/receive.h"

#include <string.h>

enum { HOLD_MS = 500, SHORT_MARK_US = 300 };

static const uint16_t hold_times[] = {HOLD_MS};

typedef struct heard_handset {
    char *name;
    sheet *keys;
    GArray *codes; /* of drom_code */
} heard_handset;

struct reception {
    reception_sink sink;
    drom_receive_plan receive_plan;
    drom_keys_plan keys_plan;
    drom_receiver receiver;
    drom_keys keys;
    drom_fingerprint fingerprint;
    drom_filter fine;
    GArray *protocols; /* of drom_protocol_ref */
    GArray *handsets;  /* of heard_handset */
    GArray *tables;    /* of drom_handset: what the keys' plan points to */
    guint oldest;      /* of the unknown codes: which is replaced next */
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

reception *reception_new(const reception_sink *sink)
{
    reception *const pipeline = g_new0(reception, 1);
    pipeline->sink = *sink;
    pipeline->protocols = g_array_new(FALSE, FALSE, sizeof(drom_protocol_ref));
    for (size_t i = 0; i < drom_waveform_count; i++) {
        reception_add_protocol(pipeline, drom_waveforms[i]->protocol);
    }
    pipeline->handsets = g_array_new(FALSE, FALSE, sizeof(heard_handset));
    g_array_set_clear_func(pipeline->handsets, clear_handset);
    pipeline->tables = g_array_new(FALSE, FALSE, sizeof(drom_handset));
    return pipeline;
}

void reception_free(reception *unwanted)
{
    g_array_unref(unwanted->protocols);
    g_free(unwanted->receive_plan.decoders);
    g_free(unwanted->keys_plan.holds);
    g_array_unref(unwanted->handsets);
    g_array_unref(unwanted->tables);
    g_free(unwanted);
}

void reception_add_protocol(reception *pipeline, drom_protocol_ref protocol)
{
    enum { MAX_PROTOCOLS = 255 };
    if (pipeline->protocols->len < MAX_PROTOCOLS) {
        g_array_append_val(pipeline->protocols, protocol);
    }
}

void reception_add_sheet(reception *pipeline, char *name, sheet *keys)
{
    const drom_handset table = {0};
    const heard_handset handset = {name, keys, g_array_new(FALSE, FALSE, sizeof(drom_code))};
    for (guint i = 0; keys != NULL && i < keys->keys->len; i++) {
        g_array_append_val(handset.codes, g_array_index(keys->keys, sheet_key, i).code);
    }
    g_array_append_val(pipeline->handsets, handset);
    g_array_append_val(pipeline->tables, table);
}

static heard_handset *handset_at(const reception *pipeline, unsigned handset)
{
    return &g_array_index(pipeline->handsets, heard_handset, handset);
}

/* The tables point to arrays that move when they grow. */
static void renew_tables(reception *pipeline)
{
    for (guint i = 0; i < pipeline->tables->len; i++) {
        const GArray *const codes = handset_at(pipeline, i)->codes;
        drom_handset *const table = &g_array_index(pipeline->tables, drom_handset, i);
        table->codes.rows = (const drom_code *)(void *)codes->data;
        table->codes.count = (uint8_t)codes->len;
    }
    pipeline->keys_plan.handsets.rows = (const drom_handset *)(void *)pipeline->tables->data;
    pipeline->keys_plan.handsets.count = (uint8_t)pipeline->tables->len;
}

static void on_key(void *context, const drom_key_event *event)
{
    const reception *const pipeline = context;
    if (pipeline->sink.key != NULL) {
        pipeline->sink.key(pipeline->sink.context, pipeline->now_us, event);
    }
}

void reception_start(reception *pipeline)
{
    pipeline->receive_plan.protocols.rows = (const drom_protocol_ref *)(void *)pipeline->protocols->data;
    pipeline->receive_plan.protocols.count = (uint8_t)pipeline->protocols->len;
    pipeline->receive_plan.decoders = g_new0(drom_decoder, pipeline->protocols->len);
    pipeline->receive_plan.fine = &pipeline->fine;
    pipeline->receive_plan.unknown.functions = &drom_fingerprints;
    pipeline->receive_plan.unknown.memory = &pipeline->fingerprint;
    reception_add_sheet(pipeline, NULL, NULL);
    pipeline->keys_plan.hold_ms.rows = hold_times;
    pipeline->keys_plan.hold_ms.count = G_N_ELEMENTS(hold_times);
    pipeline->keys_plan.holds = g_new0(drom_hold, pipeline->handsets->len);
    renew_tables(pipeline);
    drom_receiver_init(&pipeline->receiver, &pipeline->receive_plan);
    drom_keys_init(&pipeline->keys, &pipeline->keys_plan, on_key, pipeline);
}

/* An unknown code becomes a key of the last handset, so that its gestures are reported. If that is full, it
 * replaces an old one, but not the held key. */
static void make_known(reception *pipeline, const drom_code *code)
{
    for (guint i = 0; i < pipeline->handsets->len; i++) {
        const GArray *const codes = handset_at(pipeline, i)->codes;
        for (guint j = 0; j < codes->len; j++) {
            if (drom_code_equal(&g_array_index(codes, drom_code, j), code)) {
                return;
            }
        }
    }
    GArray *const codes = handset_at(pipeline, pipeline->handsets->len - 1)->codes;
    if (codes->len < SHEET_MAX_KEYS) {
        g_array_append_val(codes, *code);
        renew_tables(pipeline);
        return;
    }
    const drom_hold *const hold = &pipeline->keys_plan.holds[pipeline->handsets->len - 1];
    const bool is_held = hold->state != DROM_KEY_UP && hold->key == pipeline->oldest;
    const guint row = (pipeline->oldest + is_held) % codes->len;
    g_array_index(codes, drom_code, row) = *code;
    pipeline->oldest = (row + 1) % codes->len;
}

static void take_frames(reception *pipeline)
{
    drom_frame frame;
    while (drom_receiver_advance(&pipeline->receiver, (drom_us)pipeline->now_us, &frame)) {
        const bool is_unknown = frame.protocol == &drom_unknown;
        pipeline->facts.unknowns += is_unknown;
        pipeline->facts.frames += !is_unknown;
        if (frame.kind == DROM_FRAME_WHOLE || frame.kind == DROM_FRAME_HEADERLESS) {
            make_known(pipeline, &frame.code);
        }
        if (pipeline->sink.frame != NULL) {
            pipeline->sink.frame(pipeline->sink.context,
                                 pipeline->now_us - (drom_us)((drom_us)pipeline->now_us - frame.at), &frame);
        }
        drom_keys_frame(&pipeline->keys, &frame);
        if (pipeline->sink.row_done != NULL) {
            pipeline->sink.row_done(pipeline->sink.context);
        }
    }
    while (drom_keys_advance(&pipeline->keys, (drom_us)pipeline->now_us)) {
    }
}

void reception_until(reception *pipeline, uint64_t until_us)
{
    for (;;) {
        const drom_us wait = drom_shorter(drom_receiver_wait(&pipeline->receiver, (drom_us)pipeline->now_us),
                                          drom_keys_wait(&pipeline->keys, (drom_us)pipeline->now_us));
        if (wait == DROM_LONG || pipeline->now_us + wait > until_us) {
            break;
        }
        pipeline->now_us += wait;
        take_frames(pipeline);
    }
    if (until_us != UINT64_MAX) {
        pipeline->now_us = until_us;
        take_frames(pipeline);
    }
}

void reception_end(reception *pipeline)
{
    reception_until(pipeline, UINT64_MAX);
}

static void note_edge(reception *pipeline, const capture_edge *edge)
{
    line_facts *const facts = &pipeline->facts;
    if (facts->edges == 0) {
        pipeline->first_edge_us = edge->at_us;
    }
    facts->edges++;
    facts->lasted_us = edge->at_us - pipeline->first_edge_us;
    if (!edge->is_mark && pipeline->is_mark) {
        const uint64_t us = edge->at_us - pipeline->mark_at_us;
        facts->mark_us += us;
        facts->longest_mark_us = MAX(facts->longest_mark_us, us);
        facts->short_marks += us < SHORT_MARK_US;
    }
    pipeline->mark_at_us = edge->at_us;
    pipeline->is_mark = edge->is_mark;
}

void reception_edge(reception *pipeline, const capture_edge *edge)
{
    reception_until(pipeline, edge->at_us);
    note_edge(pipeline, edge);
    drom_receiver_edge(&pipeline->receiver,
                       &(drom_edge){(drom_us)edge->at_us, edge->is_mark, edge->after_loss}, 0);
}

/* True if the source ends within a frame or a mark. */
static bool is_cut_off(const reception *pipeline, bool is_mark)
{
    bool is_cut = is_mark;
    for (uint8_t i = 0; i < pipeline->receive_plan.protocols.count; i++) {
        const uint8_t phase = pipeline->receive_plan.decoders[i].phase;
        is_cut |= phase >= DROM_PHASE_OWN;
    }
    return is_cut;
}

capture_read reception_take(reception *pipeline, line_source *source, bool *is_cut, bool *is_in_mark,
                            GError **error)
{
    capture_edge edge = {0};
    capture_read read = line_next(source, &edge, error);
    *is_cut = false;
    for (; (read == CAPTURE_EDGE || read == CAPTURE_TIME) && !ferror(stdout);
         read = line_next(source, &edge, error)) {
        if (read == CAPTURE_EDGE) {
            reception_edge(pipeline, &edge);
        } else {
            reception_until(pipeline, edge.at_us);
        }
        line_check(source);
    }
    if (read == CAPTURE_END) {
        reception_until(pipeline, edge.at_us);
        *is_cut = is_cut_off(pipeline, edge.is_mark);
        *is_in_mark = edge.is_mark;
        note_edge(pipeline, &(capture_edge){.at_us = edge.at_us}); /* so that the last interval counts */
        pipeline->facts.edges--;
    }
    reception_end(pipeline);
    return read;
}

unsigned reception_handsets(const reception *pipeline)
{
    return pipeline->handsets->len;
}

unsigned reception_keys(const reception *pipeline, unsigned handset)
{
    return handset_at(pipeline, handset)->codes->len;
}

const char *reception_handset_name(const reception *pipeline, unsigned handset)
{
    return handset_at(pipeline, handset)->name;
}

const char *reception_key_name(const reception *pipeline, unsigned handset, unsigned key)
{
    const sheet *const keys = handset_at(pipeline, handset)->keys;
    return keys != NULL ? g_array_index(keys->keys, sheet_key, key).name : NULL;
}

const drom_code *reception_code(const reception *pipeline, unsigned handset, unsigned key)
{
    return &g_array_index(handset_at(pipeline, handset)->codes, drom_code, key);
}

const drom_protocol *reception_protocol(const reception *pipeline, uint8_t number)
{
    for (guint i = 0; i < pipeline->protocols->len; i++) {
        const drom_protocol_ref protocol = g_array_index(pipeline->protocols, drom_protocol_ref, i);
        if (protocol->number == number) {
            return protocol;
        }
    }
    return &drom_unknown;
}

const line_facts *reception_facts(const reception *pipeline)
{
    return &pipeline->facts;
}
