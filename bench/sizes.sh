#!/bin/sh
# Flash and RAM of plans on an ATmega328P: sizes.sh fit PLANS measures this number of plans and writes plan/vet/costs.def; sizes.sh
# check PLANS measures others, and fails if an estimate is off by more than 4 % or 300 bytes. Needs build/dromikos, build/bench_sizes and avr-gcc.
set -eu
cd "$(dirname "$0")/.."
what=$1
count=$2
out=build/sizes-$what
rm -rf "$out"
mkdir -p "$out"
case $what in fit) first=1 ;; *) first=900000 ;; esac
build/bench_sizes draw $first "$count" "$out"
link=$(printf -- '-Wl,--defsym=%s\n' __TEXT_REGION_LENGTH__=0x20000 __DATA_REGION_LENGTH__=0x4000)
link="$link
-Wl,--unresolved-symbols=ignore-all"
# Larger than the chip is no fault here; functions of one's own needn't be there.
size_of() { # FOLDER [PLAN]
    folder=$1
    plan=${2-$folder/drawn.plan}
    mkdir -p "$folder/built"
    ANYWAY=1 LINK="$link" sh ports/avr/build.sh "$plan" "$folder/built/it.elf" >"$folder/said" 2>&1 || { echo "sizes.sh: $folder: $(tail -n 3 "$folder/said")" >&2; return 0; }
    echo "$plan $(avr-size "$folder/built/it.elf" | awk 'NR == 2 { print $1 + $2, $2 + $3 }')"
    rm -rf "$folder/built"
}
# Two at a time.
half() {
    i=$1
    while [ "$i" -lt "$count" ]; do
        size_of "$out/$i"
        i=$((i + 2))
    done
}
half 0 >"$out/even" &
half 1 >"$out/odd"
wait
# The examples, too: they are what makers begin with, and so count for more.
for plan in examples/*/*.plan; do
    grep -q '^board mega32u4' "$plan" || size_of "$out/example" "$plan"
done >"$out/examples"
cat "$out/even" "$out/odd" "$out/examples" >"$out/sizes"
if [ "$what" = fit ]; then
    for _ in 1 2 3 4 5; do cat "$out/examples"; done >>"$out/sizes"
    build/bench_sizes fit "$out/sizes" >"$out/costs.def"
    cp "$out/costs.def" plan/vet/costs.def
    wc -l <plan/vet/costs.def
else
    build/bench_sizes check "$out/sizes"
fi
