/* Random plans. Statements that the checker refuses are left out, so that a fault is the engine's. */
#include "grammar.h"
#include "run.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MAX_KEYS = 8, PANEL_KEYS = 2 };

/* The statements of a plan, in this order: each as often as its tries succeed. */
static const struct {
    const char *pattern;
    unsigned char tries;
    unsigned char percent;
} statements[] = {
    {"holds after [300-900] ms", 1, 10},
    {"taps within [200-700] ms", 1, 10},
    {"doubles within [250-500] ms", 1, 10},
    {"repeats after [250-600] ms, every [80-300] ms{|, fastest 60 ms}", 1, 20},
    {"own code masks [20-300] us", 1, 20},
    {"own code blocks [2-40] ms", 1, 25},
    {"include \"more.plan\"", 1, 100},
    {"switch <new switch> on pin <pin>", 3, 50},
    {"buttons <new panel>: b0 on pin <pin>, b1 on pin <pin>", 1, 35},
    {"relay <new relay> on pin <pin>{||, active low}{|||, rest on}{|||, contacts normally closed}"
     "{||, on at least [10-900] ms}{||, off at least [10-900] ms}{|||, at most [900-4000] ms}",
     4, 55},
    {"lamp <new lamp> on pin <pwm>{||, active low}", 2, 40},
    {"lamp <new colour> on pins <pwm> <pwm> <pwm>{||, active low}", 1, 15},
    {"stepper <new stepper> on pins <pin> <pin> <pin> <pin>{|, up to "
     "{[40-400]|[40-400]|[40-2000]|[500-4000]} "
     "steps/s within {[130-900]|[130-5000]} ms}{||, holds still}{|, home at <switch>}",
     2, 35},
    {"strip <new strip> on pin <pin>, {[8-60]|[8-60]|[60-120]} pixels{|, without pause|, pause [1-60] "
     "ms}{||, at most [100-900] mA}{|||, order rgb}",
     3, 45},
    {"part <new part> of strip1, pixels 0 to 3", 1, 40},
    {"part <new part> of strip1, pixels 4 to 7", 1, 30},
    {"motor <new motor> on pins <pin> and <pin>, speed on pin <pwm><motor clauses>{|||, stops forward at "
     "<switch>}{|||, stops back at <switch>}",
     2, 50},
    {"motor <new motor> on pins <pwm> and <pwm><motor clauses>{||, stops forward at <switch>}", 1, 30},
    {"motor <new fan> on pin <pwm><motor clauses>{||, stops forward at <switch>}", 1, 30},
    {"drive <new drive> of motor1 and motor2", 1, 50},
    {"servo <new servo> on pin <pin>{|, pulses [500-1400] to [1600-2500] us|, pulses [1600-2500] to "
     "[500-1400] us}",
     3, 40},
    {"sender <new sender> on pin <carrier>{|, shielded}", 1, 60},
    {"keyboard <new keyboard>{||, layout de}", 1, 80},
    {"call <new call>", 2, 40},
    {"all <new crew>: <output>, <output>{|, <output>}", 1, 25},
    {"only one of <locked>, <locked>{|, <locked>}{||, pause [1-600] ms}", 2, 35},
    {"mode <new mode>", 1, 60},
    {"mode <new mode>, back after {[200-900] ms|[1-4] s}", 2, 50},
    {"mode <new mode>", 1, 30},
    {"value <new value> from 0 to [2-6]{|, wraps}{||, starts at [0-2]}{|, kept}", 2, 45},
    {"timer <new timer>", 2, 45},
    {"event <new event>", 2, 50},
    {"translate hand to hall on <sender>: k0 as h0, k1 as h1{|, k2 as h2}", 1, 25},
    {"scene <new scene>{|||, <again>}: <actions>", 2, 45},
    {"scene <new scene>: <actions>; wait {[1-20] ms|[20-900] ms}; {<order>; |}<that>", 1, 15},
    {"scene <new scene>: <actions>; wait for <output>{| at most [1-900] ms}; {<order>; |}<that>", 1, 15},
    {"at start: <actions>", 1, 60},
    {"when hand.k0 to hand.k2 <press>: {<strip> show digit|<value> to digit|<call> digit}", 1, 15},
    {"when <happening>: <actions>", 3, 50},
    {"when <happening> in <mode>: <actions>", 1, 40},
    {"when <happening> if <condition>: <actions>{| otherwise: <actions>}", 2, 30},
    {"every [300-3000] ms{|| in <mode>}{||| if <condition>}: <action>", 1, 20},
    {"in <mode>:\n    when <key> <press>: <held actions>", 1, 30},
};

/* For each key of the handset: one of the first row, and perhaps one of the second. */
static const char *const key_rules[][4] = {
    {"when <this> <press>: <held actions>", "when <this> <press> in <mode>: <held actions>",
     "when <this> <press>{| in <mode>} if <condition>{| and <condition>}{||, <again>}: <held actions>{| "
     "otherwise: <held actions>}",
     "when <this> pressed or repeated: <order>"},
    {"when <this> {held|held for [300-1200] ms}: <held actions>", "when <this> {tapped|released}: <actions>",
     "when <this> tapped twice{||, <again>}: <actions>",
     "when <this> {held|tapped|released} if <condition>: <actions>"},
};

static const grammar_pattern patterns[] = {
    {"motor clauses", "{||, ramp [0-900] ms}{||, dead time [1-300] ms}{||, at most [300-3000] ms}"
                      "{||, speeds [5-30] to [60-100] %}"},
    {"press", "{pressed|pressed|pressed|pressed or held}"},
    {"again", "again {restarts|ignored|queued|stops}"},
    {"locked", "{<relay>|<relay>|<relay>|<motor>|<fan>}"},
    {"output", "{<relay>|<lamp>|<colour>|<stepper>|<strip>|<part>|<motor>|<fan>|<servo>|<sender>}"},
    {"key", "{hand.k[0-4]|hand.k[0-4]|<panel>.b[0-1]|hall.h[0-3]}"},
    {"happening", "{<mode> begins|<mode> ends|<value> changes|<timer> ends|<event>|<event>|<switch> "
                  "closes|<switch> opens|any code heard|any other hand key pressed|<panel>.b[0-1] "
                  "{pressed|held|released}|hall.h[0-3] pressed}"},
    {"condition",
     "{|||not }{<value> <compare> [0-2]|<value> <compare> [0-2]|<value> <compare> <value>|<timer> "
     "runs|<switch> is {open|closed}|<output> is {on|off}|mode is <mode>}"},
    {"number", "{[0-4]|[0-4]|<value>}"},
    {"level", "{[0-100]|[0-100]|[0-100]|<value>} %"},
    {"colour name", "{red|amber|0x102030|warm|black|white}"},
    /* Orders that can be held; then the others. */
    {"held order",
     "{<relay> on|<lamp> on|<lamp> dim{| up| down} over [200-2000] ms|<lamp> blink [50-600] ms|<stepper> "
     "run{| back}|<strip> on|<part> on|<motor> run{| back} [20-100] %|<motor> resume|<fan> run [1-100] "
     "%|<drive> {forward|back|left|right|spin left|spin right}{| [10-100] %}|<keyboard> hold "
     "{up|ctrl+page_down|volume_down}|<sender> hold hall.h[0-3]|<servo> go to [0-180] degrees|<crew> on}"},
    {"order",
     "{<relay> {on|off|toggle|pulse for [20-1500] ms|on for [20-900] ms}|<lamp> {on|off|toggle|let "
     "go|brighter <level>|dimmer <level>|fade to <level> over [0-2000] ms|dim over [200-2000] ms|blink "
     "[50-600] ms|on for [20-900] ms}|<colour> {on|off|toggle|colour <colour name>|fade to <level> over "
     "[0-900] ms}|<stepper> {run{| back}|stop|turn {|back }[1-400] steps|go to {|back }[0-500] steps|go to "
     "[1-180] degrees|turn <value> steps|run for [100-900] ms|home|home|home}|<strip> <strip order>|<strip> "
     "<strip "
     "order>|<part> <strip "
     "order>|<motor> <motor order>|<fan> {run|run [1-100] %|stop|coast|faster [1-30] %|slower [1-30] "
     "%|resume|toggle}|<drive> {{forward|back|left|right|spin left|spin right}{| [10-100] "
     "%}|stop|coast|brake|forward for [100-900] ms}|<servo> {go to [0-180] degrees|go to [0-180] degrees "
     "over [0-2000] ms|{forward|back} [1-90] degrees|go to <value> degrees|off}|<sender> {send "
     "hall.h[0-3]|send hall.h[0-3] [1-3] {times|frames}|hold "
     "hall.h[0-3]|let go}|<keyboard> {tap {a|ctrl+alt+t|shift+f5|gui}|tap {mute|volume_up}|type '{Cue|A b, "
     "c!|lantern}'|hold shift+x|let go}|call <call> {[0-4]|<value>}|<crew> {on|off|toggle|stop}}"},
    {"strip order",
     "{on|off|toggle|fill <colour name>|fill <colour name>|show <number>|brightness <level>|brighter [1-50] "
     "%|dimmer [1-50] %|palette {dusk|dawn}|next colour|previous colour|{chase|blend|breathe|sparkle}|fill "
     "red for [50-900] ms}"},
    {"motor order", "{run|run <level>|run back [1-100] %|run back|stop|coast|brake|faster [1-30] %|slower "
                    "[1-30] %|forward|back|reverse|resume|toggle|run for [100-900] ms}"},
    {"state order", "{<value> {up|down|up [1-3]|down [1-2]|to [0-2]|to <value> {+|-|*|/} [1-3]{|| - "
                    "<value>}}|mode <mode>|mode "
                    "<mode>|<timer> {start [200-3000] ms|add [200-2000] ms|cancel|start <value> "
                    "s}|<scene>|<scene>|stop <scene>|everything rests}"},
    {"action", "{<order>|<order>|<order>|<order>|<state order>|<wait>; <order>}"},
    {"wait", "{wait [1-30] ms|wait [20-900] ms|wait for <output>|wait for <output> at most [1-900] ms|wait "
             "for <switch> {closes|opens} at most [1-900] ms}"},
    {"actions", "<action>{||; <action>|; <action>; <action>|; <action>; <action>; <action>}"},
    {"held action", "{<order>|<state order>|<held order> while held|<held order> while held|<wait>; <held "
                    "order> while held}"},
    {"held actions", "<held action>{||; <held action>|; <action>; <held action>}"},
    {0},
};

/* Included by each plan. */
static const char more[] = "palette dusk: orange, purple, 0x200040\npalette dawn: red, yellow\n";

static const char *const own_protocols[] = {
    "protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, one 500 1500, ditto 2000, toggle "
    "bit 20",
    "protocol disc: 16 bits, msb first, leader 1500 500, phase 500, one mark first, period 90 ms"};

/* A code of each protocol; the keys' commands follow it. */
typedef struct sheet_code {
    const char *id;
    unsigned address;
    unsigned command;
} sheet_code;

static const sheet_code codes[] = {
    {"nec", 0x21, 0x45},   {"samsung32", 0x1c, 0x2a},      {"kaseikyo", 0x40, 0x35}, {"rca", 0x0c, 0x6e},
    {"lg28", 0x5d, 0x1c3}, {"nec_extended", 0x2112, 0x10}, {"rc6", 0x20, 0x31},      {"denon", 0x05, 0x09},
    {"rc5", 0x11, 0x0c},   {"sirc12", 0x05, 0x13},         {"sirc15", 0x25, 0x13},   {"sirc20", 0x125, 0x13},
    {"jvc", 0x33, 0x18},   {"mitsubishi", 0x47, 0x1},      {"dish", 0x155, 0x12},    {"thomson", 0x15, 0x11},
    {"recs80", 0x3, 0x15}, {"nrc17", 0x15, 0x42},          {"rcmm24", 0x155, 0x30},  {"rc6a", 0x400085, 0x20},
    {"sharp", 0x0a, 0x21}, {"torch", 0x4, 0x1001},         {"disc", 0, 0xb101},
};

/* Codes that an appliance on the bench decodes. */
static const sheet_code sent_codes[] = {{"nec", 0x21, 0x90},   {"samsung32", 0x1c, 0x80},
                                        {"lg28", 0x5d, 0x95},  {"jvc", 0x71, 0x30},
                                        {"sirc12", 0x1, 0x40}, {"kaseikyo", 0x40, 0x70}};

static char *draw_sheet(GRand *dice, char letter, unsigned keys, const sheet_code *rows, unsigned count)
{
    GString *const sheet_text = g_string_new("key,protocol,address,command,note\n");
    const unsigned first = draw(dice, 0, count - 1);
    const unsigned protocols = draw(dice, 1, 3);
    for (unsigned i = 0; i < keys; i++) {
        const sheet_code *const code = &rows[(first + i % protocols) % count];
        g_string_append_printf(sheet_text, "%c%u,%s,%u,%u,\n", letter, i, code->id, code->address,
                               code->command + i);
    }
    return g_string_free(sheet_text, FALSE);
}

static void add_statement(drawn_plan *drawn, GPtrArray *lines, char *drawn_line)
{
    if (drawn_line != NULL) {
        g_ptr_array_add(lines, drawn_line);
        drawn->statements++;
    }
}

/* Appends the pattern of a placeholder of a kind's phrase; a number is between two limits. */
static void add_placeholder(GString *pattern, const char *placeholder, unsigned min, unsigned max)
{
    static const grammar_pattern sorts[] = {{"PIN", "<pwm>"},        {"NAME", "<switch>"},
                                            {"KEY", "hall.h[0-3]"},  {"COLOUR", "<colour name>"},
                                            {"LEVEL", "[0-100] %"},  {"WAY", "[0-180] degrees"},
                                            {"CHORD", "{a|f5}"},     {"TEXT", "'Cue'"},
                                            {"COUNT", "[0-4]"},      {"NUMBER", "[0-4]"},
                                            {"INT", "[0-4]"},        {"AMOUNT", "[5-12]"},
                                            {"CLOCK", "[8-16] MHz"}, {0}};
    if (strcmp(placeholder, "TIME") == 0 || strcmp(placeholder, "N") == 0) {
        g_string_append_printf(pattern, "[%u-%u]%s", min, max, placeholder[0] == 'T' ? " ms" : "");
        return;
    }
    for (const grammar_pattern *sort = sorts; sort->name != NULL; sort++) {
        if (strcmp(sort->name, placeholder) == 0) {
            g_string_append(pattern, sort->pattern);
            return;
        }
    }
    g_string_append(pattern, placeholder);
}

/* A phrase as a pattern; its first NAME is `name`, unless that is NULL. */
static char *pattern_of(const char *phrase, const char *name, unsigned min, unsigned max)
{
    GString *const pattern = g_string_new(NULL);
    g_auto(GStrv) words = g_strsplit(phrase, " ", -1);
    for (guint i = 0; words[i] != NULL; i++) {
        g_string_append(pattern, i > 0 ? " " : "");
        if (name != NULL && strcmp(words[i], "NAME") == 0) {
            g_string_append(pattern, name);
            name = NULL;
        } else {
            add_placeholder(pattern, words[i], min, max);
        }
    }
    return g_string_free(pattern, FALSE);
}

/* An output of a kind, with clauses from its descriptor: so each kind is drawn, also one that no pattern
 * above has. */
static char *draw_output(GRand *dice, grammar *words, const output_kind *kind)
{
    enum { MIN_MS = 20, MAX_MS = 2000, PERCENT = 25 };
    g_autofree char *name = g_strdup_printf("<new %s>", kind->name);
    const unsigned head = draw(dice, 0, g_strv_length((char **)kind->words.heads) - 1);
    g_autofree char *first = pattern_of(kind->words.heads[head], name, 0, 0);
    g_autoptr(GString) pattern = g_string_new(NULL);
    g_string_append_printf(pattern, "%s %s", kind->name, first);
    for (const kind_clause *clause = kind->words.clauses; clause->phrase != NULL; clause++) {
        const unsigned min = clause->range != NULL ? clause->min : MIN_MS;
        const unsigned max = clause->range != NULL ? MIN(clause->max, min + MAX_MS) : MAX_MS;
        g_autofree char *clause_text = pattern_of(clause->phrase, NULL, min, max);
        if (chance(dice, PERCENT)) {
            g_string_append_printf(pattern, ", %s", clause_text);
        }
    }
    return grammar_draw(words, pattern->str);
}

/* A rule with an order of the kind, from its descriptor. */
static char *draw_order(GRand *dice, grammar *words, const output_kind *kind)
{
    enum { MIN_MS = 50, MAX_MS = 900 };
    guint count = 0;
    while (kind->words.orders[count].phrase != NULL) {
        count++;
    }
    const kind_order *const order = &kind->words.orders[draw(dice, 0, count - 1)];
    g_autofree char *phrase = pattern_of(order->phrase, NULL, MIN_MS, MAX_MS);
    const bool is_held = order->can_be_held && chance(dice, 50);
    g_autofree char *rule = g_strdup_printf("when %s: %s<%s> %s%s", is_held ? "<key> pressed" : "<happening>",
                                            kind->words.is_called ? "call " : "", kind->name, phrase,
                                            is_held ? " while held" : "");
    return grammar_draw(words, rule);
}

static void draw_kinds(GRand *dice, grammar *words, drawn_plan *drawn, GPtrArray *lines)
{
    enum { OUTPUT_PERCENT = 8, ORDERS = 2, ORDER_PERCENT = 25 };
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        if (!output_kinds[i]->words.joins_outputs && chance(dice, OUTPUT_PERCENT)) {
            add_statement(drawn, lines, draw_output(dice, words, output_kinds[i]));
        }
        for (unsigned j = 0; j < ORDERS; j++) {
            if (chance(dice, ORDER_PERCENT)) {
                add_statement(drawn, lines, draw_order(dice, words, output_kinds[i]));
            }
        }
    }
}

static void draw_head(GRand *dice, grammar *words, const board *chosen, drawn_plan *drawn, GPtrArray *lines)
{
    add_statement(drawn, lines, g_strdup("plan \"Drawn\""));
    add_statement(drawn, lines, g_strdup_printf("board %s", chosen->id));
    add_statement(drawn, lines, grammar_draw(words, "receiver on pin <latch>"));
    add_statement(drawn, lines,
                  g_strdup_printf("handset hand from \"hand.csv\"%s", chance(dice, 15) ? ", confirmed" : ""));
    add_statement(drawn, lines, g_strdup("handset hall from \"hall.csv\""));
    for (guint i = 0; i < G_N_ELEMENTS(own_protocols); i++) {
        add_statement(drawn, lines, g_strdup(own_protocols[i]));
    }
}

drawn_plan draw_plan(GRand *dice)
{
    static const char *const ids[] = {"mega328", "mega32u4", "mega2560", "rp2040", "esp32"};
    const board *const chosen = board_by_id(ids[draw(dice, 0, G_N_ELEMENTS(ids) - 1)], 0);
    grammar *const words = grammar_new(dice, chosen, patterns);
    g_autoptr(GPtrArray) lines = g_ptr_array_new_with_free_func(g_free);
    drawn_plan drawn = {.keys = draw(dice, 3, MAX_KEYS)};
    static const char *const compare[] = {"<", "<=", "=", "!=", ">=", ">"};
    for (guint i = 0; i < G_N_ELEMENTS(compare); i++) {
        grammar_name(words, "compare", compare[i]);
    }
    draw_head(dice, words, chosen, &drawn, lines);
    for (guint i = 0; i < G_N_ELEMENTS(statements); i++) {
        for (unsigned j = 0; j < statements[i].tries; j++) {
            if (chance(dice, statements[i].percent)) {
                add_statement(&drawn, lines, grammar_draw(words, statements[i].pattern));
            }
        }
    }
    draw_kinds(dice, words, &drawn, lines);
    for (unsigned key = 0; key < drawn.keys; key++) {
        g_autofree char *name = g_strdup_printf("hand.k%u", key);
        grammar_name(words, "this", name);
        for (guint i = 0; i < G_N_ELEMENTS(key_rules); i++) {
            if (i == 0 || chance(dice, 60)) {
                const unsigned which = draw(dice, 0, G_N_ELEMENTS(key_rules[i]) - 1);
                add_statement(&drawn, lines, grammar_draw(words, key_rules[i][which]));
            }
        }
    }
    g_ptr_array_add(lines, g_strdup(""));
    g_ptr_array_add(lines, NULL);
    drawn.plan = g_strjoinv("\n", (char **)lines->pdata);
    drawn.hand = draw_sheet(dice, 'k', drawn.keys, codes, G_N_ELEMENTS(codes));
    drawn.hall = draw_sheet(dice, 'h', 4, sent_codes, G_N_ELEMENTS(sent_codes));
    grammar_free(words);
    return drawn;
}

void drawn_plan_clear(drawn_plan *unwanted)
{
    g_free(unwanted->plan);
    g_free(unwanted->hand);
    g_free(unwanted->hall);
}

static void write_into(const char *folder, const char *name, const char *text)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    g_autoptr(GError) error = NULL;
    if (!g_file_set_contents(path, text, -1, &error)) {
        g_error("%s", error->message);
    }
}

plan *load_drawn(const drawn_plan *drawn, const char *folder, char **text)
{
    char *written = NULL;
    size_t length = 0;
    g_autofree char *path = g_build_filename(folder, "drawn.plan", NULL);
    write_into(folder, "drawn.plan", drawn->plan);
    write_into(folder, "more.plan", more);
    write_into(folder, "hand.csv", drawn->hand);
    write_into(folder, "hall.csv", drawn->hall);
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    FILE *const out = open_memstream(&written, &length);
    report_print(faults, out);
    (void)fclose(out);
    report_free(faults);
    *text = g_strdup(written);
    free(written);
    return loaded;
}

/* Leaves out the lines with errors; false if the report has none of the plan's. */
static bool leave_out(drawn_plan *drawn, const char *reported)
{
    static const char name[] = "drawn.plan:";
    g_auto(GStrv) lines = g_strsplit(drawn->plan, "\n", -1);
    g_auto(GStrv) faults = g_strsplit(reported, "\n", -1);
    g_autoptr(GString) kept = g_string_new(NULL);
    const guint count = g_strv_length(lines);
    unsigned left_out = 0;
    for (guint i = 0; faults[i] != NULL; i++) {
        const char *const found = strstr(faults[i], name);
        const guint64 line = found != NULL ? g_ascii_strtoull(found + strlen(name), NULL, 10) : 0;
        if (line > 0 && line <= count && strstr(found, ": warning: ") == NULL) {
            left_out += lines[line - 1][0] != '\0';
            lines[line - 1][0] = '\0';
        }
    }
    for (guint i = 0; i < count; i++) {
        g_string_append_printf(kept, "%s%s", lines[i], lines[i][0] != '\0' ? "\n" : "");
    }
    g_free(drawn->plan);
    drawn->plan = g_strdup(kept->str);
    drawn->left_out += left_out;
    return left_out > 0;
}

plan *load_what_fits(drawn_plan *drawn, const char *folder, char **text)
{
    char *reported = NULL;
    plan *loaded = load_drawn(drawn, folder, &reported);
    while (loaded == NULL && leave_out(drawn, reported)) {
        g_free(reported);
        loaded = load_drawn(drawn, folder, &reported);
    }
    *text = reported;
    return loaded;
}

/* A key that can be pressed: mostly the handset's, else one of the handset that is sent, or a button. */
static void draw_key(GRand *dice, const plan *loaded, unsigned keys, run_press *press)
{
    const drom_keys_plan *const tables = &plan_tables(loaded)->keys;
    const unsigned handset = chance(dice, 75) ? 0 : draw(dice, 0, tables->handsets.count - 1u);
    const unsigned count = handset == 0 ? keys : tables->handsets.rows[handset].codes.count;
    press->handset = count > 0 ? handset : 0;
    press->key = draw(dice, 0, (count > 0 ? count : keys) - 1);
}

GArray *draw_presses(GRand *dice, const plan *loaded, unsigned keys, uint32_t lasts_ms, bool can_overlap)
{
    GArray *const presses = g_array_new(FALSE, FALSE, sizeof(run_press));
    uint32_t at_ms = draw(dice, 100, 800);
    while (at_ms < lasts_ms) {
        const uint32_t held_ms = chance(dice, 40) ? draw(dice, 300, 2500) : draw(dice, 0, 200);
        run_press press = {.at_ms = at_ms, .held_ms = held_ms};
        draw_key(dice, loaded, keys, &press);
        g_array_append_val(presses, press);
        at_ms += can_overlap && chance(dice, 30)
                     ? draw(dice, 1, 300)
                     : held_ms + 250 + (chance(dice, 30) ? 0 : draw(dice, 0, 1500));
        if (chance(dice, 20)) { /* soon again: perhaps a double tap */
            const run_press again = {
                .handset = press.handset, .key = press.key, .at_ms = at_ms, .held_ms = 50};
            g_array_append_val(presses, again);
            at_ms += 600;
        }
    }
    return presses;
}

GArray *draw_touches(GRand *dice, const plan *loaded, uint32_t lasts_ms)
{
    GArray *const touches = g_array_new(FALSE, FALSE, sizeof(life_touch));
    for (unsigned i = 0; i < plan_switch_count(loaded); i++) {
        bool is_closed = false;
        for (uint32_t at_ms = draw(dice, 0, 5000); at_ms < lasts_ms; at_ms += draw(dice, 60, 3000)) {
            is_closed = !is_closed;
            const life_touch touch = {plan_switch_pin(loaded, i), at_ms, is_closed};
            g_array_append_val(touches, touch);
        }
    }
    return touches;
}
