#!/bin/sh
# A kind of output and a protocol that aren't ours, added as CONTRIBUTING says: their files, a line each in the list of all, and
# the kind's phrases in the docs. The argument is a folder for a copy of the sources, in which all is built; a plan with both is
# rehearsed, vetted, baked and compiled for the chip. Nothing else in the copy is changed.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
for room in cmake include src ports plan capture chart live cli bench examples tests docs; do
    rm -rf "${out:?}/$room"
done
cp -R CMakeLists.txt CHANGELOG.md CONTRIBUTING.md LICENSE README.md cmake include src ports plan capture chart live cli bench examples tests docs "$out"
cp examples/candle/candle.h "$out/include/dromikos/outputs/"
cp examples/candle/candle.c "$out/src/outputs/"
cp examples/candle/candle_kind.c "$out/plan/kinds/candle.c"
cp examples/candle/ember.c "$out/src/protocols/"
cat examples/candle/candle.md >>"$out/docs/plan-language.md"
sed -i 's/^    KIND(relay) .*/    KIND(candle) \\\n&/' "$out/plan/kinds/all.c"
sed -i 's/^DROM_PROTOCOL(NEC, .*/&\nDROM_PROTOCOL(EMBER, ember, 100)/' "$out/include/dromikos/protocols.def.h"
cmake -S "$out" -B "$out/build" -DCMAKE_BUILD_TYPE=Release >"$out/log"
cmake --build "$out/build" -j 2 >>"$out/log" 2>&1 || { tail -n 20 "$out/log"; exit 1; }
# The tests that ask for each kind and each protocol know of both.
sh "$out/tests/arrows.sh"
ctest --test-dir "$out/build" -j 2 -R '^(phrases|protocols|receive|sender|check|campaign|translate|language)$' >"$out/said" 2>&1 || { cat "$out/said"; exit 1; }
tool=$out/build/dromikos
cat >"$out/altar.plan" <<'END'
plan "Altar"
board mega328
receiver on pin 8
handset wand from "examples/lantern/wand.csv"
handset hearth from "hearth.csv"
candle candle on pin 5, changes every 40 ms
when wand.play pressed: candle burn in a draught of 60 %
when wand.up pressed: candle burn while held
when hearth.poke pressed: candle burn in a draught of 20 %
when wand.exit pressed: candle out
END
printf 'key,protocol,address,command\npoke,ember,7,700\n' >"$out/hearth.csv"
printf 'at_ms,handset,key,held_ms\n500,wand,play,50\n1000,hearth,poke,50\n1500,wand,exit,50\n' >"$out/altar.csv"
# says WHAT COMMAND...
says() {
    what=$1
    shift
    "$@" >"$out/printed" 2>&1 || true
    grep -qF "$what" "$out/printed" || { echo "trial.sh: '$what' isn't in what $* printed:"; cat "$out/printed"; exit 1; }
}
says "candle burn in a draught of 60 %" "$tool" rehearse "$out/altar.plan" "$out/altar.csv"
says "candle: is out" "$tool" rehearse "$out/altar.plan" "$out/altar.csv"
says "candle burn in a draught of 20 %" "$tool" rehearse "$out/altar.plan" "$out/altar.csv"
says "180 Ω and LED, to ground" "$tool" vet "$out/altar.plan"
sed 's/ burn while held/ brun/' "$out/altar.plan" >"$out/wrong.plan"
says "'candle' is a candle: found 'brun', expected 'out' or 'burn'; did you mean 'burn'?" "$tool" vet "$out/wrong.plan"
says " candle " "$out/build/tests/campaign" 5
says altar_plan.c "$tool" bake --into "$out/baked" "$out/altar.plan"
cp "$out/baked/drom_config.h" "$out/include/dromikos/"
avr-gcc -std=gnu11 -mmcu=atmega328p -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "-I$out/include" \
    -c "$out/baked/altar_plan.c" -o "$out/altar.o"
avr-gcc -std=gnu11 -mmcu=atmega328p -Os -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "-I$out/include" \
    -c "$out/src/outputs/candle.c" -o "$out/candle.o"
echo "a kind of output and a protocol on trial: rehearsed, vetted, baked, and compiled"
