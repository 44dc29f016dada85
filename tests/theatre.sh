#!/bin/sh
# The theatre's plan in a simulated ATmega328P, watched at its pins. Needs build/dromikos.
set -eu
cd "$(dirname "$0")/.."
out=build/avr
sh ports/avr/build.sh examples/lantern/lantern.plan $out/lantern.elf
avr-nm -P -t x $out/lantern.elf >$out/lantern.elf.nm
# The receiver on a pin that no timer latches, whose edges an interrupt stamps.
sh ports/avr/build.sh examples/lantern/lantern.plan $out/lantern-pin2.elf -DDROM_AVR_RECEIVER_PIN=2
avr-nm -P -t x $out/lantern-pin2.elf >$out/lantern-pin2.elf.nm
# libsimavr asks for libelf by itself; its headers are not needed.
cc -std=gnu11 -O3 -Wall -Wextra -Werror -Iinclude -Iports/sim -Ibench/chip bench/chip/chip.c tests/avr/theatre.c \
    build/libdromikos_sim.a build/libdromikos_core.a -o $out/theatre -Wl,--unresolved-symbols=ignore-in-shared-libs \
    -lsimavr -lglib-2.0 -lm
{ $out/theatre $out/lantern-pin2.elf 2 >$out/pin2.txt || echo "WRONG" >>$out/pin2.txt; } &
{ $out/theatre $out/lantern.elf 8 >$out/pin8.txt || echo "WRONG" >>$out/pin8.txt; }
wait
for pin in 8 2; do
    echo "the theatre, its receiver on pin $pin:"
    grep -v '^Loaded' $out/pin$pin.txt
done
if grep -q WRONG $out/pin8.txt $out/pin2.txt; then
    exit 1
fi
