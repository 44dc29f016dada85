#!/bin/sh
# sh tests/mutations.sh BUILD_DIR COUNT SEED: changes the core at COUNT random places, one after the other, and
# those that tests/mutations.txt lists before; runs the core's tests on each; and prints the changes that no test
# has noticed. Some of them change nothing that anybody could see; each of the others lacks a test. Ends with 1
# where one of the listed ones survives.
set -eu
build=$1 count=$2 seed=$3
suites="timing check ring receive busy protocols keys contacts fair relay lamp air sender servo motor keyboard interlock timed
    homing strip parts effects kept port rules engine sim golden"
tree=$build/tree

# A copy, so that nothing happens to the sources, without the compiler's warnings.
mkdir -p "$tree"
tar -cf - --exclude=./build --exclude=./.git . | tar -xf - -C "$tree"
# shellcheck disable=SC2046 # words
cc -O1 -std=c11 -D_POSIX_C_SOURCE=200809L $(pkg-config --cflags glib-2.0) "$tree/tests/mutate.c" -o "$build/mutate" $(pkg-config --libs glib-2.0)
cmake -S "$tree" -B "$build/built" -DCMAKE_BUILD_TYPE=Release -DCMAKE_C_FLAGS="-w -Wno-error" -DDROMIKOS_TESTS=ON >"$build/configure.log"
targets=$(for suite in $suites; do printf 'test_%s ' "$suite"; done)
# shellcheck disable=SC2086
only=$(printf '%s|' $suites)

# Is the tree, as it stands, noticed by the tests? They stop at the first that fails.
is_noticed() {
    # shellcheck disable=SC2086
    if ! cmake --build "$build/built" -j "$(getconf _NPROCESSORS_ONLN)" --target dromikos $targets >"$build/build.log" 2>&1; then
        return 0
    fi
    ! ctest --test-dir "$build/built" -R "^(${only%|})\$" -j "$(getconf _NPROCESSORS_ONLN)" --stop-on-failure --timeout 300 >"$build/test.log" 2>&1
}

# Puts a changed source in the place of one, says whether it is noticed, and puts that back. $1: the source; $2: what
# was changed; the new text is in $build/changed.c.
tried=0 survived=0
try() {
    tried=$((tried + 1))
    cp "$build/changed.c" "$tree/$1"
    if is_noticed; then
        [ -t 1 ] && printf '\r%d tried, %d survived ' $tried $survived
    else
        survived=$((survived + 1))
        printf 'survives: %s\n' "$2"
    fi
    cp "$1" "$tree/$1"
}

if is_noticed; then
    tail -n 20 "$build/build.log" "$build/test.log" >&2
    echo "mutations.sh: the tests fail as it is" >&2
    exit 2
fi
tab=$(printf '\t')
while IFS=$tab read -r source from to; do
    awk -v from="$from" -v to="$to" 'BEGIN { gsub(/\\/, "\\\\", to) }
        { at = index($0, from); if (at) { $0 = substr($0, 1, at - 1) to substr($0, at + length(from)); found++ } print }
        END { exit found != 1 }' "$source" >"$build/changed.c" ||
        { echo "mutations.sh: '$from' doesn't stand on one line of $source; mend tests/mutations.txt" >&2; exit 2; }
    try "$source" "$source: '$from' -> '$to'"
done <tests/mutations.txt
listed=$tried listed_survived=$survived

find src -name '*.c' | sort | while read -r source; do "$build/mutate" "$source"; done >"$build/all.txt"
awk -v seed="$seed" 'BEGIN { srand(seed) } { print rand(), $0 }' "$build/all.txt" | sort -n | head -n "$count" | cut -d ' ' -f 2- >"$build/drawn.txt"
while read -r number what; do
    source=${what%%:*}
    "$build/mutate" "$source" "$number" >"$build/changed.c"
    try "$source" "$what"
done <"$build/drawn.txt"
[ -t 1 ] && printf '\r'
echo "$tried changes of the core tried, of $(wc -l <"$build/all.txt") that there are (seed $seed): $survived survived, $listed_survived of them of the $listed that are listed"
[ "$listed_survived" = 0 ]
