#!/bin/sh
# What each part of the theatre costs in flash: its plan, built up from a receiver of one protocol and three relays. Needs
# build/dromikos and avr-gcc.
set -eu
cd "$(dirname "$0")/../.."
lantern=examples/lantern/lantern.plan
out=build/avr/flash
mkdir -p $out
cp examples/lantern/*.csv $out
before=0

# grow WHAT 'LINES THAT ARE LEFT OUT' 'WORDS THAT ARE LEFT OUT OF THE OTHERS'
grow() {
    grep -vE "$2" $lantern | sed -E "s/$3//g; s/; *$//" >$out/part.plan
    sh ports/avr/build.sh $out/part.plan $out/part.elf
    size=$(avr-size $out/part.elf | awk 'NR == 2 { print $1 + $2 }')
    more=
    if [ "$before" != 0 ]; then more=$(printf '%+6d' $((size - before))); fi
    printf '%-44s %6d  %s\n' "$1" "$size" "$more"
    before=$size
}

printf '%-44s %6s\n' "bytes of flash, of an ATmega328P's 32768" ""
fades='house fade to [0-9]+ % over [0-9] s;?'
chases='footlights (chase|off);?'
grow "one protocol (nec), three relays" '^handset drawer|drawer\.|house (br|di)|^lamp|revolve  *on|revolve turn|footlights  *on|footlights fill|blue pressed|^palette|^sender|horn' \
    " *($fades|$chases|revolve stop;)"
grow "eight protocols" '^lamp|house (br|di)|revolve  *on|revolve turn|footlights  *on|footlights fill|blue pressed|^palette|^sender|horn' \
    " *($fades|$chases|revolve stop;)"
grow "and a lamp" 'revolve  *on|revolve turn|footlights  *on|footlights fill|blue pressed|^palette|^sender|horn' \
    " *($chases|revolve stop;)"
grow "and a stepper" 'footlights  *on|footlights fill|blue pressed|^palette|^sender|horn' " *$chases"
grow "and a strip" '^sender|horn' 'nothing'
grow "and a sender: the theatre" '^nothing' 'nothing'
