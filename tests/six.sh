#!/bin/sh
# From an empty folder to a working board by the six commands of 'dromikos', in a path with a blank: the ear runs in a simulated
# ATmega328P, whose serial line goes through a pseudo-terminal to 'dromikos listen' and 'dromikos enrol'; what is baked then does in
# the chip what was rehearsed. Needs build/dromikos, build/avr/ear (theatre.sh build), and tests/same.sh. The argument is a folder
# for what is made.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
root=$PWD
tool=$root/build/dromikos
ear=$root/build/avr/ear
rm -rf "$out/a board"
mkdir "$out/a board"
cd "$out/a board"
"$tool" begin fan --board uno --receiver 8
cd fan
make -s -C fan-ear >/dev/null
avr-nm -P -t x fan-ear/ear.elf >fan-ear/ear.elf.nm
"$ear" fan-ear/ear.elf 8 "$tool" . here >ear.txt || { cat ear.txt; exit 1; }
grep -v '^Loaded' ear.txt
grep -x 'when remote.mains pressed: light toggle' fan.plan
printf '%s\n' 500,remote,mains,100, '1000,,,,light is on' 2000,remote,mains,100, '2500,,,,light is off' >>fan.csv
"$tool" rehearse
"$tool" vet | tail -n 1
"$tool" bake
"$tool" bake --as program
make -s -C fan-program
cd "$root"
rm -rf "$out/begun"
mkdir "$out/begun"
cp "$out/a board/fan/"*.plan "$out/a board/fan/"*.csv "$out/begun"
sh tests/same.sh "$out/same" play "$out/begun"
