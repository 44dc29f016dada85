/* The grammar of the plan language; docs/plan-language.md explains it to people. One statement a line; a line with a
 * fault is reported and passed over, so that the next one gets its turn. */
%require "3.8"
%define api.pure full
%define api.prefix {plan}
%define api.location.type {place}
%define parse.error custom
%define parse.lac full
%locations

%code requires {
#include "source.h"

typedef struct plan_scanner plan_scanner;
}

%code provides {
plan_scanner *plan_scanner_new(plan_source *source, const char *text, gsize length);
void plan_scanner_free(plan_scanner *words);
int planlex(PLANSTYPE *value, PLANLTYPE *where, plan_scanner *words);
}

%code {
#include "dromikos/keys.h"

#include <string.h>

#define YYLLOC_DEFAULT(all, parts, count)                                                                    \
    do {                                                                                                     \
        if (count) {                                                                                         \
            (all) = span(YYRHSLOC(parts, 1), YYRHSLOC(parts, count));                                        \
        } else {                                                                                             \
            (all) = YYRHSLOC(parts, 0);                                                                      \
            (all).column += (all).length;                                                                    \
            (all).length = 0;                                                                                \
        }                                                                                                    \
    } while (0)

static place span(place first, place last);
static void planerror(const place *where, plan_scanner *words, plan_source *source, const char *message);
static action_words action(word output, enum order_word say, double amount, place where);
static output_line output(enum output_kind kind, word name);
}

%param {plan_scanner *words}
%parse-param {plan_source *source}

%union {
    char *text;
    uint32_t duration_ms;
    double mhz;
    bool is_on;
    output_line output;
    enum output_kind kind;
    clause_words clause;
    double amount;
    struct {
        double amount;
        enum way_unit unit;
    } way;
    bool is_back;
    gesture_word gesture;
    GArray *list;
    action_words action;
    word name;
    uint32_t number;
    protocol_line protocol;
}

%token PLAN "plan" BOARD "board" RECEIVER "receiver" HANDSET "handset" RELAY "relay" WHEN "when" AT "at"
%token START "start" ON "on" OFF "off" PIN "pin" FROM "from" ACTIVE "active" HIGH "high" LOW "low" REST "rest"
%token LEAST "least" PRESSED "pressed" REPEATED "repeated" HELD "held" RELEASED "released" OR "or" FOR "for"
%token TOGGLE "toggle" PULSE "pulse"
%token LAMP "lamp" STEPPER "stepper" STRIP "strip" SENDER "sender" PINS "pins" STEPS "steps" TURN "turn" TURNS "turns"
%token DEGREES "degrees" UP "up" TO "to" STEPS_S "steps/s" STILL "still" PIXELS "pixels" ORDER "order" PAUSE "pause"
%token WITHOUT "without" SHIELDED "shielded" PALETTE "palette" RUN "run" BACK "back" GO "go" FILL "fill"
%token BRIGHTNESS "brightness" BRIGHTER "brighter" DIMMER "dimmer" FADE "fade" OVER "over" SEND "send" TIMES "times"
%token HOLD "hold" LET "let" WHILE "while" OWN "own" CODE "code" MASKS "masks" BLOCKS "blocks" US "us"
%token TAPPED "tapped" TWICE "twice" HOLDS "holds" TAPS "taps" DOUBLES "doubles" REPEATS "repeats" AFTER "after"
%token WITHIN "within" EVERY "every" FASTEST "fastest" CONFIRMED "confirmed"
%token PROTOCOL "protocol" LEADER "leader" ZERO "zero" ONE "one" BIT "bit" BITS "bits" LSB "lsb" MSB "msb" FIRST "first"
%token DITTO "ditto" NO "no" STOP "stop" PERIOD "period" GAP "gap" PHASE "phase" MARK "mark" SPACE "space" WIDE "wide" QUAD "quad"
%token END_OF_LINE "the end of the line" END_OF_PLAN 0 "the end of the plan"
%token <text> NAME "a name" KEY "a key" STRING "a text in quotes" NUMBER "a number" HEX "a number such as 0xff8000"
%token <duration_ms> DURATION "a time such as '2 s'"
%token <mhz> FREQUENCY "a frequency such as '16 MHz'"

%type <name> name key string pin any_pin colour
%type <is_on> level state
%type <number> number
%type <protocol> protocol
%type <output> output
%type <kind> kind
%type <clause> clause
%type <amount> amount percent
%type <way> way
%type <is_back> back while_held
%type <gesture> gesture
%type <list> gestures actions colours
%type <action> action

%destructor { g_free($$); } <text>
%destructor { word_free(&$$); } <name>
%destructor { output_free(&$$); } <output>
%destructor { word_free(&$$.order); } <clause>
%destructor { word_free(&$$.name); g_free($$.own); } <protocol>
%destructor { action_free(&$$); } <action>
%destructor { g_array_unref($$); } <list>

%%

plan: %empty | plan line;

line: statement ends | error ends { yyerrok; } | END_OF_LINE;

ends: END_OF_LINE | END_OF_PLAN { YYACCEPT; };

statement:
    PLAN string                              { source_take_title(source, $2); }
  | BOARD name                               { source_take_board(source, $2, -1, @2); }
  | BOARD name AT FREQUENCY                  { source_take_board(source, $2, $4, @4); }
  | OWN CODE MASKS number US                 { source->own_masks_us = $4; }
  | OWN CODE BLOCKS DURATION                 { source->own_blocks_ms = $4; }
  | RECEIVER ON pin                          { source_take_receiver(source, $3); }
  | HANDSET name FROM string                 {
        const handset_line handset = {$2, $4, false};
        g_array_append_val(source->handsets, handset);
    }
  | HANDSET name FROM string ',' CONFIRMED   {
        const handset_line handset = {$2, $4, true};
        g_array_append_val(source->handsets, handset);
    }
  | HOLDS AFTER DURATION                     { source_take_key_time(source, HOLDS_AFTER, $3, @3); }
  | TAPS WITHIN DURATION                     { source_take_key_time(source, TAPS_WITHIN, $3, @3); }
  | DOUBLES WITHIN DURATION                  { source_take_key_time(source, DOUBLES_WITHIN, $3, @3); }
  | repeats
  | repeats ',' FASTEST DURATION             { source_take_key_time(source, REPEATS_FASTEST, $4, @4); }
  | output                                   { g_array_append_val(source->outputs, $1); }
  | PALETTE name ':' colours                 {
        const palette_line palette = {$2, $4};
        g_array_append_val(source->palettes, palette);
    }
  | protocol                                 {
        const char *const wrong = own_protocol_fill($1.own, $1.name.text);
        if (wrong != NULL) {
            report_error(source->faults, $1.name.where, "the protocol '%s': %s", $1.name.text, wrong);
        }
        g_array_append_val(source->protocols, $1);
    }
  | AT START ':' actions                     {
        for (guint i = 0; i < $4->len; i++) {
            g_array_append_val(source->at_start, g_array_index($4, action_words, i));
            g_array_index($4, action_words, i) = (action_words){0};
        }
        g_array_unref($4);
    }
  | WHEN name '.' key gestures ':' actions   {
        const rule_line rule = {$2, $4, $5, $7, span(@1, @5)};
        g_array_append_val(source->rules, rule);
    }
  ;

repeats:
    REPEATS AFTER DURATION ',' EVERY DURATION {
        source_take_key_time(source, REPEATS_AFTER, $3, @3);
        source_take_key_time(source, REPEATS_EVERY, $6, @6);
    }
  ;

output:
    kind name ON pin                         { $$ = output($1, $2); $$.pins[0] = $4; $$.pin_count = 1; }
  | STEPPER name ON PINS any_pin any_pin any_pin any_pin {
        $$ = output(KIND_STEPPER, $2);
        $$.pin_count = 4;
        $$.pins[0] = $5;
        $$.pins[1] = $6;
        $$.pins[2] = $7;
        $$.pins[3] = $8;
    }
  | output ',' clause                        { $3.where = @3; source_take_clause(source, &$1, $3); $$ = $1; }
  ;

kind:   RELAY                                { $$ = KIND_RELAY; }
      | LAMP                                 { $$ = KIND_LAMP; }
      | STRIP                                { $$ = KIND_STRIP; }
      | SENDER                               { $$ = KIND_SENDER; };

clause:
    ACTIVE level                             { $$ = (clause_words){.clause = CLAUSE_ACTIVE_LOW, .value = !$2}; }
  | REST state                               { $$ = (clause_words){.clause = CLAUSE_REST_ON, .value = $2}; }
  | state AT LEAST DURATION                  { $$ = (clause_words){.clause = $1 ? CLAUSE_MIN_ON : CLAUSE_MIN_OFF, .value = $4}; }
  | number STEPS name TURN                   { /* 'a turn', though a handset may be called 'a' */
        $$ = (clause_words){.clause = CLAUSE_STEPS, .value = $1};
        if (strcmp($3.text, "a") != 0) {
            report_error(source->faults, @3, "say how many steps it has a turn, as in: 2048 steps a turn");
        }
        word_free(&$3);
    }
  | UP TO number STEPS_S                     { $$ = (clause_words){.clause = CLAUSE_SPEED, .value = $3}; }
  | UP TO number STEPS_S WITHIN DURATION     { $$ = (clause_words){.clause = CLAUSE_SPEED, .value = $3, .within_ms = $6}; }
  | HOLDS STILL                              { $$ = (clause_words){.clause = CLAUSE_STILL, .value = 1}; }
  | number PIXELS                            { $$ = (clause_words){.clause = CLAUSE_PIXELS, .value = $1}; }
  | ORDER name                               { $$ = (clause_words){.clause = CLAUSE_ORDER, .order = $2}; }
  | PAUSE DURATION                           { $$ = (clause_words){.clause = CLAUSE_PAUSE, .value = $2}; }
  | WITHOUT PAUSE                            { $$ = (clause_words){.clause = CLAUSE_PAUSE}; }
  | SHIELDED                                 { $$ = (clause_words){.clause = CLAUSE_SHIELDED, .value = 1}; }
  ;

colours:
    colour                                   { $$ = g_array_new(FALSE, FALSE, sizeof(word)); g_array_set_clear_func($$, (GDestroyNotify)word_free); g_array_append_val($$, $1); }
  | colours ',' colour                       { g_array_append_val($1, $3); $$ = $1; }
  ;

colour: name                                 { $$ = $1; }
      | HEX                                  { $$ = (word){$1, @1}; };

protocol:
    PROTOCOL name ':' <protocol>{ $$ = (protocol_line){$2, g_new0(own_protocol, 1)}; $2.text = NULL; } figure { $$ = $4; }
  | protocol ',' <protocol>{ $$ = $1; $1 = (protocol_line){0}; } figure { $$ = $3; }
  ;

/* Below a figure on the parser's stack, at $0, lies the protocol that it is about. */
figure:
    number BITS                              { source_take_figure(source, &$<protocol>0.own->figures.bits, $1, @$); }
  | LSB FIRST                                { $<protocol>0.own->figures.is_lsb_first = true; }
  | MSB FIRST                                { $<protocol>0.own->figures.is_lsb_first = false; }
  | LEADER number number                     {
        source_take_figure(source, &$<protocol>0.own->figures.leader_mark_us, $2, @$);
        $<protocol>0.own->figures.leader_space_us = $3;
    }
  | ZERO number number                       {
        source_take_figure(source, &$<protocol>0.own->figures.zero_mark_us, $2, @$);
        $<protocol>0.own->figures.zero_space_us = $3;
    }
  | ONE number number                        {
        source_take_figure(source, &$<protocol>0.own->figures.one_mark_us, $2, @$);
        $<protocol>0.own->figures.one_space_us = $3;
    }
  | QUAD number number number                {
        source_take_figure(source, &$<protocol>0.own->figures.quad_mark_us, $2, @$);
        $<protocol>0.own->figures.quad_space_us = $3;
        $<protocol>0.own->figures.quad_step_us = $4;
    }
  | PHASE number                             { source_take_figure(source, &$<protocol>0.own->figures.phase_us, $2, @$); }
  | ONE MARK FIRST                           { $<protocol>0.own->figures.is_one_space_first = false; }
  | ONE SPACE FIRST                          { $<protocol>0.own->figures.is_one_space_first = true; }
  | DITTO number                             { source_take_figure(source, &$<protocol>0.own->figures.ditto_space_us, $2, @$); }
  | NO STOP                                  { $<protocol>0.own->figures.has_no_stop = true; }
  | TOGGLE BIT number                        { source_take_figure(source, &$<protocol>0.own->figures.toggle_bit, $3, @$); }
  | WIDE BIT number                          { source_take_figure(source, &$<protocol>0.own->figures.wide_bit, $3, @$); }
  | PERIOD DURATION                          { source_take_figure(source, &$<protocol>0.own->figures.period_ms, $2, @$); }
  | GAP DURATION                             { source_take_figure(source, &$<protocol>0.own->figures.gap_ms, $2, @$); }
  ;

number: NUMBER                               {
        $$ = (uint32_t)MIN(g_ascii_strtoull($1, NULL, 10), UINT32_MAX);
        if (strchr($1, '.') != NULL) {
            report_error(source->faults, @1, "a whole number is needed here");
        }
        g_free($1);
    };

gestures:
    gesture                                  { $$ = g_array_new(FALSE, FALSE, sizeof(gesture_word)); g_array_append_val($$, $1); }
  | gestures OR gesture                      { g_array_append_val($1, $3); $$ = $1; }
  ;

gesture:
    PRESSED                                  { $$ = (gesture_word){DROM_PRESS, 0, @1}; }
  | REPEATED                                 { $$ = (gesture_word){DROM_REPEAT, 0, @1}; }
  | RELEASED                                 { $$ = (gesture_word){DROM_RELEASE, 0, @1}; }
  | TAPPED                                   { $$ = (gesture_word){DROM_TAP, 0, @1}; }
  | TAPPED TWICE                             { $$ = (gesture_word){DROM_DOUBLE, 0, span(@1, @2)}; }
  | HELD                                     { $$ = (gesture_word){DROM_HOLD, 0, @1}; }
  | HELD FOR DURATION                        {
        $$ = (gesture_word){DROM_HOLD, $3, span(@1, @3)};
        if ($3 < 1 || $3 > UINT16_MAX) {
            report_error(source->faults, @3, "a key can be held for 1 ms to 65 s");
            $$.hold_ms = 0;
        }
    }
  ;

actions:
    action                                   { $$ = actions_new(); g_array_append_val($$, $1); }
  | actions ';' action                       { g_array_append_val($1, $3); $$ = $1; }
  ;

action:
    name ON while_held                       { $$ = action($1, SAY_ON, 0, @$); $$.is_while_held = $3; }
  | name OFF                                 { $$ = action($1, SAY_OFF, 0, @$); }
  | name TOGGLE                              { $$ = action($1, SAY_TOGGLE, 0, @$); }
  | name PULSE FOR DURATION                  {
        $$ = action($1, SAY_PULSE, $4, @$);
        if ($4 < 1 || $4 > DROM_LONGEST_MS) {
            report_error(source->faults, @4, "a pulse lasts 1 ms to 30 min");
            $$.amount = 1;
        }
    }
  | name RUN back while_held                 { $$ = action($1, $3 ? SAY_RUN_BACK : SAY_RUN, 0, @$); $$.is_while_held = $4; }
  | name STOP                                { $$ = action($1, SAY_STOP, 0, @$); }
  | name TURN back way                       { $$ = action($1, $3 ? SAY_TURN_BACK : SAY_TURN, $4.amount, @$); $$.unit = $4.unit; }
  | name GO TO back way                      { $$ = action($1, $4 ? SAY_GO_BACK : SAY_GO, $5.amount, @$); $$.unit = $5.unit; }
  | name FILL colour                         { $$ = action($1, SAY_FILL, 0, @$); $$.name = $3; }
  | name name amount                         {
        $$ = action($1, SAY_SHOW, $3, @$);
        if (strcmp($2.text, "show") != 0) { /* no word of the language: a mode may be called so */
            report_error(source->faults, @2, "only 'show' takes a number here");
        }
        word_free(&$2);
    }
  | name BRIGHTNESS percent                  { $$ = action($1, SAY_BRIGHTNESS, $3, @$); }
  | name BRIGHTER percent                    { $$ = action($1, SAY_BRIGHTER, $3, @$); }
  | name DIMMER percent                      { $$ = action($1, SAY_DIMMER, $3, @$); }
  | name PALETTE name                        { $$ = action($1, SAY_PALETTE, 0, @$); $$.name = $3; }
  | name name                                { $$ = action($1, SAY_EFFECT, 0, @$); $$.name = $2; }
  | name FADE TO percent OVER DURATION       { $$ = action($1, SAY_FADE, $4, @$); $$.over_ms = $6; }
  | name SEND name '.' key                   { $$ = action($1, SAY_SEND, 0, @$); $$.name = $3; $$.key = $5; }
  | name SEND name '.' key amount TIMES      { $$ = action($1, SAY_SEND, $6, @$); $$.name = $3; $$.key = $5; }
  | name SEND name '.' key WHILE HELD        { $$ = action($1, SAY_HOLD, 0, @$); $$.name = $3; $$.key = $5; $$.is_while_held = true; }
  | name HOLD name '.' key                   { $$ = action($1, SAY_HOLD, 0, @$); $$.name = $3; $$.key = $5; }
  | name LET GO                              { $$ = action($1, SAY_LET_GO, 0, @$); }
  ;

back:   %empty                               { $$ = false; }
      | BACK                                 { $$ = true; };
while_held: %empty                           { $$ = false; }
      | WHILE HELD                           { $$ = true; };
way:    amount STEPS                         { $$.amount = $1; $$.unit = WAY_STEPS; }
      | amount TURN                          { $$.amount = $1; $$.unit = WAY_TURNS; }
      | amount TURNS                         { $$.amount = $1; $$.unit = WAY_TURNS; }
      | amount DEGREES                       { $$.amount = $1; $$.unit = WAY_DEGREES; };
amount: NUMBER                               { $$ = g_ascii_strtod($1, NULL); g_free($1); };
percent: amount '%'                          {
        $$ = $1;
        if ($1 > 100) {
            report_error(source->faults, @$, "there is nothing past 100 %%");
            $$ = 100;
        }
    };

name:   NAME                                 { $$ = (word){$1, @1}; };
key:    KEY                                  { $$ = (word){$1, @1}; };
string: STRING                               { $$ = (word){$1, @1}; };
pin:    PIN any_pin                          { $$ = $2; };
any_pin: NUMBER                              { $$ = (word){$1, @1}; }
      | NAME                                 { $$ = (word){$1, @1}; };
level:  HIGH                                 { $$ = true; }
      | LOW                                  { $$ = false; };
state:  ON                                   { $$ = true; }
      | OFF                                  { $$ = false; };

%%

/* From the first place to the last; only what is on the first one's line is underlined. */
static place span(place first, place last)
{
    const bool is_one_line = first.line == last.line;
    return (place){first.line, first.column, is_one_line ? last.column + last.length - first.column : first.length};
}

static action_words action(word output, enum order_word say, double amount, place where)
{
    return (action_words){.output = output, .say = say, .amount = amount, .where = where};
}

static output_line output(enum output_kind kind, word name)
{
    return (output_line){.kind = kind, .name = name};
}

static void planerror(const place *where, plan_scanner *words, plan_source *source, const char *message)
{
    (void)words;
    report_error(source->faults, *where, "%s", message);
}

/* 'on', a key */
static char *shown_symbol(yysymbol_kind_t kind)
{
    const char *const name = yysymbol_name(kind);
    const bool is_described = strchr(name, ' ') != NULL || name[0] == '\'';
    return is_described ? g_strdup(name) : g_strdup_printf("'%s'", name);
}

/* The word at a place, as it is written. */
static char *found_text(const plan_source *source, place where)
{
    const char *at = source->text;
    for (int line = 1; line < where.line; line++) {
        at = strchr(at, '\n') + 1;
    }
    return g_strndup(at + where.column - 1, (gsize)where.length);
}

/* That a line or the plan could also end is worth saying only where little else could come. */
static int without_ends(yysymbol_kind_t *kinds, int count)
{
    int kept = 0;
    for (int i = 0; i < count; i++) {
        const bool is_idle = (kinds[i] == YYSYMBOL_YYEOF && count > 1) || (kinds[i] == YYSYMBOL_END_OF_LINE && count > 4);
        if (!is_idle) {
            kinds[kept++] = kinds[i];
        }
    }
    return kept;
}

static int yyreport_syntax_error(const yypcontext_t *context, plan_scanner *words, plan_source *source)
{
    enum { MAX_EXPECTED = 40 };
    (void)words;
    yysymbol_kind_t kinds[MAX_EXPECTED];
    const place where = *yypcontext_location(context);
    const yysymbol_kind_t found_kind = yypcontext_token(context);
    int count = yypcontext_expected_tokens(context, kinds, MAX_EXPECTED);
    if (count < 0) {
        return count;
    }
    count = without_ends(kinds, count);
    const bool is_end = found_kind == YYSYMBOL_END_OF_LINE || found_kind == YYSYMBOL_YYEOF;
    g_autofree char *found = is_end ? g_strdup(yysymbol_name(found_kind)) : found_text(source, where);
    g_autoptr(GString) expected = g_string_new(NULL);
    g_autofree const char **words_expected = g_new0(const char *, MAX_EXPECTED + 1);
    int candidates = 0;
    bool wants_name = false;
    for (int i = 0; i < count; i++) {
        g_autofree char *shown = shown_symbol(kinds[i]);
        g_string_append_printf(expected, "%s%s", i == 0 ? "" : i == count - 1 ? " or " : ", ", shown);
        wants_name |= kinds[i] == YYSYMBOL_NAME;
        if (shown[0] == '\'' && g_ascii_isalpha(shown[1])) {
            words_expected[candidates++] = yysymbol_name(kinds[i]);
        }
    }
    g_autofree char *hint = is_end ? g_strdup("") : did_you_mean(found, words_expected);
    const char *const quote = is_end ? "" : "'";
    const bool is_reserved = wants_name && g_ascii_isalpha(found[0]) && !is_end && found_kind != YYSYMBOL_NAME;
    report_error(source->faults, where, "found %s%s%s%s%s%s%s", quote, found, quote, count > 0 ? ", expected " : "",
                 expected->str, is_reserved ? " (this one is a word of the language)" : "", hint);
    return 0;
}

plan_source *plan_parse(const char *text, gsize length, report *faults)
{
    plan_source *const source = g_new0(plan_source, 1);
    source->faults = faults;
    source->text = text;
    source->handsets = g_array_new(FALSE, FALSE, sizeof(handset_line));
    source->protocols = g_array_new(FALSE, FALSE, sizeof(protocol_line));
    source->outputs = g_array_new(FALSE, FALSE, sizeof(output_line));
    source->palettes = g_array_new(FALSE, FALSE, sizeof(palette_line));
    source->rules = g_array_new(FALSE, FALSE, sizeof(rule_line));
    source->at_start = actions_new();
    plan_scanner *const words = plan_scanner_new(source, text, length);
    (void)planparse(words, source);
    plan_scanner_free(words);
    return source;
}
