/* The same tables as plan_fill_tables() made, written down in C. Each table is one initialiser; those that
 * others point to come first. */
#include "bake.h"

#include "outputs.h"

static const char *yes(bool is_so)
{
    return is_so ? "true" : "false";
}

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
                           timing->one_space_us, timing->pause_us, timing->bits, yes(timing->is_msb_first),
                           yes(timing->has_no_stop), yes(timing->has_headerless_repeat),
                           yes(timing->has_leader_but_once), timing->toggle_bit);
}

static void put_phase(GString *out, const drom_phase_timing *timing, const char *id)
{
    g_string_append_printf(out,
                           "static const drom_phase_timing DROM_FLASH timing_%s = {%u, %u, %u, %u, %u, %u, "
                           "%u, %u, %u, %s, %s, %u};\n",
                           id, timing->leader_mark_us, timing->leader_space_us, timing->unit_us,
                           timing->leader_units, timing->leader_mark_units, timing->bits, timing->double_bit,
                           timing->first_bits_mask, timing->first_bits, yes(timing->is_one_mark_first),
                           yes(timing->is_msb_first), timing->toggle_bit);
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
        protocol->rank, yes(protocol->has_ditto), yes(protocol->has_toggle), yes(protocol->has_any_period));
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
                                   yes(keys->handsets.rows[i].needs_second_frame));
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

/* What strips paint with. */
static void put_palettes(GString *out, const plan *loaded)
{
    for (guint i = 0; i < loaded->palettes->len; i++) {
        const drom_strip_palette *const palette = &g_array_index(loaded->palettes, drom_strip_palette, i);
        g_string_append_printf(out, "static const uint32_t DROM_FLASH colours_%u[] = {", i);
        for (uint8_t j = 0; j < palette->colours.count; j++) {
            g_string_append_printf(out, "%s0x%06x", j > 0 ? ", " : "", palette->colours.rows[j]);
        }
        g_string_append(out, "};\n");
    }
    if (loaded->palettes->len > 0) {
        g_string_append(out, "static const drom_strip_palette DROM_FLASH palettes[] = {");
        for (guint i = 0; i < loaded->palettes->len; i++) {
            g_string_append_printf(out, "%s{DROM_ROWS(colours_%u)}", i > 0 ? ", " : "", i);
        }
        g_string_append(out, "};\n");
    }
    if (loaded->effects->len > 0) {
        g_string_append(out, "static const drom_strip_effect_ref DROM_FLASH effects[] = {");
        for (guint i = 0; i < loaded->effects->len; i++) {
            g_string_append_printf(out, "%sdrom_strip_%s", i > 0 ? ", " : "",
                                   effect_names[g_array_index(loaded->effects, guint, i)]);
        }
        g_string_append(out, "};\n");
    }
}

static void put_settings(GString *out, const plan *loaded, unsigned output, const char *prefix)
{
    const void *const settings = plan_output(loaded, output)->settings;
    const drom_relay_settings *const relay = settings;
    const drom_lamp_settings *const lamp = settings;
    const drom_stepper_settings *const stepper = settings;
    const drom_strip_settings *const strip = settings;
    const drom_sender_settings *const sender = settings;
    const char *const name = plan_output_name(loaded, output);
    const enum output_kind kind = plan_output_kind(loaded, output);
    if (kind == KIND_STRIP) {
        g_string_append_printf(out, "static uint8_t pixels_%s[%u];\n", name, strip->count * 3u);
    }
    if (kind == KIND_SENDER && sender->keys.count > 0) {
        g_string_append_printf(out, "static const drom_sender_key DROM_FLASH keys_%s[] = {\n", name);
        for (uint8_t i = 0; i < sender->keys.count; i++) {
            const drom_sender_key *const key = &sender->keys.rows[i];
            g_string_append_printf(out, "    {&drom_%s_waveform, 0x%x, 0x%x, %u},\n",
                                   key->waveform->protocol->id, key->address, key->command, key->frame_ms);
        }
        g_string_append(out, "};\n");
    }
    g_string_append_printf(out, "static const drom_%s_settings DROM_FLASH %s_settings_%s = {",
                           output_kind_name(kind), prefix, name);
    switch (kind) {
    case KIND_RELAY:
        g_string_append_printf(
            out, ".min_on_ms = %u, .min_off_ms = %u, .pin = %u, .is_active_low = %s, .rests_on = %s",
            relay->min_on_ms, relay->min_off_ms, relay->pin, yes(relay->is_active_low), yes(relay->rests_on));
        break;
    case KIND_LAMP:
        g_string_append_printf(out, ".pin = %u, .is_active_low = %s", lamp->pin, yes(lamp->is_active_low));
        break;
    case KIND_STEPPER:
        g_string_append_printf(
            out, ".pins = {%u, %u, %u, %u}, .first_us = %u, .fastest_us = %u, .holds_still = %s",
            stepper->pins[0], stepper->pins[1], stepper->pins[2], stepper->pins[3], stepper->first_us,
            stepper->fastest_us, yes(stepper->holds_still));
        break;
    case KIND_STRIP:
        g_string_append_printf(
            out, ".bytes = pixels_%s, .count = %u, .pin = %u, .order = {%u, %u, %u}, .every_ms = %u%s%s",
            name, strip->count, strip->pin, strip->order[0], strip->order[1], strip->order[2],
            strip->every_ms, loaded->effects->len > 0 ? ", .effects = DROM_ROWS(effects)" : "",
            loaded->palettes->len > 0 ? ", .palettes = DROM_ROWS(palettes)" : "");
        break;
    case KIND_SENDER:
        if (sender->keys.count > 0) {
            g_string_append_printf(out, ".keys = DROM_ROWS(keys_%s), ", name);
        }
        g_string_append_printf(out, ".pin = %u, .is_shielded = %s", sender->pin, yes(sender->is_shielded));
        break;
    case OUTPUT_KINDS:
        break;
    }
    g_string_append_printf(out, "};\nstatic drom_%s_state state_%s;\n", output_kind_name(kind), name);
}

static void put_outputs(GString *out, const plan *loaded, const char *name)
{
    put_palettes(out, loaded);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        put_settings(out, loaded, i, name);
    }
    if (plan_output_count(loaded) > 0) {
        g_string_append(out, "static const drom_output DROM_FLASH outputs[] = {\n");
        for (unsigned i = 0; i < plan_output_count(loaded); i++) {
            g_autofree char *kind = g_ascii_strup(output_kind_name(plan_output_kind(loaded, i)), -1);
            g_string_append_printf(out, "    DROM_%s(%s_settings_%s, state_%s),\n", kind, name,
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
            const sent_key *const key = &g_array_index(sent, sent_key, j);
            if (plan_is_own(loaded, key->key_sent.waveform->protocol)) {
                return g_strdup_printf(
                    "'%s.%s' is of the plan's own protocol '%s', which a chip can receive and not send",
                    plan_handset_name(loaded, key->handset), plan_key_name(loaded, key->handset, key->key),
                    key->key_sent.waveform->protocol->id);
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
    g_string_append_printf(out, "#include \"%s_plan.h\"\n\n#include \"dromikos/dromikos.h\"\n\n", name);
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
