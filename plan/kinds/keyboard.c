/* The keyboard. All keyboards of a plan share the strokes and the texts that it names. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/layouts.h"
#include "plan/kinds/vetting.h"

#include "dromikos/outputs/keyboard.h"

#include <string.h>

enum { LAYOUT };

enum { MAX_STROKES = 255 };

/* What the keyboards of a plan share. */
typedef struct shared {
    GArray *strokes; /* of drom_stroke */
    GArray *texts;   /* of drom_keyboard_text */
    GPtrArray *said; /* of char: the texts as the plan has them */
} shared;

static void free_shared(gpointer data)
{
    shared *const unwanted = data;
    g_array_unref(unwanted->strokes);
    g_array_unref(unwanted->texts);
    g_ptr_array_unref(unwanted->said);
    g_free(unwanted);
}

extern const output_kind keyboard_kind;

static shared *find_shared(const plan *made)
{
    return plan_shared(made, &keyboard_kind);
}

static shared *shared_of(plan *made)
{
    shared *all = find_shared(made);
    if (all == NULL) {
        all = g_new0(shared, 1);
        all->strokes = g_array_new(FALSE, FALSE, sizeof(drom_stroke));
        all->texts = g_array_new(FALSE, FALSE, sizeof(drom_keyboard_text));
        all->said = g_ptr_array_new_with_free_func(g_free);
        plan_share(made, &keyboard_kind, all, free_shared);
    }
    return all;
}

static const kind_clause clauses[] = {
    {"layout NAME", .clause = LAYOUT},
    {0},
};

/* The default, if the plan states no layout, or an unknown one. */
static const layout *layout_of(const output_line *line)
{
    const char *const name = line->clauses[LAYOUT].name.text;
    const layout *const named = name != NULL ? layout_by_name(name) : NULL;
    return named != NULL ? named : layout_by_name(layout_names()[0]);
}

static void check(plan *made, const output_line *line)
{
    const word *const name = &line->clauses[LAYOUT].name;
    for (guint i = 0; plan_line(made, i) != line; i++) {
        if (plan_line(made, i)->kind == &keyboard_kind) {
            report_error(made->source->faults, line->name.where, "a board is one keyboard, which is '%s'",
                         plan_line(made, i)->name.text);
        }
    }
    if (name->text != NULL && layout_by_name(name->text) == NULL) {
        g_autofree char *names = g_strjoinv(", ", (char **)layout_names());
        report_error(made->source->faults, name->where, "there is no layout '%s'; known are: %s", name->text,
                     names);
    }
}

/* Returns the row of a stroke, and adds it if it is new. */
static uint32_t stroke_row(plan *made, action_words *action, const kind_order *order)
{
    GArray *const strokes = shared_of(made)->strokes;
    const word *const chord = &action->values[0].name;
    drom_stroke stroke;
    (void)order;
    g_autofree char *wrong =
        layout_chord(layout_of(plan_line(made, (guint)action->row)), chord->text, &stroke);
    if (wrong != NULL) {
        report_error(made->source->faults, chord->where, "%s", wrong);
        return 0;
    }
    for (guint row = 0; row < strokes->len; row++) {
        const drom_stroke *const other = &g_array_index(strokes, drom_stroke, row);
        if (other->usage == stroke.usage && other->modifiers == stroke.modifiers) {
            return row;
        }
    }
    if (strokes->len == MAX_STROKES) {
        report_error(made->source->faults, chord->where, "a plan has %d different chords at most",
                     MAX_STROKES);
        return 0;
    }
    g_array_append_val(strokes, stroke);
    return strokes->len - 1;
}

/* Adds the strokes of a text; reports letters that its layout can't type. */
static GArray *strokes_of(plan *made, const output_line *line, const word *text)
{
    GArray *const strokes = g_array_new(FALSE, FALSE, sizeof(drom_stroke));
    const layout *const in = layout_of(line);
    for (const char *at = text->text; *at != '\0'; at = g_utf8_next_char(at)) {
        drom_stroke some[LAYOUT_STROKES];
        const unsigned count = layout_strokes(in, g_utf8_get_char(at), some);
        if (count == 0) {
            report_error(made->source->faults, text->where, "the layout of '%s' can't type '%.*s'",
                         line->name.text, (int)(g_utf8_next_char(at) - at), at);
            break;
        }
        g_array_append_vals(strokes, some, count);
    }
    if (text->text[0] == '\0' || strokes->len > MAX_STROKES) {
        report_error(made->source->faults, text->where, "a text is 1 to %d strokes long; this takes %u",
                     MAX_STROKES, strokes->len);
        g_array_set_size(strokes, MIN(strokes->len, MAX_STROKES));
    }
    return strokes;
}

/* Compares members: there may be padding between them. */
static bool are_same(const drom_keyboard_text *text, const GArray *strokes)
{
    bool are = text->strokes.count == strokes->len;
    for (guint i = 0; are && i < strokes->len; i++) {
        const drom_stroke *const one = &text->strokes.rows[i];
        const drom_stroke *const other = &g_array_index(strokes, drom_stroke, i);
        are = one->usage == other->usage && one->modifiers == other->modifiers;
    }
    return are;
}

static uint32_t text_row(plan *made, action_words *action, const kind_order *order)
{
    shared *const all = shared_of(made);
    const word *const text = &action->values[0].name;
    g_autoptr(GArray) strokes = strokes_of(made, plan_line(made, (guint)action->row), text);
    const gsize bytes = strokes->len * sizeof(drom_stroke);
    (void)order;
    for (guint row = 0; row < all->texts->len; row++) {
        if (are_same(&g_array_index(all->texts, drom_keyboard_text, row), strokes)) {
            return row;
        }
    }
    if (all->texts->len == MAX_STROKES) {
        report_error(made->source->faults, text->where, "a plan has %d different texts at most", MAX_STROKES);
        return 0;
    }
    drom_stroke *const kept = plan_keep(made, MAX(bytes, 1));
    if (bytes > 0) { /* else the error has been reported */
        memcpy(kept, strokes->data, bytes);
    }
    const drom_keyboard_text made_text = {{kept, (uint8_t)strokes->len}};
    g_array_append_val(all->texts, made_text);
    g_ptr_array_add(all->said, g_strdup(text->text));
    return all->texts->len - 1;
}

static const kind_order orders[] = {
    {"let go", .verb = DROM_KEYBOARD_LET_GO},
    {"tap CHORD", DROM_KEYBOARD_TAP, .value = stroke_row},
    {"hold CHORD", DROM_KEYBOARD_HOLD, .can_be_held = true, .value = stroke_row},
    {"type TEXT", DROM_KEYBOARD_TYPE, .value = text_row},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const shared *const all = shared_of(made);
    drom_keyboard_settings *const settings = plan_keep(made, sizeof *settings);
    drom_keyboard_state *const state = plan_keep(made, sizeof *state);
    (void)output;
    *settings = (drom_keyboard_settings){
        .strokes = {(const drom_stroke *)(void *)all->strokes->data, (uint8_t)all->strokes->len},
        .texts = {(const drom_keyboard_text *)(void *)all->texts->data, (uint8_t)all->texts->len},
    };
    return (drom_output)DROM_KEYBOARD(*settings, *state);
}

static void put_strokes(GString *out, const drom_stroke *strokes, guint count)
{
    for (guint i = 0; i < count; i++) {
        g_string_append_printf(out, "%s{0x%x, 0x%x}", i > 0 ? ", " : "", strokes[i].usage,
                               strokes[i].modifiers);
    }
    g_string_append(out, "};\n");
}

static void bake_shared(GString *out, const plan *loaded)
{
    const shared *const all = find_shared(loaded);
    if (all->strokes->len > 0) {
        g_string_append(out, "static const drom_stroke DROM_FLASH strokes[] = {");
        put_strokes(out, (const drom_stroke *)(void *)all->strokes->data, all->strokes->len);
    }
    for (guint i = 0; i < all->texts->len; i++) {
        const drom_keyboard_text *const text = &g_array_index(all->texts, drom_keyboard_text, i);
        g_string_append_printf(out, "static const drom_stroke DROM_FLASH typed_%u[] = {", i);
        put_strokes(out, text->strokes.rows, text->strokes.count);
    }
    for (guint i = 0; i < all->texts->len; i++) {
        g_string_append_printf(out, "%s{DROM_ROWS(typed_%u)}%s",
                               i == 0 ? "static const drom_keyboard_text DROM_FLASH texts[] = {" : ", ", i,
                               i + 1 == all->texts->len ? "};\n" : "");
    }
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const shared *const all = find_shared(loaded);
    (void)output;
    g_string_append_printf(out, "%s%s%s", all->strokes->len > 0 ? ".strokes = DROM_ROWS(strokes)" : "",
                           all->strokes->len > 0 && all->texts->len > 0 ? ", " : "",
                           all->texts->len > 0 ? ".texts = DROM_ROWS(texts)" : "");
    if (all->strokes->len == 0 && all->texts->len == 0) {
        g_string_append(out, ".strokes = {NULL, 0}");
    }
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    const shared *const all = find_shared(loaded);
    const layout *const in = layout_of(plan_line(loaded, action->row));
    switch ((drom_keyboard_verb)action->verb) {
    case DROM_KEYBOARD_TAP:
    case DROM_KEYBOARD_HOLD: {
        g_autofree char *chord =
            layout_chord_text(in, g_array_index(all->strokes, drom_stroke, action->value));
        return g_strdup_printf("%s %s", action->verb == DROM_KEYBOARD_TAP ? "tap" : "hold", chord);
    }
    case DROM_KEYBOARD_TYPE:
        return g_strdup_printf("type '%s'", (const char *)g_ptr_array_index(all->said, action->value));
    default:
        return NULL;
    }
}

static activity activity_of(const drom_output *output)
{
    const drom_keyboard_state *const state = output->state;
    return state->count == 0 ? IDLE : state->orders[0].verb == DROM_KEYBOARD_HOLD ? ENDLESS : ENDING;
}

static void vet(const vetting *job, guint output)
{
    const char *const name = plan_line(job->plan, output)->name.text;
    if (!job->board.has_usb) {
        vet_add(job->result->pins, VET_FAILS, name, "the chip has no USB of its own", 0, 0, "",
                g_strdup("use a board with the ATmega32U4 (leonardo, micro), or leave the keyboard out"));
    }
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    (void)loaded;
    (void)output;
    sim_bench_set_computer(bench, true);
    return bench;
}

static void go_dark(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench)
{
    const drom_output *const keyboard = plan_output(loaded, output);
    drom_keyboard.rest(keyboard->settings, keyboard->state, timing);
    sim_bench_unplug(bench);
}

/* Returns the text on the screen of a computer with that layout. To be freed. */
static char *typed_text(const layout *in, const void *device)
{
    GString *const text = g_string_new(NULL);
    size_t count;
    g_autofree sim_key *keys = sim_bench_keys(device, &count);
    gunichar accent = 0;
    for (size_t i = 0; i < count; i++) {
        bool is_dead = false;
        const drom_stroke stroke = {keys[i].usage, keys[i].modifiers};
        const gunichar letter = keys[i].is_media ? 0 : layout_letter(in, stroke, &is_dead);
        if (letter == 0) {
            continue;
        }
        if (accent != 0) {
            g_string_append_unichar(text, accent);
        }
        if (!is_dead && !(accent != 0 && letter == ' ')) {
            g_string_append_unichar(text, letter);
        }
        accent = is_dead ? letter : 0;
    }
    return g_string_free(text, FALSE);
}

/* Returns the keys that are down, as a chord; "nothing". To be freed. */
static char *held_text(const layout *in, const void *device)
{
    size_t count;
    g_autofree sim_key *keys = sim_bench_keys(device, &count);
    for (size_t i = count; i > 0; i--) {
        const sim_key *const key = &keys[i - 1];
        if (key->until_us == UINT64_MAX && (key->is_media || key->usage < 0xe0)) {
            return layout_chord_text(
                in, (drom_stroke){(uint16_t)(key->usage | (key->is_media ? 0x8000 : 0)), key->modifiers});
        }
    }
    return g_strdup("nothing");
}

static bool moves(const drom_output *output, int32_t *position)
{
    const drom_keyboard_state *const state = output->state;
    *position = 0;
    return state->count > 0 || state->is_down;
}

/* The text on the screen, shortened to a row. */
static char *place_text(const output_view *seen)
{
    enum { SHOWN = 40 };
    g_autofree char *typed = typed_text(layout_of(plan_line(seen->plan, seen->output)), seen->device);
    const glong length = g_utf8_strlen(typed, -1);
    if (length == 0) {
        return g_strdup("has let go");
    }
    return g_strdup_printf("has typed %s'%s'", length > SHOWN ? "..." : "",
                           g_utf8_offset_to_pointer(typed, MAX(length - SHOWN, 0)));
}

static const char *const states[] = {"typed TEXT", "holds CHORD", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const layout *const in = layout_of(plan_line(seen->plan, seen->output));
    g_autofree char *there = state == 0 ? typed_text(in, seen->device) : held_text(in, seen->device);
    drom_stroke stroke;
    g_autofree char *wrong = state == 0 ? NULL : layout_chord(in, values[0].name.text, &stroke);
    g_autofree char *chord =
        state == 0 || wrong != NULL ? g_strdup(values[0].name.text) : layout_chord_text(in, stroke);
    return strcmp(there, chord) == 0;
}

/* A chord that no keyboard has would never be held. */
static char *wrong_state(const plan *loaded, guint output, unsigned state, const phrase_value *values)
{
    drom_stroke stroke;
    return state == 0 || strcmp(values[0].name.text, "nothing") == 0
               ? NULL
               : layout_chord(layout_of(plan_line(loaded, output)), values[0].name.text, &stroke);
}

static char *state_text(const output_view *seen)
{
    const layout *const in = layout_of(plan_line(seen->plan, seen->output));
    g_autofree char *typed = typed_text(in, seen->device);
    g_autofree char *held = held_text(in, seen->device);
    return g_strdup_printf("typed '%s' and holds %s", typed, held);
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    const drom_keyboard_state *const state = seen->row->state;
    size_t count;
    unsigned pressed = 0;
    unsigned stuck = 0;
    g_autofree sim_key *keys = sim_bench_keys(seen->device, &count);
    (void)on_us;
    for (size_t i = 0; i < count; i++) {
        pressed += !keys[i].is_repeat;
        stuck += keys[i].until_us == UINT64_MAX;
    }
    return g_strdup_printf("pressed %u keys, %u are down at the end, %u orders dropped", pressed, stuck,
                           state->dropped);
}

const output_kind keyboard_kind = {
    .name = "keyboard",
    .core = &drom_keyboard,
    .words =
        {
            .heads = (const char *const[]){"NAME", NULL},
            .clauses = clauses,
            .orders = orders,
            .order_text = order_text,
        },
    .checks =
        {
            .check = check,
            .row = row,
            .is_guarded = always,
        },
    .bake =
        {
            .shared = bake_shared,
            .settings = bake_settings,
        },
    .vet =
        {
            .output = vet,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .go_dark = go_dark,
            .moves = moves,
            .place_text = place_text,
            .states = states,
            .is_in_state = is_in_state,
            .wrong_state = wrong_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_WORDS,
            .sum_up = sum_up,
        },
};
