#!/bin/sh
# The sources themselves: their form, and what static analysis sees in them. The build folder is the argument.
set -eu
build=$1
cd "$(dirname "$0")/.."
sources=$(find include src ports plan capture chart live cli bench examples tests -name '*.[ch]')
units=$(find src ports/sim plan capture chart live cli bench examples -name '*.c' ! -path 'bench/chip/*' ! -path 'examples/candle/*' ! -path 'examples/by-hand/*')

# A folder of the library that is copied into a program compiles with no -I.
echo "includes"
find include src ports -name '*.[ch]' | while read -r source; do
    folder=$(dirname "$source")
    sed -n 's/^ *#include "\(.*\)"$/\1/p' "$source" | while read -r included; do
        if [ ! -e "$folder/$included" ]; then
            echo "$source includes '$included', which isn't there as seen from $folder" >&2
            exit 1
        fi
    done
done
# No folder includes a later one.
echo "arrows between folders"
sh tests/arrows.sh "$build"
# A name says what it names: none is a preposition alone. Comments, texts and directives don't count.
echo "names"
for source in $sources; do
    names=$(cc -fpreprocessed -E -P "$source" 2>/dev/null | sed -E 's/"([^"\\]|\\.)*"//g; /^ *#/d' | grep -nwE 'of|by|its|is|to|on' || true)
    if [ -n "$names" ]; then
        printf '%s: a name is a preposition: %s\n' "$source" "$names" >&2
        exit 1
    fi
done
# Comments and pages name their subject: these words have stood for one too often.
echo "words"
vague='is heard|are heard|is told|are told|is said|are said|is asked|are asked|so many|so long|anew|nothing past|had better'
# shellcheck disable=SC2086 # no file name of ours has a blank
if grep -nwiE "(//|/\*|^ *\*).*($vague)" $sources plan/language/*.[ly] || grep -nwiE "$vague" README.md CHANGELOG.md CONTRIBUTING.md docs/*.md; then
    echo "these lines have words that docs and comments avoid: name the subject" >&2
    exit 1
fi
echo "clang-format"
# shellcheck disable=SC2086 # no file name of ours has a blank
clang-format --dry-run --Werror $sources
# Without an observer there is a null that cppcheck takes for a fault, though it is asked for first.
echo "cppcheck"
# shellcheck disable=SC2086
cppcheck --quiet --error-exitcode=1 -UDROM_PLAN -UDROM_PORT --std=c11 --inline-suppr --suppressions-list=tests/cppcheck.txt \
    --enable=warning,performance,portability --library=gtk -Iinclude -I. -Iports/sim $units
echo "clang-tidy"
# shellcheck disable=SC2086
printf '%s\n' $units | xargs -P 2 -n 8 clang-tidy --quiet -p "$build" 2>"$build/clang-tidy.log"
echo "shellcheck"
shellcheck -s sh run src/*.sh examples/*/*.sh tests/*.sh bench/*.sh bench/chip/*.sh ports/avr/build.sh docs/screenshots/take.sh
echo "all fine"
