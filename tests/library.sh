#!/bin/sh
# The library as programs use it: its headers in C++, tables by hand on the chip, and a program outside of the tree, in C and in
# C++, by each way to the library. Then the tool is built from the source archive, installed, and bakes with no sources left.
# The argument is a folder for what is built; needs build/ (./run test builds it).
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
root=$PWD
warnings="-Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror"
said=$out/said

# expect WHAT COMMAND...: the command succeeds and prints this.
expect() {
    what=$1
    shift
    if ! "$@" >"$said" 2>&1 || ! grep -qF "$what" "$said"; then
        echo "library.sh: '$what' isn't in what $* printed:"
        cat "$said"
        exit 1
    fi
}

# quietly LOG COMMAND...: its output goes to the end of a log, of which the end is shown where it fails.
quietly() {
    log=$1
    shift
    "$@" >>"$log" 2>&1 || { tail -n 20 "$log"; exit 1; }
}

# Each public header alone: C++ takes it without a warning, or refuses it since it has tables.
is_table() { case $1 in encode.h | output.h | plan.h | protocols.h) return 0 ;; *) return 1 ;; esac; }
for compiler in "g++" "avr-g++ -mmcu=atmega328p"; do
    for header in include/dromikos/*.h include/dromikos/outputs/*.h; do
        case $header in *.def.h) continue ;; esac # lists, to be included with a macro
        # shellcheck disable=SC2086
        if $compiler -std=c++17 $warnings -fsyntax-only -Iinclude -include "${header#include/}" -x c++ /dev/null >"$said" 2>&1; then
            ! is_table "$(basename "$header")" || { echo "library.sh: C++ takes the tables of $header"; exit 1; }
        elif ! is_table "$(basename "$header")" || ! grep -qF 'tables are C: write them in a .c file' "$said"; then
            echo "library.sh: $header, as C++ by $compiler:"
            cat "$said"
            exit 1
        fi
    done
done
echo "headers: C++17 takes all but those with tables, and says why"

# Tables by hand, for the chip: what they take, and a C++ program with them.
sh examples/by-hand/build.sh "$out/by-hand" | tee "$out/by-hand.txt"
awk '/as it comes/ && $(NF - 6) > 18432 { print "library.sh: more than 18 KB"; exit 1 }' "$out/by-hand.txt"
(
    cd "$out/by-hand/plain"
    for source in $(find src -name '*.c') ports/avr/avr.c ports/avr/guard.c ports/avr/store.c relays.c; do
        # shellcheck disable=SC2086
        avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os $warnings -ffunction-sections -fdata-sections -Iinclude -Iports/avr \
            -c "$source" -o "$(echo "$source" | tr / _ | sed 's/c$/o/')"
    done
    # shellcheck disable=SC2086
    avr-g++ -std=c++17 -mmcu=atmega328p -DF_CPU=16000000UL -Os $warnings -Wl,--gc-sections -Iinclude -Iports/avr -I. \
        "$root/tests/library/sketch.cpp" ./*.o -o sketch.elf
)
echo "a C++ program for the chip: compiled and linked"

# A program by each way to the library, with a prefix of its own.
prefix=$out/prefix
rm -rf "$prefix" "$out/stage"
mkdir "$out/stage"
cp tests/library/* examples/by-hand/relays.[ch] "$out/stage"
cmake --install build --prefix "$prefix" >"$out/install.log"
for way in package folder fetch; do
    rm -rf "${out:?}/$way"
    quietly "$out/way.log" cmake -S "$out/stage" -B "$out/$way" -DWAY=$way "-DDROMIKOS=$root" "-DCMAKE_PREFIX_PATH=$prefix"
    quietly "$out/way.log" cmake --build "$out/$way" -j 2
    expect "lantern on" "$out/$way/stage_c"
    expect "dromikos 0.2.0: lantern on, 0 1" "$out/$way/stage_cpp"
    echo "CMake, by $way: C and C++ run"
done
# The core alone needs no library of the host's: with no pkg-config to be found.
rm -rf "$out/core"
quietly "$out/core.log" cmake -S "$root" -B "$out/core" -DDROMIKOS_SIM=OFF -DDROMIKOS_TOOL=OFF -DDROMIKOS_TESTS=OFF \
    -DPKG_CONFIG_EXECUTABLE=/nonexistent
quietly "$out/core.log" cmake --build "$out/core" -j 2
echo "CMake: the core alone, without pkg-config"
(
    cd "$out/stage"
    PKG_CONFIG_PATH=$(find "$prefix" -name pkgconfig)
    export PKG_CONFIG_PATH
    flags=$(pkg-config --cflags --libs --static dromikos-sim)
    # shellcheck disable=SC2046,SC2086 # the words of pkg-config
    cc -c relays.c $(echo "$flags" | tr ' ' '\n' | grep '^-I')
    # shellcheck disable=SC2086
    cc stage.c relays.o -o c $flags
    # shellcheck disable=SC2086
    c++ -std=c++17 stage.cpp relays.o -o cpp $flags
)
expect "lantern on" "$out/stage/c"
expect "dromikos 0.2.0: lantern on, 0 1" "$out/stage/cpp"
echo "pkg-config: C and C++ run"

# The source archive builds the tool; installed, it bakes when the sources are gone.
rm -rf "$out/archive"
mkdir "$out/archive"
(cd "$out/archive" && quietly "$out/archive.log" cpack --config "$root/build/CPackSourceConfig.cmake")
tar -C "$out/archive" -xzf "$out/archive/dromikos-0.2.0.tar.gz"
quietly "$out/archive.log" cmake -S "$out/archive/dromikos-0.2.0" -B "$out/archive/build" -DCMAKE_BUILD_TYPE=Release -DDROMIKOS_TESTS=OFF
quietly "$out/archive.log" cmake --build "$out/archive/build" -j 2 --target dromikos dromikos_sim
quietly "$out/archive.log" cmake --install "$out/archive/build" --prefix "$out/archive/prefix"
rm -rf "$out/archive/dromikos-0.2.0" "$out/archive/build" "$out/baked"
mkdir "$out/baked"
cp "$out/archive/prefix/share/doc/dromikos/examples/lantern/"*.plan "$out/archive/prefix/share/doc/dromikos/examples/lantern/"*.csv "$out/baked"
(
    cd "$out/baked"
    expect "bell_plan.c" env -i "$out/archive/prefix/bin/dromikos" bake bell.plan
    cp -R "$out/archive/prefix/share/dromikos" library
    mv drom_config.h library/include/dromikos
    # shellcheck disable=SC2046,SC2086
    avr-gcc -std=gnu11 -mmcu=atmega328p -DF_CPU=16000000UL -Os -flto $warnings -Wl,--gc-sections -Ilibrary/include -Ilibrary/ports/avr \
        $(find library/src -name '*.c') library/ports/avr/avr.c library/ports/avr/guard.c library/ports/avr/store.c library/ports/avr/main.c \
        bell_plan.c -o bell.elf
)
echo "the source archive: built, installed; the tool bakes without its sources, and the chip's program is built from share/dromikos"
