#!/bin/sh
# Builds a plan for the board: ports/avr/build.sh PLAN OUTPUT.elf. Needs build/dromikos and avr-gcc. Beside the output lie what is
# baked, and a copy of the library with the drom_config.h that was baked. MAIN is another main.c than ports/avr/main.c.
set -eu
if [ $# != 2 ]; then
    echo "build.sh: say which plan, and what to build: ports/avr/build.sh PLAN OUTPUT.elf" >&2
    exit 2
fi
absolute() { case $1 in /*) printf '%s' "$1" ;; *) printf '%s' "$PWD/$1" ;; esac; }
plan=$(absolute "$1")
elf=$(absolute "$2")
main=${MAIN:+$(absolute "$MAIN")}
name=$(basename "$plan" .plan)
folder=$(dirname "$elf")
library=$folder/$(basename "$elf" .elf)-library
cd "$(dirname "$0")/../.."
if [ ! -x build/dromikos ]; then
    echo "build.sh: there is no build/dromikos yet; './run demo' builds it" >&2
    exit 2
fi
rm -rf "$library"
mkdir -p "$library/ports"
cp -R include src "$library"
cp -R ports/avr "$library/ports"
build/dromikos bake --into "$folder" --name "$name" "$plan" >/dev/null
mv "$folder/drom_config.h" "$library/include/dromikos"
# main.c stands apart from the link-time optimisation, so that the engine's functions keep their names.
compile() {
    avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -mstrict-X -mcall-prologues -fira-algorithm=priority \
        -fshort-enums -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror -ffunction-sections -fdata-sections \
        "-I$library/include" "-I$library/ports/avr" "$@"
}
compile -c "${main:-$library/ports/avr/main.c}" -o "$folder/$name-main.o"
find "$library/src" -name '*.c' >"$library/sources"
# shellcheck disable=SC2046 # a word a line of the file: blanks in the folder's name don't matter
(
    IFS='
'
    # shellcheck disable=SC2013
    compile -flto -mrelax -Wl,--gc-sections $(cat "$library/sources") "$library/ports/avr/avr.c" "$library/ports/avr/guard.c" "$library/ports/avr/store.c" "$library/ports/avr/serial.c" "$folder/${name}_plan.c" \
        "$folder/$name-main.o" -o "$elf"
)
