#!/bin/sh
# Builds relays.c for an ATmega328P: with the library as it comes, and with a drom_config.h of two lines that binds plan and port.
# Prints what each takes. Needs avr-gcc. The argument is a folder for what is built.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/../.."

# build NAME CONFIG: copies the library with this drom_config.h, and compiles all of it with the program.
build() {
    rm -rf "${out:?}/$1"
    mkdir -p "$out/$1/ports"
    cp -R include src "$out/$1"
    cp -R ports/avr "$out/$1/ports"
    cp examples/by-hand/*.[ch] "$out/$1"
    [ -z "$2" ] || printf '%b' "$2" >"$out/$1/include/dromikos/drom_config.h"
    (
        cd "$out/$1"
        # shellcheck disable=SC2046 # no file name of the library has a blank
        avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -flto -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror \
            -ffunction-sections -fdata-sections -Wl,--gc-sections -Iinclude -Iports/avr $(find src -name '*.c') ports/avr/avr.c ports/avr/guard.c ports/avr/store.c main.c relays.c \
            -o relays.elf
        avr-objcopy -O ihex -R .eeprom relays.elf relays.hex
    )
    avr-size "$out/$1/relays.elf" | awk -v what="$3" 'NR == 2 { printf "%-50s %6d bytes of flash, %4d of RAM\n", what, $1 + $2, $2 + $3 }'
}

build plain '' "two relays, the library as it comes"
build checked '#define DROM_WITH_CHECKS 1\n' "with the checks of tables"
build bound '#define DROM_PLAN relays_plan\n#define DROM_PORT drom_avr_port\n' "with plan and port named in drom_config.h"
