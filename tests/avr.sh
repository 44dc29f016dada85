#!/bin/sh
# Builds the core for an ATmega328P and lets it encode and decode every protocol there, in simavr. The argument is a folder for
# what is built.
set -eu
out=$1
cd "$(dirname "$0")/.."
mkdir -p "$out"
# All features but those that decoding needs are off, and the program is optimised when linked: it wouldn't fit otherwise.
rm -rf "$out/library"
mkdir -p "$out/library"
cp -R include src "$out/library"
printf '#define DROM_WITH_%s 1\n' PAUSES SINGLE_LEADER OBSERVER >"$out/library/include/dromikos/drom_config.h"
echo '#define DROM_WITH_CHECKS 0' >>"$out/library/include/dromikos/drom_config.h"
find "$out/library/src" -name '*.c' >"$out/sources"
# shellcheck disable=SC2046 # no file name of ours has a blank
avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror \
    -flto -mrelax -mcall-prologues -fshort-enums \
    -ffunction-sections -fdata-sections -Wl,--gc-sections "-I$out/library/include" $(cat "$out/sources") tests/avr/roundtrip.c \
    -o "$out/roundtrip.elf"
avr-size "$out/roundtrip.elf" | awk 'NR == 2 { printf "all 24 protocols, both ways: %d bytes of flash, %d of static RAM\n", $1 + $2, $2 + $3 }'
timeout 120 simavr -m atmega328p -f 16000000 "$out/roundtrip.elf" >"$out/printed.txt" 2>&1 || true
# simavr shows what comes from the serial port line by line, with colours and dots around it.
sed 's/\x1b\[[0-9;]*m//g; s/\.*\r*$//' "$out/printed.txt" | grep -E 'read back|LOST|pin|^ok|^failed' || true
grep -q 'ok' "$out/printed.txt"
if grep -q 'LOST' "$out/printed.txt"; then exit 1; fi
# The port's serial line.
# shellcheck disable=SC2046
avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror \
    -ffunction-sections -fdata-sections -Wl,--gc-sections -Iinclude -Iports/avr $(find src -name '*.c') ports/avr/avr.c ports/avr/guard.c ports/avr/store.c ports/avr/serial.c \
    tests/avr/echo.c -o "$out/echo.elf"
timeout 20 simavr -m atmega328p -f 16000000 "$out/echo.elf" >"$out/echo.txt" 2>&1 || true
grep -q 'serial line' "$out/echo.txt" && ! grep -q '?' "$out/echo.txt"
echo "the serial line speaks"
# Whatever a plan and a port are called, a program can be bound to them.
for name in plan keys engine timing port; do
    find src -name '*.c' >"$out/sources"
    # shellcheck disable=SC2046
    avr-gcc -std=gnu11 -mmcu=atmega328p -Wall -Wextra -Wshadow -Werror -fsyntax-only -Iinclude -DDROM_PROFILE_ALL -DDROM_PLAN=$name -DDROM_PORT=timing_$name $(cat "$out/sources")
done
echo "a plan may be called 'plan'"
# What build.sh says of a plan that isn't for this chip, or calls what isn't there; and how that is given to it.
says() {
    what=$1
    shift
    if "$@" >"$out/said" 2>&1 || ! grep -qF "$what" "$out/said"; then
        echo "avr.sh: $* should have ended with '$what', and printed:"
        cat "$out/said"
        exit 1
    fi
}
mkdir -p "$out/pico"
cp examples/lantern/wand.csv "$out/pico"
sed 's/^board .*/board rpipico/; s/on pin \([0-9]\)/on pin GP\1/' examples/lantern/bell.plan >"$out/pico/bell.plan"
says "whose chip the library has no port for" ports/avr/build.sh "$out/pico/bell.plan" "$out/pico/bell.elf"
# A plan that was baked for one chip or clock doesn't compile for another, nor with pixels at 8 MHz.
ports/avr/build.sh examples/lantern/bell.plan "$out/bell.elf"
refuses() { # WHAT OPTION ...
    what=$1
    shift
    says "$what" avr-gcc -std=gnu11 -Os -fsyntax-only "-I$out/bell-library/include" "$@" "$out/bell-library/ports/avr/avr.c"
}
refuses "baked for another chip" -mmcu=atmega2560 -DF_CPU=16000000UL
refuses "baked for another clock" -mmcu=atmega328p -DF_CPU=8000000UL
refuses "is for the ATmega328P, the ATmega32U4 and the ATmega2560" -mmcu=atmega168 -DF_CPU=16000000UL
sed -i '/DROM_MHZ/d; s/DROM_WITH_PIXELS 0/DROM_WITH_PIXELS 1/' "$out/bell-library/include/dromikos/drom_config.h"
refuses "pixels need a clock of 16 MHz" -mmcu=atmega328p -DF_CPU=8000000UL
sed -i 's/DROM_CHIP_ATMEGA328P/DROM_CHIP_ATMEGA32U4/; s/RECEIVER_PIN .*/RECEIVER_PIN 12/' "$out/bell-library/include/dromikos/drom_config.h"
refuses "a receiver on DROM_RECEIVER_PIN has no interrupt" -mmcu=atmega32u4 -DF_CPU=16000000UL
echo "a plan for one chip isn't compiled for another"
says "calls stage_readout() of your own" ports/avr/build.sh examples/lantern/stage.plan "$out/stage-alone.elf"
says "nowhere.c can't be read" ports/avr/build.sh examples/lantern/stage.plan "$out/stage-none.elf" nowhere.c
printf '#include "stage_plan.h"\n\nvoid stage_readout(int16_t value)\n{\n    (void)value;\n}\n' >"$out/readout.c"
ports/avr/build.sh examples/lantern/stage.plan "$out/stage-own.elf" "$out/readout.c"
[ -s "$out/stage-own.hex" ]
echo "build.sh: the stage, with a function of its own"
