#!/bin/sh
# Compiles the core for the chips with warnings as errors, and prints what each room takes. The argument is a folder
# for the objects.
set -eu
out=$1
cd "$(dirname "$0")/.."
mkdir -p "$out"
warnings="-Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror"
rooms="receive protocols encode keys events rules outputs timing store check engine"

# compile CHIP COMPILER FLAGS...: each unit into its room's folder.
compile() {
    chip=$1
    shift
    for room in $rooms; do
        mkdir -p "$out/$chip/$room"
        for unit in src/"$room"/*.c; do
            # shellcheck disable=SC2086
            "$@" $warnings -Os -ffreestanding -ffunction-sections -fdata-sections -c "$unit" \
                -o "$out/$chip/$room/$(basename "$unit" .c).o"
        done
    done
    # shellcheck disable=SC2086
    "$@" $warnings -Os -ffreestanding -Iinclude -c tests/footprint.c -o "$out/$chip/footprint.o"
}

# sum SIZE COLUMN OBJECTS...: of what the chip's size tool says.
sum() {
    size=$1
    column=$2
    shift 2
    "$size" "$@" | awk -v column="$column" 'NR > 1 { total += $column } END { print total + 0 }'
}

compile atmega328p avr-gcc -std=gnu11 -mmcu=atmega328p -DDROM_PROFILE_ALL
compile cortex-m0 arm-none-eabi-gcc -std=c11 -mcpu=cortex-m0 -mthumb

# No heap, and no floating point.
if avr-nm -u "$out"/atmega328p/*/*.o | grep -E ' U (malloc|calloc|realloc|free|__(add|sub|mul|div|cmp|gt|ge|lt|le|eq|ne)sf[23]|__(float|fix))'; then
    echo "chips.sh: the core uses a heap or floating point, as above" >&2
    exit 1
fi

# With each switch off, on its own.
sed -n 's/^DROM_\(FEATURE\|OPTION\)(\([A-Z_]*\),.*/\2/p' include/dromikos/features.def.h | while read -r feature; do
    off=-DDROM_WITH_$feature=0
    [ "$feature" != TIMED_EDGES ] || off="$off -DDROM_WITH_CARRIER=0"
    find src -name '*.c' | while read -r unit; do
        # shellcheck disable=SC2086
        cc -std=c11 $warnings -fsyntax-only -ffreestanding $off "$unit" || { echo "chips.sh: $unit, with $off" >&2; exit 1; }
    done
done
printf '%-10s  %18s  %18s\n' "" "ATmega328P" "Cortex-M0"
printf '%-10s  %9s %8s  %9s %8s\n' room flash static flash static
for room in $rooms; do
    printf '%-10s  %9s %8s  %9s %8s\n' "$room" \
        "$(sum avr-size 1 "$out/atmega328p/$room"/*.o)" \
        "$(($(sum avr-size 2 "$out/atmega328p/$room"/*.o) + $(sum avr-size 3 "$out/atmega328p/$room"/*.o)))" \
        "$(sum arm-none-eabi-size 1 "$out/cortex-m0/$room"/*.o)" \
        "$(($(sum arm-none-eabi-size 2 "$out/cortex-m0/$room"/*.o) + $(sum arm-none-eabi-size 3 "$out/cortex-m0/$room"/*.o)))"
done

# The core has no static data: its memory is what a plan declares, piece by piece.
size_of() { echo $((0x$("$1" -S "$2" | awk -v name="$3" '$4 == name { print $2; exit }'))); }
printf '\n%-28s  %10s  %9s\n' "RAM of" ATmega328P Cortex-M0
for piece in $(avr-nm "$out/atmega328p/footprint.o" | awk '$2 == "B" || $2 == "C" { print $3 }' | sort); do
    printf '%-28s  %10s  %9s\n' "$(echo "$piece" | tr _ ' ')" \
        "$(size_of avr-nm "$out/atmega328p/footprint.o" "$piece")" \
        "$(size_of arm-none-eabi-nm "$out/cortex-m0/footprint.o" "$piece")"
done
