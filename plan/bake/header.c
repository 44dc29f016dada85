/* The header of a baked plan, with the names of its rows; and the library's configuration for it. */
#include "plan/bake/bake.h"

#include "plan/model/build.h"

#include <string.h>

char *bake_comment(const char *text)
{
    GString *const comment = g_string_new(text);
    (void)g_string_replace(comment, "*/", "* /", 0);
    (void)g_string_replace(comment, "/*", "/ *", 0);
    return g_string_free(comment, FALSE);
}

/* A row's name in capitals: names that differ in case only get a number. */
static char *row_name(const char *upper, const char *what, const char *name, GHashTable *taken)
{
    g_autofree char *row = g_ascii_strup(name, -1);
    char *found = g_strdup_printf("%s_%s_%s", upper, what, row);
    for (unsigned i = 2; !g_hash_table_add(taken, g_strdup(found)); i++) {
        g_free(found);
        found = g_strdup_printf("%s_%s_%s_%u", upper, what, row, i);
    }
    return found;
}

static void put_enum(GString *out, const char *name, const char *what, const plan *loaded, thing kind,
                     unsigned count)
{
    g_autofree char *upper = g_ascii_strup(name, -1);
    g_autoptr(GHashTable) taken = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    while (count > 0 && strchr(source_name(loaded->source, kind, count - 1)->text, ' ') != NULL) {
        count--; /* the last scenes are those of orders "for TIME" */
    }
    for (unsigned i = 0; i < count; i++) {
        g_autofree char *row = row_name(upper, what, source_name(loaded->source, kind, i)->text, taken);
        g_string_append_printf(out, "%s    %s,\n", i == 0 ? "enum {\n" : "", row);
    }
    g_string_append(out, count > 0 ? "};\n\n" : "");
}

char *plan_bake_header(const plan *loaded, const char *name)
{
    GString *const out = g_string_new(NULL);
    g_autofree char *upper = g_ascii_strup(name, -1);
    g_autofree char *title = bake_comment(plan_title(loaded));
    g_string_printf(out,
                    "/* The plan \"%s\", baked by dromikos " DROM_VERSION ". Change the plan, not this. */\n",
                    title);
    g_string_append_printf(
        out, "#ifndef %s_PLAN_H\n#define %s_PLAN_H\n\n#include \"dromikos/dromikos.h\"\n\n", upper, upper);
    static const struct {
        const char *text;
        thing kind;
    } named[] = {{"OUTPUT", AN_OUTPUT}, {"MODE", A_MODE},   {"VALUE", A_VALUE},
                 {"TIMER", A_TIMER},    {"SCENE", A_SCENE}, {"EVENT", AN_EVENT}};
    put_enum(out, name, "HANDSET", loaded, A_HANDSET, plan_handset_count(loaded));
    for (gsize i = 0; i < G_N_ELEMENTS(named); i++) {
        put_enum(out, name, named[i].text, loaded, named[i].kind,
                 source_count(loaded->source, named[i].kind));
    }
    g_string_append_printf(out, "extern const drom_plan DROM_FLASH %s_plan;\n\n", name);
    bool is_any = false;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (plan_output_kind(loaded, i)->bake.declaration != NULL) {
            g_string_append(
                out, is_any ? "" : "/* Yours to write. */\n#ifdef __cplusplus\nextern \"C\" {\n#endif\n");
            g_string_append_printf(out, plan_output_kind(loaded, i)->bake.declaration, name,
                                   plan_output_name(loaded, i));
            g_string_append_c(out, '\n');
            is_any = true;
        }
    }
    g_string_append(out, is_any ? "#ifdef __cplusplus\n}\n#endif\n\n" : "");
    g_string_append(out, "#endif\n");
    return bake_in_ascii(out);
}

const char *bake_feature(unsigned number)
{
    static const char *const names[DROM_FEATURES] = {
#define DROM_FEATURE(name, small, what) #name,
#define DROM_OPTION(name, small, what)
#include "dromikos/features.def.h"
    };
    return names[number];
}

char *plan_bake_config(const plan *loaded, const char *name)
{
    static const char *const options[] = {
#define DROM_FEATURE(name, small, what)
#define DROM_OPTION(name, small, what) #name,
#include "dromikos/features.def.h"
    };
    uint32_t uses = drom_plan_uses(plan_tables(loaded));
    uses |= loaded->source->events->len > 0 ? DROM_USES(POSTS) : 0;
    uses |= (uses & DROM_USES(CARRIER)) != 0 ? DROM_USES(TIMED_EDGES) : 0;
    const char *const port = plan_board(loaded)->port;
    const char *const receiver = loaded->source->receiver_pin.text;
    g_autofree char *title = bake_comment(plan_title(loaded));
    GString *const out = g_string_new(NULL);
    g_string_printf(
        out,
        "/* How the library is compiled for the plan \"%s\": in the place of its own drom_config.h. "
        "Baked by dromikos " DROM_VERSION ". */\n"
        "#ifndef DROMIKOS_DROM_CONFIG_H\n#define DROMIKOS_DROM_CONFIG_H\n\n"
        "#define DROM_PLAN %s_plan\n",
        title, name);
    if (port != NULL) {
        g_autofree char *chip = g_ascii_strup(plan_board(loaded)->chip, -1);
        g_string_append_printf(
            out, "#define DROM_PORT %s_port\n#define DROM_CHIP DROM_CHIP_%s\n#define DROM_MHZ %g\n", port,
            chip, plan_mhz(loaded));
        if (receiver != NULL) {
            g_string_append_printf(out, "#define DROM_RECEIVER_PIN %u\n",
                                   board_pin_by_name(plan_board(loaded), receiver)->number);
        }
    }
    g_string_append(out, "\n/* The features of the plan. */\n");
    for (unsigned i = 0; i < DROM_FEATURES; i++) {
        g_string_append_printf(out, "#define DROM_WITH_%s %u\n", bake_feature(i), (unsigned)(uses >> i & 1));
    }
    g_string_append(out, "\n/* For your own code: features.def.h says what each is for. */\n");
    for (gsize i = 0; i < G_N_ELEMENTS(options); i++) {
        g_string_append_printf(out, "#define DROM_WITH_%s 0\n", options[i]);
    }
    g_string_append(out, "\n#endif\n");
    return g_string_free(out, FALSE);
}
