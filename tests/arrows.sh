#!/bin/sh
# The rooms of the core: a source file includes only internal headers of its own room and of those before it. Outputs come before
# rules, which order them and ask whether they are on. plan.h and layouts.h have the tables and layouts of all rooms, and no
# functions of theirs. No headers include each other in a circle, and each .c file of the core includes src/compiler.h.
set -eu
cd "$(dirname "$0")/.."
room_of() {
    case $1 in
    */compiler.h | */features.* | */config.h | */drom_config.h | */tables.h | */fault.h | */events.h | */layouts.h | */plan.h | */bound.h) echo 0 ;;
    *.def.h) echo 0 ;;
    */timing.h | */bytes.h | */ring.h | */intervals.h | */timed_edges.h | */port.h | */air.h | */scheduler.h | src/timing/*) echo 1 ;;
    */protocols.h | */encode.h | */internal/receive.h | src/receive/* | src/protocols/* | src/encode/*) echo 2 ;;
    */internal/keys.h | src/keys/*) echo 3 ;;
    */internal/queue.h | src/events/*) echo 4 ;;
    */output.h | */outputs/* | */internal/outputs.h) echo 5 ;;
    */internal/rules.h | */internal/kept.h | src/rules/* | src/store/*) echo 6 ;;
    src/check/*) echo 7 ;;
    */engine.h | */dromikos.h | src/engine/*) echo 8 ;;
    *)
        echo "arrows.sh: which room does $1 belong to?" >&2
        echo 99
        ;;
    esac
}
arrows=$(mktemp)
trap 'rm -f "$arrows"' EXIT
find include src -name '*.[ch]' | while read -r file; do
    sed -n 's/^#include "\(.*\)"$/\1/p' "$file" | while read -r header; do
        echo "$file $(realpath -s --relative-to=. "$(dirname "$file")/$header")"
    done
done >"$arrows"
status=0
while read -r file target; do
    case $file in
    src/bound.h | include/dromikos/plan.h | include/dromikos/internal/layouts.h) continue ;;
    esac
    own=$(room_of "$file")
    other=$(room_of "$target")
    if [ "$other" -gt "$own" ]; then
        echo "$file (room $own) includes $target (room $other)" >&2
        status=1
    fi
done <"$arrows"
for file in src/*/*.c; do
    [ "$(sed -n "s/^#include //p" "$file" | head -n 1)" = "\"../compiler.h\"" ] || { echo "$file doesn't include ../compiler.h first" >&2; status=1; }
done
# tsort reports a circle.
tsort "$arrows" >/dev/null || status=1
if ! sh src/features.sh | cmp -s - include/dromikos/internal/features.h; then
    echo "include/dromikos/internal/features.h is older than features.def.h: src/features.sh >include/dromikos/internal/features.h" >&2
    status=1
fi
exit $status
