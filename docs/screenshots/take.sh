#!/bin/sh
# Takes the pictures in this folder: each command in an xterm of about 1280x800, on a screen in memory.
#   take.sh                          all of them
#   take.sh shoot FILE SIZE COMMAND SHOWN  one, on the screen that is there
set -eu
cd "$(dirname "$0")/../.."
PATH="$PWD/build:$PATH"
export PATH

shoot() {
    work=$(mktemp -d)
    cat >"$work/session" <<END
work=$work
printf '\033[?25l\$ %s\n' '$4'
$3
touch "$work/done"
sleep 60
END
    xterm -fa "DejaVu Sans Mono" -fs 10 -geometry "$2" -bg "#fbfaf7" -fg "#222222" -b 12 +sb -e sh "$work/session" &
    terminal=$!
    tries=0
    while [ ! -e "$work/done" ] && [ "$tries" -lt 300 ]; do
        sleep 0.1
        tries=$((tries + 1))
    done
    sleep 0.5
    import -window root -trim +repage "$1"
    kill "$terminal"
    rm -r "$work"
}

take() {
    xvfb-run -a -s "-screen 0 1400x1000x24" sh docs/screenshots/take.sh shoot "docs/screenshots/$1.png" "$2" "$3" \
        "${4-$3}"
    echo "docs/screenshots/$1.png"
}

if [ "${1-}" = shoot ]; then
    shoot "$2" "$3" "$4" "$5"
    exit
fi
odd=$(mktemp -d)
cat >"$odd/odd.plan" <<'END'
plan "An unknown handset"
board mega328
receiver on pin 8
protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, one 500 1500, ditto 2000, toggle bit 3
handset torch from "torch.csv"
relay spot on pin 4, on a relay board
when torch.a pressed: spot toggle
END
printf 'key,protocol,address,command\na,torch,3,0x1230\nb,torch,3,0x1a30\nc,torch,3,0x9990\n' >"$odd/torch.csv"
printf 'at_ms,handset,key,held_ms\n' >"$odd/presses.csv"
for press in a a b b c c; do
    at=$((${at:-0} + 900))
    echo "$at,torch,$press,240" >>"$odd/presses.csv"
done
dromikos rehearse --jitter 25 --record torch.vcd "$odd/odd.plan" "$odd/presses.csv" >"$odd/shown"
printf 'at_ms,handset,key,held_ms\n' >"$odd/presses.csv"
for press in power power menu exit menu menu exit exit; do
    at=$((at + 900))
    echo "$at,wand,$press,90" >>"$odd/presses.csv"
done
dromikos rehearse --record wand.vcd examples/lantern/lantern.plan "$odd/presses.csv" >"$odd/shown"

cat >"$odd/ear.sh" <<END
cd "$odd"
say() { printf '%s\\n' "\$*"; }
dromikos ear --board mega328 --receiver 8 --into my-ear
say; say '\$ make -C my-ear'
make --no-print-directory -C my-ear | tail -n 4
say; say '\$ dromikos listen ttyUSB0'
serial_chip >line & read -r line <line; ln -s "\$line" ttyUSB0
dromikos listen ttyUSB0
END
mkfifo "$odd/line"
take ear 125x40 "sh $odd/ear.sh" "dromikos ear --board mega328 --receiver 8 --into my-ear"
take listen 125x40 "dromikos listen --sheet examples/lantern/wand.csv examples/lantern/presses.vcd"
take rehearse 142x58 "dromikos rehearse examples/lantern/lantern.plan examples/lantern/presses.csv | head -n 54"
take enrol 125x9 "dromikos enrol wand.vcd mains list way_out"
take infer 125x7 "dromikos infer --name torch torch.vcd"
take vet 134x36 "dromikos vet examples/lantern/lantern.plan"
take evening 142x60 "dromikos rehearse examples/lantern/stage.plan examples/lantern/stage.csv | head -n 54"
take cues 125x40 "dromikos rehearse examples/scenes/cues.plan examples/scenes/cues.csv"
take curtain 125x36 "dromikos rehearse examples/scenes/curtain.plan examples/scenes/curtain.csv"
# shellcheck disable=SC2016 # the session knows where its work is
take play 110x32 '(sleep 17; touch "$work/done") & LC_ALL=C.UTF-8 TERM=xterm-256color dromikos play --light \
    --script examples/lantern/stage.csv examples/lantern/stage.plan'
take chip 142x50 "cat docs/bench-chip.txt"
take bench 144x36 "build/bench_receive 0 | head -n 31"
dromikos chart --chip --into docs/screenshots/timeline.png examples/lantern/stage.plan examples/lantern/stage.csv
dromikos chart --into docs/screenshots/wiring.png examples/lantern/stage.plan
dromikos chart --press 1 --into docs/screenshots/waveform.png examples/lantern/presses.vcd
build/bench_receive curves >"$odd/curves.csv"
dromikos chart --into docs/screenshots/curves.png "$odd/curves.csv"
dromikos chart --into docs/screenshots/chip-curves.png docs/bench-chip.csv
rm -r "$odd" torch.vcd wand.vcd
