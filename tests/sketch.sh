#!/bin/sh
# The theatre's plan as a folder that 'dromikos bake --as sketch' writes and that the common maker IDE's builder compiles, with
# none of our flags. Prints what it takes, bound to its plan and not, beside an
# empty sketch, and lets it play in the simulated chip. Needs build/dromikos, and build/avr/theatre (tests/theatre.sh). The
# argument is a folder for what is built; with 'build' nothing is played.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
play=${2-}
cd "$(dirname "$0")/.."
# shellcheck source=tests/ide.sh
. tests/ide.sh

make_sketch bound examples/lantern/lantern.plan
# Of the protocols only nec, no lamp, no stepper, and of all that rules can do only orders while a key is held: what a chip has
# room for unbound.
mkdir -p "$out/nec"
cp examples/lantern/*.csv "$out/nec"
sed 's/; house fade to [0-9]* % over [0-9]* s//; /drawer/d; /house/d; s/; revolve stop//; /revolve/d' examples/lantern/lantern.plan >"$out/nec/lantern.plan"
make_sketch unbound "$out/nec/lantern.plan"
{
    printf '#define DROM_WITH_%s 1\n' TIMED_EDGES CARRIER PIXELS PWM HOLDS
    echo '#define DROM_WITH_CHECKS 0'
} >"$out/unbound/src/include/dromikos/drom_config.h"
# The stage, which the first page shows: it has to fit beside the boot loader.
make_sketch stage examples/lantern/stage.plan
mkdir -p "$out/empty"
printf 'void setup() {}\nvoid loop() {}\n' >"$out/empty/empty.ino"

none=$(as_sketch empty)
for board in leonardo mega:cpu=atmega2560; do
    size=$(as_sketch empty "arduino:avr:$board")
    printf '%-44s %7d %6d\n' "an empty sketch for the ${board%%:*}" "${size% *}" "${size#* }"
done
printf '%-44s %7s %6s\n' "bytes of an ATmega328P, by the IDE's builder" flash RAM
for name in stage bound unbound; do
    size=$(as_sketch $name)
    # shellcheck disable=SC2086 # two numbers each
    set -- $size $none
    if [ "$name" = stage ]; then
        printf '%-44s %7d %6d\n' "the stage, of 32256 that the boot loader leaves" "$1" "$2"
        [ "$1" -le 32256 ] || { echo "sketch.sh: the stage doesn't fit"; exit 1; }
        continue
    fi
    printf '%-44s %7d %6d\n' "the theatre, $name" "$1" "$2"
    printf '%-44s %7d %6d\n' "  without the IDE's own core" $(($1 - $3)) $(($2 - $4))
    ide=$3
    ide_ram=$4
done
# The ear, as 'dromikos ear' writes it.
rm -rf "${out:?}/ear"
build/dromikos ear --board mega328 --receiver 8 --into "$out/ear" >/dev/null
size=$(as_sketch ear)
# shellcheck disable=SC2086 # two numbers each
set -- $size $none
printf '%-44s %7d %6d\n' "the ear, without the IDE's own core" $(($1 - $3)) $(($2 - $4))
# Each example, for its board.
built=0
for plan in examples/lantern/*.plan examples/scenes/*.plan tests/same/boards/large.plan tests/same/boards/slow.plan; do
    ! grep -q '^keyboard' "$plan" || continue
    name=each-$(basename "$plan" .plan)
    make_sketch "$name" "$plan"
    as_sketch "$name" "$(sed -n "s/^.* is \(.*\) for the IDE's builder\.$/\1/p" "$out/$name/$name.ino")" >"$out/size"
    built=$((built + 1))
done
echo "$built examples are sketches that the builder compiles"
[ "${play:-}" != build ] || exit 0
elf=$out/bound-built/bound.ino.elf
avr-nm -P -t x "$elf" >"$elf.nm"
echo "the sketch in a simulated ATmega328P:"
build/avr/theatre "$elf" 8 $((24576 + ide)) $((30272 + ide)) "$ide_ram" >"$out/played" || { cat "$out/played"; exit 1; }
grep -v '^Loaded' "$out/played"
elf=$out/ear-built/ear.ino.elf
avr-nm -P -t x "$elf" >"$elf.nm"
echo "the ear as a sketch:"
build/avr/ear "$elf" 8 build/dromikos "$out/ear" >"$out/heard" || { cat "$out/heard"; exit 1; }
grep -v '^Loaded' "$out/heard"
