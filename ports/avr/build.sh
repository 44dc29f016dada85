#!/bin/sh
# Builds a plan for the board: ports/avr/build.sh PLAN OUTPUT.elf [more compiler flags]. Needs build/dromikos and avr-gcc.
# What is baked lies beside the output.
set -eu
if [ $# -lt 2 ]; then
    echo "build.sh: say which plan, and what to build: ports/avr/build.sh PLAN OUTPUT.elf [more compiler flags]" >&2
    exit 2
fi
plan=$1
elf=$2
shift 2
top=$(cd "$(dirname "$0")/../.." && pwd)
name=$(basename "$plan" .plan)
folder=$(dirname "$elf")
if [ ! -x "$top/build/dromikos" ]; then
    echo "build.sh: there is no build/dromikos yet; './run demo' builds it" >&2
    exit 2
fi
mkdir -p "$folder"
"$top/build/dromikos" bake --into "$folder" --name "$name" "$plan" >/dev/null
# main.c stands apart from the link-time optimisation, so that the engine's functions keep their names.
flags="-std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -mstrict-X -mcall-prologues -fira-algorithm=priority -fshort-enums -Wall -Wextra -Wpedantic
    -Wconversion -Wshadow -Werror -ffunction-sections -fdata-sections -I$top/include -I$top/ports/avr -I$folder
    -DDROM_PLAN=${name}_plan -DDROM_PORT=drom_avr_port -DDROM_UNWATCHED $*"
# shellcheck disable=SC2086 # the words are meant to be apart
avr-gcc $flags -c "$top/ports/avr/main.c" -o "$folder/$name-main.o"
# shellcheck disable=SC2046,SC2086
avr-gcc $flags -flto -mrelax -Wl,--gc-sections $(find "$top/src" -name '*.c') "$top/ports/avr/avr.c" \
    "$folder/${name}_plan.c" "$folder/$name-main.o" -o "$elf"
