/* What the parser does with the words of a statement, and how a plan's source is let go. */
#include "source.h"

void word_free(word *unwanted)
{
    g_free(unwanted->text);
    unwanted->text = NULL;
}

void action_free(action_words *unwanted)
{
    word_free(&unwanted->output);
    word_free(&unwanted->name);
    word_free(&unwanted->key);
}

static void clear_action(gpointer data)
{
    action_free(data);
}

void output_free(output_line *unwanted)
{
    word_free(&unwanted->name);
    word_free(&unwanted->order);
    for (unsigned i = 0; i < G_N_ELEMENTS(unwanted->pins); i++) {
        word_free(&unwanted->pins[i]);
    }
}

GArray *actions_new(void)
{
    GArray *const actions = g_array_new(FALSE, FALSE, sizeof(action_words));
    g_array_set_clear_func(actions, clear_action);
    return actions;
}

/* Keeps what is given once; reports it when it is given again. */
static void take_once(plan_source *source, word *kept, word given, const char *what)
{
    if (kept->text == NULL) {
        *kept = given;
        return;
    }
    report_error(source->faults, given.where, "the %s is given on line %d already", what, kept->where.line);
    word_free(&given);
}

void source_take_title(plan_source *source, word title)
{
    take_once(source, &source->title, title, "name of the plan");
}

void source_take_board(plan_source *source, word name, double mhz, place mhz_at)
{
    source->board_mhz = mhz;
    source->board_mhz_at = mhz_at;
    take_once(source, &source->board, name, "board");
}

void source_take_receiver(plan_source *source, word pin)
{
    take_once(source, &source->receiver_pin, pin, "receiver");
}

void source_take_figure(plan_source *source, uint32_t *figure, uint32_t value, place where)
{
    if (*figure != 0) {
        report_error(source->faults, where, "this is said of the protocol already");
    } else if (value == 0) {
        report_error(source->faults, where, "this can't be 0");
    }
    *figure = value;
}

void source_take_key_time(plan_source *source, enum key_time which, uint32_t ms, place where)
{
    if (ms < 1 || ms > UINT16_MAX) {
        report_error(source->faults, where, "the times of gestures are 1 ms to 65 s");
    } else if (source->key_ms[which] != 0) {
        report_error(source->faults, where, "this time is given already");
    } else {
        source->key_ms[which] = (uint16_t)ms;
    }
}

void plan_source_free(plan_source *source)
{
    if (source == NULL) {
        return;
    }
    word_free(&source->title);
    word_free(&source->board);
    word_free(&source->receiver_pin);
    for (guint i = 0; i < source->handsets->len; i++) {
        handset_line *const handset = &g_array_index(source->handsets, handset_line, i);
        word_free(&handset->name);
        word_free(&handset->path);
    }
    for (guint i = 0; i < source->protocols->len; i++) {
        protocol_line *const protocol = &g_array_index(source->protocols, protocol_line, i);
        word_free(&protocol->name);
        g_free(protocol->own);
    }
    g_array_unref(source->protocols);
    for (guint i = 0; i < source->outputs->len; i++) {
        output_free(&g_array_index(source->outputs, output_line, i));
    }
    for (guint i = 0; i < source->palettes->len; i++) {
        palette_line *const palette = &g_array_index(source->palettes, palette_line, i);
        word_free(&palette->name);
        g_array_unref(palette->colours);
    }
    for (guint i = 0; i < source->rules->len; i++) {
        rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        word_free(&rule->handset);
        word_free(&rule->key);
        g_array_unref(rule->gestures);
        g_array_unref(rule->actions);
    }
    g_array_unref(source->handsets);
    g_array_unref(source->outputs);
    g_array_unref(source->palettes);
    g_array_unref(source->rules);
    g_array_unref(source->at_start);
    g_free(source);
}
