// The ear: see src/ports/avr/ear/ear.h.
#include "src/ports/avr/ear/ear.h"

#ifdef USBCON // the chip's own USB is the serial line
bool ear_put_byte(uint8_t byte)
{
    return Serial.availableForWrite() > 0 && Serial.write(byte) == 1;
}
#else
#include "src/ports/avr/avr.h"

bool ear_put_byte(uint8_t byte)
{
    return drom_avr_put_byte(byte);
}
#endif

void setup()
{
#ifdef USBCON
    Serial.begin(EAR_BAUD);
#else
    drom_avr_open_serial(EAR_BAUD);
#endif
    ear_begin();
}

void loop()
{
    ear_poll();
}
