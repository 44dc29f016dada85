/* The grammar of the plan language, down to the separators: the words between two of them are phrases, which
 * statements.c and the kinds of outputs have. One statement a line; a line with an error is reported and skipped,
 * and parsing goes on with the next one. */
%require "3.8"
%define api.pure full
%define api.prefix {plan}
%define api.location.type {place}
%define parse.error custom
%define parse.lac full
%locations

%code requires {
#include "plan/language/source.h"

typedef struct plan_scanner plan_scanner;
}

%code provides {
plan_scanner *plan_scanner_new(plan_source *source, const char *text, gsize length, place from);
void plan_scanner_free(plan_scanner *scanner);
int planlex(PLANSTYPE *value, PLANLTYPE *where, plan_scanner *scanner);
}

%code {
#include <string.h>

#define YYLLOC_DEFAULT(all, segments, count) ((all) = (count) > 0 ? YYRHSLOC(segments, 1) : YYRHSLOC(segments, 0))

static void planerror(const place *where, plan_scanner *scanner, plan_source *source, const char *message);
static GArray *add(GArray *segments, segment one, guint before);
static segment held(wording words, guint while_at, wording what);
static wording with_word(wording words, guint word_at);
static void take(plan_source *source, guint head, GArray *segments, GArray *after, GArray *otherwise);
}

%param {plan_scanner *scanner}
%parse-param {plan_source *source}

%union {
    guint token;
    wording words;
    segment segment;
    GArray *segments;
}

%token <token> HEAD "a statement" WORD "a word" OR "'or'" IN "'in'" IF "'if'" WHILE "'while'"
%token <token> WHEN "'when'" OTHERWISE "'otherwise'" ',' ';' ':'
%token <token> END_OF_LINE "the end of the line" END_OF_PLAN 0 "the end of the plan"

%type <words> words listed
%type <segment> segment item
%type <segments> segments list otherwise
%type <token> joint separator any

%destructor { g_array_unref($$); } <segments>

%%

plan: %empty | plan line;

line: statement ends | error ends { source->block.text = NULL; yyerrok; } | END_OF_LINE;

ends: END_OF_LINE | END_OF_PLAN { YYACCEPT; };

statement:
    HEAD segments                               { take(source, $1, $2, NULL, NULL); }
  | HEAD segments ':' list otherwise            { take(source, $1, $2, $4, $5); }
  | HEAD segments ':'                           { source_begin_block(source, $1, $2); }
    rules                                       { source->block.text = NULL; g_array_unref($2); }
  ;

rules: rule | rules rule;

rule: WHEN segments ':' list otherwise          { take(source, $1, $2, $4, $5); };

otherwise:
    %empty                                      { $$ = NULL; }
  | OTHERWISE ':' list                          { $$ = $3; }
  ;

segments:
    segment                                     { $$ = add(NULL, $1, $<token>0); }
  | segments separator segment                  { $$ = add($1, $3, $2); }
  ;

separator: ',' | OR | IN | IF;

list:
    item                                        { $$ = add(NULL, $1, $<token>0); }
  | list joint item                             { $$ = add($1, $3, $2); }
  ;

item:
    listed                                      { $$ = (segment){.words = $1}; }
  | listed WHILE words                          { $$ = held($1, $2, $3); }
  ;

listed:
    %empty                                      { $$ = (wording){source->tokens, 0, 0, false}; }
  | listed any                                  { $$ = with_word($1, $2); }
  ;

any: WORD | IN | IF; /* they join nothing in a list */

joint: ',' | ';';

segment:
    words                                       { $$ = (segment){.words = $1}; }
  | words WHILE words                           { $$ = held($1, $2, $3); }
  ;

words:
    %empty                                      { $$ = (wording){source->tokens, 0, 0, false}; }
  | words WORD                                  { $$ = with_word($1, $2); }
  ;

%%

/* Below the first segment on the parser's stack, at $0, lies the token before it. */
static GArray *add(GArray *segments, segment one, guint before)
{
    GArray *const all = segments != NULL ? segments : g_array_new(FALSE, FALSE, sizeof(segment));
    if (one.words.from == one.words.end) { /* a missing token would follow that token */
        one.words.from = before + 1;
        one.words.end = before + 1;
    }
    one.before = before;
    g_array_append_val(all, one);
    return all;
}

static segment held(wording words, guint while_at, wording what)
{
    what.from = what.from == what.end ? while_at + 1 : what.from;
    what.end = MAX(what.from, what.end);
    return (segment){.words = words, .held = what, .has_while = true};
}

static wording with_word(wording words, guint word_at)
{
    return (wording){words.tokens, words.from == words.end ? word_at : words.from, word_at + 1, false};
}

static void take(plan_source *source, guint head, GArray *segments, GArray *after, GArray *otherwise)
{
    source_take_statement(source, &(statement){head, segments, after, otherwise});
    g_array_unref(segments);
    g_clear_pointer(&after, g_array_unref);
    g_clear_pointer(&otherwise, g_array_unref);
}

static void planerror(const place *where, plan_scanner *scanner, plan_source *source, const char *message)
{
    (void)scanner;
    report_error(source->faults, *where, "%s", message);
}

static int yyreport_syntax_error(const yypcontext_t *context, plan_scanner *scanner, plan_source *source)
{
    enum { MAX_EXPECTED = 10 };
    (void)scanner;
    yysymbol_kind_t kinds[MAX_EXPECTED];
    const place where = *yypcontext_location(context);
    const token *const found = &g_array_index(source->tokens, token, source->tokens->len - 1);
    const int count = yypcontext_expected_tokens(context, kinds, MAX_EXPECTED);
    if (count < 0) {
        return count;
    }
    g_autoptr(GString) expected = g_string_new(NULL);
    int kept = 0;
    bool could_be_word = false;
    for (int i = 0; i < count; i++) { /* the end of the plan is not named */
        could_be_word |= kinds[i] == YYSYMBOL_WORD;
        if (kinds[i] != YYSYMBOL_YYEOF) {
            kinds[kept++] = kinds[i];
        }
    }
    for (int i = 0; i < kept; i++) {
        const char *const joined = i == 0 ? "" : i == kept - 1 ? " or " : ", ";
        g_string_append_printf(expected, "%s%s", joined, yysymbol_name(kinds[i]));
    }
    const char *const quote = found->kind == TOKEN_END ? "" : "'";
    const bool is_reserved = could_be_word && found->kind == TOKEN_WORD && word_is_reserved(found->text);
    report_error(source->faults, where, "found %s%s%s%s%s%s", quote, found->text, quote, count > 0 ? ", expected " : "",
                 expected->str, is_reserved ? " (this one is a word of the language)" : "");
    return 0;
}

static void clear_token(gpointer data)
{
    g_free(((token *)data)->text);
}

static void clear_rule(gpointer data)
{
    rule_line *const rule = data;
    g_array_unref(rule->triggers);
    g_array_unref(rule->conditions);
    g_array_unref(rule->actions);
    g_array_unref(rule->otherwise);
}

static void clear_handset(gpointer data)
{
    g_clear_pointer(&((handset_line *)data)->buttons, g_array_unref);
}

static void clear_group(gpointer data)
{
    g_array_unref(((group_line *)data)->members);
}

static void clear_only(gpointer data)
{
    g_array_unref(((only_line *)data)->members);
}

static void clear_palette(gpointer data)
{
    g_array_unref(((palette_line *)data)->colours);
}

static void clear_protocol(gpointer data)
{
    g_free(((protocol_line *)data)->own);
}

static GArray *new_array(guint size, GDestroyNotify clear)
{
    GArray *const made = g_array_new(FALSE, FALSE, size);
    g_array_set_clear_func(made, clear);
    return made;
}

static void clear_file(gpointer data)
{
    g_free(((included_file *)data)->path);
}

void source_parse(plan_source *source, const char *path, const char *text, gsize length)
{
    const int file = report_named(source->faults);
    const included_file one = {g_strdup(path), file};
    g_array_append_val(source->files, one);
    plan_scanner *const scanner = plan_scanner_new(source, text, length, (place){1, 1, 0, file});
    (void)planparse(scanner, source);
    plan_scanner_free(scanner);
}

plan_source *plan_parse(const char *path, const char *text, gsize length, report *faults)
{
    plan_source *const source = g_new0(plan_source, 1);
    source->faults = faults;
    source->tokens = new_array(sizeof(token), clear_token);
    source->handsets = new_array(sizeof(handset_line), clear_handset);
    source->protocols = new_array(sizeof(protocol_line), clear_protocol);
    source->outputs = g_array_new(FALSE, FALSE, sizeof(output_line));
    source->palettes = new_array(sizeof(palette_line), clear_palette);
    source->modes = g_array_new(FALSE, FALSE, sizeof(mode_line));
    source->values = g_array_new(FALSE, FALSE, sizeof(value_line));
    source->timers = g_array_new(FALSE, FALSE, sizeof(named_line));
    source->scenes = g_array_new(FALSE, FALSE, sizeof(named_line));
    source->events = g_array_new(FALSE, FALSE, sizeof(named_line));
    source->groups = new_array(sizeof(group_line), clear_group);
    source->onlies = new_array(sizeof(only_line), clear_only);
    source->switches = g_array_new(FALSE, FALSE, sizeof(switch_line));
    source->rules = new_array(sizeof(rule_line), clear_rule);
    source->texts = g_ptr_array_new_with_free_func(g_free);
    source->files = new_array(sizeof(included_file), clear_file);
    source->includes = g_array_new(FALSE, FALSE, sizeof(word));
    const int file = report_named(faults);
    source_parse(source, path, text, length);
    source_include_all(source, length);
    report_return(faults, file);
    source_limit(source);
    source_match_orders(source);
    source_limit(source); /* one order may have become several actions, or a rule */
    return source;
}

GArray *plan_tokens(const char *text, report *faults, place where)
{
    plan_source source = {.faults = faults, .tokens = new_array(sizeof(token), clear_token)};
    g_autofree char *line = g_strconcat(text, "\n", NULL);
    plan_scanner *const scanner = plan_scanner_new(&source, line, strlen(line), where);
    PLANSTYPE value;
    place at = {0};
    int kind = WORD;
    while (kind != END_OF_LINE && kind != END_OF_PLAN) {
        kind = planlex(&value, &at, scanner);
    }
    plan_scanner_free(scanner);
    return source.tokens;
}

void plan_source_free(plan_source *source)
{
    if (source == NULL) {
        return;
    }
    g_array_unref(source->tokens);
    g_array_unref(source->files);
    g_array_unref(source->includes);
    g_array_unref(source->handsets);
    g_array_unref(source->protocols);
    g_array_unref(source->outputs);
    g_array_unref(source->palettes);
    g_array_unref(source->modes);
    g_array_unref(source->values);
    g_array_unref(source->timers);
    g_array_unref(source->scenes);
    g_array_unref(source->events);
    g_array_unref(source->groups);
    g_array_unref(source->onlies);
    g_array_unref(source->switches);
    g_ptr_array_unref(source->texts);
    g_array_unref(source->rules);
    g_free(source);
}
