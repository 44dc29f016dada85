#!/bin/sh
# What vet takes the pins of each AVR board for, against what the port does with them in the simulated chip: timed edges, carrier,
# PWM, and which pins can be a receiver's. Needs build/libdromikos_plan.a. The argument is a folder for what is built.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
# shellcheck disable=SC2046 # words
cc -std=gnu11 -Wall -Wextra -Werror -I. -Iinclude -Iports/sim tests/avr/board_pins.c -o "$out/board_pins" build/libdromikos_plan.a \
    $(pkg-config --cflags --libs glib-2.0)
status=0
for chip in "uno atmega328p" "leonardo atmega32u4" "mega atmega2560"; do
    board=${chip% *}
    mcu=${chip#* }
    compile() {
        avr-gcc -std=gnu11 "-mmcu=$mcu" -DF_CPU=16000000UL -Os -fshort-enums -Wall -Wextra -Werror -Iinclude -DDROM_WITH_PWM=1 \
            -DDROM_WITH_TIMED_EDGES=1 "$@"
    }
    for sender in 0 1; do
        compile -DDROM_WITH_CARRIER=$sender -Iports/avr ports/avr/avr.c ports/avr/serial.c src/receive/ring.c src/timing/timed_edges.c \
            tests/avr/pins.c -o "$out/$board.elf"
        timeout 60 simavr -m "$mcu" -f 16000000 "$out/$board.elf" 2>&1 | sed 's/\x1b\[[0-9;]*m//g' |
            grep -oE '^[0-9]+ [01] [01] [01]' | sort -n >"$out/port" || true
        "$out/board_pins" "$board" $sender | sort -n >"$out/vet"
        # Pins that the port has, and the board doesn't print, don't matter.
        if [ -s "$out/vet" ] && ! join "$out/vet" "$out/port" | awk '$2 != $5 || $3 != $6 || $4 != $7 { print; wrong = 1 }
            END { exit wrong || NR != '"$(wc -l <"$out/vet")"' }' >"$out/differ"; then
            echo "WRONG    $board, $( [ $sender = 1 ] && echo with || echo without) a sender: pin, vet's edges, carrier, PWM, and the port's"
            cat "$out/differ"
            status=1
        fi
    done
    count=0
    pins=$("$out/board_pins" "$board" 0 | cut -d ' ' -f 1)
    for pin in $pins; do
        can=no
        ! "$out/board_pins" "$board" receivers | grep -qx "$pin" || can=yes
        does=no
        ! compile -DDROM_RECEIVER_PIN="$pin" -fsyntax-only ports/avr/avr.c 2>/dev/null || does=yes
        if [ $can != $does ]; then
            echo "WRONG    $board: a receiver on pin $pin: vet says $can, the port $does"
            status=1
        fi
        count=$((count + 1))
    done
    [ $status != 0 ] || printf '%-8s %s: vet and port agree about %d pins\n' right "$board" "$count"
done
exit $status
