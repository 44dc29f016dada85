#!/bin/sh
# The ear as 'dromikos ear' writes it, built by its own Makefile in a path with a blank, in a simulated ATmega328P whose serial
# line goes through a pseudo-terminal to 'dromikos listen' and 'dromikos enrol'. Needs build/dromikos and build/avr (theatre.sh
# build). With 'build' nothing is run.
set -eu
cd "$(dirname "$0")/.."
out="build/avr/an ear"
for pin in 8 2; do
    build/dromikos ear --board uno --receiver $pin --into "$out/ear-$pin" >/dev/null
    make -s -C "$out/ear-$pin" >/dev/null
    avr-nm -P -t x "$out/ear-$pin/ear.elf" >"$out/ear-$pin/ear.elf.nm"
done
# On other chips, and at 8 MHz.
for board in "leonardo --receiver 4" "mega --receiver 2" "pro --mhz 8 --receiver 8"; do
    # shellcheck disable=SC2086 # words
    build/dromikos ear --board $board --into "$out/other" >/dev/null
    make -s -B -C "$out/other" >/dev/null
done
[ "${1-}" != build ] || exit 0
ended=0
for pin in 8 2; do
    echo "the ear, its receiver on pin $pin:"
    build/avr/ear "$out/ear-$pin/ear.elf" $pin build/dromikos "$out/ear-$pin" >"$out/$pin.txt" || ended=1
    grep -v '^Loaded' "$out/$pin.txt"
done
exit $ended
