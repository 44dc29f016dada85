/* Orders are written to the program's variables. */
#include "wishes.h"

#include <stdio.h>

static unsigned failures;

void wait_ms(chip *mcu, double ms)
{
    chip_run(mcu, chip_now(mcu) + (uint64_t)(ms * CYCLES_PER_MS));
}

void grant(chip *mcu, uint8_t wish)
{
    chip_write(mcu, "wish", &wish, 1);
    while (wish != 0 && chip_is_alive(mcu)) {
        chip_run(mcu, chip_now(mcu) + 1);
        chip_read(mcu, "wish", &wish, 1);
    }
}

void act(chip *mcu, uint8_t output, uint8_t verb, uint32_t value)
{
    const uint8_t action[6] = {
        output, verb, (uint8_t)value, (uint8_t)(value >> 8), (uint8_t)(value >> 16), (uint8_t)(value >> 24)};
    chip_write(mcu, "wished_action", action, sizeof action);
    grant(mcu, WISH_ACT);
}

void check(bool is_right, const char *what)
{
    (void)printf("%-8s %s\n", is_right ? "right" : "WRONG", what);
    failures += !is_right;
}

unsigned wrong_things(void)
{
    return failures;
}

unsigned any_picture(const uint8_t *bytes)
{
    (void)bytes;
    return 0;
}

void close_checked(chip *mcu)
{
    check(chip_is_alive(mcu), "the program is still running");
    chip_close(mcu);
}
