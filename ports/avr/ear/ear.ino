// The ear: see src/ports/avr/ear/ear.h.
#include "src/ports/avr/ear/ear.h"

void setup()
{
    ear_begin();
}

void loop()
{
    ear_poll();
}
