#!/bin/sh
# Builds a plan for the board: ports/avr/build.sh PLAN OUTPUT.elf [more compiler flags]. Needs build/dromikos and avr-gcc.
# What is baked lies beside the output. MAIN is another main.c than ports/avr/main.c.
set -eu
if [ $# -lt 2 ]; then
    echo "build.sh: say which plan, and what to build: ports/avr/build.sh PLAN OUTPUT.elf [more compiler flags]" >&2
    exit 2
fi
absolute() { case $1 in /*) printf '%s' "$1" ;; *) printf '%s' "$PWD/$1" ;; esac; }
plan=$(absolute "$1")
elf=$(absolute "$2")
main=$(absolute "${MAIN:-$(dirname "$0")/main.c}")
shift 2
name=$(basename "$plan" .plan)
folder=$(dirname "$elf")
cd "$(dirname "$0")/../.."
if [ ! -x build/dromikos ]; then
    echo "build.sh: there is no build/dromikos yet; './run demo' builds it" >&2
    exit 2
fi
mkdir -p "$folder"
build/dromikos bake --into "$folder" --name "$name" "$plan" >/dev/null
# main.c stands apart from the link-time optimisation, so that the engine's functions keep their names.
compile() {
    avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -mstrict-X -mcall-prologues -fira-algorithm=priority \
        -fshort-enums -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror -ffunction-sections -fdata-sections -Iinclude \
        -Iports/avr "-I$folder" "-DDROM_PLAN=${name}_plan" -DDROM_PORT=drom_avr_port -DDROM_UNOBSERVED "$@"
}
compile "$@" -c "$main" -o "$folder/$name-main.o"
# shellcheck disable=SC2046 # no file of ours below src has a blank in its name
compile "$@" -flto -mrelax -Wl,--gc-sections $(find src -name '*.c') ports/avr/avr.c "$folder/${name}_plan.c" \
    "$folder/$name-main.o" -o "$elf"
