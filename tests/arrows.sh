#!/bin/sh
# The folders of the sources in one order: a file includes headers of its own folder and of those before it.
#
# In the core, outputs come before rules, which order them and read whether they are on. plan.h and layouts.h have the tables and
# layouts of all folders, and no functions. No headers include each other in a circle, each .c file of the core includes
# src/compiler.h, and no two headers have the same name from one include path. With a build folder as the argument, what a host
# object calls must also be defined in its own folder or in one before it.
set -eu
cd "$(dirname "$0")/.."
rank_of() {
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
        echo "arrows.sh: which folder does $1 belong to?" >&2
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
    own=$(rank_of "$file")
    other=$(rank_of "$target")
    if [ "$other" -gt "$own" ]; then
        echo "$file (rank $own) includes $target (rank $other)" >&2
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

# The host's folders, as "rank folder", and "folder target": two folders of one rank don't include each other.
ranks="0 capture 0 plan/text 1 plan/board 2 plan/handset 3 plan/language 4 plan/model 5 plan/kinds 6 plan/bake 6 plan/wiring
6 plan/script 7 plan/vet 8 chart 9 live 10 cli/io 11 cli/program 11 cli/receive 12 cli/rehearse 13 cli/verbs 14 cli"
# shellcheck disable=SC2016 # awk's own
backwards='
function folder(path) { sub(/\/[^\/]*$/, "", path); return path }
BEGIN { for (i = split(list, word); i > 1; i -= 2) rank[word[i]] = word[i - 1] }
{ from = folder($1); to = folder($2) }
from != to && from in rank && (!(to in rank) || rank[to] >= rank[from]) { print $1, how, $2, $3; found = 1 }
END { exit found }'
find plan capture chart live cli -name '*.[chly]' | while read -r file; do
    sed -n 's/^#include "\(\(plan\|capture\|chart\|live\|cli\)\/.*\)"$/\1/p' "$file" | sed "s|^|$file |"
done | awk -v list="$ranks" -v how=includes "$backwards" >&2 || status=1
# Only the list of the kinds is used by folders before its own.
if [ -n "${1-}" ]; then
    find "$1"/CMakeFiles/dromikos*.dir -path '*.dir/*/*.o' | while read -r object; do
        source=${object#*.dir/}
        [ ! -e "${source%.o}" ] || nm "$object" | sed -n "s|.* \([UTDRB]\) \([a-z_0-9]*\)\$|\1 \2 ${source%.o}|p"
    done | sort -u | awk '$2 == "output_kinds" { next }
        $1 != "U" { defined[$2] = $3; next }
        { asked[$3 " " $2] = 1 }
        END { for (each in asked) { split(each, part); if (part[2] in defined) print part[1], defined[part[2]], part[2] } }' |
        grep -E '^(plan|capture|chart|live|cli)/.* (plan|capture|chart|live|cli)/' | sort |
        awk -v list="$ranks" -v how=calls "$backwards" >&2 || status=1
fi
for path in include src ports/sim . tests; do
    case $path in
    .) find plan capture chart live cli -name '*.h' ;;
    tests) find tests -maxdepth 1 -name '*.h' -printf '%P\n' ;;
    *) find $path -name '*.h' -printf '%P\n' ;;
    esac
done | sort | uniq -d | sed 's/$/ is the name of two headers, as an include path sees them/' | grep . >&2 && status=1
exit $status
