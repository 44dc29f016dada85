/* Sentences about faults: for a host, or a chip with flash to spare. */
#include "../compiler.h"

#include "../../include/dromikos/fault.h"

#if DROM_WITH_TEXTS

static const char *const parts[DROM_PARTS_COUNT] = {
    [DROM_PART_PROTOCOLS] = "protocols",   [DROM_PART_HANDSETS] = "handsets",
    [DROM_PART_CONTACTS] = "contacts",     [DROM_PART_HOLD_MS] = "hold times",
    [DROM_PART_DOUBLES] = "doubles",       [DROM_PART_POSTS] = "posts",
    [DROM_PART_RULES] = "rules",           [DROM_PART_OTHERWISE] = "rules, otherwise",
    [DROM_PART_CONDITIONS] = "conditions", [DROM_PART_MODES] = "modes",
    [DROM_PART_VALUES] = "values",         [DROM_PART_OUTPUTS] = "outputs",
    [DROM_PART_INTERLOCKS] = "interlocks", [DROM_PART_GUARD] = "guard",
    [DROM_PART_KEPT] = "kept values",      [DROM_PART_PLAN] = "plan"};

static const char *const reasons[DROM_REASONS] = {
    [DROM_REASON_NONE] = "no fault",
    [DROM_REASON_NULL] = "a pointer is null though the table has rows",
    [DROM_REASON_TIMING] = "the protocol's figures are out of range, or belong to another family",
    [DROM_REASON_NUMBER] = "the protocol's number is 0 or 255, or used twice",
    [DROM_REASON_PERIOD] = "the protocol needs a period or a gap",
    [DROM_REASON_UNKNOWN_PROTOCOL] = "the code's protocol isn't in the plan's protocols",
    [DROM_REASON_ORDER] = "the rows must be ascending",
    [DROM_REASON_NO_HANDSET] = "no such handset",
    [DROM_REASON_NO_KEY] = "no such key of the handset",
    [DROM_REASON_GESTURES] = "no gesture, or unknown bits",
    [DROM_REASON_NO_HOLD] = "no such row of the hold times",
    [DROM_REASON_NO_DOUBLE] = "the key isn't in the plan's doubles",
    [DROM_REASON_NO_ACTION] = "the rule has no action",
    [DROM_REASON_NO_OUTPUT] = "no such output",
    [DROM_REASON_VERB] = "the output or target doesn't accept this verb or value",
    [DROM_REASON_SOURCE] = "no such source of events, or no such row or key of it",
    [DROM_REASON_NO_MODE] = "no such mode",
    [DROM_REASON_NO_VALUE] = "no such value",
    [DROM_REASON_NO_TIMER] = "no such timer",
    [DROM_REASON_NO_SWITCH] = "no such switch",
    [DROM_REASON_NO_SEQUENCE] = "a rule with a wait needs a sequence of its own",
    [DROM_REASON_AGAIN] = "no such answer to firing again",
    [DROM_REASON_COMPARE] = "the condition is always or never true",
    [DROM_REASON_HELD] = "no key holds this order, or 'held' has too few rows",
    [DROM_REASON_ANSWERS] = "more than 16 rules answer one event",
    [DROM_REASON_SWITCHED_OFF] = "drom_config.h must switch on DROM_WITH_",
    [DROM_REASON_LIMITS] = "a time or number is out of range",
    [DROM_REASON_SETTINGS] = "the output's settings are out of range",
    [DROM_REASON_PIN] = "the port has no such pin",
    [DROM_REASON_CODE] = "the code doesn't fit its protocol"};

static const char *const features[DROM_FEATURES] = {
#define DROM_FEATURE(name, small, what) #name,
#define DROM_OPTION(name, small, what)
#include "../../include/dromikos/features.def.h"
};

/* Appends a text at `at`; returns the place after it. */
static size_t add(char *text, size_t size, size_t at, const char *more)
{
    for (; *more != 0 && at + 1 < size; at++, more++) {
        text[at] = *more;
    }
    return at;
}

static size_t add_number(char *text, size_t size, size_t at, uint8_t number)
{
    const char digits[] = {(char)('0' + number / 100), (char)('0' + number / 10 % 10),
                           (char)('0' + number % 10), 0};
    return add(text, size, at, &digits[number >= 100 ? 0 : number >= 10 ? 1 : 2]);
}

char *drom_fault_text(const drom_fault *fault, char *text, size_t size)
{
    const bool is_plan = fault->part == DROM_PART_PLAN;
    const bool has_item = fault->part == DROM_PART_HANDSETS || fault->part == DROM_PART_RULES ||
                          fault->part == DROM_PART_OTHERWISE || fault->part == DROM_PART_CONDITIONS ||
                          fault->part == DROM_PART_OUTPUTS || fault->part == DROM_PART_INTERLOCKS;
    size_t at = add(text, size, 0, fault->part < DROM_PARTS_COUNT ? parts[fault->part] : "unknown table");
    if (!is_plan) {
        at = add_number(text, size, add(text, size, at, ", row "), fault->row);
    }
    if (has_item) {
        at = add_number(text, size, add(text, size, at, ", item "), fault->item);
    }
    at = add(text, size, at, ": ");
    at = add(text, size, at, fault->reason < DROM_REASONS ? reasons[fault->reason] : "unknown reason");
    if (is_plan && fault->reason == DROM_REASON_SWITCHED_OFF && fault->row < DROM_FEATURES) {
        at = add(text, size, at, features[fault->row]);
    }
    if (size > 0) {
        text[at] = 0;
    }
    return text;
}
#endif
