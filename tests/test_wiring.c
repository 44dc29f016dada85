/* Wiring sheets: each wire, supply and ground as plan and board require. */
#include "support.h"

#include "drawn.h"

#include <math.h>
#include <string.h>

/* The name of a wire, at its pin of the board. */
static const drawn_text *label_of(const drawn *in, const char *pin, double y)
{
    const drawn_text *found = NULL;
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const text = &g_array_index(in->texts, drawn_text, i);
        const bool is_there =
            fabs(text->y - 4 - y) < 2 && strcmp(text->what, "wire") == 0 && strcmp(text->name, pin) == 0;
        found = is_there ? text : found;
    }
    return found;
}

/* The same name beside its end, with the terminal: "w7  forward". */
static bool is_named_at(const drawn *in, const char *owner, const char *label, double y)
{
    enum { BESIDE_PX = 36 };
    g_autofree char *begin = g_strdup_printf("%s  ", label);
    bool is_named = false;
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const text = &g_array_index(in->texts, drawn_text, i);
        is_named |= fabs(text->y - y) < BESIDE_PX && strcmp(text->what, "part") == 0 &&
                    strcmp(text->name, owner) == 0 && g_str_has_prefix(text->text, begin);
    }
    return is_named;
}

/* The pin's wire begins at that pin of the board, and ends at a terminal of that thing, with the same number
 * at both. */
static void check_wire(const drawn *in, const char *pin, const char *owner)
{
    g_autofree char *thing = g_strdup_printf("wire %s", pin);
    const drawn_line *const line = g_hash_table_lookup(in->lines, thing);
    ck_assert_msg(line != NULL, "%s has no wire", pin);
    bool is_at_pin = false;
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const text = &g_array_index(in->texts, drawn_text, i);
        is_at_pin |= strcmp(text->what, "board") == 0 && strcmp(text->text, pin) == 0 &&
                     fabs(text->y - 4 - line->from_y) < 1;
    }
    ck_assert_msg(is_at_pin, "the wire of %s doesn't begin there", pin);
    const drawn_text *const label = label_of(in, pin, line->from_y);
    ck_assert_msg(label != NULL && is_named_at(in, owner, label->text, line->to_y),
                  "the wire of %s doesn't end at %s", pin, owner);
}

/* Each row of vet's list of wires, which is made from the plan: " pin 7 12 5 curtain bridge ..." */
static void check_wires(const char *example)
{
    g_auto(said) vetted = run_shell("$DROMIKOS vet $EXAMPLES/%s", example);
    g_autofree char *path = g_strdup_printf("$EXAMPLES/%s", example);
    drawn seen = drawn_chart(path);
    g_auto(GStrv) lines = g_strsplit(strstr(vetted.out, "\nWiring\n"), "\n", -1);
    unsigned wires = 0;
    for (int i = 0; lines[i] != NULL; i++) {
        if (!g_str_has_prefix(lines[i], "  pin ")) {
            continue;
        }
        const size_t pins_end = strlen("  pin ") + MAX(12, strcspn(lines[i] + 6, " "));
        g_autofree char *pins_text = g_strstrip(g_strndup(lines[i] + 6, pins_end - 6));
        g_auto(GStrv) rest = g_strsplit_set(g_strchug(lines[i] + pins_end), " ", 2);
        g_auto(GStrv) pins = g_strsplit(pins_text, " ", -1);
        for (int pin = 0; pins[pin] != NULL; pin++) {
            check_wire(&seen, pins[pin], rest[0]);
            wires++;
        }
        ck_assert_uint_ge(drawn_texts(&seen, "parts", rest[0], NULL), 2);
    }
    ck_assert_uint_ge(wires, 2);
    drawn_clear(&seen);
}

TEST(each_pin_of_a_plan_has_its_wire_from_board_to_part)
{
    check_wires("lantern/stage.plan");
    check_wires("lantern/desk.plan");
    check_wires("lantern/lantern.plan");
    check_wires("scenes/shelf.plan");
    check_wires("scenes/wagon.plan");
    check_wires("scenes/moon.plan");
    g_free(write_file("wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *path = write_file(
        "flag.plan", "plan \"Flag\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                     "servo flag on pin 9, supply 5 V 1 A\nstrip foot on pin 4, 60 pixels, supply 5 V 4 A\n"
                     "relay spot on pin 2, active low, through driver\nrelay bell on pin 10, through driver\n"
                     "when wand.up pressed: flag go to 9 degrees; foot fill red; spot on; bell on\n");
    g_autofree char *quoted = g_strdup_printf("'%s'", path);
    drawn seen = drawn_chart(quoted);
    ck_assert_uint_eq(
        drawn_texts(&seen, "parts", "bell",
                    "R5 1 kΩ, 0.25 W; R6 10 kΩ, 0.25 W; Q2 NPN transistor, 40 V, 0.5 A; K2 relay, its "
                    "coil for 5 V (its load between COM and NO); D2 silicon diode, 75 V, 0.2 A"),
        1);
    ck_assert_uint_eq(
        drawn_texts(&seen, "parts", "spot", /* which is active low */
                    "R3 1 kΩ, 0.25 W; R4 10 kΩ, 0.25 W; Q1 PNP transistor, 40 V, 0.5 A; K1 relay, its "
                    "coil for 5 V (its load between COM and NO); D1 silicon diode, 75 V, 0.2 A"),
        1);
    ck_assert_uint_eq(
        drawn_texts(&seen, "parts", "flag",
                    "! a pulse is off by up to 43.4 µs (safe up to 16.67): the arm may tremble by more than "
                    "three degrees: give strips another board"),
        1);
    drawn_clear(&seen);
}

/* A part's supply is drawn at its row: a line and a dot at a rail, or a supply symbol between plus and
 * ground. */
static void check_feeding(const drawn *in, const char *owner, const char *fed_by, unsigned shapes)
{
    g_autofree char *thing = g_strdup_printf("feeding %s", owner);
    const drawn_line *const line = g_hash_table_lookup(in->lines, thing);
    ck_assert_msg(line != NULL, "%s isn't fed", owner);
    const drawn_text *found = NULL;
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const text = &g_array_index(in->texts, drawn_text, i);
        const bool is_there = strcmp(text->what, "part") == 0 && strcmp(text->name, owner) == 0 &&
                              fabs(text->y - 4 - line->from_y) < 1;
        found = is_there ? text : found;
    }
    ck_assert_msg(found != NULL && strstr(found->text, fed_by) != NULL && strchr(found->text, '+') != NULL,
                  "%s: '%s'", owner, found != NULL ? found->text : "nothing");
    ck_assert_uint_eq(drawn_shapes(in, "feeding", owner), shapes);
}

enum { AT_A_RAIL = 2, BY_ITS_OWN = 6 };

TEST(supplies_and_grounds_are_wired)
{
    drawn seen = drawn_chart("$EXAMPLES/lantern/stage.plan");
    check_feeding(&seen, "receiver", "the board's 5V", AT_A_RAIL);
    check_feeding(&seen, "spot", "the board's 5V", AT_A_RAIL);
    check_feeding(&seen, "horn", "the board's 5V", AT_A_RAIL);
    check_feeding(&seen, "curtain", "a supply of 6 V, 2 A", BY_ITS_OWN);
    check_feeding(&seen, "footlights", "a supply of 5 V, 5 A", BY_ITS_OWN);
    ck_assert_uint_eq(drawn_shapes(&seen, "feeding", "house"), 0); /* its pin does */
    ck_assert_uint_eq(drawn_texts(&seen, "part", "house", "ground"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "rail", "5V", "+ from the board's 5V"), 1);
    drawn_clear(&seen);
}

/* vet reports loads that a pin of 3.3 V can't drive, and voltages that its receiver can't bear. */
TEST(boards_of_3v3_are_wired_for_it)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nplay,nec,33,67\n"));
    g_autofree char *path = write_file(
        "low.plan",
        "plan \"Low\"\nboard rp2040\nreceiver on pin GP8\nhandset wand from \"wand.csv\"\n"
        "relay spot on pin GP2, active low, through driver\nlamp house on pin GP20, active low\n"
        "strip foot on pin GP3, 30 pixels, supply 5 V 2 A\nrelay bell on pin GP16, through driver\n"
        "when wand.play pressed: spot toggle; house toggle; foot fill red; bell toggle\n");
    drawn seen = drawn_chart(path);
    check_feeding(&seen, "receiver", "the board's 3V3", AT_A_RAIL);
    check_feeding(&seen, "house", "the board's 3V3", AT_A_RAIL);
    check_feeding(&seen, "spot", "the board's VBUS", AT_A_RAIL);
    check_feeding(&seen, "bell", "the board's VBUS", AT_A_RAIL);
    check_feeding(&seen, "foot", "a supply of 5 V, 2 A", BY_ITS_OWN);
    ck_assert_uint_eq(drawn_texts(&seen, "part", "house", "ground"), 0);
    ck_assert_uint_eq(drawn_texts(&seen, "parts", "house", "R5 82 Ω, 0.25 W; LED1 LED, 2 V at 10 mA"), 1);
    ck_assert_uint_eq(
        drawn_texts(&seen, "parts", "foot",
                    "U2 strip; U3 buffer, one gate with TTL inputs, 5 V; R6 330 Ω, 0.25 W; C2 1000 µF, 10 V"),
        1);
    drawn_clear(&seen);
}

SUITE("wiring")
