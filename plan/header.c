/* The header of a baked plan: the names of its rows, and what its protocols and outputs have in common. */
#include "bake.h"

#include "outputs.h"

static void put_enum(GString *to, const char *name, const char *what, unsigned count,
                     const char *(*name_of)(const plan *, unsigned), const plan *of)
{
    g_autofree char *upper = g_ascii_strup(name, -1);
    for (unsigned i = 0; i < count; i++) {
        g_autofree char *row = g_ascii_strup(name_of(of, i), -1);
        g_string_append_printf(to, "%s    %s_%s_%s,\n", i == 0 ? "enum {\n" : "", upper, what, row);
    }
    g_string_append(to, count > 0 ? "};\n\n" : "");
}

/* What the protocols that are received have in common. */
static void put_received(GString *to, const plan *of)
{
    const drom_receive_plan *const receive = &plan_tables(of)->receive;
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
    g_string_append_printf(to, "#define DROM_PLAN_HAS_PAUSES %d\n#define DROM_PLAN_LEADS_ONCE %d\n",
                           has_pauses, leads_once);
    if (phases == 1 && !plan_is_own(of, phase)) {
        g_string_append_printf(to, "#define DROM_PLAN_PHASE drom_%s\n", phase->id);
    }
}

/* The only protocol that is sent, where there is one. */
static void put_sent(GString *to, const plan *of)
{
    drom_waveform_ref only = NULL;
    bool is_only = true;
    for (guint i = 0; i < of->sent->len; i++) {
        const GArray *const sent = g_ptr_array_index(of->sent, i);
        for (guint j = 0; j < sent->len; j++) {
            const drom_waveform_ref waveform = g_array_index(sent, sent_key, j).key_sent.waveform;
            is_only &= only == NULL || only == waveform;
            only = waveform;
        }
    }
    if (only != NULL && is_only) {
        g_string_append_printf(to, "#define DROM_PLAN_WAVEFORM drom_%s_waveform\n", only->protocol->id);
    }
}

/* Is it the plan's only output of a kind whose settings are better known? Relays are many. */
static bool is_only(const plan *of, enum output_kind kind)
{
    unsigned count = 0;
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        count += plan_output_kind(of, i) == kind;
    }
    return kind != KIND_RELAY && count == 1;
}

static void put_outputs(GString *to, const plan *of, const char *name)
{
    uint8_t needs = 0;
    for (unsigned i = 0; i < plan_output_count(of); i++) {
        const enum output_kind kind = plan_output_kind(of, i);
        needs |= plan_output(of, i)->kind->needs;
        if (is_only(of, kind)) {
            g_autofree char *upper = g_ascii_strup(output_kind_name(kind), -1);
            g_string_append_printf(to,
                                   "#define DROM_%s_SETTINGS(of) ((void)(of), &%s_settings_%s)\n"
                                   "extern const drom_%s_settings DROM_FLASH %s_settings_%s;\n",
                                   upper, name, plan_output_name(of, i), output_kind_name(kind), name,
                                   plan_output_name(of, i));
        }
    }
    g_string_append_printf(to, "#define DROM_PLAN_NEEDS %u\n", needs);
}

static bool confirms(const plan *of)
{
    const drom_keys_plan *const keys = &plan_tables(of)->keys;
    bool is_any = false;
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        is_any |= keys->handsets.rows[i].needs_second_frame;
    }
    return is_any;
}

/* For a program that is compiled for this plan alone: see src/one.h. */
static void put_common(GString *to, const plan *of, const char *name)
{
    g_string_append(to,
                    "#ifdef DROM_PLAN /* for a program that is compiled for this plan alone: what it needn't "
                    "reckon with */\n");
    put_received(to, of);
    put_sent(to, of);
    g_string_append_printf(to, "#define DROM_PLAN_CONFIRMS %d\n", confirms(of));
    put_outputs(to, of, name);
    g_string_append(to, "#endif\n\n");
}

char *plan_bake_header(const plan *of, const char *name)
{
    GString *const to = g_string_new(NULL);
    g_autofree char *upper = g_ascii_strup(name, -1);
    g_string_printf(to,
                    "/* The plan \"%s\", baked by dromikos " DROM_VERSION ". Change the plan, not this. */\n",
                    plan_title(of));
    g_string_append_printf(to, "#ifndef %s_PLAN_H\n#define %s_PLAN_H\n\n#include \"dromikos/dromikos.h\"\n\n",
                           upper, upper);
    put_enum(to, name, "HANDSET", plan_handset_count(of), plan_handset_name, of);
    put_enum(to, name, "OUTPUT", plan_output_count(of), plan_output_name, of);
    g_string_append_printf(to, "extern const drom_plan DROM_FLASH %s_plan;\n\n", name);
    put_common(to, of, name);
    g_string_append(to, "#endif\n");
    return g_string_free(to, FALSE);
}
