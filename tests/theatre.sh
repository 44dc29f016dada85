#!/bin/sh
# The theatre's plan in a simulated ATmega328P, observed at its pins; and the faults that such a program must not have. Needs
# build/dromikos. With 'build' it builds the programs and doesn't run them.
set -eu
cd "$(dirname "$0")/.."
out=build/avr
mkdir -p $out/orders

# program PLAN OUTPUT: and its symbols.
program() {
    elf=$out/$2
    sh ports/avr/build.sh "$1" "$elf"
    avr-nm -P -t x "$elf" >"$elf.nm"
}
lantern=examples/lantern/lantern.plan
program $lantern lantern.elf
# The receiver on a pin that no timer latches, whose edges an interrupt stamps.
mkdir -p $out/pin2
cp examples/lantern/*.csv $out/pin2
sed 's/^receiver on pin 8/receiver on pin 2/' $lantern >$out/pin2/lantern.plan
program $out/pin2/lantern.plan pin2/lantern.elf
MAIN=tests/avr/orders.c program $lantern orders/lantern.elf
# A lamp alone: in the simulator a write to a port disturbs the PWM of its other pins, which no chip does.
{
    grep -E '^(plan|board|receiver|handset wand|lamp)' $lantern | sed 's|"wand.csv"|"../../../examples/lantern/wand.csv"|'
    echo 'when wand.power pressed: house toggle'
} >$out/orders/lamp.plan
MAIN=tests/avr/orders.c program $out/orders/lamp.plan orders/lamp.elf
{
    grep -E '^(plan|board|receiver|handset wand)' $lantern | sed 's|"wand.csv"|"../../../examples/lantern/wand.csv"|'
    echo 'motor curtain on pins 7 and 12, speed on pin 5, through driver, supply 6 V 2 A'
    echo 'motor aside on pins A0 and A1, speed on pin 6, through driver, supply 6 V 2 A'
    echo 'drive wagon of curtain and aside'
    echo 'relay spot on pin 4, on a relay board'
    echo 'relay bell on pin 9, on a relay board'
    echo 'only one of spot, bell, pause 100 ms'
    echo 'when wand.power pressed: wagon spin left 50 %; spot on'
    echo 'value cue from 0 to 9, starts at 4, kept'
    echo 'when wand.play pressed: wagon back 80 %; bell on; cue up'
} >$out/orders/motor.plan
MAIN=tests/avr/orders.c program $out/orders/motor.plan orders/motor.elf

# A motor with an end switch, and an event that own code posts; a stepper for each point of a grid.
beginning=$(grep -E '^(plan|board|receiver|handset wand)' $lantern | sed 's|"wand.csv"|"../../../examples/lantern/wand.csv"|')
{
    echo "$beginning"
    echo 'switch top on pin 11'
    echo 'motor curtain on pins 7 and 12, speed on pin 5, stops forward at top, through driver, supply 6 V 2 A'
    echo 'relay spot on pin 4, on a relay board'
    echo 'value count from 0 to 9, wraps'
    echo 'event sensor'
    echo 'when sensor: count up; spot toggle'
    echo 'when count changes: spot toggle'
    echo 'when wand.power pressed: curtain run'
} >$out/orders/ends.plan
MAIN=tests/avr/orders.c program $out/orders/ends.plan orders/ends.elf
grid="50/50 50/500 50/2000 400/50 400/500 400/2000 1500/150 1500/500 1500/2000"
for point in $grid; do
    folder=$out/orders/brake-${point%/*}-${point#*/}
    mkdir -p "$folder"
    {
        echo "$beginning" | sed 's|"../../../|"../../../../|'
        echo "stepper disc on pins A0 A2 A1 A3, up to ${point%/*} steps/s within ${point#*/} ms, through driver, supply 5 V 1 A"
        echo 'when wand.power pressed: disc run'
    } >"$folder/brake.plan"
    MAIN=tests/avr/orders.c program "$folder/brake.plan" "${folder#"$out/"}/brake.elf"
done

# Nothing but two relays, for a receiver of each kind.
for pin in 8 2; do
    mkdir -p $out/spikes-$pin
    {
        echo "$beginning" | sed "s/on pin 8/on pin $pin/"
        echo 'relay spot on pin 4, on a relay board'
        echo 'relay bell on pin 7, on a relay board'
        echo 'when wand.power pressed: spot toggle'
        echo 'when wand.play pressed: bell toggle'
    } >$out/spikes-$pin/spikes.plan
    program $out/spikes-$pin/spikes.plan spikes-$pin/spikes.elf
done

# drive PROGRAM SOURCES...: what drives a simulated chip.
drive() {
    driver=$1
    shift
    # libsimavr asks for libelf by itself; its headers are not needed.
    cc -std=gnu11 -O3 -Wall -Wextra -Werror -Iinclude -Iports/sim -Ibench/chip bench/chip/chip.c bench/chip/symbols.c tests/avr/press.c tests/avr/wishes.c "$@" \
        build/libdromikos-sim.a build/libdromikos.a -o $out/"$driver" -Wl,--unresolved-symbols=ignore-in-shared-libs \
        -lsimavr -lglib-2.0 -lm
}
drive theatre tests/avr/theatre.c
drive faults tests/avr/faults.c
drive ends tests/avr/ends.c
drive spikes tests/avr/spikes.c
drive ear tests/avr/ear.c tests/terminal.c

if [ "${1-}" = build ]; then
    exit 0
fi

# run NAME COMMAND...: says what is wrong, too, where it ends with anything but 0.
run() {
    printed=$out/$1.txt
    shift
    "$@" >"$printed" 2>&1 || echo "WRONG" >>"$printed"
}
{
    run pin2 $out/theatre $out/pin2/lantern.elf 2 20480 27816
    run stop $out/faults stop $out/orders/lantern.elf
    run lamp $out/faults lamp $out/orders/lamp.elf
    run hang $out/faults hang $out/orders/motor.elf
    run ends $out/ends motor $out/orders/ends.elf
    run spikes-2 $out/spikes $out/spikes-2/spikes.elf 2 7
} &
run pin8 $out/theatre $out/lantern.elf 8 20480 27792
run spikes-8 $out/spikes $out/spikes-8/spikes.elf 8 3
run wrap $out/faults wrap $out/lantern.elf
for point in $grid; do
    run "brake-${point%/*}-${point#*/}" $out/ends brake "$out/orders/brake-${point%/*}-${point#*/}/brake.elf" "${point%/*}" "${point#*/}"
done
wait
cat $out/spikes-*.txt >$out/spikes.txt
cat $out/brake-*.txt >$out/brake.txt
# show NAME WHAT
show() {
    echo "$2:"
    grep -v '^Loaded' $out/"$1".txt
}
show pin8 "the theatre, its receiver on pin 8"
show pin2 "the theatre, its receiver on pin 2"
show wrap "the clock at the end of its range"
show stop "stops"
show lamp "the lamp's levels"
show hang "a program that hangs, with a motor and a value that is kept"
show ends "a motor at its switch, while own code posts"
show spikes "flickers of light of 1 to 60 us"
show brake "a stepper brakes"
if grep -q WRONG $out/pin8.txt $out/pin2.txt $out/wrap.txt $out/stop.txt $out/lamp.txt $out/hang.txt $out/ends.txt $out/spikes.txt $out/brake.txt; then
    exit 1
fi
