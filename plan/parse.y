/* The grammar of the plan language, down to what stands between two separators: that is phrases, which
 * statements.c and the kinds of outputs know. One statement a line; a line with a fault is reported and passed
 * over, so that the next one gets its turn. */
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
void plan_scanner_free(plan_scanner *scanner);
int planlex(PLANSTYPE *value, PLANLTYPE *where, plan_scanner *scanner);
}

%code {
#include <string.h>

#define YYLLOC_DEFAULT(all, segments, count) ((all) = (count) > 0 ? YYRHSLOC(segments, 1) : YYRHSLOC(segments, 0))

static void planerror(const place *where, plan_scanner *scanner, plan_source *source, const char *message);
static GArray *add(GArray *segments, segment one, guint before);
}

%param {plan_scanner *scanner}
%parse-param {plan_source *source}

%union {
    guint token;
    wording words;
    segment segment;
    GArray *segments;
}

%token <token> HEAD "a statement" WORD "a word" OR "'or'" WHILE "'while'" ',' ';' ':'
%token <token> END_OF_LINE "the end of the line" END_OF_PLAN 0 "the end of the plan"

%type <words> words
%type <segment> segment
%type <segments> segments list
%type <token> joint

%destructor { g_array_unref($$); } <segments>

%%

plan: %empty | plan line;

line: statement ends | error ends { yyerrok; } | END_OF_LINE;

ends: END_OF_LINE | END_OF_PLAN { YYACCEPT; };

statement:
    HEAD segments                               { source_take_statement(source, $1, $2, NULL); g_array_unref($2); }
  | HEAD segments ':' list                      { source_take_statement(source, $1, $2, $4); g_array_unref($2); g_array_unref($4); }
  ;

segments:
    segment                                     { $$ = add(NULL, $1, $<token>0); }
  | segments ',' segment                           { $$ = add($1, $3, $2); }
  | segments OR segment                            { $$ = add($1, $3, $2); }
  ;

list:
    segment                                     { $$ = add(NULL, $1, $<token>0); }
  | list joint segment                          { $$ = add($1, $3, $2); }
  ;

joint: ',' | ';';

segment:
    words                                    { $$ = (segment){.words = $1}; }
  | words WHILE words                        {
        $$ = (segment){.words = $1, .held = $3, .has_while = true};
        $$.held.from = $3.from == $3.to ? $2 + 1 : $3.from;
        $$.held.to = MAX($$.held.from, $3.to);
    }
  ;

words:
    %empty                                   { $$ = (wording){source->tokens, 0, 0}; }
  | words WORD                               { $$ = $1; $$.from = $1.from == $1.to ? $2 : $1.from; $$.to = $2 + 1; }
  ;

%%

/* Below the first segment on the parser's stack, at $0, lies the token before it. */
static GArray *add(GArray *segments, segment one, guint before)
{
    GArray *const all = segments != NULL ? segments : g_array_new(FALSE, FALSE, sizeof(segment));
    if (one.words.from == one.words.to) { /* what isn't there would follow that token */
        one.words.from = before + 1;
        one.words.to = before + 1;
    }
    one.before = before;
    g_array_append_val(all, one);
    return all;
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
    for (int i = 0; i < count; i++) { /* that the plan could end goes without saying */
        if (kinds[i] != YYSYMBOL_YYEOF) {
            kinds[kept++] = kinds[i];
        }
    }
    for (int i = 0; i < kept; i++) {
        const char *const joined = i == 0 ? "" : i == kept - 1 ? " or " : ", ";
        g_string_append_printf(expected, "%s%s", joined, yysymbol_name(kinds[i]));
    }
    const char *const quote = found->kind == TOKEN_END ? "" : "'";
    report_error(source->faults, where, "found %s%s%s%s%s", quote, found->text, quote, count > 0 ? ", expected " : "",
                 expected->str);
    return 0;
}

static void clear_token(gpointer data)
{
    g_free(((token *)data)->text);
}

static void clear_action_list(gpointer data)
{
    g_array_unref(((rule_line *)data)->gestures);
    g_array_unref(((rule_line *)data)->actions);
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

plan_source *plan_parse(const char *text, gsize length, report *faults)
{
    plan_source *const source = g_new0(plan_source, 1);
    source->faults = faults;
    source->tokens = new_array(sizeof(token), clear_token);
    source->handsets = g_array_new(FALSE, FALSE, sizeof(handset_line));
    source->protocols = new_array(sizeof(protocol_line), clear_protocol);
    source->outputs = g_array_new(FALSE, FALSE, sizeof(output_line));
    source->palettes = new_array(sizeof(palette_line), clear_palette);
    source->rules = new_array(sizeof(rule_line), clear_action_list);
    source->at_start = g_array_new(FALSE, FALSE, sizeof(action_words));
    plan_scanner *const scanner = plan_scanner_new(source, text, length);
    (void)planparse(scanner, source);
    plan_scanner_free(scanner);
    source_match_orders(source);
    return source;
}

void plan_source_free(plan_source *source)
{
    if (source == NULL) {
        return;
    }
    g_array_unref(source->tokens);
    g_array_unref(source->handsets);
    g_array_unref(source->protocols);
    g_array_unref(source->outputs);
    g_array_unref(source->palettes);
    g_array_unref(source->rules);
    g_array_unref(source->at_start);
    g_free(source);
}
