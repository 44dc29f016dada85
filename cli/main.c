/* dromikos VERB ...: one verb a step of the work. */
#include "cli.h"

#include "report.h"

#include <locale.h>
#include <signal.h>
#include <string.h>

static const struct {
    const char *name;
    const char *summary;
    int (*run)(int argc, char **argv);
} verbs[] = {
    {"ear", "a program for your board that prints what its receiver hears", ear_verb},
    {"listen", "what a receiver heard: frames and keys", listen_verb},
    {"enrol", "a handset's sheet from its presses", enrol_verb},
    {"infer", "how an unknown handset speaks, as a line for a plan", infer_verb},
    {"vet", "what of a plan would not work on its board, and the way out", vet_verb},
    {"bake", "a plan as C tables, for a chip", bake_verb},
    {"wave", "what a receiver shows of a key: its waveform", wave_verb},
    {"rehearse", "what a plan does: with a script, a capture, some presses, or each of its keys",
     rehearse_verb},
    {"play", "the same live on this terminal, with your fingers on its keys", play_verb},
    {"chart", "the same as a picture: what was on the air, keys, rules and outputs over time", chart_verb},
};

/* The same verbs, as others spell them. */
static const char *const aliases[][2] = {{"enroll", "enrol"}, {"check", "vet"}};

static void put_help(void)
{
    put_text("Usage: dromikos VERB ...\n\n"
             "Between a remote-control receiver and all that the handset is to drive.\n\nVerbs:\n");
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        put_text("  %-10s  %s\n", verbs[i].name, verbs[i].summary);
    }
    put_text("\nOptions:\n"
             "  --help      this page; 'dromikos VERB --help' for a verb's own\n"
             "  --version   the version\n\n"
             "Exit codes: 0 done; 1 the answer is no (a plan with errors, nothing recognised);\n"
             "2 the command was wrong; 3 a file could not be read or written.\n");
}

static int refuse_verb(const char *name)
{
    const char *names[G_N_ELEMENTS(verbs) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        names[i] = verbs[i].name;
    }
    g_autofree char *list = g_strjoinv(", ", (char **)names);
    g_autofree char *hint = did_you_mean(name, names);
    put_note("dromikos: there is no %s '%s'; the verbs are: %s%s\n", name[0] == '-' ? "option" : "verb", name,
             list, hint);
    return EXIT_WRONG;
}

int main(int argc, char **argv)
{
    (void)setlocale(LC_CTYPE, "");
    (void)signal(SIGPIPE,
                 SIG_IGN); /* a closed pipe is a failure to write like others, though no message says so */
    if (argc < 2) {
        put_note("dromikos: say what to do; 'dromikos --help' lists the verbs\n");
        return EXIT_WRONG;
    }
    if (strcmp(argv[1], "--help") == 0 || strcmp(argv[1], "-h") == 0) {
        put_help();
        return finish("--help", EXIT_DONE);
    }
    if (strcmp(argv[1], "--version") == 0) {
        put_text("dromikos %s\n", DROM_VERSION);
        return finish("--version", EXIT_DONE);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(aliases); i++) {
        argv[1] = strcmp(aliases[i][0], argv[1]) == 0 ? (char *)aliases[i][1] : argv[1];
    }
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        if (strcmp(verbs[i].name, argv[1]) == 0) {
            return verbs[i].run(argc - 1, argv + 1);
        }
    }
    return refuse_verb(argv[1]);
}
