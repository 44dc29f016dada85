#!/bin/sh
# What the chip can stand: bench/chip/run.sh PRESSES [quick]. The library shielded and unshielded, and the textbook's way
# on the same chip with the same presses; with 'quick' the library alone. Needs build/dromikos and the packages of './run
# test'. Ends with 1 where the library is worse than it has been.
set -eu
presses=$1
cd "$(dirname "$0")/../.."
out=build/avr
mkdir -p $out
sh ports/avr/build.sh bench/chip/stage.plan $out/stage.elf
sed 's/, shielded//' bench/chip/stage.plan >$out/open.plan
sed -i 's|"keys.csv"|"../../bench/chip/keys.csv"|; s|"../../examples|"../../examples|' $out/open.plan
sh ports/avr/build.sh $out/open.plan $out/open.elf
avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -Wall -Wextra bench/chip/textbook.c -o $out/textbook.elf
for program in stage open textbook; do
    avr-nm -P -t x $out/$program.elf >$out/$program.elf.nm
done
# libsimavr asks for libelf by itself; its headers are not needed.
# shellcheck disable=SC2046
cc -std=gnu11 -O3 -Wall -Wextra -Werror -Iinclude -Iports/sim -Ibench/chip $(pkg-config --cflags glib-2.0) bench/chip/chip.c \
    bench/chip/main.c build/libdromikos_sim.a build/libdromikos_core.a -o $out/chip \
    -Wl,--unresolved-symbols=ignore-in-shared-libs -lsimavr $(pkg-config --libs glib-2.0) -lm
$out/chip $out/stage.elf "$presses" shielded >$out/shielded.txt &
ours=$!
good=0
$out/chip $out/open.elf "$presses" unshielded >$out/unshielded.txt || good=1
wait $ours || good=1
if [ "${2-}" = quick ]; then
    cp $out/shielded.txt $out/textbook.txt
else
    # A thousand show enough of it.
    $out/chip $out/textbook.elf "$((presses < 1000 ? presses : 1000))" shielded >$out/textbook.txt 2>/dev/null || true
fi
grep -hv '^Loaded' $out/shielded.txt >$out/1.txt
grep -hv '^Loaded' $out/unshielded.txt >$out/2.txt
grep -hv '^Loaded' $out/textbook.txt >$out/3.txt
if [ "${2-}" = quick ]; then
    head=""
    paste $out/1.txt $out/2.txt >$out/all.txt
else
    head="the textbook's way"
    paste $out/1.txt $out/2.txt $out/3.txt >$out/all.txt
fi
printf '%-40s %-22s %-22s %-22s %s\n' "" "shielded" "unshielded" "$head" "budget"
awk -F '\t' '{ printf "%-40s %-22s %-22s %-22s %s\n", $1, $2, $5, $8, $3 }' $out/all.txt
exit $good
