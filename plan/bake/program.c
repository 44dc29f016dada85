/* A whole program around a baked plan: functions for C and C++, which see no tables, and the file that a
 * maker may edit. */
#include "plan/bake/program.h"

#include "plan/bake/bake.h"
#include "plan/model/build.h"

#include <string.h>

/* Begins a text with a comment that names the plan; no closing mark in its name ends the comment. */
static GString *begin_text(const plan *loaded, const char *format, const char *name)
{
    g_autofree char *title = bake_comment(plan_title(loaded));
    GString *const out = g_string_new(NULL);
    g_string_append_printf(out, format, title, name);
    return out;
}

/* Returns the kind whose verbs an output takes; NULL: it gets no orders. */
static const char *verbs_of(const output_kind *kind)
{
    return kind->words.is_called ? NULL : kind->bake.verbs != NULL ? kind->bake.verbs : kind->name;
}

static void put_kind_includes(GString *out, const plan *loaded)
{
    g_autoptr(GHashTable) seen = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const char *const verbs = verbs_of(plan_output_kind(loaded, i));
        if (verbs != NULL && g_hash_table_add(seen, (gpointer)verbs)) {
            g_string_append_printf(out, "#include \"../include/dromikos/outputs/%s.h\"\n", verbs);
        }
    }
}

static unsigned event_count(const plan *loaded)
{
    return source_count(loaded->source, AN_EVENT);
}

static void put_signature(GString *out, const plan *loaded, const char *name, unsigned output,
                          const char *value)
{
    g_string_append_printf(out, "drom_status %s_order_%s(drom_%s_verb verb, uint32_t value%s)", name,
                           plan_output_name(loaded, output), verbs_of(plan_output_kind(loaded, output)),
                           value);
}

char *program_header(const plan *loaded, const char *name)
{
    GString *const out =
        begin_text(loaded,
                   "/* The plan \"%s\" for your own code, C or C++. Written by dromikos " DROM_VERSION
                   "; change the plan, not "
                   "this. */\n",
                   name);
    g_autofree char *upper = g_ascii_strup(name, -1);
    g_string_append_printf(out, "#ifndef %s_H\n#define %s_H\n\n#include \"../include/dromikos/fault.h\"\n",
                           upper, upper);
    put_kind_includes(out, loaded);
    g_string_append_printf(
        out,
        "\n#ifdef __cplusplus\nextern \"C\" {\n#endif\n\n"
        "/** Starts the chip and the plan. Call it once. False: the plan can't run on this chip. */\n"
        "bool %s_begin(void);\n\n"
        "/** Does what is due, then sleeps until something is. Call it again and again, without delays "
        "between. */\n"
        "void %s_poll(void);\n",
        name, name);
    bool is_first = true;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        if (verbs_of(kind) != NULL) {
            g_string_append(
                out, is_first ? "\n/* Orders, as a rule would give them; outputs/KIND.h explains verbs "
                                "and values. In C the value must be given. */\n"
                                "#ifdef __cplusplus\n#define DROM_VALUE_0 = 0\n#else\n"
                                "#define DROM_VALUE_0\n#endif\n"
                              : "");
            put_signature(out, loaded, name, i, " DROM_VALUE_0");
            g_string_append(out, ";\n");
            is_first = false;
        }
    }
    g_string_append(out, is_first ? "" : "#undef DROM_VALUE_0\n");
    for (unsigned i = 0; i < event_count(loaded); i++) {
        g_string_append_printf(
            out, "%sdrom_status %s_post_%s(int16_t value);\n",
            i == 0 ? "\n/* Events of your own code. DROM_FULL: four are queued; try again. */\n" : "", name,
            source_name(loaded->source, AN_EVENT, i)->text);
    }
    bool has_own = false;
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const char *const declaration = plan_output_kind(loaded, i)->bake.declaration;
        if (declaration != NULL) {
            g_string_append(out, has_own ? "" : "\n/* Yours to write: the plan calls them. */\n");
            g_string_append_printf(out, declaration, name, plan_output_name(loaded, i));
            g_string_append_c(out, '\n');
            has_own = true;
        }
    }
    g_string_append(out, "\n#ifdef __cplusplus\n}\n#endif\n\n#endif\n");
    return bake_in_ascii(out);
}

char *program_functions(const plan *loaded, const char *name)
{
    const char *const port = plan_board(loaded)->port;
    const char *const chip = strchr(port, '_') + 1;
    GString *const out = begin_text(loaded,
                                    "/* The plan \"%s\" on its port. Written by dromikos " DROM_VERSION
                                    ". */\n#include \"%s.h\"\n\n",
                                    name);
    g_string_append_printf(out, "#include \"%s_plan.h\"\n\n#include \"../ports/%s/%s.h\"\n\n", name, chip,
                           chip);
    g_string_append_printf(out,
                           "bool %s_begin(void)\n{\n    %s_open();\n"
                           "    return drom_engine_start(&%s_engine, &%s_plan, &%s_port) == DROM_OK;\n}\n\n"
                           "void %s_poll(void)\n{\n"
                           "    drom_engine_idle(&%s_engine, drom_engine_poll(&%s_engine));\n}\n",
                           name, port, port, name, port, name, port, port);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (verbs_of(plan_output_kind(loaded, i)) != NULL) {
            g_string_append_c(out, '\n');
            put_signature(out, loaded, name, i, "");
            g_string_append_printf(
                out, "\n{\n    return drom_engine_order(&%s_engine, %u, (uint8_t)verb, value);\n}\n", port,
                i);
        }
    }
    for (unsigned i = 0; i < event_count(loaded); i++) {
        g_string_append_printf(out,
                               "\ndrom_status %s_post_%s(int16_t value)\n{\n"
                               "    return drom_engine_post(&%s_engine, %u, value);\n}\n",
                               name, source_name(loaded->source, AN_EVENT, i)->text, port, i);
    }
    return bake_in_ascii(out);
}

/* The maker's functions, which do nothing yet. */
static void put_stubs(GString *out, const plan *loaded, const char *name, const char *comment,
                      const char *end)
{
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const char *const declaration = plan_output_kind(loaded, i)->bake.declaration;
        if (declaration != NULL) {
            g_autofree char *declared = g_strdup_printf(declaration, name, plan_output_name(loaded, i));
            declared[strlen(declared) - 1] = '\0'; /* the semicolon */
            g_string_append_printf(
                out,
                "\n%s The plan calls this, with a value: call %s. Return soon: 'own code blocks "
                "TIME' in the plan says how long it may take.%s\n%s\n{\n    (void)value;\n}\n",
                comment, plan_output_name(loaded, i), end, declared);
        }
    }
}

char *program_sketch(const plan *loaded, const char *name)
{
    GString *const out = begin_text(
        loaded,
        "// The plan \"%s\". This file is yours: 'dromikos bake' writes it once and then leaves it alone.\n"
        "#include \"src/plan/%s.h\"\n\n",
        name);
    g_string_append_printf(out, "// The board %s is %s for the IDE's builder.\n", plan_board(loaded)->id,
                           plan_board(loaded)->ide);
    g_string_append_printf(out,
                           "void setup()\n{\n    %s_begin();\n}\n\n"
                           "// No delay() here: the plan's own times need none, and keys wait meanwhile.\n"
                           "void loop()\n{\n    %s_poll();\n}\n",
                           name, name);
    put_stubs(out, loaded, name, "//", "");
    return bake_in_ascii(out);
}

char *program_main(const plan *loaded, const char *name)
{
    GString *const out = begin_text(loaded,
                                    "/* The plan \"%s\". This file is yours: 'dromikos bake' writes it once "
                                    "and then leaves it alone. */\n"
                                    "#include \"src/plan/%s.h\"\n\n",
                                    name);
    g_string_append_printf(
        out,
        "int main(void)\n{\n    if (%s_begin()) {\n        for (;;) {\n"
        "            %s_poll(); /* no delays here: keys wait meanwhile */\n        }\n    }\n"
        "    return 1;\n}\n",
        name, name);
    put_stubs(out, loaded, name, "/*", " */");
    return bake_in_ascii(out);
}

char *program_makefile(const board *chosen, double mhz, const char *name)
{
    /* This boot loader runs for 8 s after the line was opened at 1200 baud. */
    const bool is_touched = strcmp(chosen->programmer, "avr109") == 0;
    const bool is_kept = strcmp(chosen->programmer, "wiring") == 0; /* its boot loader erases by itself */
    GString *const out = g_string_new(NULL);
    g_string_append_printf(
        out,
        "# %s on the board %s: 'make' writes %s.hex, 'make flash PORT=/dev/ttyUSB0' loads it. Needs "
        "avr-gcc,\n"
        "# avr-libc and, to load, avrdude. Written by dromikos " DROM_VERSION
        ": changes here are lost when it writes again.\n"
        "NAME = %s\nPORT = %s\n\n"
        "sources = $(wildcard *.c src/*/*.c src/*/*/*.c src/*/*/*/*.c)\n"
        "headers = $(wildcard src/*/*.h src/*/*/*.h src/*/*/*/*.h)\n\n"
        "$(NAME).hex: $(NAME).elf\n\tavr-objcopy -O ihex -R .eeprom $< $@\n\n"
        "$(NAME).elf: $(sources) $(headers) Makefile\n"
        "\tavr-gcc -std=gnu11 -mmcu=%s -DF_CPU=%.0fUL -Os -flto -mrelax -mstrict-X -mcall-prologues \\\n"
        "\t    -fira-algorithm=priority -fshort-enums -Wall -Wextra -ffunction-sections -fdata-sections \\\n"
        "\t    -Wl,--gc-sections $(sources) -o $@\n\tavr-size $@\n\n",
        name, chosen->id, name, name, is_touched ? "/dev/ttyACM0" : "/dev/ttyUSB0", chosen->mcu, mhz * 1e6);
    g_string_append_printf(
        out,
        "flash: $(NAME).hex\n%s\tavrdude -q -p %s -c %s -P $(PORT) -b %d %s"
        "-U flash:w:$<:i\n\nclean:\n\trm -f $(NAME).elf $(NAME).hex\n\n.PHONY: flash clean\n",
        is_touched ? "\tstty -F $(PORT) 1200 hupcl\n\tsleep 2\n" : "", chosen->mcu, chosen->programmer,
        chosen->upload_baud, is_kept ? "-D " : "");
    return g_string_free(out, FALSE);
}
