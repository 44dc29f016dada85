#!/bin/sh
# What the scripts with the common maker IDE's builder share; $out is the folder for what is built, and build/dromikos bakes.
# shellcheck disable=SC2154 # out is the caller's
core=$(dpkg -L arduino-core-avr | grep '/hardware$')
tools=$(dpkg -L arduino-builder | grep '/platform.txt$')
ctags=$(dirname "$(dpkg -L arduino-ctags | grep '/arduino-ctags$' | grep bin/)")
compilers=$(dirname "$(dirname "$(command -v avr-gcc)")")

# as_sketch NAME [BOARD]: builds the folder $out/NAME, and prints the program's size in bytes: flash, RAM.
as_sketch() {
    mkdir -p "$out/$1-built" "$out/cores"
    if ! arduino-builder -compile -build-cache "$out/cores" -hardware "$core" -tools "$(dirname "$tools")" -tools "$ctags" \
        -built-in-libraries "$core/arduino/avr/libraries" -fqbn "${2-arduino:avr:uno}" "-prefs=tools.ctags.path=$ctags" \
        '-prefs=tools.ctags.cmd.path={path}/arduino-ctags' "-prefs=$(grep '^tools.ctags.pattern=' "$tools")" \
        "-prefs=runtime.tools.avr-gcc.path=$compilers" -prefs=compiler.cpp.extra_flags=-DDECIMAL_DIG=9 \
        -build-path "$out/$1-built" "$out/$1/$1.ino" >"$out/$1.log" 2>&1; then
        tail -n 30 "$out/$1.log" >&2
        echo "sketch.sh: the builder could not compile $1; all of it is in $out/$1.log" >&2
        return 1
    fi
    avr-size "$out/$1-built/$1.ino.elf" | awk 'NR == 2 { print $1 + $2, $2 + $3 }'
}

# make_sketch NAME PLAN: as a maker has it written.
make_sketch() {
    rm -rf "${out:?}/$1"
    build/dromikos bake --as sketch --into "$out/$1" "$2" >/dev/null
}
