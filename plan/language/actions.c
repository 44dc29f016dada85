/* Actions of rules as they are written: waits and modes, or a name and its order. */
#include "plan/language/statements.h"

#include <string.h>

const char *const statement_then_action[] = {"';'", "the end of the line", NULL};

/* Actions that begin with a word of the language, not with a name. */
static const struct {
    const char *phrase;
    drom_target target;
    uint8_t verb;
    unsigned time; /* which of its values is a number + 1; 0: none */
} reserved[] = {
    {"mode NAME", DROM_TO_MODE, 0, 0},
    {"wait TIME", DROM_TO_WAIT, 0, 1},
    {"wait for NAME", DROM_TO_WAIT_FOR, DROM_UNTIL_IDLE, 0},
    {"wait for NAME at most TIME", DROM_TO_WAIT_FOR, DROM_UNTIL_IDLE, 2},
    {"wait for NAME closes", DROM_TO_WAIT_FOR, DROM_UNTIL_CLOSED, 0},
    {"wait for NAME closes at most TIME", DROM_TO_WAIT_FOR, DROM_UNTIL_CLOSED, 2},
    {"wait for NAME opens", DROM_TO_WAIT_FOR, DROM_UNTIL_OPEN, 0},
    {"wait for NAME opens at most TIME", DROM_TO_WAIT_FOR, DROM_UNTIL_OPEN, 2},
};

enum { USUAL_PATIENCE_MS = 60000 };

static void take_reserved(plan_source *source, GArray *actions, action_words *action, const segment *given)
{
    const char *phrases[G_N_ELEMENTS(reserved) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(reserved); i++) {
        phrases[i] = reserved[i].phrase;
    }
    segment with_values = *given;
    with_values.words.has_values = true;
    const int said =
        statement_match(source, &with_values, phrases, NULL, statement_then_action, action->values);
    if (said < 0) {
        return;
    }
    action->target = reserved[said].target;
    action->verb = reserved[said].verb;
    action->number = reserved[said].time;
    action->value = action->target == DROM_TO_WAIT_FOR ? USUAL_PATIENCE_MS : 0;
    if (action->target != DROM_TO_WAIT) {
        action->name = action->values[0].name;
    }
    g_array_append_val(actions, *action);
}

/* A name and what follows it. */
static void take_action(plan_source *source, GArray *actions, const segment *given)
{
    static const char *const held[] = {"held", NULL};
    static const char *const an_action[] = {"the name of an output", "'wait'", "'mode'", NULL};
    phrase_value values[PHRASE_VALUES];
    const token *const first = statement_token(source, given->words.from);
    const bool is_word = given->words.from < given->words.end && first->kind == TOKEN_WORD;
    action_words action = {.where = wording_place(given->words), .row = -1, .said = -1};
    if (is_word && (strcmp(first->text, "mode") == 0 || strcmp(first->text, "wait") == 0)) {
        take_reserved(source, actions, &action, given);
        return;
    }
    if (!is_word || word_is_reserved(first->text)) {
        statement_unexpected(source, given->words.from, an_action);
        return;
    }
    if (given->has_while &&
        phrase_match(source->faults, given->held, held, "", statement_then_action, values) < 0) {
        return;
    }
    action.name = (word){first->text, first->where};
    action.order = (wording){source->tokens, given->words.from + 1, given->words.end, .has_values = true};
    action.is_while_held = given->has_while;
    g_array_append_val(actions, action);
}

void actions_take(plan_source *source, GArray *actions, const GArray *after)
{
    for (guint i = 0; i < after->len; i++) {
        const segment *const given = statement_segment(after, i);
        if (i > 0 && strcmp(statement_token(source, given->before)->text, ";") != 0) {
            statement_unexpected(source, given->before, statement_then_action);
            return;
        }
        take_action(source, actions, given);
    }
}
