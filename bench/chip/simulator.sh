#!/bin/sh
# Compiles the simulated board with all that is wired to it: simulator.sh OUTPUT [PIXELS of its strip, 60 unless given].
set -eu
[ $# -ge 1 ] || { echo "simulator.sh: say what to write: simulator.sh OUTPUT [PIXELS]" >&2; exit 2; }
cd "$(dirname "$0")/../.."
# libsimavr asks for libelf by itself; its headers are not needed.
# shellcheck disable=SC2046 # words of a list of options
cc -std=gnu11 -O3 -Wall -Wextra -Werror "-DCHIP_PIXELS=${2-60}" -Iinclude -Iports/sim -Ibench/chip $(pkg-config --cflags glib-2.0) bench/chip/chip.c \
    bench/chip/symbols.c bench/chip/main.c build/libdromikos-sim.a build/libdromikos.a -o "$1" \
    -Wl,--unresolved-symbols=ignore-in-shared-libs -lsimavr $(pkg-config --libs glib-2.0) -lm
