#include "plan/vet/costs.h"

#include "plan/bake/bake.h"
#include "plan/model/build.h"

#include "dromikos/outputs/strip.h"

#include <string.h>

/* In bytes, per unit. */
static const struct {
    const char *what;
    double flash;
    double ram;
} costs[] = {
#define COST(what, flash, ram) {what, flash, ram},
#include "costs.def"
#undef COST
};

/* The names of features, as in the baked configuration. */
static void count_features(const plan *loaded, plan_cost_sink *sink, void *context)
{
    g_autofree char *config = plan_bake_config(loaded, "x");
    g_auto(GStrv) lines = g_strsplit(config, "\n", -1);
    for (int i = 0; lines[i] != NULL; i++) {
        static const char begin[] = "#define DROM_WITH_";
        if (g_str_has_prefix(lines[i], begin) && g_str_has_suffix(lines[i], " 1")) {
            g_autofree char *name = g_strndup(lines[i] + strlen(begin), strlen(lines[i]) - strlen(begin) - 2);
            g_autofree char *what = g_ascii_strdown(name, -1);
            sink(context, what, 1);
        }
    }
}

/* A sent protocol is linked with its decoder: true if one of that family is. */
static bool is_sent_by(const plan *loaded, drom_step *step)
{
    bool is_sent = false;
    for (guint output = 0; output < loaded->sent->len; output++) {
        const GArray *const keys = g_ptr_array_index(loaded->sent, output);
        for (guint row = 0; keys != NULL && row < keys->len; row++) {
            const drom_waveform *const waveform =
                plan_waveform(loaded, plan_sent_code(loaded, output, row)->protocol);
            is_sent |= waveform != NULL && waveform->protocol->step == step;
        }
    }
    return is_sent;
}

/* Adds each family and the number of its protocols that are received. */
static void count_family(plan_cost_sink *sink, void *context, const char *family, const char *row,
                         unsigned count, bool is_sent)
{
    if (count > 0 || is_sent) {
        sink(context, family, 1);
        sink(context, row, count);
    }
}

static void count_received(const plan *loaded, plan_cost_sink *sink, void *context)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    const drom_keys_plan *const keys = &plan_tables(loaded)->keys;
    unsigned pulse = 0;
    unsigned phase = 0;
    unsigned quad = 0;
    unsigned codes = 0;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        const drom_protocol_ref protocol = receive->protocols.rows[i];
        pulse += protocol->step == drom_nec.step;
        phase += protocol->step == drom_rc5.step;
        quad += protocol->step == drom_rcmm12.step;
        sink(context, protocol->unpack == drom_nec.unpack ? "unpack nec" : "unpack other", 1);
    }
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        codes += keys->handsets.rows[i].codes.count;
    }
    count_family(sink, context, "pulse decoder", "pulse protocol", pulse, is_sent_by(loaded, drom_nec.step));
    count_family(sink, context, "phase decoder", "phase protocol", phase, is_sent_by(loaded, drom_rc5.step));
    count_family(sink, context, "quad decoder", "quad protocol", quad, is_sent_by(loaded, drom_rcmm12.step));
    /* A function with a single use is inlined. */
    sink(context, "second family", (pulse > 0) + (phase > 0) + (quad > 0) > 1);
    sink(context, "no pulse family", pulse == 0 && !is_sent_by(loaded, drom_nec.step));
    sink(context, "second protocol", receive->protocols.count > 1);
    sink(context, "second handset", keys->handsets.count > 1);
    sink(context, "doubles", keys->doubles.count > 0);
    sink(context, "repeats", keys->repeat_after_ms != 0);
    sink(context, "handset", keys->handsets.count);
    sink(context, "code", codes);
    sink(context, "own protocol", plan_declared_count(loaded));
}

static void count_actions(const plan *loaded, plan_cost_sink *sink, void *context)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    unsigned actions = 0;
    unsigned conditions = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        actions += rules->rules.rows[i].actions.count + rules->rules.rows[i].otherwise.count;
        conditions += rules->rules.rows[i].conditions.count;
    }
    sink(context, "rule", rules->rules.count);
    sink(context, "action", actions);
    sink(context, "condition", conditions);
    sink(context, "mode", loaded->modes->len);
    sink(context, "value", loaded->values->len);
    sink(context, "timer", source_count(loaded->source, A_TIMER));
    sink(context, "scene", source_count(loaded->source, A_SCENE));
    sink(context, "contact", loaded->contacts->len);
    sink(context, "kept value", loaded->kept_values->len);
    sink(context, "interlock", loaded->interlocks->len);
    sink(context, "guarded pin", loaded->guarded->len);
}

/* Adds a kind's code, and each output of it. */
static void count_outputs(const plan *loaded, plan_cost_sink *sink, void *context)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(g_str_hash, g_str_equal);
    sink(context, "second output", plan_output_count(loaded) > 1);
    for (guint i = 0; i < plan_output_count(loaded); i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        if (g_hash_table_add(seen, (gpointer)kind->name)) {
            g_autofree char *code = g_strdup_printf("%s code", kind->name);
            sink(context, code, 1);
            sink(context, "second kind", g_hash_table_size(seen) == 2);
        }
        sink(context, kind->name, 1);
        if (kind->vet.count_costs != NULL) {
            kind->vet.count_costs(loaded, i, sink, context);
        }
    }
}

void plan_count_costs(const plan *loaded, plan_cost_sink *sink, void *context)
{
    sink(context, "program", 1);
    count_features(loaded, sink, context);
    count_received(loaded, sink, context);
    count_actions(loaded, sink, context);
    count_outputs(loaded, sink, context);
}

enum { COSTS = G_N_ELEMENTS(costs) };

typedef struct sum {
    double flash[COSTS];
    double ram[COSTS];
} sum;

static void add_cost(void *context, const char *what, double count)
{
    sum *const all = context;
    for (unsigned i = 0; i < COSTS; i++) {
        if (strcmp(costs[i].what, what) == 0) {
            all->flash[i] += count * costs[i].flash;
            all->ram[i] += count * costs[i].ram;
        }
    }
}

/* Returns the three largest: "strip code 3100, sender code 2900, rule 700". To be freed. */
static char *largest(const double *bytes)
{
    GString *const text = g_string_new(NULL);
    double below = G_MAXDOUBLE;
    for (unsigned rank = 0; rank < 3; rank++) {
        int found = -1;
        for (unsigned i = 0; i < COSTS; i++) {
            const bool is_all = strcmp(costs[i].what, "program") == 0;
            found = !is_all && bytes[i] < below && (found < 0 || bytes[i] > bytes[found]) ? (int)i : found;
        }
        if (found >= 0 && bytes[found] >= 1) {
            g_string_append_printf(text, "%s%s %.0f", rank > 0 ? ", " : "", costs[found].what, bytes[found]);
            below = bytes[found];
        }
    }
    return g_string_free(text, FALSE);
}

bool plan_estimate_size(const plan *loaded, plan_size *size)
{
    sum all = {{0}, {0}};
    *size = (plan_size){0};
    if (plan_board(loaded)->port == NULL || COSTS < 2) {
        return false;
    }
    plan_count_costs(loaded, add_cost, &all);
    for (unsigned i = 0; i < COSTS; i++) {
        size->flash += all.flash[i];
        size->ram += all.ram[i];
    }
    size->most = largest(all.flash);
    size->most_ram = largest(all.ram);
    return true;
}
