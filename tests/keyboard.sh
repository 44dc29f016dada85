#!/bin/sh
# The examples with a keyboard as sketches in a simulated ATmega32U4, whose USB has a computer at its other end: it enumerates the
# keyboard and takes its reports, which must be those of the rehearsal. Then with the boot protocol, without a computer, and with a
# program that hangs while a key is down. Needs what tests/same.sh leaves in the folder that is the first argument, and the IDE's
# builder; the second is a folder for what is built. With 'build' nothing is played.
set -eu
same=$(cd "$1" && pwd)
mkdir -p "$2"
out=$(cd "$2" && pwd)
cd "$(dirname "$0")/.."
# shellcheck source=tests/ide.sh
. tests/ide.sh

# build PLAN SCRIPT: the sketch, and what the plan does on the bench.
build() {
    name=$(basename "$1" .plan)
    make_sketch "$name" "$1"
    [ -z "${3-}" ] || sed -i "s/^    (void)value;/    $3/" "$out/$name/$name.ino"
    as_sketch "$name" arduino:avr:leonardo >"$out/$name.size"
    avr-nm -P -t x "$out/$name-built/$name.ino.elf" >"$out/$name-built/$name.ino.elf.nm"
    "$same/rehearsed" "$1" "$2" "$out/$name.stimulus" >"$out/$name.trace"
}

# play NAME WHAT [host|boot|hung]
play() {
    "$same/chip" atmega32u4 16 "$out/$1-built/$1.ino.elf" "$out/$1.stimulus" "$out/$1.trace" ${3+"$3"} >"$out/$1.txt" || {
        grep -v '^Loaded' "$out/$1.txt"
        return 1
    }
    printf '%-8s %s, %s: %s\n' right "$1" "$2" "$(grep -v '^Loaded' "$out/$1.txt")"
}

build examples/lantern/desk.plan examples/lantern/desk.csv
build examples/scenes/cues.plan examples/scenes/cues.csv
mkdir -p "$out/plans"
cp examples/lantern/wand.csv "$out/plans"
cat >"$out/plans/stuck.plan" <<'PLAN'
plan "A program that hangs"
board leonardo
receiver on pin 4
handset wand from "wand.csv"
keyboard desk, layout us
call    stuck
when wand.play pressed: desk hold a; wait 500 ms; call stuck
PLAN
printf 'at_ms,handset,key,held_ms\n500,wand,play,100\n2000,wand,up,100\n' >"$out/plans/stuck.csv"
build "$out/plans/stuck.plan" "$out/plans/stuck.csv" 'for (;;) { __asm__ volatile(""); }'
[ "${3-}" != build ] || exit 0
play desk "with a computer" host
play cues "with a computer" host
play cues "with the boot protocol" boot
play cues "without a computer"
play stuck "which hangs while a key is down" hung
