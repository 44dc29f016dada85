/* dromikos VERB ...: one verb per step of the work. */
#include "cli/io/io.h"

#include "cli/verbs/verbs.h"
#include "plan/text/report.h"

#include <locale.h>
#include <signal.h>
#include <string.h>

static const struct {
    const char *name;
    const char *summary;
    int (*run)(int argc, char **argv);
} verbs[] = {
    {"begin", "makes a folder for a new plan, with the ear for its board", begin_verb},
    {"ear", "writes a program for your board that prints what its receiver receives", ear_verb},
    {"listen", "prints the frames and keys of a received signal", listen_verb},
    {"enrol", "makes a handset's sheet, the table of its codes, from presses", enrol_verb},
    {"infer", "works out the protocol of an unknown remote, as a line for a plan", infer_verb},
    {"vet", "checks a plan against its board, and says how to fix what fails", vet_verb},
    {"bake", "writes a plan as a sketch or a program for its board, or as C tables", bake_verb},
    {"wave", "writes the waveform of a key", wave_verb},
    {"rehearse", "runs a plan on the simulated bench, with a script, a capture or presses", rehearse_verb},
    {"play", "runs a plan live on this terminal", play_verb},
    {"chart", "draws a rehearsal over time, a capture's waveform, or a plan's wiring", chart_verb},
};

/* Other spellings of verbs. */
static const char *const aliases[][2] = {{"enroll", "enrol"}, {"check", "vet"}};

static void put_help(void)
{
    put_text("Usage: dromikos VERB ...\n\n"
             "Write down what each key of a remote does, in a plan; try it, wire it, build it.\n\nVerbs:\n");
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        put_text("  %-10s  %s\n", verbs[i].name, verbs[i].summary);
    }
    put_text("\nOptions:\n"
             "  --help      print this page; 'dromikos VERB --help' describes a verb\n"
             "  --version   print the version\n\n"
             "Exit codes: 0 done; 1 the answer is no (a plan with errors, nothing recognised);\n"
             "2 the command was wrong; 3 a file could not be read or written.\n");
}

/* The way from nothing to a board that works. */
static void put_six(void)
{
    put_text(
        "From an empty folder to a working board:\n\n"
        "  dromikos begin fan --board uno --receiver 8   a folder, and a program for the board to load\n"
        "  cd fan\n"
        "  dromikos listen                               is the remote received?\n"
        "  dromikos enrol remote                         press each key, and type its name\n"
        "  dromikos rehearse                             what the keys do, without a board; edit fan.plan\n"
        "  dromikos bake                                 the sketch to load\n\n"
        "'dromikos --help' lists all verbs.\n");
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
    (void)signal(SIGPIPE, SIG_IGN); /* a closed pipe is an error like others, without a message */
    if (argc < 2) {
        put_six();
        return finish("", EXIT_DONE);
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
