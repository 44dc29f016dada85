#!/bin/sh
# A kind of output that isn't ours, added as CONTRIBUTING says: its files, and a line in the list of all. The argument is a folder
# for a copy of the sources, in which the tool is built; a plan with the kind is rehearsed, vetted, baked and compiled for the chip.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
for room in include src ports plan capture chart live cli bench examples; do
    rm -rf "${out:?}/$room"
done
cp -R CMakeLists.txt LICENSE include src ports plan capture chart live cli bench examples "$out"
cp examples/candle/candle.h "$out/include/dromikos/"
cp examples/candle/candle.c "$out/src/outputs/"
cp examples/candle/candle_kind.c "$out/plan/kinds/candle.c"
sed -i 's/^extern const output_kind relay_kind;/&\nextern const output_kind candle_kind;/; s/{$/{\n    \&candle_kind,/' "$out/plan/kinds/all.c"
cmake -S "$out" -B "$out/build" -DCMAKE_BUILD_TYPE=Release -DDROMIKOS_TESTS=OFF >"$out/log"
cmake --build "$out/build" -j 2 --target dromikos >>"$out/log" 2>&1 || { tail -n 20 "$out/log"; exit 1; }
tool=$out/build/dromikos
cat >"$out/altar.plan" <<'END'
plan "Altar"
board mega328
receiver on pin 8
handset wand from "examples/lantern/wand.csv"
candle candle on pin 5, changes every 40 ms
when wand.play pressed: candle burn in a draught of 60 %
when wand.up pressed: candle burn while held
when wand.exit pressed: candle out
END
printf 'at_ms,handset,key,held_ms\n500,wand,play,50\n1500,wand,exit,50\n' >"$out/altar.csv"
# says WHAT COMMAND...
says() {
    what=$1
    shift
    "$@" >"$out/printed" 2>&1 || true
    grep -qF "$what" "$out/printed" || { echo "trial.sh: '$what' isn't in what $* printed:"; cat "$out/printed"; exit 1; }
}
says "candle burn in a draught of 60 %" "$tool" rehearse "$out/altar.plan" "$out/altar.csv"
says "candle: is out" "$tool" rehearse "$out/altar.plan" "$out/altar.csv"
says "180 Ω and LED, to ground" "$tool" vet "$out/altar.plan"
sed 's/ burn while held/ brun/' "$out/altar.plan" >"$out/wrong.plan"
says "'candle' is a candle: found 'brun', expected 'out' or 'burn'; did you mean 'burn'?" "$tool" vet "$out/wrong.plan"
says altar_plan.c "$tool" bake --into "$out/baked" "$out/altar.plan"
avr-gcc -std=gnu11 -mmcu=atmega328p -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "-I$out/include" \
    -c "$out/baked/altar_plan.c" -o "$out/altar.o"
avr-gcc -std=gnu11 -mmcu=atmega328p -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "-I$out/include" \
    -c "$out/src/outputs/candle.c" -o "$out/candle.o"
echo "a kind of output on trial: rehearsed, vetted, baked, and compiled"
