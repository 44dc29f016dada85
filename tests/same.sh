#!/bin/sh
# Each example as the tool rehearses it, as it is baked, and as the program on its simulated chip: the same at all of its pins.
# Needs build/dromikos and its libraries. The arguments: a folder for what is built; 'build', and nothing is played on the chip, or
# 'play'; and another folder of plans than the examples'.
set -eu
mkdir -p "$1"
plans=${3+$(cd "$3" && pwd)}
out=$(cd "$1" && pwd)
play=${2-play}
cd "$(dirname "$0")/.."
libraries="build/libdromikos_plan.a build/libdromikos-sim.a build/libdromikos.a"
glib=$(pkg-config --cflags --libs glib-2.0)
flags="-std=gnu11 -O1 -Wall -Wextra -Werror -Itests/same -I. -Iports/sim -Iinclude"

# shellcheck disable=SC2086 # words
{
    cc $flags tests/same/rehearsed.c tests/same/bench.c tests/same/same.c -o "$out/rehearsed" $libraries -lcsv $glib -lm
    # libsimavr asks for libelf by itself; its headers are not needed.
    cc -std=gnu11 -O3 -Wall -Wextra -Werror -Ibench/chip tests/same/chip.c tests/same/same.c tests/same/host.c bench/chip/symbols.c bench/chip/mcus.c -o "$out/chip" \
        -Wl,--unresolved-symbols=ignore-in-shared-libs -lsimavr
}

# own FOLDER NAME: a function for each that the baked header declares, and the rest of the program.
own() {
    printf '#include "%s_plan.h"\n' "$2"
    sed -n 's/^void \(.*\)(int16_t value);$/void \1(int16_t value)\n{\n    (void)value;\n}/p' "$1/$2_plan.h"
}

# same PLAN SCRIPT: natively. Leaves stimulus, trace and the functions in $out/NAME.
same() {
    name=$(basename "$1" .plan)
    folder=$out/$name
    rm -rf "$folder" # nothing of an earlier run may be taken for this one's
    mkdir -p "$folder"
    "$out/rehearsed" "$1" "$2" "$folder/stimulus" >"$folder/trace" 2>"$folder/said" || {
        echo "WRONG    $name: it can't be rehearsed: $(cat "$folder/said")"
        return 1
    }
    build/dromikos bake --into "$folder" --name "$name" "$1" >>"$folder/said" || return 1
    own "$folder" "$name" >"$folder/own.c"
    rm "$folder/drom_config.h"
    # shellcheck disable=SC2086
    cc $flags "-I$folder" "-DPLAN=${name}_plan" "-DHEADER=\"${name}_plan.h\"" tests/same/baked.c tests/same/bench.c tests/same/same.c \
        "$folder/${name}_plan.c" "$folder/own.c" -o "$folder/baked" build/libdromikos-sim.a build/libdromikos.a $glib -lm || return 1
    "$folder/baked" "$folder/stimulus" >"$folder/baked-trace" || return 1
    if ! cmp -s "$folder/trace" "$folder/baked-trace" || [ ! -s "$folder/trace" ]; then
        echo "WRONG    $name: baked, it does something else than rehearsed"
        diff "$folder/trace" "$folder/baked-trace" | head -n 5
        return 1
    fi
    printf '%-8s %-10s baked as rehearsed: %d changes\n' right "$name" "$(wc -l <"$folder/trace")"
}

# on_chip PLAN: the same program on the chip.
on_chip() {
    name=$(basename "$1" .plan)
    folder=$out/$name
    { cat "$folder/own.c" ports/avr/main.c; } >"$folder/main.c"
    MAIN="$folder/main.c" sh ports/avr/build.sh "$1" "$folder/$name.elf" || return 1
    avr-nm -P -t x "$folder/$name.elf" >"$folder/$name.elf.nm" || return 1
    [ "$play" = play ] || return 0
    seconds=$(awk '/^end/ { printf "%d", $2 / 1000000 }' "$folder/stimulus")
    if [ "$seconds" -gt 200 ]; then
        printf '%-8s %-10s not played on the chip: its script takes %d s\n' left "$name" "$seconds"
        return 0
    fi
    mcu=$(sed -n 's/^#define DROM_CHIP DROM_CHIP_//p' "$folder/$name-library/include/dromikos/drom_config.h" | tr '[:upper:]' '[:lower:]')
    mhz=$(sed -n 's/^#define DROM_MHZ //p' "$folder/$name-library/include/dromikos/drom_config.h")
    if "$out/chip" "$mcu" "$mhz" "$folder/$name.elf" "$folder/stimulus" "$folder/trace" >"$folder/played"; then
        printf '%-8s %-10s on the %s at %d MHz as rehearsed: %s\n' right "$name" "$mcu" "$mhz" "$(grep -v '^Loaded' "$folder/played")"
    else
        grep -v '^Loaded' "$folder/played" | sed "s/^WRONG   /& $name:/"
        return 1
    fi
}

# one PLAN. What fails is said, since sh ends no function for it that stands before '||'.
one() {
    same "$1" "${1%.plan}.csv" || return 1
    if ! grep -q '^keyboard' "$1"; then
        on_chip "$1" || return 1
    fi
}

status=0
if [ -n "$plans" ]; then
    for plan in "$plans"/*.plan; do
        one "$plan" || status=1
    done
    exit $status
fi

# The longest goes on beside all others.
one examples/lantern/stage.plan >"$out/longest" 2>&1 &
longest=$!
for plan in examples/scenes/*.plan examples/lantern/desk.plan tests/same/boards/*.plan; do
    one "$plan" || status=1
done
wait $longest || status=1
cat "$out/longest"
exit $status
