/* Each kind of output is a row: what may be said of it, and the orders that it takes. */
#include "outputs.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

enum {
    USUAL_STEPS = 2048, /* of a turn: a small geared stepper */
    MAX_PAUSE_MS = 255,
    MAX_STEPS_S = 5000,
};

const char *const effect_names[] = {"chase", "blend", "breathe", "sparkle", NULL};
static const drom_strip_effect_ref effects[] = {drom_strip_chase, drom_strip_blend, drom_strip_breathe,
                                                drom_strip_sparkle};

static const struct {
    const char *name;
    uint32_t colour;
} colours[] = {
    {"black", 0x000000},  {"white", 0xffffff},  {"red", 0xff0000},   {"green", 0x00ff00},
    {"blue", 0x0000ff},   {"yellow", 0xffc000}, {"amber", 0xff7000}, {"orange", 0xff4000},
    {"purple", 0x8000ff}, {"pink", 0xff4080},   {"cyan", 0x00ffff},  {"warm", 0xffa040},
};

static const struct {
    const char *name;
    unsigned clauses; /* a bit each */
} kinds[OUTPUT_KINDS] = {
    [KIND_RELAY] = {"relay",
                    1 << CLAUSE_ACTIVE_LOW | 1 << CLAUSE_REST_ON | 1 << CLAUSE_MIN_ON | 1 << CLAUSE_MIN_OFF},
    [KIND_LAMP] = {"lamp", 1 << CLAUSE_ACTIVE_LOW},
    [KIND_STEPPER] = {"stepper", 1 << CLAUSE_STEPS | 1 << CLAUSE_SPEED | 1 << CLAUSE_STILL},
    [KIND_STRIP] = {"strip", 1 << CLAUSE_PIXELS | 1 << CLAUSE_ORDER | 1 << CLAUSE_PAUSE},
    [KIND_SENDER] = {"sender", 1 << CLAUSE_SHIELDED},
};

static const char *const clause_texts[CLAUSES] = {
    [CLAUSE_ACTIVE_LOW] = "active low",   [CLAUSE_REST_ON] = "rest on",
    [CLAUSE_MIN_ON] = "on at least TIME", [CLAUSE_MIN_OFF] = "off at least TIME",
    [CLAUSE_STEPS] = "N steps a turn",    [CLAUSE_SPEED] = "up to N steps/s within TIME",
    [CLAUSE_STILL] = "holds still",       [CLAUSE_PIXELS] = "N pixels",
    [CLAUSE_ORDER] = "order grb",         [CLAUSE_PAUSE] = "pause TIME",
    [CLAUSE_SHIELDED] = "shielded",
};

/* How an order's amount becomes the engine's value. */
enum value_of {
    NO_VALUE,
    MS,
    WAY,
    WAY_BACK,
    DIRECTION,
    DIRECTION_BACK,
    COLOUR,
    PIXEL_COUNT,
    LEVEL,
    PALETTE_ROW,
    EFFECT_ROW,
    FADE_TO,
    SEND_KEY,
    HOLD_KEY
};

static const struct {
    enum output_kind kind;
    enum order_word say;
    uint8_t verb;
    enum value_of value;
    const char *text; /* for people */
} orders[] = {
    {KIND_RELAY, SAY_OFF, DROM_RELAY_OFF, NO_VALUE, "off"},
    {KIND_RELAY, SAY_ON, DROM_RELAY_ON, NO_VALUE, "on"},
    {KIND_RELAY, SAY_TOGGLE, DROM_RELAY_TOGGLE, NO_VALUE, "toggle"},
    {KIND_RELAY, SAY_PULSE, DROM_RELAY_PULSE, MS, "pulse for"},
    {KIND_LAMP, SAY_OFF, DROM_LAMP_OFF, NO_VALUE, "off"},
    {KIND_LAMP, SAY_ON, DROM_LAMP_ON, NO_VALUE, "on"},
    {KIND_LAMP, SAY_TOGGLE, DROM_LAMP_TOGGLE, NO_VALUE, "toggle"},
    {KIND_LAMP, SAY_BRIGHTER, DROM_LAMP_BRIGHTER, LEVEL, "brighter"},
    {KIND_LAMP, SAY_DIMMER, DROM_LAMP_DIMMER, LEVEL, "dimmer"},
    {KIND_LAMP, SAY_FADE, DROM_LAMP_FADE, FADE_TO, "fade to"},
    {KIND_STEPPER, SAY_STOP, DROM_STEPPER_STOP, NO_VALUE, "stop"},
    {KIND_STEPPER, SAY_RUN, DROM_STEPPER_RUN, DIRECTION, "run"},
    {KIND_STEPPER, SAY_RUN_BACK, DROM_STEPPER_RUN, DIRECTION_BACK, "run back"},
    {KIND_STEPPER, SAY_TURN, DROM_STEPPER_TURN, WAY, "turn"},
    {KIND_STEPPER, SAY_TURN_BACK, DROM_STEPPER_TURN, WAY_BACK, "turn back"},
    {KIND_STEPPER, SAY_GO, DROM_STEPPER_GO, WAY, "go to"},
    {KIND_STEPPER, SAY_GO_BACK, DROM_STEPPER_GO, WAY_BACK, "go to back"},
    {KIND_STRIP, SAY_OFF, DROM_STRIP_OFF, NO_VALUE, "off"},
    {KIND_STRIP, SAY_ON, DROM_STRIP_ON, NO_VALUE, "on"},
    {KIND_STRIP, SAY_TOGGLE, DROM_STRIP_TOGGLE, NO_VALUE, "toggle"},
    {KIND_STRIP, SAY_FILL, DROM_STRIP_FILL, COLOUR, "fill"},
    {KIND_STRIP, SAY_SHOW, DROM_STRIP_SHOW, PIXEL_COUNT, "show"},
    {KIND_STRIP, SAY_BRIGHTNESS, DROM_STRIP_BRIGHTNESS, LEVEL, "brightness"},
    {KIND_STRIP, SAY_BRIGHTER, DROM_STRIP_BRIGHTER, LEVEL, "brighter"},
    {KIND_STRIP, SAY_DIMMER, DROM_STRIP_DIMMER, LEVEL, "dimmer"},
    {KIND_STRIP, SAY_PALETTE, DROM_STRIP_PALETTE, PALETTE_ROW, "palette"},
    {KIND_STRIP, SAY_EFFECT, DROM_STRIP_EFFECT, EFFECT_ROW, ""},
    {KIND_SENDER, SAY_SEND, DROM_SENDER_SEND, SEND_KEY, "send"},
    {KIND_SENDER, SAY_HOLD, DROM_SENDER_HOLD, HOLD_KEY, "hold"},
    {KIND_SENDER, SAY_LET_GO, DROM_SENDER_LET_GO, NO_VALUE, "let go"},
};

const char *output_kind_name(enum output_kind kind)
{
    return kinds[kind].name;
}

bool colour_by_name(const char *text, uint32_t *colour)
{
    if (g_str_has_prefix(text, "0x")) {
        *colour = (uint32_t)MIN(g_ascii_strtoull(text, NULL, 16), UINT32_MAX);
        return strlen(text) == 8;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        if (strcmp(colours[i].name, text) == 0) {
            *colour = colours[i].colour;
            return true;
        }
    }
    return false;
}

char *colour_text(uint32_t colour)
{
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        if (colours[i].colour == colour) {
            return g_strdup(colours[i].name);
        }
    }
    return g_strdup_printf("0x%06x", colour);
}

void source_take_clause(plan_source *source, output_line *output, clause_words given)
{
    const unsigned bit = 1u << given.clause;
    if ((kinds[output->kind].clauses & bit) == 0) {
        g_autoptr(GString) known = g_string_new(NULL);
        for (unsigned clause = 0; clause < CLAUSES; clause++) {
            if ((kinds[output->kind].clauses & 1u << clause) != 0) {
                g_string_append_printf(known, "%s'%s'", known->len > 0 ? ", " : "", clause_texts[clause]);
            }
        }
        report_error(source->faults, given.where, "a %s has no such clause; it has %s",
                     kinds[output->kind].name, known->str);
    } else if ((output->given & bit) != 0) {
        report_error(source->faults, given.where, "this is said of '%s' already", output->name.text);
    }
    output->given |= bit;
    output->values[given.clause] = given.value;
    output->places[given.clause] = given.where;
    if (given.clause == CLAUSE_SPEED) {
        output->within_ms = given.within_ms;
    }
    if (given.clause == CLAUSE_ORDER) {
        word_free(&output->order);
        output->order = given.order;
    }
}

static void check_range(const plan *made, const output_line *output, enum clause clause, uint32_t min,
                        uint32_t max, const char *what)
{
    const uint32_t value = output->values[clause];
    if ((output->given & 1u << clause) != 0 && (value < min || value > max)) {
        report_error(made->source->faults, output->places[clause], "%s: %u to %u", what, min, max);
    }
}

bool pixel_order(const char *text, uint8_t *order)
{
    unsigned seen = 0;
    for (int i = 0; i < 3; i++) {
        if (text[i] == '\0' || strchr("rgb", text[i]) == NULL) {
            return false;
        }
        order[i] = (uint8_t)(text[i] == 'r' ? 0 : text[i] == 'g' ? 1 : 2);
        seen |= 1u << order[i];
    }
    return seen == 7 && text[3] == '\0';
}

static void check_colour(const plan *made, const word *name)
{
    uint32_t colour = 0;
    if (colour_by_name(name->text, &colour)) {
        return;
    }
    const char *names[G_N_ELEMENTS(colours) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        names[i] = colours[i].name;
    }
    g_autofree char *known = g_strjoinv(", ", (char **)names);
    g_autofree char *hint = did_you_mean(name->text, names);
    report_error(made->source->faults, name->where, "there is no colour '%s'; known are %s, and 0xrrggbb%s",
                 name->text, known, hint);
}

void output_check(plan *made, guint index)
{
    plan_source *const source = made->source;
    const output_line *const output = &g_array_index(source->outputs, output_line, index);
    uint8_t order[3];
    check_range(made, output, CLAUSE_STEPS, 4, 100000, "a turn has so many steps");
    check_range(made, output, CLAUSE_SPEED, 1, MAX_STEPS_S, "steps a second");
    check_range(made, output, CLAUSE_PIXELS, 1, 255, "a strip has so many pixels");
    check_range(made, output, CLAUSE_PAUSE, 0, MAX_PAUSE_MS, "the pause after a refresh, in ms");
    if (output->values[CLAUSE_MIN_ON] > DROM_LONGEST_MS || output->values[CLAUSE_MIN_OFF] > DROM_LONGEST_MS) {
        report_error(source->faults, output->name.where, "the minimum times of '%s' may be up to 30 min",
                     output->name.text);
    }
    if (output->within_ms > 60000) {
        report_error(source->faults, output->places[CLAUSE_SPEED],
                     "a stepper speeds up within 1 ms to 1 min");
    }
    if (output->kind == KIND_STRIP && (output->given & 1u << CLAUSE_PIXELS) == 0) {
        report_error(source->faults, output->name.where, "say how many pixels '%s' has, as in: 60 pixels",
                     output->name.text);
    }
    if (output->order.text != NULL && !pixel_order(output->order.text, order)) {
        report_error(source->faults, output->order.where,
                     "the order in which red, green and blue are sent: rgb, rbg, grb, gbr, brg or bgr");
    }
}

void palette_check(plan *made, const palette_line *palette)
{
    if (palette->colours->len > DROM_STRIP_COLOURS) {
        report_error(made->source->faults, palette->name.where, "a palette has at most %d colours",
                     DROM_STRIP_COLOURS);
    }
    for (guint i = 0; i < palette->colours->len; i++) {
        check_colour(made, &g_array_index(palette->colours, word, i));
    }
}

static int find_palette(const plan_source *source, const char *name)
{
    for (guint i = 0; i < source->palettes->len; i++) {
        if (strcmp(g_array_index(source->palettes, palette_line, i).name.text, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

static uint32_t steps_of(const output_line *output, const action_words *action)
{
    const double turn =
        (output->given & 1u << CLAUSE_STEPS) != 0 ? output->values[CLAUSE_STEPS] : USUAL_STEPS;
    const double steps = action->unit == WAY_STEPS   ? action->amount
                         : action->unit == WAY_TURNS ? action->amount * turn
                                                     : action->amount * turn / 360;
    return (uint32_t)(int32_t)lround(MIN(steps, (double)DROM_STEPPER_FARTHEST));
}

static uint32_t level_of(double percent)
{
    return (uint32_t)lround(percent * 255 / 100);
}

/* How long the longest frame of a press of a key lasts. */
static uint8_t frame_ms(const drom_waveform *waveform, const drom_code *code)
{
    uint32_t longest_us = 0;
    for (int part = DROM_SEND_FIRST; part <= (int)DROM_SEND_REPEAT; part++) {
        drom_encoder encoder;
        uint32_t lasts_us = 0;
        if (drom_encode_begin(&encoder, waveform, code, (drom_part_of_press)part, false) == DROM_OK) {
            for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
                lasts_us += us;
            }
        }
        longest_us = MAX(longest_us, lasts_us);
    }
    return (uint8_t)MIN(longest_us / 1000 + 1, UINT8_MAX);
}

/* The row of a key among those that a sender sends, which is made where it is new. */
static uint32_t sent_row(plan *made, action_words *action, guint index)
{
    plan_source *const source = made->source;
    const int handset = source_find_handset(source, action->name.text);
    if (handset < 0) {
        report_error(source->faults, action->name.where, "there is no handset '%s'", action->name.text);
        return 0;
    }
    const sheet *const keys = g_ptr_array_index(made->sheets, (guint)handset);
    if (keys == NULL) {
        return 0; /* that it can't be read has been reported */
    }
    const int key = sheet_find(keys, action->key.text);
    if (key < 0) {
        g_autofree const char **names = sheet_names(keys);
        g_autofree char *hint = did_you_mean(action->key.text, names);
        report_error(source->faults, action->key.where, "the sheet of '%s' has no key '%s'%s",
                     action->name.text, action->key.text, hint);
        return 0;
    }
    const drom_code *const code = &g_array_index(keys->keys, sheet_key, (guint)key).code;
    const drom_waveform *const waveform = code->protocol != NULL ? plan_waveform(made, code->protocol) : NULL;
    if (waveform == NULL || waveform->pack == NULL) {
        report_error(source->faults, action->key.where, "how to send '%s.%s' isn't known", action->name.text,
                     action->key.text);
        return 0;
    }
    GArray *const sent = g_ptr_array_index(made->sent, index);
    const sent_key row = {
        (guint)handset, (guint)key, {waveform, code->address, code->command, frame_ms(waveform, code)}};
    for (guint i = 0; i < sent->len; i++) {
        const sent_key *const other = &g_array_index(sent, sent_key, i);
        if (other->handset == row.handset && other->key == row.key) {
            return i;
        }
    }
    g_array_append_val(sent, row);
    return sent->len - 1;
}

/* The row of an effect among those that the plan names, which is made where it is new. */
static uint32_t effect_row(plan *made, const action_words *action)
{
    for (guint row = 0; row < made->effects->len; row++) {
        if (strcmp(effect_names[g_array_index(made->effects, guint, row)], action->name.text) == 0) {
            return row;
        }
    }
    for (guint i = 0; effect_names[i] != NULL; i++) {
        if (strcmp(effect_names[i], action->name.text) == 0) {
            g_array_append_val(made->effects, i);
            g_array_append_val(made->effect_refs, effects[i]);
            return made->effects->len - 1;
        }
    }
    g_autofree char *known = g_strjoinv(", ", (char **)effect_names);
    g_autofree char *hint = did_you_mean(action->name.text, effect_names);
    report_error(made->source->faults, action->name.where, "a strip has no effect '%s'; it has %s%s",
                 action->name.text, known, hint);
    return 0;
}

static uint32_t value_of(plan *made, enum value_of kind, action_words *action, const output_line *output,
                         guint index)
{
    report *const faults = made->source->faults;
    uint32_t colour = 0;
    switch (kind) {
    case NO_VALUE:
        break;
    case MS:
        return (uint32_t)action->amount;
    case WAY:
        return steps_of(output, action);
    case WAY_BACK:
        return 0 - steps_of(output, action);
    case DIRECTION:
        return 1;
    case DIRECTION_BACK:
        return 0;
    case COLOUR:
        check_colour(made, &action->name);
        (void)colour_by_name(action->name.text, &colour);
        return colour & 0xffffff;
    case PIXEL_COUNT:
        if (action->amount > output->values[CLAUSE_PIXELS]) {
            report_error(faults, action->where, "'%s' has %u pixels", output->name.text,
                         output->values[CLAUSE_PIXELS]);
        }
        return (uint32_t)MIN(action->amount, 255);
    case LEVEL:
        return level_of(action->amount);
    case PALETTE_ROW: {
        const int row = find_palette(made->source, action->name.text);
        if (row < 0) {
            report_error(faults, action->name.where, "there is no palette '%s'", action->name.text);
        }
        return (uint32_t)MAX(row, 0);
    }
    case EFFECT_ROW:
        return effect_row(made, action);
    case FADE_TO:
        if (action->over_ms > DROM_LONGEST_MS) {
            report_error(faults, action->where, "a fade takes up to 30 min");
        }
        return DROM_FADE(level_of(action->amount), MIN(action->over_ms, DROM_LONGEST_MS));
    case SEND_KEY:
        if (action->amount > 255) {
            report_error(faults, action->where, "a key can be sent up to 255 times");
        }
        return DROM_SEND(sent_row(made, action, index), MIN((uint32_t)action->amount, 255));
    case HOLD_KEY:
        return sent_row(made, action, index);
    }
    return 0;
}

void output_check_action(plan *made, action_words *action, const output_line *output, guint index)
{
    g_autoptr(GString) known = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        if (orders[i].kind != output->kind) {
            continue;
        }
        if (orders[i].say == action->say) {
            action->verb = orders[i].verb;
            action->value = value_of(made, orders[i].value, action, output, index);
            return;
        }
        const char *const text = orders[i].value == EFFECT_ROW ? "or an effect" : orders[i].text;
        g_string_append_printf(known, "%s%s", known->len > 0 ? ", " : "", text);
    }
    report_error(made->source->faults, action->where, "'%s' is a %s, and can't do this; it can: %s",
                 output->name.text, kinds[output->kind].name, known->str);
}

char *plan_action_text(const plan *loaded, const drom_action *action)
{
    const enum output_kind kind = plan_output_kind(loaded, action->row);
    const uint32_t value = action->value;
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        if (orders[i].kind != kind || orders[i].verb != action->verb) {
            continue;
        }
        const char *const text = orders[i].text;
        g_autofree char *colour = NULL;
        g_autofree char *times = NULL;
        const sent_key *sent = NULL;
        switch (orders[i].value) {
        case NO_VALUE:
            return g_strdup(text);
        case MS:
            return g_strdup_printf("%s %u ms", text, value);
        case WAY:
        case WAY_BACK:
            return g_strdup_printf("%s %s%u steps", action->verb == DROM_STEPPER_GO ? "go to" : "turn",
                                   (int32_t)value < 0 ? "back " : "", (unsigned)abs((int32_t)value));
        case DIRECTION:
        case DIRECTION_BACK:
            return g_strdup(value != 0 ? "run" : "run back");
        case COLOUR:
            colour = colour_text(value);
            return g_strdup_printf("%s %s", text, colour);
        case PIXEL_COUNT:
            return g_strdup_printf("%s %u", text, value);
        case LEVEL:
            return g_strdup_printf("%s %u %%", text, (value * 100 + 127) / 255);
        case PALETTE_ROW:
            return g_strdup_printf("%s %s", text,
                                   g_array_index(loaded->source->palettes, palette_line, value).name.text);
        case EFFECT_ROW:
            return g_strdup(effect_names[g_array_index(loaded->effects, guint, value)]);
        case FADE_TO:
            return g_strdup_printf("%s %u %% over %u ms", text, ((value & 0xff) * 100 + 127) / 255,
                                   value >> 8);
        case SEND_KEY:
        case HOLD_KEY:
            sent = &g_array_index((GArray *)g_ptr_array_index(loaded->sent, action->row), sent_key,
                                  value & 0xff);
            times = value >> 8 > 1 ? g_strdup_printf(" %u times", value >> 8) : NULL;
            return g_strdup_printf("%s %s.%s%s", text, plan_handset_name(loaded, sent->handset),
                                   plan_key_name(loaded, sent->handset, sent->key),
                                   times != NULL ? times : "");
        }
    }
    return g_strdup("?");
}
