#!/bin/sh
# Twenty pairs of protocols, one in the hand and one that is sent: a key that is held, and two quick taps. Writes a plan and a script
# for each into a folder, for tests/same.sh.
set -eu
out=$1
rm -rf "$out"
mkdir -p "$out"
number=0
while read -r from address command to other_address other_command; do
    number=$((number + 1))
    name=pair$number
    printf 'key,protocol,address,command\na,%s,%s,%s\n' "$from" "$address" "$command" >"$out/$name-hand.csv"
    printf 'key,protocol,address,command\na,%s,%s,%s\n' "$to" "$other_address" "$other_command" >"$out/$name-hall.csv"
    cat >"$out/$name.plan" <<END
plan "$from to $to"
board mega328 at 16 MHz
receiver on pin 8
handset hand from "$name-hand.csv"
handset hall from "$name-hall.csv"
sender horn on pin 3, through driver
relay spot on pin 4, on a relay board
when hand.a pressed: spot toggle
translate hand to hall on horn: a as a
END
    printf 'at_ms,handset,key,held_ms,expect\n500,hand,a,100,\n1500,hand,a,1000,\n3500,,,,SENDER\n4000,hand,a,0,\n4600,hand,a,0,\n6000,,,,END\n' |
        sed 's/SENDER/horn sent hall.a 2 times/; s/END/horn sent hall.a 4 times/' >"$out/$name.csv"
done <<'END'
nec 4 70 samsung32 7 11
nec 33 24 sirc12 3 21
nec_extended 1234 7 rc5 4 12
nec_unchecked 1234 4321 nec 9 99
samsung32 4 70 nec 9 99
samsung32 4 70 samsung32 7 11
lg28 16 4660 jvc 12 34
jvc 4 70 rc6 4 12
kaseikyo 160 61 nec 9 99
denon 8 34 samsung32 7 11
sharp 8 34 rc5 4 12
rca 5 70 nec 9 99
mitsubishi 71 7 kaseikyo 160 61
dish 324 36 samsung32 7 11
thomson 4 20 lg28 16 4660
recs80 3 21 nec 9 99
sirc12 3 21 nec 9 99
sirc20 300 21 rcmm24 1234 56
rc5 4 12 dish 324 36
nrc17 20 12 mitsubishi 71 7
END
