/* The header of a baked plan: the names of its rows, and what its protocols and outputs have in common. */
#include "bake.h"

#include "outputs.h"

static void put_enum(GString *out, const char *name, const char *what, unsigned count,
                     const char *(*name_of)(const plan *, unsigned), const plan *loaded)
{
    g_autofree char *upper = g_ascii_strup(name, -1);
    for (unsigned i = 0; i < count; i++) {
        g_autofree char *row = g_ascii_strup(name_of(loaded, i), -1);
        g_string_append_printf(out, "%s    %s_%s_%s,\n", i == 0 ? "enum {\n" : "", upper, what, row);
    }
    g_string_append(out, count > 0 ? "};\n\n" : "");
}

/* What the protocols that are received have in common. */
static void put_received(GString *out, const plan *loaded)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    drom_protocol_ref phase = NULL;
    unsigned phases = 0;
    bool has_pauses = false;
    bool leads_once = false;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        const drom_protocol_ref protocol = receive->protocols.rows[i];
        if (protocol->step == drom_pulse_step) {
            const drom_pulse_timing *const timing = protocol->timing;
            has_pauses |= timing->pause_us != 0;
            leads_once |= timing->has_leader_but_once;
        } else if (protocol->step == drom_phase_step) {
            phase = protocol;
            phases++;
        }
    }
    g_string_append_printf(out, "#define DROM_PLAN_HAS_PAUSES %d\n#define DROM_PLAN_LEADS_ONCE %d\n",
                           has_pauses, leads_once);
    if (phases == 1 && !plan_is_own(loaded, phase)) {
        g_string_append_printf(out, "#define DROM_PLAN_PHASE drom_%s\n", phase->id);
    }
}

/* The only protocol that is sent, where there is one. */
static void put_sent(GString *out, const plan *loaded)
{
    drom_waveform_ref only = NULL;
    bool is_only = true;
    for (guint i = 0; i < loaded->sent->len; i++) {
        const GArray *const sent = g_ptr_array_index(loaded->sent, i);
        for (guint j = 0; j < sent->len; j++) {
            const drom_waveform_ref waveform = g_array_index(sent, sent_key, j).key_sent.waveform;
            is_only &= only == NULL || only == waveform;
            only = waveform;
        }
    }
    if (only != NULL && is_only) {
        g_string_append_printf(out, "#define DROM_PLAN_WAVEFORM drom_%s_waveform\n", only->protocol->id);
    }
}

/* Is it the plan's only output of a kind whose settings are better known? Relays are many. */
static bool is_only(const plan *loaded, enum output_kind kind)
{
    unsigned count = 0;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        count += plan_output_kind(loaded, i) == kind;
    }
    return kind != KIND_RELAY && count == 1;
}

static void put_outputs(GString *out, const plan *loaded, const char *name)
{
    uint8_t needs = 0;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const enum output_kind kind = plan_output_kind(loaded, i);
        needs |= plan_output(loaded, i)->kind->needs;
        if (is_only(loaded, kind)) {
            g_autofree char *upper = g_ascii_strup(output_kind_name(kind), -1);
            g_string_append_printf(out,
                                   "#define DROM_%s_SETTINGS(of) ((void)(of), &%s_settings_%s)\n"
                                   "extern const drom_%s_settings DROM_FLASH %s_settings_%s;\n",
                                   upper, name, plan_output_name(loaded, i), output_kind_name(kind), name,
                                   plan_output_name(loaded, i));
        }
    }
    g_string_append_printf(out, "#define DROM_PLAN_NEEDS %u\n", needs);
}

/* Do some handsets ask for a second frame, or list their keys by code? */
static void put_handsets(GString *out, const plan *loaded)
{
    const drom_keys_plan *const keys = &plan_tables(loaded)->keys;
    bool confirms = false;
    bool lists = false;
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        confirms |= keys->handsets.rows[i].needs_second_frame;
        lists |= keys->handsets.rows[i].by_code.count > 0;
    }
    g_string_append_printf(out, "#define DROM_PLAN_CONFIRMS %d\n#define DROM_PLAN_LISTS %d\n", confirms,
                           lists);
}

/* For a program that is compiled for this plan alone: see src/one.h. */
static void put_common(GString *out, const plan *loaded, const char *name)
{
    g_string_append(out,
                    "#ifdef DROM_PLAN /* for a program that is compiled for this plan alone: what it needn't "
                    "count in */\n");
    put_received(out, loaded);
    put_sent(out, loaded);
    put_handsets(out, loaded);
    g_string_append_printf(out, "#define DROM_PLAN_RULES %u\n", drom_rules_use(&plan_tables(loaded)->rules));
    put_outputs(out, loaded, name);
    g_string_append(out, "#endif\n\n");
}

char *plan_bake_header(const plan *loaded, const char *name)
{
    GString *const out = g_string_new(NULL);
    g_autofree char *upper = g_ascii_strup(name, -1);
    g_string_printf(out,
                    "/* The plan \"%s\", baked by dromikos " DROM_VERSION ". Change the plan, not this. */\n",
                    plan_title(loaded));
    g_string_append_printf(
        out, "#ifndef %s_PLAN_H\n#define %s_PLAN_H\n\n#include \"dromikos/dromikos.h\"\n\n", upper, upper);
    put_enum(out, name, "HANDSET", plan_handset_count(loaded), plan_handset_name, loaded);
    put_enum(out, name, "OUTPUT", plan_output_count(loaded), plan_output_name, loaded);
    g_string_append_printf(out, "extern const drom_plan DROM_FLASH %s_plan;\n\n", name);
    put_common(out, loaded, name);
    g_string_append(out, "#endif\n");
    return g_string_free(out, FALSE);
}
