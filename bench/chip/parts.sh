#!/bin/sh
# What each thing that a plan can say costs on an ATmega328P: the first of it, with the code that it needs, and one more of the
# same. Against a plan of one protocol, one relay and one rule. Needs build/dromikos and avr-gcc; takes three minutes.
set -eu
cd "$(dirname "$0")/../.."
out=build/avr/parts
mkdir -p $out
printf 'key,protocol,address,command\na,nec,33,1\nb,nec,33,2\n' >$out/wand.csv

# size LINES: flash and RAM, in $flash and $ram
size() {
    {
        printf 'plan "Parts"\nboard mega328\nreceiver on pin 8\nhandset wand from "wand.csv"\nrelay spot on pin 4\n'
        printf '%s\n' "$1"
        printf 'when wand.a pressed: spot toggle\n'
    } >$out/part.plan
    ANYWAY=1 sh ports/avr/build.sh $out/part.plan $out/part.elf 2>$out/said || { cat $out/said >&2; exit 1; }
    # shellcheck disable=SC2046 # two numbers
    set -- $(avr-size $out/part.elf | awk 'NR == 2 { print $1 + $2, $2 + $3 }')
    flash=$1
    ram=$2
}

# part WHAT LINES MORE-LINES
part() {
    size "$2"
    first_flash=$flash
    first_ram=$ram
    size "$2
$3"
    printf '%-44s %+7d %+6d    %+7d %+6d\n' "$1" $((first_flash - base_flash)) $((first_ram - base_ram)) \
        $((flash - first_flash)) $((ram - first_ram))
}

size ''
base_flash=$flash
base_ram=$ram
printf '%-44s %7s %6s    %7s %6s\n' "bytes of an ATmega328P" flash RAM flash RAM
printf '%-44s %7d %6d\n' "one protocol, one relay, one rule" "$base_flash" "$base_ram"
printf '%-44s %14s    %14s\n' "" "the first" "one more"
part 'relay, of the same kind' 'relay bell on pin 7
when wand.b pressed: bell toggle' 'relay fog on pin 12
when wand.b released: fog toggle'
part lamp 'lamp house on pin 5
when wand.b pressed: house toggle' 'lamp hall on pin 6
when wand.b released: hall toggle'
part 'lamp of three pins' 'lamp moon on pins 5 6 11
when wand.b pressed: moon colour red' 'lamp star on pins 9 10 3
when wand.b released: star colour blue'
part servo 'servo flag on pin 9
when wand.b pressed: flag go to 90 degrees' 'servo mast on pin 10
when wand.b released: mast go to 90 degrees'
part stepper 'stepper disc on pins A0 A1 A2 A3
when wand.b pressed: disc turn 1 turn' 'stepper ring on pins 9 10 11 12
when wand.b released: ring turn 1 turn'
part 'strip of 10 pixels' 'strip foot on pin 6, 10 pixels
when wand.b pressed: foot fill red' 'strip head on pin 7, 10 pixels
when wand.b released: head fill red'
part 'the same, and a part of it' 'strip foot on pin 6, 10 pixels
part tip of foot, pixels 0 to 3
when wand.b pressed: tip fill red' 'part end of foot, pixels 4 to 9
when wand.b released: end fill red'
part sender 'sender horn on pin 3
when wand.b pressed: horn send wand.a' 'when wand.b released: horn send wand.b'
part 'motor, and the guard' 'motor fan on pins 9 and 10, speed on pin 5
when wand.b pressed: fan toggle' 'motor fin on pins 11 and 12, speed on pin 6
when wand.b released: fin toggle'
part 'drive of two motors' 'motor fan on pins 9 and 10, speed on pin 5
motor fin on pins 11 and 12, speed on pin 6
drive wagon of fan and fin
when wand.b pressed: wagon forward 50 %' 'when wand.b released: wagon stop'
part 'only one of' 'relay bell on pin 7
relay fog on pin 12
when wand.b pressed: bell toggle; fog toggle
only one of spot, bell' 'when wand.b released: fog off'
part 'a rule of one order' 'when wand.b pressed: spot on' 'when wand.b released: spot off'
part 'an order while held' 'when wand.b pressed: spot on while held' 'when wand.a released: spot off'
part 'mode' 'mode show
mode dark
when wand.b pressed: mode dark
when wand.b pressed in dark: mode show' 'mode dusk
when wand.b released: mode dusk'
part 'value' 'value cue from 0 to 9
when wand.b pressed: cue up' 'value act from 0 to 9
when wand.b released: act up'
part 'value that is kept' 'value cue from 0 to 9, kept
when wand.b pressed: cue up' 'value act from 0 to 9, kept
when wand.b released: act up'
part 'condition' 'when wand.b pressed if spot is on: spot off' 'when wand.b released if spot is off: spot on'
part 'timer' 'timer nap
when wand.b pressed: nap start 2 s
when nap ends: spot off' 'timer rest
when wand.b released: rest start 2 s
when rest ends: spot off'
part 'sequence (a wait)' 'when wand.b pressed: spot on; wait 1 s; spot off' 'when wand.b released: spot on; wait 1 s; spot off'
part 'scene' 'scene dusk: spot off
when wand.b pressed: dusk' 'scene dawn: spot on
when wand.b released: dawn'
part 'switch' 'switch top on pin A4
when top closes: spot off' 'switch low on pin A5
when low closes: spot off'
part 'any code heard' 'when any code heard: spot on' 'when wand.b released: spot off'
