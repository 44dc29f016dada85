/* The header of a baked plan: the names of its rows; and how the library is compiled for it. */
#include "bake.h"

#include "build.h"

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
    g_string_append(out, "#endif\n");
    return g_string_free(out, FALSE);
}

char *plan_bake_config(const plan *loaded, const char *name)
{
    static const struct {
        const char *name;
        uint16_t uses;
    } switches[] = {
        {"TIMED_EDGES", DROM_USES_TIMED_EDGES | DROM_USES_CARRIER},
        {"CARRIER", DROM_USES_CARRIER},
        {"PIXELS", DROM_USES_PIXELS},
        {"PWM", DROM_USES_PWM},
        {"CONFIRMATION", DROM_USES_CONFIRMATION},
        {"CODE_INDEX", DROM_USES_CODE_INDEX},
        {"PAUSES", DROM_USES_PAUSES},
        {"SINGLE_LEADER", DROM_USES_SINGLE_LEADER},
        {"WAITS", DROM_USES_WAITS},
        {"MODES", DROM_USES_MODES},
        {"VALUES", DROM_USES_VALUES},
        {"TIMERS", DROM_USES_TIMERS},
        {"SCENES", DROM_USES_SCENES},
        {"CONDITIONS", DROM_USES_CONDITIONS},
        {"NUMBERS", DROM_USES_NUMBERS},
        {"HOLDS", DROM_USES_HOLDS},
        {"INPUTS", 0},
        {"INTERVALS", 0}, /* no port that ships measures them */
        {"OBSERVER", 0},
        {"CHECKS", 0},
    };
    const uint16_t uses = drom_plan_uses(plan_tables(loaded));
    const char *const port = plan_board(loaded)->port;
    const char *const receiver = loaded->source->receiver_pin.text;
    GString *const out = g_string_new(NULL);
    g_string_printf(
        out,
        "/* How the library is compiled for the plan \"%s\": in the place of its own drom_config.h. "
        "Baked by dromikos " DROM_VERSION ". */\n"
        "#ifndef DROMIKOS_DROM_CONFIG_H\n#define DROMIKOS_DROM_CONFIG_H\n\n"
        "#define DROM_PLAN %s_plan\n",
        plan_title(loaded), name);
    if (port != NULL) {
        g_autofree char *upper = g_ascii_strup(port, -1);
        g_string_append_printf(out, "#define DROM_PORT %s_port\n", port);
        if (receiver != NULL) {
            g_string_append_printf(out, "#define %s_RECEIVER_PIN %u\n", upper,
                                   board_pin_by_name(plan_board(loaded), receiver)->number);
        }
    }
    g_string_append(out, "\n/* What the plan uses. The last two are for a program's own code. */\n");
    for (gsize i = 0; i < G_N_ELEMENTS(switches); i++) {
        g_string_append_printf(out, "#define DROM_WITH_%s %d\n", switches[i].name,
                               (uses & switches[i].uses) != 0);
    }
    g_string_append(out, "\n#endif\n");
    return g_string_free(out, FALSE);
}
