/* A record moves from slot to slot. A page is erased when its first slot is next: the newest record is then
 * in the page before. Each programmed record is read back; if it is wrong, the next slot is used. */
#include "../compiler.h"

#include "../../include/dromikos/internal/kept.h"

#include "../bound.h"

uint16_t drom_kept_slots(const drom_port_store *store, uint8_t values)
{
    const uint16_t bytes = (uint16_t)(DROM_KEPT_BYTES + 2 * values);
    const uint16_t pages = (uint16_t)(store->page_bytes > 0 ? store->bytes / store->page_bytes : 0);
    const uint16_t slots = (uint16_t)(store->page_bytes / bytes * pages);
    return pages < 2 ? (uint16_t)0 : slots;
}

#if DROM_WITH_KEPT

enum { IDLE, ERASING, PROGRAMMING, NUMBER_BYTES = 2, LOOK_US = 1000 };

/* The value of erased bytes. */
#define NO_NUMBER UINT16_C(0xffff)

/* Copies of the plan and the port's store: avr-gcc 5.4 generates less code for them than for flash pointers.
 */
typedef struct store_area {
    drom_kept_plan plan;
    drom_port_store store;
    void *context;
    uint8_t bytes; /* of a record */
} store_area;

static store_area area_of(const drom_kept_plan DROM_FLASH *plan, const drom_port DROM_FLASH *port)
{
    store_area in = {.plan = *plan, .context = port->context};
    const drom_port_store DROM_FLASH *const store = port->store;
    in.store = *store;
    in.bytes = (uint8_t)(DROM_KEPT_BYTES + 2 * in.plan.values.count);
    return in;
}

static uint16_t place_of(const store_area *in, uint16_t slot)
{
    const uint16_t slots_a_page = in->store.page_bytes / in->bytes;
    return (uint16_t)(slot / slots_a_page * in->store.page_bytes + slot % slots_a_page * in->bytes);
}

/* The checksum of Recommendation ITU-T V.41, started with the plan's mark. */
static uint16_t sum_of(const store_area *in)
{
    uint16_t sum = in->plan.mark;
    for (uint8_t i = 0; i + 2 < in->bytes; i++) {
        sum ^= (uint16_t)(in->plan.record[i] << 8);
        for (uint8_t bit = 0; bit < 8; bit++) {
            sum = (uint16_t)((sum & 0x8000) != 0 ? (uint16_t)(sum << 1) ^ 0x1021 : sum << 1);
        }
    }
    return sum;
}

static void put(uint8_t *bytes, uint16_t number)
{
    bytes[0] = (uint8_t)number;
    bytes[1] = (uint8_t)(number >> 8);
}

static uint16_t get(const uint8_t *bytes)
{
    return (uint16_t)(bytes[0] | bytes[1] << 8);
}

/* The place of a value in the record; and the value. */
static uint8_t *value_at(const store_area *in, uint8_t i)
{
    const uint8_t at = (uint8_t)(NUMBER_BYTES + 2 * i);
    return in->plan.record + at;
}

static int16_t value_in(const store_area *in, uint8_t i)
{
    return (int16_t)get(value_at(in, i));
}

/* Reads a slot into the record; false if its checksum is wrong. */
static bool read(const store_area *in, uint16_t slot)
{
    in->store.read(in->context, place_of(in, slot), in->plan.record, in->bytes);
    return get(in->plan.record) != NO_NUMBER && get(in->plan.record + in->bytes - 2) == sum_of(in);
}

/* True if the newest slot holds the record. */
static bool is_programmed(const store_area *in)
{
    const uint16_t at = place_of(in, in->plan.state->slot);
    bool is_so = true;
    for (uint8_t i = 0; i < in->bytes; i++) {
        uint8_t byte;
        in->store.read(in->context, (uint16_t)(at + i), &byte, 1);
        is_so &= byte == in->plan.record[i];
    }
    return is_so;
}

/* Starts with the values of the plan: nothing is written until one of them changes. */
static void take_seen(const store_area *in)
{
    put(in->plan.record, in->plan.state->number);
    for (uint8_t i = 0; i < in->plan.values.count; i++) {
        put(value_at(in, i), (uint16_t)in->plan.seen[i]);
    }
    put(in->plan.record + in->bytes - 2, sum_of(in));
}

void drom_kept_begin(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                     const drom_port DROM_FLASH *port)
{
    if (plan->values.count == 0) {
        return;
    }
    const store_area in = area_of(plan, port);
    drom_kept_state *const state = in.plan.state;
    const uint16_t slots = drom_kept_slots(&in.store, in.plan.values.count);
    bool is_found = false;
    *state = (drom_kept_state){.slot = (uint16_t)(slots - 1)};
    for (uint16_t slot = 0; slot < slots; slot++) {
        const bool is_whole = read(&in, slot);
        if (is_whole && (!is_found || (int16_t)(get(in.plan.record) - state->number) > 0)) {
            state->slot = slot;
            state->number = get(in.plan.record);
            is_found = true;
        }
    }
    if (is_found) {
        (void)read(&in, state->slot);
    }
    for (uint8_t i = 0; i < in.plan.values.count; i++) {
        const uint8_t row = in.plan.values.rows[i];
        const drom_value limits = rules->values.rows[row];
        const int16_t kept = value_in(&in, i);
        if (is_found && kept >= limits.min && kept <= limits.max) {
            rules->numbers[row] = kept;
        }
        in.plan.seen[i] = rules->numbers[row];
    }
    if (!is_found) {
        take_seen(&in);
    }
}

/* True if a value has changed since the last call. */
static bool notice(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules)
{
    bool has = false;
    for (uint8_t i = 0; i < plan->values.count; i++) {
        const int16_t number = rules->numbers[plan->values.rows[i]];
        has |= plan->seen[i] != number;
        plan->seen[i] = number;
    }
    return has;
}

static bool has_news(const store_area *in)
{
    bool has = false;
    for (uint8_t i = 0; i < in->plan.values.count; i++) {
        has |= in->plan.seen[i] != value_in(in, i);
    }
    return has;
}

static void program(const store_area *in)
{
    in->store.program(in->context, place_of(in, in->plan.state->slot), in->plan.record, in->bytes);
    in->plan.state->step = PROGRAMMING;
}

/* Moves the record to the next slot. */
static void write_next(const store_area *in)
{
    drom_kept_state *const state = in->plan.state;
    const uint16_t slots_a_page = in->store.page_bytes / in->bytes;
    if (state->tries == 0 || slots_a_page == 0) {
        state->step = IDLE; /* the cell is worn out: its content stays */
        return;
    }
    state->tries--;
    const uint16_t next = (uint16_t)(state->slot + 1);
    state->slot = next < drom_kept_slots(&in->store, in->plan.values.count) ? next : 0;
    if (state->slot % slots_a_page == 0) {
        in->store.erase(in->context, place_of(in, state->slot));
        state->step = ERASING;
    } else {
        program(in); /* fails if a power cut has left something there */
    }
}

static void begin_record(const store_area *in)
{
    drom_kept_state *const state = in->plan.state;
    state->due.is_armed = false;
    state->number = (uint16_t)(state->number + 1 == NO_NUMBER ? 0 : state->number + 1);
    state->tries = drom_kept_slots(&in->store, in->plan.values.count);
    take_seen(in);
    write_next(in);
}

/* Does one step of writing; false if there is nothing to write. */
static bool go_on(const store_area *in)
{
    drom_kept_state *const state = in->plan.state;
    if (state->step == IDLE) {
        if (!has_news(in)) {
            return false;
        }
        begin_record(in);
    } else if (in->store.is_busy(in->context)) {
        return true;
    } else if (state->step == ERASING) {
        program(in);
    } else if (is_programmed(in)) {
        state->step = IDLE;
    } else {
        write_next(in);
    }
    return true;
}

drom_wait drom_kept_poll(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                         const drom_timing *timing)
{
    if (plan->values.count == 0) {
        return DROM_LONG;
    }
    drom_kept_state *const state = plan->state;
    if (notice(plan, rules) && !state->due.is_armed) {
        drom_deadline_arm(&state->due, timing->now, DROM_KEPT_AFTER_US);
    }
    if (state->step == IDLE && !drom_deadline_passed(&state->due, timing->now)) {
        return drom_deadline_wait(&state->due, timing->now);
    }
    const store_area in = area_of(plan, drom_port_of(timing));
    (void)go_on(&in);
    return LOOK_US;
}

void drom_kept_stop(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules)
{
    (void)notice(plan, rules);
}

bool drom_kept_end(const drom_kept_plan DROM_FLASH *plan, const drom_timing *timing, drom_wait *wait)
{
    if (plan->values.count == 0) {
        return false;
    }
    const store_area in = area_of(plan, drom_port_of(timing));
    *wait = drom_shorter(*wait, LOOK_US);
    return go_on(&in);
}
#endif
