/* What each part of a plan costs on a chip: plans at random, what the linker says of them, and the costs that
 * explain it best. './run bench sizes' does it; docs/CONTRIBUTING says when.
 *
 *     bench_sizes draw FIRST COUNT FOLDER       writes plans, one a folder
 *     bench_sizes fit FILE                      reads "PLAN FLASH RAM" a line, and prints costs.def
 *     bench_sizes check FILE                    the same, and how far the estimates are off; 1: too far */
#include "plan/vet/costs.h"
#include "run.h"

#include <glib.h>
#include <glib/gstdio.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MAX_COSTS = 200 };

static const double GOOD_SHARE = 0.04;
static const double GOOD_BYTES = 300;

/* All plans: their parts, and the linker's sizes. */
typedef struct measured {
    GPtrArray *names; /* of costs */
    GArray *rows;     /* of double[MAX_COSTS] */
    GArray *flash;    /* of double */
    GArray *ram;
} measured;

/* A sheet like a maker's: up to 24 keys of one to four protocols, mostly of one. */
static char *draw_sheet(GRand *dice)
{
    static const struct {
        const char *id;
        unsigned address;
        unsigned command;
    } codes[] = {{"nec", 33, 1},      {"samsung32", 7, 1}, {"rc5", 5, 1},    {"sirc12", 1, 1},
                 {"kaseikyo", 64, 1}, {"rc6", 32, 1},      {"denon", 5, 1},  {"lg28", 93, 1},
                 {"jvc", 3, 1},       {"rcmm24", 3, 1},    {"nrc17", 21, 1}, {"mitsubishi", 71, 1}};
    const unsigned keys = (unsigned)g_rand_int_range(dice, 3, 25);
    const unsigned protocols = g_rand_boolean(dice) ? 1 : (unsigned)g_rand_int_range(dice, 2, 5);
    const unsigned first =
        g_rand_boolean(dice) ? 0 : (unsigned)g_rand_int_range(dice, 0, G_N_ELEMENTS(codes));
    GString *const text = g_string_new("key,protocol,address,command,note\n");
    for (unsigned i = 0; i < keys; i++) {
        const unsigned at = (first + i % protocols) % G_N_ELEMENTS(codes);
        g_string_append_printf(text, "k%u,%s,%u,%u,\n", i, codes[at].id, codes[at].address,
                               codes[at].command + i);
    }
    return g_string_free(text, FALSE);
}

/* A plan for the chip with some statements left out: else all would be larger than the chip. */
static bool draw_one(unsigned seed, const char *folder)
{
    g_autoptr(GRand) dice = g_rand_new_with_seed(seed);
    const int percent = g_rand_int_range(dice, 8, 95);
    drawn_plan drawn = {0};
    do {
        drawn_plan_clear(&drawn);
        drawn = draw_plan(dice);
    } while (strstr(drawn.plan, "\nboard mega328\n") == NULL);
    const bool is_small =
        g_rand_int_range(dice, 0, 100) < 70; /* like most makers' plans: one handset, known protocols */
    if (is_small) {
        g_free(drawn.hand);
        drawn.hand = draw_sheet(dice);
    }
    g_auto(GStrv) lines = g_strsplit(drawn.plan, "\n", -1);
    g_autoptr(GString) text = g_string_new(NULL);
    bool is_kept = true;
    for (int i = 0; lines[i] != NULL; i++) {
        const bool is_part = lines[i][0] == ' ';
        const bool is_left_out = is_small && (g_str_has_prefix(lines[i], "protocol") ||
                                              (g_str_has_prefix(lines[i], "handset hall") && seed % 3 != 0));
        const bool is_head = i < 6 || g_str_has_prefix(lines[i], "include");
        const bool is_keyboard = g_str_has_prefix(lines[i], "keyboard"); /* the chip has none */
        if (is_small && g_str_has_prefix(lines[i], "handset hand")) {
            g_free(lines[i]);
            lines[i] = g_strdup("handset hand from \"hand.csv\"");
        }
        is_kept = is_part
                      ? is_kept
                      : !is_keyboard && !is_left_out && (is_head || g_rand_int_range(dice, 0, 100) < percent);
        if (is_kept) {
            g_string_append_printf(text, "%s\n", lines[i]);
        }
    }
    g_free(drawn.plan);
    drawn.plan = g_string_free(g_steal_pointer(&text), FALSE);
    char *said = NULL;
    g_mkdir_with_parents(folder, 0755);
    plan *const loaded = load_what_fits(&drawn, folder, &said);
    const bool is_good = loaded != NULL;
    plan_free(loaded);
    g_free(said);
    drawn_plan_clear(&drawn);
    return is_good;
}

static int draw_all(unsigned first, unsigned count, const char *folder)
{
    unsigned seed = first;
    for (unsigned i = 0; i < count; seed++) {
        g_autofree char *path = g_strdup_printf("%s/%u", folder, i);
        i += draw_one(seed, path);
    }
    return 0;
}

static unsigned cost_row(measured *all, const char *what)
{
    for (guint i = 0; i < all->names->len; i++) {
        if (strcmp(g_ptr_array_index(all->names, i), what) == 0) {
            return i;
        }
    }
    g_ptr_array_add(all->names, g_strdup(what));
    return all->names->len - 1;
}

/* Adds a part of a plan to the newest row. */
static void count(void *context, const char *what, double number)
{
    measured *const all = context;
    double(*const rows)[MAX_COSTS] = (double(*)[MAX_COSTS])(void *)all->rows->data;
    const unsigned at = cost_row(all, what);
    if (at < MAX_COSTS) {
        rows[all->rows->len - 1][at] += number;
    }
}

/* Each line: the plan's path, its flash, its RAM. */
static bool read_all(measured *all, const char *path)
{
    g_autofree char *text = NULL;
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        fprintf(stderr, "bench_sizes: %s can't be read\n", path);
        return false;
    }
    *all = (measured){g_ptr_array_new_with_free_func(g_free),
                      g_array_new(FALSE, TRUE, sizeof(double[MAX_COSTS])),
                      g_array_new(FALSE, FALSE, sizeof(double)), g_array_new(FALSE, FALSE, sizeof(double))};
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (int i = 0; lines[i] != NULL; i++) {
        g_auto(GStrv) words = g_strsplit(lines[i], " ", -1);
        if (g_strv_length(words) != 3) {
            continue;
        }
        report *const faults = report_new();
        plan *const loaded = plan_load(words[0], faults);
        report_free(faults);
        if (loaded == NULL) {
            fprintf(stderr, "bench_sizes: %s is no plan\n", words[0]);
            return false;
        }
        const double flash = g_ascii_strtod(words[1], NULL);
        const double ram = g_ascii_strtod(words[2], NULL);
        g_array_set_size(all->rows, all->rows->len + 1);
        plan_count_costs(loaded, count, all);
        g_array_append_val(all->flash, flash);
        g_array_append_val(all->ram, ram);
        plan_free(loaded);
    }
    return all->rows->len > 0;
}

/* The size of a table's row, from the structs on the chip; the rest is measured. */
static const struct {
    const char *what;
    double flash;
    double ram;
} known[] = {{"code", 7, 0}, {"rule", 17, 0}, {"action", 7, 0}, {"condition", 5, 0}, {"pixel", 0, 3}};

static bool is_known(const char *what, bool is_flash, double *cost)
{
    for (gsize i = 0; i < G_N_ELEMENTS(known); i++) {
        if (strcmp(known[i].what, what) == 0) {
            *cost = is_flash ? known[i].flash : known[i].ram;
            return true;
        }
    }
    return false;
}

/* The costs, none below 0, whose sums are closest to the measured sizes: each in turn is made the best beside
 * the others, many times. */
static void fit(const measured *all, const GArray *bytes, bool is_flash, double *costs)
{
    enum { ROUNDS = 4000 };
    const double(*rows)[MAX_COSTS] = (const double(*)[MAX_COSTS])(const void *)all->rows->data;
    const unsigned count_of = MIN(all->names->len, MAX_COSTS);
    g_autofree double *left = g_new(double, all->rows->len);
    for (guint i = 0; i < all->rows->len; i++) {
        left[i] = g_array_index(bytes, double, i);
        for (unsigned j = 0; j < count_of; j++) {
            if (is_known(g_ptr_array_index(all->names, j), is_flash, &costs[j])) {
                left[i] -= rows[i][j] * costs[j];
            }
        }
    }
    for (unsigned round = 0; round < ROUNDS; round++) {
        for (unsigned j = 0; j < count_of; j++) {
            double known_cost;
            if (is_known(g_ptr_array_index(all->names, j), is_flash, &known_cost)) {
                continue;
            }
            double along = 0;
            double square = 1; /* a little towards 0, as the split between two parts that always occur
                                  together isn't known */
            for (guint i = 0; i < all->rows->len; i++) {
                along += rows[i][j] * left[i];
                square += rows[i][j] * rows[i][j];
            }
            const double better = MAX(costs[j] + (along - costs[j]) / square, 0);
            for (guint i = 0; i < all->rows->len; i++) {
                left[i] -= rows[i][j] * (better - costs[j]);
            }
            costs[j] = better;
        }
    }
}

static int fit_all(const char *path)
{
    measured all;
    double flash[MAX_COSTS] = {0};
    double ram[MAX_COSTS] = {0};
    if (!read_all(&all, path)) {
        return 1;
    }
    fit(&all, all.flash, true, flash);
    fit(&all, all.ram, false, ram);
    printf("/* Bytes of flash and of RAM on an ATmega328P, of plans at random and the examples: ./run bench "
           "sizes "
           "measures it. */\n");
    for (guint i = 0; i < MIN(all.names->len, MAX_COSTS); i++) {
        printf("COST(\"%s\", %.1f, %.1f)\n", (const char *)g_ptr_array_index(all.names, i), flash[i], ram[i]);
    }
    return 0;
}

static bool is_near(double estimated, double there)
{
    return fabs(estimated - there) <= MAX(GOOD_BYTES, GOOD_SHARE * there);
}

static int check_all(const char *path)
{
    g_autofree char *text = NULL;
    unsigned plans = 0;
    unsigned near = 0;
    double worst = 0;
    double worst_ram = 0;
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        return 1;
    }
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (int i = 0; lines[i] != NULL; i++) {
        g_auto(GStrv) words = g_strsplit(lines[i], " ", -1);
        report *const faults = report_new();
        plan *const loaded = g_strv_length(words) == 3 ? plan_load(words[0], faults) : NULL;
        report_free(faults);
        plan_size size;
        if (loaded == NULL) {
            continue;
        }
        if (!plan_estimate_size(loaded, &size)) {
            plan_free(loaded);
            continue;
        }
        const double flash = g_ascii_strtod(words[1], NULL);
        const double ram = g_ascii_strtod(words[2], NULL);
        const bool is_good = is_near(size.flash, flash) && is_near(size.ram, ram);
        plans++;
        near += is_good;
        worst = MAX(worst, fabs(size.flash - flash) / flash);
        worst_ram = MAX(worst_ram, fabs(size.ram - ram));
        if (!is_good) {
            printf("%s: %.0f of %.0f bytes of flash, %.0f of %.0f of RAM\n", words[0], size.flash, flash,
                   size.ram, ram);
        }
        g_free(size.most);
        g_free(size.most_ram);
        plan_free(loaded);
    }
    printf("%u of %u plans are estimated within 4 %% or 300 bytes; at worst flash is off by %.1f %%, RAM by "
           "%.0f bytes\n",
           near, plans, worst * 100, worst_ram);
    return plans == 0 || near < plans;
}

int main(int argc, char **argv)
{
    if (argc == 5 && strcmp(argv[1], "draw") == 0) {
        return draw_all((unsigned)strtoul(argv[2], NULL, 10), (unsigned)strtoul(argv[3], NULL, 10), argv[4]);
    }
    if (argc == 3 && strcmp(argv[1], "fit") == 0) {
        return fit_all(argv[2]);
    }
    if (argc == 3 && strcmp(argv[1], "check") == 0) {
        return check_all(argv[2]);
    }
    fprintf(stderr, "bench_sizes: draw FIRST COUNT FOLDER, fit FILE, or check FILE\n");
    return 2;
}
