/* Places a number that is known only when an order is given into the order. */
#include "../compiler.h"

#include "rules_shared.h"

uint8_t drom_rules_row_of_number(const drom_action *action)
{
    const bool is_above = DROM_WITH_MULTIPLES && (action->flags & DROM_FORM) == DROM_AS_TIME;
    return (uint8_t)(is_above ? action->value >> 8 : action->value);
}

/* At most INT32_MAX. */
static uint32_t product_of(uint16_t number, uint32_t factor)
{
    return factor != 0 && number > INT32_MAX / factor ? INT32_MAX : number * factor;
}

/* Multiplies the number by a factor, both signed, and may divide by 360. */
static uint32_t multiple_of(int16_t number, uint32_t factor, bool is_turn)
{
    enum { DEGREES = 360 };
    static const uint32_t sign = UINT32_C(0x800000);
    const bool is_back = (number < 0) != (factor >= sign);
    const uint16_t size = number < 0 ? (uint16_t)(0u - (uint16_t)number) : (uint16_t)number;
    const uint32_t unit = factor >= sign ? 2 * sign - factor : factor;
    const uint32_t whole = is_turn ? product_of(size / DEGREES, unit) +
                                         (product_of(size % DEGREES, unit) + DEGREES / 2) / DEGREES
                                   : product_of(size, unit);
    return is_back ? 0 - whole : whole;
}

uint32_t drom_rules_with_number(const drom_action *action, int16_t number)
{
    const uint32_t value = action->value;
    const uint16_t count = number < 0 ? 0 : (uint16_t)number;
    const uint8_t form = action->flags & DROM_FORM;
    if (form == DROM_AS_PERCENT) {
        return (value & ~UINT32_C(0xff)) | (uint16_t)((count < 100 ? count : 100) * (DROM_FULL_LEVEL / 100u));
    }
    if (DROM_WITH_MULTIPLES && form == DROM_AS_DEGREES) {
        return (value & ~UINT32_C(0xff)) | (count < UINT8_MAX ? count : UINT8_MAX);
    }
    if (DROM_WITH_MULTIPLES && form == DROM_AS_TIME) {
        const uint32_t time = product_of(count, value >> 16);
        return (value & 0xff) | (time <= DROM_LONGEST_MS ? time : DROM_LONGEST_MS + 1) << 8;
    }
    if (DROM_WITH_MULTIPLES && form >= DROM_AS_MULTIPLE) {
        return multiple_of(number, value >> 8, form == DROM_AS_TURN);
    }
    return (value & ~UINT32_C(0xffff)) | (form == DROM_AS_SIGNED ? (uint16_t)number : count);
}
