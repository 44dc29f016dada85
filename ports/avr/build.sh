#!/bin/sh
# Builds a plan for its board, one with an AVR chip: ports/avr/build.sh PLAN OUTPUT.elf [YOUR.c]. YOUR.c has the functions that the plan calls.
# Needs build/dromikos and avr-gcc. Beside the output lie the same as Intel HEX, what is baked, and a copy of the library with the
# drom_config.h that was baked. MAIN is another main.c than ports/avr/main.c; with ANYWAY a plan is built that vet says would not
# work; LINK are more options of the linker, one a line.
set -eu
if [ $# != 2 ] && [ $# != 3 ]; then
    echo "build.sh: say which plan, and what to build: ports/avr/build.sh PLAN OUTPUT.elf [YOUR.c]" >&2
    exit 2
fi
absolute() { case $1 in /*) printf '%s' "$1" ;; *) printf '%s' "$PWD/$1" ;; esac; }
plan=$(absolute "$1")
elf=$(absolute "$2")
main=${MAIN:+$(absolute "$MAIN")}
own=${3:+$(absolute "$3")}
name=$(basename "$plan" .plan)
folder=$(dirname "$elf")
library=$folder/$(basename "$elf" .elf)-library
if [ -n "$own" ] && [ ! -r "$own" ]; then
    echo "build.sh: $3 can't be read; it is to have the functions that the plan calls" >&2
    exit 2
fi
cd "$(dirname "$0")/../.."
if [ ! -x build/dromikos ]; then
    echo "build.sh: there is no build/dromikos yet; './run demo' builds it" >&2
    exit 2
fi
build/dromikos bake ${ANYWAY:+--anyway} --into "$folder" --name "$name" "$plan" >/dev/null
config() { sed -n "s/^#define $1 //p" "$folder/drom_config.h"; }
case $(config DROM_CHIP) in
DROM_CHIP_ATMEGA328P) mcu=atmega328p ;;
DROM_CHIP_ATMEGA32U4) mcu=atmega32u4 ;;
DROM_CHIP_ATMEGA2560) mcu=atmega2560 ;;
*)
    echo "build.sh: $1 is for a board whose chip the library has no port for; 'board uno' in the plan, for example, has one" >&2
    exit 2
    ;;
esac
mhz=$(config DROM_MHZ)
if [ "$(config DROM_WITH_HID)" = 1 ]; then
    echo "build.sh: a keyboard needs the USB of the IDE's core: build/dromikos bake --as sketch $1" >&2
    exit 2
fi
rm -rf "$library"
mkdir -p "$library/ports"
cp -R include src "$library"
cp -R ports/avr "$library/ports"
mv "$folder/drom_config.h" "$library/include/dromikos"
# main.c stands apart from the link-time optimisation, so that the engine's functions keep their names.
compile() {
    avr-gcc -std=gnu11 "-mmcu=$mcu" "-DF_CPU=${mhz}000000UL" -Os -mstrict-X -mcall-prologues -fira-algorithm=priority \
        -fshort-enums -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror -ffunction-sections -fdata-sections \
        "-I$library/include" "-I$library/ports/avr" "$@"
}
compile -c "${main:-$library/ports/avr/main.c}" -o "$folder/$name-main.o"
find "$library/src" -name '*.c' >"$library/sources"
[ -z "$own" ] || compile "-I$folder" -c "$own" -o "$folder/$name-own.o"
# shellcheck disable=SC2046,SC2086 # a word a line of the file, and of LINK: blanks in the folder's name don't matter
if ! (
    IFS='
'
    # shellcheck disable=SC2013
    compile -flto -mrelax -Wl,--gc-sections $(cat "$library/sources") "$library/ports/avr/avr.c" "$library/ports/avr/guard.c" "$library/ports/avr/store.c" "$library/ports/avr/serial.c" "$folder/${name}_plan.c" \
        "$folder/$name-main.o" ${own:+"$folder/$name-own.o"} ${LINK-} -o "$elf"
) 2>"$library/said"; then
    missing=$(sed -n "s/.*undefined reference to .\(${name}_[a-z0-9_]*\).$/\1()/p" "$library/said" | sort -u | tr '\n' ' ')
    if [ -n "$missing" ]; then
        echo "build.sh: $1 calls ${missing}of your own: ports/avr/build.sh $1 $2 YOUR.c; ${name}_plan.h declares them" >&2
    else
        cat "$library/said" >&2
    fi
    exit 1
fi
cat "$library/said" >&2
avr-objcopy -O ihex -R .eeprom "$elf" "${elf%.elf}.hex"
