#!/bin/sh
# What the chip can stand: bench/chip/run.sh PRESSES [quick]. The library with the sender shielded, unshielded, and with the
# receiver on a pin whose edges an interrupt stamps; and the textbook's way, on the same chip with the same presses. With
# 'quick' the library alone. Needs build/dromikos and the packages of './run test'. Ends with 1 where a figure is over its
# budget; of RAM and flash, where it is more than it has been.
set -eu
presses=${1-}
case $presses in
'' | 0* | *[!0-9]*)
    echo "run.sh: say how many presses, 1 or more: bench/chip/run.sh PRESSES [quick]" >&2
    exit 2
    ;;
esac
cd "$(dirname "$0")/../.."
out=build/avr
mkdir -p $out
sh ports/avr/build.sh bench/chip/stage.plan $out/stage.elf
# Where our receiver hears what we send a held key ends with the first frame of a handset: there it is presses.
sed 's/, shielded//; s/horn hold hall.volume_up/horn send hall.volume_up 255 times/' bench/chip/stage.plan >$out/open.plan
sed -i 's|"keys.csv"|"../../bench/chip/keys.csv"|; s|"../../examples|"../../examples|' $out/open.plan
sh ports/avr/build.sh $out/open.plan $out/open.elf
mkdir -p $out/stamped
sed 's/^receiver on pin 8/receiver on pin 2/; s|"keys.csv"|"../../bench/chip/keys.csv"|' bench/chip/stage.plan >$out/stamped/stage.plan
sed -i 's|"../../bench|"../../../bench|; s|"../../examples|"../../../examples|' $out/stamped/stage.plan
sh ports/avr/build.sh $out/stamped/stage.plan $out/stamped/stage.elf
cp $out/stamped/stage.elf $out/stamped.elf
# The same plan with as many codes and rules as fit: 255 and 255.
crowd=$out/crowded
mkdir -p $crowd
awk '{ print } END { for (i = NR; i < 256; i++) printf "more_%d,nec,51,%d,\n", i, i * 7 % 256 }' bench/chip/keys.csv >$crowd/keys.csv
cp examples/lantern/hall-amplifier.csv $crowd/
awk '{ gsub("../../examples/lantern/", ""); print }
    END { for (i = 17; i < 255; i++) printf "when all.more_%d pressed: odd toggle\n", i }' bench/chip/stage.plan >$crowd/stage.plan
sh ports/avr/build.sh $crowd/stage.plan $crowd/stage.elf
cp $crowd/stage.elf $out/crowded.elf
avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -Wall -Wextra bench/chip/textbook.c -o $out/textbook.elf
for program in stage open stamped crowded textbook; do
    avr-nm -P -t x $out/$program.elf >$out/$program.elf.nm
done
sh bench/chip/simulator.sh $out/chip

# measure COLUMN PROGRAM PRESSES shielded|unshielded PIN
measure() {
    status=0
    $out/chip $out/"$2".elf "$3" "$4" "$5" >$out/"$1".all || status=$?
    grep -v '^Loaded' $out/"$1".all >$out/"$1".column
    return $status
}

# A thousand of the others show enough of them.
fewer=$((presses < 1000 ? presses : 1000))
good=0
measure 1 stage "$presses" shielded 8 &
ours=$!
measure 2 open "$presses" unshielded 8 || good=1
measure 3 stamped "$fewer" shielded 2 || good=1
measure crowded crowded "$((fewer < 300 ? fewer : 300))" shielded 8 || true # its flash is over the budget, since it holds so much
if [ "${2-}" = quick ]; then
    sed 's/\t.*\t/\t\t/' $out/3.column >$out/4.column
    textbook=""
else
    measure 4 textbook "$fewer" shielded 8 2>/dev/null || true
    textbook="the textbook's way"
fi
wait $ours || good=1
printf '%-40s %-18s %-18s %-18s %-20s %s\n' "" "shielded" "unshielded" "receiver on pin 2" "$textbook" "budget"
# A figure that is the more the worse, and is over its budget, has a "!".
# shellcheck disable=SC2016 # the fields are awk's
mark='function marked(text) {
    return $1 ~ /longest|worst|^RAM|^stack|^flash|lost|wrong|not pressed|read/ && $1 !~ /steps,/ && text != "" && text != "-" && $3 ~ /^[0-9]/ && text + 0 > $3 + 0 ? text " !" : text
}'
paste $out/1.column $out/2.column $out/3.column $out/4.column |
    awk -F '\t' "$mark"' { printf "%-40s %-18s %-18s %-18s %-20s %s\n", $1, marked($2), marked($5), marked($8), $11, $3 }'
# with_255 FIGURE: the same figure of the crowded plan.
with_255() {
    awk -F '\t' -v figure="$1" "$mark"' $1 == figure { printf "%-40s %-18s %-18s %-18s %-20s %s\n", $1, marked($2), "", "", "", $3 }' $out/crowded.column
}
echo "the same with 255 codes and 255 rules:"
with_255 "keys heard, of those pressed"
with_255 "drom_engine_poll(), worst"
with_255 "last informative edge to relay, worst"
with_255 "flash"
for figure in "drom_engine_poll(), worst" "last informative edge to relay, worst"; do
    with_255 "$figure" | awk '{ match($0, /[0-9]+ us/); used = substr($0, RSTART) + 0; if (used > ($(NF - 1) == 3500 ? 4500 : $(NF - 1))) exit 1 }' || good=1
done
echo "! over its budget"
exit $good
