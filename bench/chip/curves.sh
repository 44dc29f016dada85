#!/bin/sh
# The figures of the chip's table that have a budget, in percent of it, against the pixels of the strip: as CSV of points for
# 'dromikos chart'. curves.sh [PRESSES, 100 unless given] [PIXELS ...]. Needs what run.sh needs; three minutes on two cores.
set -eu
presses=${1-100}
[ $# -lt 1 ] || shift
sizes=${*:-10 30 60 90 120 150}
for number in $presses $sizes; do
    case $number in
    0* | *[!0-9]* | ????*)
        echo "curves.sh: '$number' is no number from 1 to 999: curves.sh [PRESSES] [PIXELS ...]" >&2
        exit 2
        ;;
    esac
done
for pixels in $sizes; do
    [ "$pixels" -le 150 ] || { echo "curves.sh: the chip's RAM holds 150 pixels beside all the rest, not $pixels" >&2; exit 2; }
done
cd "$(dirname "$0")/../.."
out=build/avr/curves
rm -rf $out
mkdir -p $out

# measure PIXELS shielded|unshielded
measure() {
    folder=$out/$1-$2
    mkdir -p "$folder"
    sed "s/60 pixels/$1 pixels/; s|\"keys.csv\"|\"../../../../bench/chip/keys.csv\"|; s|\"../../examples|\"../../../../examples|" \
        bench/chip/stage.plan >"$folder/stage.plan"
    [ "$2" = shielded ] || sed -i 's/, shielded//; s/horn hold hall.volume_up/horn send hall.volume_up 255 times/' "$folder/stage.plan"
    sh ports/avr/build.sh "$folder/stage.plan" "$folder/stage.elf"
    avr-nm -P -t x "$folder/stage.elf" >"$folder/stage.elf.nm"
    # What is over a budget is drawn so: that is what is wanted here.
    $out/chip-"$1" "$folder/stage.elf" "$presses" "$2" 8 2>"$folder/said" >"$folder/all" || [ $? = 1 ]
    awk -F '\t' -v at="$1" -v curve="$2" '
        BEGIN {
            name["keys heard, of those pressed"] = "keys heard"
            name["longest that the strip stands still"] = "the strip stands still"
            name["last informative edge to relay, worst"] = "last edge to relay"
            name["drom_engine_poll(), worst"] = "worst poll"
            name["capture interrupt, worst"] = "capture interrupt"
            name["longest gap in the strip\047s data"] = "gap within a refresh"
            name["between steps, shortest"] = "shortest step"
            name["between steps, longest"] = "longest step"
        }
        $1 in name && $2 != "-" {
            last = split($2, part, " of ")
            printf "\"%s, of %s\",%s,%s,%.1f\n", name[$1], $3, curve, at, 100 * part[1] / (last > 1 ? part[2] : $3 + 0)
        }' "$folder/all" >"$folder/points"
    [ -s "$folder/points" ] || { cat "$folder/said" >&2; return 1; }
}

for pixels in $sizes; do
    sh bench/chip/simulator.sh $out/chip-"$pixels" "$pixels"
    measure "$pixels" shielded &
    ours=$!
    measure "$pixels" unshielded
    wait $ours
    echo "curves.sh: $pixels pixels are measured" >&2
done
echo "figure,x,y,curve,at,value"
for pixels in $sizes; do
    cat "$out/$pixels-shielded/points" "$out/$pixels-unshielded/points"
done | sed 's/^"[^"]*",/&pixels of the strip,the chip: percent of each budget,/'
