/* The same tables as plan_fill_tables() made, written down in C. Each table is one initialiser; those that
 * others point to come first. */
#include "bake.h"

#include "kinds.h"

/* "drom_nec", or a row of this file. */
static char *protocol_name(const plan *loaded, drom_protocol_ref protocol)
{
    return g_strdup_printf("%s%s", plan_is_own(loaded, protocol) ? "own_" : "drom_", protocol->id);
}

static void put_pulse(GString *out, const drom_pulse_timing *timing, const char *id)
{
    g_string_append_printf(out,
                           "static const drom_pulse_timing DROM_FLASH timing_%s = {%u, %u, %u, %u, %u, %u, "
                           "%u, %u, %u, %s, %s, %s, %s, %u};\n",
                           id, timing->leader_mark_us, timing->leader_space_us, timing->ditto_space_us,
                           timing->zero_mark_us, timing->zero_space_us, timing->one_mark_us,
                           timing->one_space_us, timing->pause_us, timing->bits, c_bool(timing->is_msb_first),
                           c_bool(timing->has_no_stop), c_bool(timing->has_headerless_repeat),
                           c_bool(timing->has_leader_but_once), timing->toggle_bit);
}

static void put_phase(GString *out, const drom_phase_timing *timing, const char *id)
{
    g_string_append_printf(out,
                           "static const drom_phase_timing DROM_FLASH timing_%s = {%u, %u, %u, %u, %u, %u, "
                           "%u, %u, %u, %s, %s, %u};\n",
                           id, timing->leader_mark_us, timing->leader_space_us, timing->unit_us,
                           timing->leader_units, timing->leader_mark_units, timing->bits, timing->double_bit,
                           timing->first_bits_mask, timing->first_bits, c_bool(timing->is_one_mark_first),
                           c_bool(timing->is_msb_first), timing->toggle_bit);
}

static void put_quad(GString *out, const drom_quad_timing *timing, const char *id)
{
    g_string_append_printf(out,
                           "static const drom_quad_timing DROM_FLASH timing_%s = {%u, %u, %u, %u, %u, %u};\n",
                           id, timing->leader_mark_us, timing->leader_space_us, timing->mark_us,
                           timing->space_us, timing->step_us, timing->bits);
}

/* The rows of a protocol that the plan declares itself. */
static void put_own_protocol(GString *out, const drom_protocol *protocol)
{
    const char *family = "quad";
    if (protocol->step == drom_pulse_step) {
        family = "pulse";
        put_pulse(out, protocol->timing, protocol->id);
    } else if (protocol->step == drom_phase_step) {
        family = "phase";
        put_phase(out, protocol->timing, protocol->id);
    } else {
        put_quad(out, protocol->timing, protocol->id);
    }
    g_string_append_printf(
        out,
        "static const char DROM_FLASH id_%s[] = \"%s\";\n"
        "static const drom_protocol DROM_FLASH own_%s = {\n"
        "    .id = DROM_ID(id_%s),\n    DROM_FAMILY(%s),\n    .timing = &timing_%s,\n"
        "    .unpack = drom_%s_unpack_plain,\n    .glitch_us = %u,\n"
        "    .first_mark_min_us = %u,\n    .first_mark_max_us = %u,\n    .lead_in_us = %u,\n"
        "    .silence_us = %u,\n    .period_us = %u,\n    .gap_us = %u,\n    .length = %u,\n"
        "    .min_ms = %u,\n    .rank = %u,\n    .has_ditto = %s,\n    .has_toggle = %s,\n"
        "    .has_any_period = %s,\n};\n\n",
        protocol->id, protocol->id, protocol->id, protocol->id, family, protocol->id, family,
        protocol->glitch_us, protocol->first_mark_min_us, protocol->first_mark_max_us, protocol->lead_in_us,
        protocol->silence_us, protocol->period_us, protocol->gap_us, protocol->length, protocol->min_ms,
        protocol->rank, c_bool(protocol->has_ditto), c_bool(protocol->has_toggle),
        c_bool(protocol->has_any_period));
}

static void put_receive(GString *out, const plan *loaded)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        if (plan_is_own(loaded, receive->protocols.rows[i])) {
            put_own_protocol(out, receive->protocols.rows[i]);
        }
    }
    if (receive->protocols.count > 0) {
        g_string_append(out, "static const drom_protocol_ref DROM_FLASH protocols[] = {");
        for (uint8_t i = 0; i < receive->protocols.count; i++) {
            g_autofree char *name = protocol_name(loaded, receive->protocols.rows[i]);
            g_string_append_printf(out, "%s&%s", i > 0 ? ", " : "", name);
        }
        g_string_append_printf(out, "};\nstatic drom_decoder decoders[%u];\n", receive->protocols.count);
    }
    if (receive->fine != NULL) {
        g_string_append(out, "static drom_filter fine;\n");
    }
    if (receive->unknown.memory != NULL) {
        g_string_append(out, "static drom_fingerprint fingerprint;\n");
    }
    g_string_append_c(out, '\n');
}

static void put_handsets(GString *out, const plan *loaded)
{
    const drom_keys_plan *const keys = &plan_tables(loaded)->keys;
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        const drom_handset *const handset = &keys->handsets.rows[i];
        g_string_append_printf(out, "static const drom_code DROM_FLASH codes_%s[] = {\n",
                               plan_handset_name(loaded, i));
        for (uint8_t key = 0; key < handset->codes.count; key++) {
            const drom_code *const code = &handset->codes.rows[key];
            g_autofree char *name = protocol_name(loaded, code->protocol);
            g_string_append_printf(out, "    {&%s, 0x%x, 0x%x}, /* %s */\n", name, code->address,
                                   code->command, plan_key_name(loaded, i, key));
        }
        g_string_append(out, "};\n");
        if (handset->by_code.count > 0) {
            g_string_append_printf(out, "static const uint8_t DROM_FLASH by_code_%s[] = {",
                                   plan_handset_name(loaded, i));
            for (uint8_t row = 0; row < handset->by_code.count; row++) {
                g_string_append_printf(out, "%u, ", handset->by_code.rows[row]);
            }
            g_string_append(out, "};\n");
        }
    }
    if (keys->handsets.count > 0) {
        g_string_append(out, "static const drom_handset DROM_FLASH handsets[] = {\n");
        for (uint8_t i = 0; i < keys->handsets.count; i++) {
            const char *const name = plan_handset_name(loaded, i);
            g_string_append_printf(out, "    {.codes = DROM_ROWS(codes_%s), ", name);
            if (keys->handsets.rows[i].by_code.count > 0) {
                g_string_append_printf(out, ".by_code = DROM_ROWS(by_code_%s), ", name);
            }
            g_string_append_printf(out, ".needs_second_frame = %s},\n",
                                   c_bool(keys->handsets.rows[i].needs_second_frame));
        }
        g_string_append_printf(out, "};\nstatic drom_hold holds[%u];\nstatic drom_hand hands[%u];\n",
                               keys->handsets.count, keys->handsets.count);
        if (keys->taps != NULL) {
            g_string_append_printf(out, "static drom_tapped taps[%u];\n", keys->handsets.count);
        }
        if (keys->ticks != NULL) {
            g_string_append_printf(out, "static drom_ticking ticks[%u];\n", keys->handsets.count);
        }
    }
    if (keys->hold_ms.count > 0) {
        g_string_append(out, "static const uint16_t DROM_FLASH hold_ms[] = {");
        for (uint8_t i = 0; i < keys->hold_ms.count; i++) {
            g_string_append_printf(out, "%s%u", i > 0 ? ", " : "", keys->hold_ms.rows[i]);
        }
        g_string_append(out, "};\n");
    }
    if (keys->doubles.count > 0) {
        g_string_append(out, "static const drom_key_ref DROM_FLASH doubles[] = {");
        for (uint8_t i = 0; i < keys->doubles.count; i++) {
            g_string_append_printf(out, "%s{%u, %u}", i > 0 ? ", " : "", keys->doubles.rows[i].handset,
                                   keys->doubles.rows[i].key);
        }
        g_string_append(out, "};\n");
    }
    g_string_append_c(out, '\n');
}

static bool is_first_of_kind(const plan *loaded, unsigned output)
{
    unsigned first = 0;
    while (plan_output_kind(loaded, first) != plan_output_kind(loaded, output)) {
        first++;
    }
    return first == output;
}

static void put_outputs(GString *out, const plan *loaded, const char *name)
{
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        const output_kind *const kind = plan_output_kind(loaded, i);
        const char *const its_name = plan_output_name(loaded, i);
        if (kind->bake_shared != NULL && is_first_of_kind(loaded, i)) {
            kind->bake_shared(out, loaded);
        }
        if (kind->bake_tables != NULL) {
            kind->bake_tables(out, loaded, i);
        }
        g_string_append_printf(out, "static const drom_%s_settings DROM_FLASH %s_settings_%s = {", kind->name,
                               name, its_name);
        kind->bake_settings(out, loaded, i);
        g_string_append_printf(out, "};\nstatic drom_%s_state state_%s;\n", kind->name, its_name);
    }
    if (plan_output_count(loaded) > 0) {
        g_string_append(out, "static const drom_output DROM_FLASH outputs[] = {\n");
        for (unsigned i = 0; i < plan_output_count(loaded); i++) {
            g_autofree char *macro = g_ascii_strup(plan_output_kind(loaded, i)->name, -1);
            g_string_append_printf(out, "    DROM_%s(%s_settings_%s, state_%s),\n", macro, name,
                                   plan_output_name(loaded, i), plan_output_name(loaded, i));
        }
        g_string_append(out, "};\n\n");
    }
}

static void put_actions(GString *out, const plan *loaded, const char *name, const drom_action *rows,
                        uint8_t count)
{
    g_string_append_printf(out, "static const drom_action DROM_FLASH %s[] = {\n", name);
    for (uint8_t i = 0; i < count; i++) {
        g_autofree char *text = plan_action_text(loaded, &rows[i]);
        g_string_append_printf(
            out, "    %s(%u, %u, 0x%x), /* %s %s */\n",
            (rows[i].flags & DROM_WHILE_HELD) != 0 ? "DROM_ORDER_WHILE_HELD" : "DROM_ORDER", rows[i].row,
            rows[i].verb, rows[i].value, plan_output_name(loaded, rows[i].row), text);
    }
    g_string_append(out, "};\n");
}

static bool are_alike(const drom_rule *a, const drom_rule *b)
{
    bool are = a->actions.count == b->actions.count;
    for (uint8_t i = 0; are && i < a->actions.count; i++) {
        const drom_action *const one = &a->actions.rows[i];
        const drom_action *const other = &b->actions.rows[i];
        are = one->row == other->row && one->verb == other->verb && one->value == other->value &&
              one->flags == other->flags;
    }
    return are;
}

/* The first rule with the same actions as this one: they share a table. */
static uint8_t first_alike(const drom_rules_plan *rules, uint8_t row)
{
    uint8_t first = 0;
    while (!are_alike(&rules->rules.rows[first], &rules->rules.rows[row])) {
        first++;
    }
    return first;
}

static void put_rules(GString *out, const plan *loaded)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        if (first_alike(rules, i) == i) {
            g_autofree char *name = g_strdup_printf("actions_%u", i);
            put_actions(out, loaded, name, rules->rules.rows[i].actions.rows,
                        rules->rules.rows[i].actions.count);
        }
    }
    if (rules->held.count > 0) {
        g_string_append_printf(out, "static drom_held held[%u];\n", rules->held.count);
    }
    if (rules->rules.count == 0) {
        return;
    }
    g_string_append(out, "static const drom_rule DROM_FLASH rules[] = {\n");
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        const drom_rule *const rule = &rules->rules.rows[i];
        const bool is_key = rule->source == DROM_SOURCE_KEY;
        g_string_append_printf(out, "    {.source = %s, ", is_key ? "DROM_SOURCE_KEY" : "DROM_SOURCE_START");
        if (is_key) {
            g_string_append_printf(out, ".row = %u, .key = %u, .gestures = %u, .hold = %u, ", rule->row,
                                   rule->key, rule->gestures, rule->hold);
        }
        g_string_append_printf(out, ".actions = DROM_ROWS(actions_%u)}, ", first_alike(rules, i));
        if (is_key) {
            g_string_append_printf(out, "/* line %d: %s.%s */\n", plan_rule_line(loaded, i),
                                   plan_handset_name(loaded, rule->row),
                                   plan_key_name(loaded, rule->row, rule->key));
        } else {
            g_string_append(out, "/* at start */\n");
        }
    }
    g_string_append(out, "};\n\n");
}

/* The gestures that some rule names: the others needn't be reported on a chip. */
static uint8_t gestures_of(const drom_rules_plan *rules)
{
    uint8_t gestures = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        gestures |= rules->rules.rows[i].gestures;
    }
    if (rules->held.count > 0) { /* which begins and ends with these */
        gestures |= DROM_PRESS | DROM_RELEASE;
    }
    return gestures;
}

static void put_plan(GString *out, const plan *loaded, const char *name)
{
    const drom_plan *const tables = plan_tables(loaded);
    const drom_keys_plan *const keys = &tables->keys;
    g_string_append_printf(out, "const drom_plan DROM_FLASH %s_plan = {\n", name);
    g_string_append(out, "    .receive = {");
    if (tables->receive.protocols.count > 0) {
        g_string_append(out, ".protocols = DROM_ROWS(protocols), .decoders = decoders, ");
    }
    g_string_append(out, tables->receive.fine != NULL ? ".fine = &fine, " : "");
    g_string_append(out, tables->receive.unknown.memory != NULL ? ".unknown = DROM_FINGERPRINTS(fingerprint)"
                                                                : "");
    g_string_append(out, "},\n");
    g_string_append(out, "    .keys = {\n");
    if (keys->handsets.count > 0) {
        g_string_append_printf(out, "        .handsets = DROM_ROWS(handsets),\n        .holds = holds,\n%s%s",
                               keys->taps != NULL ? "        .taps = taps,\n" : "",
                               keys->ticks != NULL ? "        .ticks = ticks,\n" : "");
    }
    g_string_append_printf(
        out,
        "%s%s        .tap_ms = %u,\n        .double_ms = %u,\n        .repeat_after_ms = %u,\n"
        "        .repeat_every_ms = %u,\n        .repeat_fastest_ms = %u,\n        .gestures = 0x%02x,\n    "
        "},\n",
        keys->hold_ms.count > 0 ? "        .hold_ms = DROM_ROWS(hold_ms),\n" : "",
        keys->doubles.count > 0 ? "        .doubles = DROM_ROWS(doubles),\n" : "", keys->tap_ms,
        keys->double_ms, keys->repeat_after_ms, keys->repeat_every_ms, keys->repeat_fastest_ms,
        gestures_of(&tables->rules));
    g_string_append_printf(out, "    .rules = {%s%s%s},\n",
                           tables->rules.rules.count > 0 ? ".rules = DROM_ROWS(rules), " : "",
                           tables->rules.hands.count > 0 ? ".hands = DROM_ROWS(hands), " : "",
                           tables->rules.held.count > 0 ? ".held = DROM_ROWS(held)" : "");
    if (plan_output_count(loaded) > 0) {
        g_string_append(out, "    .outputs = {.outputs = DROM_ROWS(outputs)},\n");
    }
    g_string_append(out, "};\n");
}

/* A key of a protocol of the plan's own can be received, but the chip has no function that sends it. */
static char *find_unsendable(const plan *loaded)
{
    for (guint i = 0; i < loaded->sent->len; i++) {
        const GArray *const sent = g_ptr_array_index(loaded->sent, i);
        for (guint j = 0; j < sent->len; j++) {
            const drom_protocol_ref protocol = plan_sent_code(loaded, i, j)->protocol;
            if (plan_is_own(loaded, protocol)) {
                g_autofree char *key = plan_sent_name(loaded, i, j);
                return g_strdup_printf(
                    "'%s' is of the plan's own protocol '%s', which a chip can receive and not send", key,
                    protocol->id);
            }
        }
    }
    return NULL;
}

char *plan_bake_source(const plan *loaded, const char *name, char **wrong)
{
    *wrong = find_unsendable(loaded);
    if (*wrong != NULL) {
        return NULL;
    }
    GString *const out = g_string_new(NULL);
    g_string_printf(out,
                    "/* The plan \"%s\", baked by dromikos " DROM_VERSION ". Change the plan, not this. */\n",
                    plan_title(loaded));
    g_string_append_printf(out, "#include \"%s_plan.h\"\n\n#include \"dromikos/dromikos.h\"\n", name);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (is_first_of_kind(loaded, i)) {
            g_string_append_printf(out, "#include \"dromikos/%s.h\"\n", plan_output_kind(loaded, i)->name);
        }
    }
    g_string_append_c(out, '\n');
    put_receive(out, loaded);
    put_handsets(out, loaded);
    put_outputs(out, loaded, name);
    put_rules(out, loaded);
    put_plan(out, loaded, name);
    g_string_append_printf(
        out,
        "\n_Static_assert((0x%x & ~(DROM_USABLE)) == 0,\n"
        "               \"drom_config.h switches off what this plan uses: take the one that was "
        "baked with it\");\n",
        drom_plan_uses(&loaded->tables));
    return g_string_free(out, FALSE);
}
