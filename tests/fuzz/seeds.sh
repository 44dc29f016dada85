#!/bin/sh
# What the fuzz targets start from: tests/fuzz/seeds.sh DROMIKOS FOLDER writes a folder of seeds for each, and words.dict.
set -eu
dromikos=$1
mkdir -p "$2"
out=$(cd "$2" && pwd)
cd "$(dirname "$0")/../.."
lantern=examples/lantern
for target in capture plan sheet receiver infer run; do
    mkdir -p "$out/$target"
done

# The words of the language, of sheets and of captures, a line each.
{
    grep -oh '{"[a-z][^"]*",' plan/language/statements.c plan/kinds/*.c | tr -d '{",' | tr ' ' '\n' | grep -v '^[A-Z]*$' | sed 's/.*/"&"/'
    sed -n 's/^DROM_PROTOCOL([A-Z0-9_]*, \([a-z0-9_]*\),.*/"\1"/p' include/dromikos/protocols.def.h
    printf '"%s"\n' 'at start:' 'steps/s' 'held for ' 'while held' ' over 2 s' 'hand.k0' 'hall.h0' '16 MHz' '0xff8000' ' %%' ' ms' \
        'key,protocol,address,command' 'unknown' '$timescale' '$var' '$enddefinitions' '$end' '1 us' 't_us,ir' '^9000_4500' '_50000'
} | sort -u >"$out/words.dict"

cp $lantern/lantern.plan "$out/plan/lantern"
cp bench/chip/stage.plan "$out/plan/stage"
cp $lantern/wand.csv $lantern/drawer.csv $lantern/hall-amplifier.csv "$out/sheet/"
for protocol in nec rc5 sirc12 kaseikyo rcmm24; do
    "$dromikos" wave --format csv --frames 1 $protocol 1 2 >"$out/capture/$protocol.csv"
    "$dromikos" wave --frames 1 $protocol 1 2 >"$out/capture/$protocol.vcd"
done
printf '^9000_4500^562_1687^562_562^562_50000\n?_50000^9000_2250^562\n' >"$out/capture/runs"
printf '# a\n' >"$out/capture/comment"

# The theatre, as far as two sheets go, and a key of each kind pressed; and some plans of a line or two.
{
    sed 's/"wand.csv"/"hand.csv"/; s/"hall-amplifier.csv"/"hall.csv"/; /drawer/d' $lantern/lantern.plan
    printf '===\n'
    cat $lantern/wand.csv
    printf '===\n'
    cat $lantern/hall-amplifier.csv
    printf '===\nA\100zB\010zC\200~D\100z'
} >"$out/run/lantern"

# small NAME 'LINES' 'SHEET': with a stop.
small() {
    printf 'plan "S"\nboard mega328\nreceiver on pin 8\nhandset hand from "hand.csv"\n%s\n===\nkey,protocol,address,command\n%s\n===\n%s\n===\n@\060z@\010!' \
        "$2" "$3" 'key,protocol,address,command
h0,nec,1,2' >"$out/run/$1"
}
small own 'protocol x: 12 bits, leader 2500 500, zero 500 500, one 500 1500, toggle bit 2, period 90 ms
relay bell on pin 7, on at least 100 ms
when hand.k0 pressed or repeated: bell pulse for 50 ms
when hand.k0 tapped twice: bell toggle' 'k0,x,0,0x123'
small phase 'protocol x: 12 bits, phase 400, one space first, gap 40 ms
repeats after 300 ms, every 100 ms, fastest 50 ms
lamp house on pin 5, active low
when hand.k0 held for 1 s: house fade to 40 %% over 1 s
when hand.k0 pressed: house on while held' 'k0,x,0,0xfff'
small stage 'stepper disc on pins A0 A2 A1 A3, up to 300 steps/s within 500 ms, holds still
strip foot on pin 6, 12 pixels, order rgb, pause 5 ms
palette dusk: orange, purple
at start: disc run; foot chase
when hand.k0 pressed: disc turn back 1.5 turns; foot palette dusk; foot brightness 20 %%' 'k0,unknown,0xdeadbeef,0'
