/* Writes the tables of plan_fill_tables() in C. Each table is one initialiser, after those that it points to.
 */
#include "plan/bake/bake.h"

#include "plan/kinds/kinds.h"

/* Returns "drom_nec", or a row of this file. */
static char *protocol_name(const plan *loaded, drom_protocol_ref protocol)
{
    return g_strdup_printf("%s%s", plan_is_declared(loaded, protocol) ? "own_" : "drom_", protocol->id);
}

/* Returns "DROM_NEC", or "DROM_OWN_PROTOCOL + 1". */
static char *protocol_number(const plan *loaded, uint8_t number)
{
    if (number == DROM_NO_PROTOCOL) {
        return g_strdup("DROM_NO_PROTOCOL");
    }
    if (number >= DROM_OWN_PROTOCOL && number != DROM_UNKNOWN) {
        return g_strdup_printf("DROM_OWN_PROTOCOL + %d", number - DROM_OWN_PROTOCOL);
    }
    g_autofree char *name = g_ascii_strup(plan_protocol(loaded, number)->id, -1);
    return g_strconcat("DROM_", name, NULL);
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

static const char *family_of(const drom_protocol *protocol)
{
    return protocol->step == drom_pulse_step ? "pulse" : protocol->step == drom_phase_step ? "phase" : "quad";
}

/* Writes the rows of a declared protocol. */
static void put_own_protocol(GString *out, const plan *loaded, const drom_protocol *protocol)
{
    g_autofree char *number = protocol_number(loaded, protocol->number);
    const char *const family = family_of(protocol);
    if (protocol->step == drom_pulse_step) {
        put_pulse(out, protocol->timing, protocol->id);
    } else if (protocol->step == drom_phase_step) {
        put_phase(out, protocol->timing, protocol->id);
    } else {
        put_quad(out, protocol->timing, protocol->id);
    }
    g_string_append_printf(
        out,
        "static const char DROM_FLASH id_%s[] = \"%s\";\n"
        "static const drom_protocol DROM_FLASH own_%s = {\n"
        "    .id = DROM_ID(id_%s),\n    .number = %s,\n    DROM_FAMILY(%s),\n    .timing = &timing_%s,\n"
        "    .unpack = drom_%s_unpack_plain,\n    .glitch_us = %u,\n"
        "    .first_mark_min_us = %u,\n    .first_mark_max_us = %u,\n    .lead_in_us = %u,\n"
        "    .silence_us = %u,\n    .period_us = %u,\n    .gap_us = %u,\n    .group = %u,\n    .length = "
        "%u,\n"
        "    .min_ms = %u,\n    .rank = %u,\n    .has_ditto = %s,\n    .has_toggle = %s,\n"
        "    .has_any_period = %s,\n};\n\n",
        protocol->id, protocol->id, protocol->id, protocol->id, number, family, protocol->id, family,
        protocol->glitch_us, protocol->first_mark_min_us, protocol->first_mark_max_us, protocol->lead_in_us,
        protocol->silence_us, protocol->period_us, protocol->gap_us, protocol->group, protocol->length,
        protocol->min_ms, protocol->rank, c_bool(protocol->has_ditto), c_bool(protocol->has_toggle),
        c_bool(protocol->has_any_period));
}

/* Writes how such a protocol is sent. */
static void put_own_waveform(GString *out, const drom_waveform *waveform)
{
    const char *const family = family_of(waveform->protocol);
    const char *const id = waveform->protocol->id;
    g_string_append_printf(
        out,
        "static const drom_waveform DROM_FLASH own_%s_waveform = {.protocol = &own_%s, .timing = &timing_%s, "
        ".chunk = drom_%s_chunk, .pack = drom_%s_pack_plain, .max_address = 0x%x, .max_command = 0x%x, "
        ".longest_ms = %u, .carrier_khz = %u};\n\n",
        id, id, id, family, family, waveform->max_address, waveform->max_command, waveform->longest_ms,
        waveform->carrier_khz);
}

static bool is_heard(const plan *loaded, drom_protocol_ref protocol)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    for (uint8_t i = 0; i < receive->protocols.count; i++) {
        if (receive->protocols.rows[i] == protocol) {
            return true;
        }
    }
    return false;
}

/* True if a sender sends a key of it. */
static bool is_sent(const plan *loaded, drom_protocol_ref protocol)
{
    for (guint i = 0; i < loaded->sent->len; i++) {
        for (guint j = 0; j < ((const GArray *)g_ptr_array_index(loaded->sent, i))->len; j++) {
            if (plan_sent_code(loaded, i, j)->protocol == protocol->number) {
                return true;
            }
        }
    }
    return false;
}

static void put_own_protocols(GString *out, const plan *loaded)
{
    for (unsigned i = 0; i < plan_declared_count(loaded); i++) {
        const drom_waveform *const waveform = plan_declared_waveform(loaded, i);
        const bool goes_out = is_sent(loaded, waveform->protocol);
        if (goes_out || is_heard(loaded, waveform->protocol)) {
            put_own_protocol(out, loaded, waveform->protocol);
        }
        if (goes_out) {
            put_own_waveform(out, waveform);
        }
    }
}

static void put_receive(GString *out, const plan *loaded)
{
    const drom_receive_plan *const receive = &plan_tables(loaded)->receive;
    put_own_protocols(out, loaded);
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
            g_autofree char *number = protocol_number(loaded, code->protocol);
            g_string_append_printf(out, "    {%s, 0x%x, 0x%x}, /* %s */\n", number, code->address,
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
        g_string_append_printf(out,
                               "};\nstatic drom_hold holds[%u];\nstatic drom_last_press last_presses[%u];\n",
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

static void put_contacts(GString *out, const plan *loaded)
{
    const drom_contacts_plan *const contacts = &plan_tables(loaded)->contacts;
    const uint8_t switches = plan_tables(loaded)->rules.switches.count;
    if (contacts->contacts.count == 0) {
        return;
    }
    g_string_append(out, "static const drom_contact DROM_FLASH contacts[] = {\n");
    for (uint8_t i = 0; i < contacts->contacts.count; i++) {
        const drom_contact *const contact = &contacts->contacts.rows[i];
        if (contact->handset == DROM_NONE) {
            g_string_append_printf(out, "    {%u, DROM_NONE, %u}, /* %s */\n", contact->pin, contact->row,
                                   source_name(loaded->source, A_SWITCH, contact->row)->text);
        } else {
            g_string_append_printf(out, "    {%u, %u, %u}, /* %s.%s */\n", contact->pin, contact->handset,
                                   contact->row, plan_handset_name(loaded, contact->handset),
                                   plan_key_name(loaded, contact->handset, contact->row));
        }
    }
    g_string_append_printf(out, "};\nstatic drom_touch touches[%u];\nstatic drom_deadline look_at;\n",
                           contacts->contacts.count);
    if (switches > 0) {
        g_string_append_printf(out, "static bool switches[%u];\n", switches);
    }
    g_string_append_c(out, '\n');
}

static void put_interlocks(GString *out, const plan *loaded)
{
    const drom_outputs_plan *const outputs = &plan_tables(loaded)->outputs;
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        const drom_interlock *const interlock = &outputs->interlocks.rows[i];
        g_string_append_printf(
            out, "static drom_interlock_state only_state_%u;\nstatic const uint8_t DROM_FLASH only_%u[] = {",
            i, i);
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            g_string_append_printf(out, "%s%u", j > 0 ? ", " : "", interlock->outputs.rows[j]);
        }
        g_string_append(out, "};\n");
    }
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        g_string_append_printf(out, "%s{DROM_ROWS(only_%u), %u, &only_state_%u}%s",
                               i == 0 ? "static const drom_interlock DROM_FLASH interlocks[] = {" : ", ", i,
                               outputs->interlocks.rows[i].pause_ms, i,
                               i + 1 == outputs->interlocks.count ? "};\n\n" : "");
    }
}

static void put_guard(GString *out, const plan *loaded)
{
    const drom_guard_plan *const guard = &plan_tables(loaded)->guard;
    for (uint8_t i = 0; i < guard->pins.count; i++) {
        g_string_append_printf(out, "%s{%u, %s}%s",
                               i == 0 ? "static const drom_rest_pin DROM_FLASH guarded[] = {" : ", ",
                               guard->pins.rows[i].pin, c_bool(guard->pins.rows[i].is_high),
                               i + 1 == guard->pins.count ? "};\n\n" : "");
    }
}

static void put_kept(GString *out, const plan *loaded)
{
    const drom_kept_plan *const kept = &plan_tables(loaded)->kept;
    for (uint8_t i = 0; i < kept->values.count; i++) {
        g_string_append_printf(out, "%s%u", i == 0 ? "static const uint8_t DROM_FLASH kept[] = {" : ", ",
                               kept->values.rows[i]);
    }
    if (kept->values.count > 0) {
        g_string_append_printf(out,
                               "};\nstatic uint8_t kept_record[DROM_KEPT_BYTES + %u];\n"
                               "static int16_t kept_seen[%u];\nstatic drom_kept_state kept_state;\n\n",
                               2u * kept->values.count, kept->values.count);
    }
}

static bool is_first_of_kind(const plan *loaded, unsigned output)
{
    unsigned first = 0;
    while (plan_output_kind(loaded, first) != plan_output_kind(loaded, output)) {
        first++;
    }
    return first == output;
}

static void put_output(GString *out, const plan *loaded, unsigned output)
{
    const output_kind *const kind = plan_output_kind(loaded, output);
    const char *const its_name = plan_output_name(loaded, output);
    if (kind->bake.shared != NULL && is_first_of_kind(loaded, output)) {
        kind->bake.shared(out, loaded);
    }
    if (kind->bake.tables != NULL) {
        kind->bake.tables(out, loaded, output);
    }
    g_string_append_printf(out, "static const drom_%s_settings DROM_FLASH settings_%s = {", kind->name,
                           its_name);
    kind->bake.settings(out, loaded, output);
    g_string_append_printf(out, "};\nstatic drom_%s_state state_%s;\n", kind->name, its_name);
}

static void put_outputs_that(GString *out, const plan *loaded, bool join)
{
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (plan_output_kind(loaded, i)->words.joins_outputs == join) {
            put_output(out, loaded, i);
        }
    }
}

/* Outputs that join others come after them. */
static void put_outputs(GString *out, const plan *loaded)
{
    put_outputs_that(out, loaded, false);
    put_outputs_that(out, loaded, true);
    if (plan_output_count(loaded) > 0) {
        g_string_append(out, "static const drom_output DROM_FLASH outputs[] = {\n");
        for (unsigned i = 0; i < plan_output_count(loaded); i++) {
            g_autofree char *macro = g_ascii_strup(plan_output_kind(loaded, i)->name, -1);
            g_string_append_printf(out, "    DROM_%s(settings_%s, state_%s),\n", macro,
                                   plan_output_name(loaded, i), plan_output_name(loaded, i));
        }
        g_string_append(out, "};\n\n");
    }
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
        plan_bake_gestures(&tables->rules));
    if (tables->contacts.contacts.count > 0) {
        g_string_append(
            out,
            "    .contacts = {.contacts = DROM_ROWS(contacts), .touches = touches, .next = &look_at},\n");
    }
    const drom_rules_plan *const rules = &tables->rules;
    const struct {
        unsigned count;
        const char *text;
    } parts[] = {
        {rules->rules.count, ".rules = DROM_ROWS(rules)"},
        {rules->modes.count, ".modes = DROM_ROWS(modes)"},
        {rules->values.count, ".values = DROM_ROWS(values)"},
        {rules->last_presses.count, ".last_presses = DROM_ROWS(last_presses)"},
        {rules->sequences.count, ".sequences = DROM_ROWS(sequences)"},
        {rules->held.count, ".held = DROM_ROWS(held)"},
        {rules->timers.count, ".timers = DROM_ROWS(timers)"},
        {rules->switches.count, ".switches = DROM_ROWS(switches)"},
        {rules->values.count, ".numbers = numbers"},
    };
    g_string_append(out, "    .rules = {");
    bool is_first = true;
    for (gsize i = 0; i < G_N_ELEMENTS(parts); i++) {
        if (parts[i].count > 0) {
            g_string_append_printf(out, "%s%s", is_first ? "" : ", ", parts[i].text);
            is_first = false;
        }
    }
    g_string_append(out, "},\n");
    if (plan_output_count(loaded) > 0) {
        g_string_append_printf(out, "    .outputs = {.outputs = DROM_ROWS(outputs)%s},\n",
                               tables->outputs.interlocks.count > 0 ? ", .interlocks = DROM_ROWS(interlocks)"
                                                                    : "");
    }
    if (tables->guard.ms > 0) {
        g_string_append_printf(out, "    .guard = {%s.ms = %u},\n",
                               tables->guard.pins.count > 0 ? ".pins = DROM_ROWS(guarded), " : "",
                               tables->guard.ms);
    }
    if (tables->kept.values.count > 0) {
        g_string_append_printf(out,
                               "    .kept = {.values = DROM_ROWS(kept), .record = kept_record, .seen = "
                               "kept_seen, .state = &kept_state, .mark = 0x%04x},\n",
                               tables->kept.mark);
    }
    g_string_append(out, "};\n");
}

char *bake_in_ascii(GString *out)
{
    GString *const text = g_string_new(NULL);
    bool is_comment = false;
    bool is_quoted = false;
    for (const char *at = out->str; *at != '\0'; at = g_utf8_next_char(at)) {
        const gunichar letter = g_utf8_get_char(at);
        is_quoted ^= *at == '"' && !is_comment;
        is_comment =
            !is_quoted && (is_comment ? !(at[0] == '/' && at[-1] == '*') : at[0] == '/' && at[1] == '*');
        if (letter > 0x7f && !is_comment && !is_quoted) {
            g_string_append_printf(text, "_u%04x_", letter);
        } else {
            g_string_append_unichar(text, letter);
        }
    }
    g_string_free(out, TRUE);
    return g_string_free(text, FALSE);
}

/* The compiler refuses a configuration in which a feature of the plan is off. */
static void put_requirements(GString *out, uint32_t uses)
{
    for (unsigned i = 0; i < DROM_FEATURES; i++) {
        if ((uses >> i & 1) != 0) {
            g_string_append_printf(
                out,
                "\n#if !DROM_WITH_%s\n#error \"this plan needs DROM_WITH_%s: use the drom_config.h that "
                "was baked with it\"\n#endif\n",
                bake_feature(i), bake_feature(i));
        }
    }
}

char *plan_bake_source(const plan *loaded, const char *name)
{
    g_autofree char *title = bake_comment(plan_title(loaded));
    GString *const out = g_string_new(NULL);
    g_string_printf(out,
                    "/* The plan \"%s\", baked by dromikos " DROM_VERSION ". Change the plan, not this. */\n",
                    title);
    g_string_append_printf(out, "#include \"%s_plan.h\"\n\n#include \"dromikos/dromikos.h\"\n", name);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (is_first_of_kind(loaded, i)) {
            g_string_append_printf(out, "#include \"dromikos/outputs/%s.h\"\n",
                                   plan_output_kind(loaded, i)->name);
        }
    }
    g_string_append_c(out, '\n');
    put_receive(out, loaded);
    put_handsets(out, loaded);
    put_contacts(out, loaded);
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (plan_output_kind(loaded, i)->bake.declaration != NULL) {
            g_string_append_printf(out, "#define OWN_FUNCTION(name) %s_##name\n", name);
            break;
        }
    }
    put_outputs(out, loaded);
    put_interlocks(out, loaded);
    put_guard(out, loaded);
    put_kept(out, loaded);
    plan_bake_rules(out, loaded);
    put_plan(out, loaded, name);
    put_requirements(out, drom_plan_uses(&loaded->tables));
    return bake_in_ascii(out);
}
