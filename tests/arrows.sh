#!/bin/sh
# The rooms of the core: a file includes only headers of its own room and of those before it. Outputs come before rules, which
# order them and ask whether they are on. bound.h, where a room finds its plan, is the one exception. And no headers include each
# other in a circle.
set -eu
cd "$(dirname "$0")/.."
room_of() {
    case $1 in
    */drom_config.h | */switches.h | */base.h | */fault.h) echo 0 ;;
    */timing.h | */bytes.h | */ring.h | */intervals.h | */timed_edges.h | */port.h | */air.h | src/timing/*) echo 1 ;;
    */receive.h | */protocols.h | */input.h | src/receive/* | src/protocols/*) echo 2 ;;
    */encode.h | src/encode/*) echo 2 ;;
    */keys.h | src/keys/*) echo 3 ;;
    */events.h | */contacts.h | src/events/*) echo 4 ;;
    */outputs.h | src/outputs/*) echo 5 ;;
    */call.h | */relay.h | */lamp.h | */strip.h | */part.h | */stepper.h | */sender.h | */servo.h | */motor.h | */drive.h | \
        */keyboard.h) echo 5 ;;
    */rules.h | */observer.h | */kept.h | src/rules/* | src/store/*) echo 6 ;;
    */plan.h | src/plan.c | src/check/*) echo 7 ;;
    */engine.h | */dromikos.h | src/engine.c | src/life.c | src/line.h) echo 8 ;;
    */bound.h) echo 0 ;;
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
        echo "$file $(echo "$(dirname "$file")/$header" | sed 's|[^/]*/\.\./||; s|[^/]*/\.\./||; s|/\./|/|')"
    done
done >"$arrows"
status=0
while read -r file target; do
    own=$(room_of "$file")
    other=$(room_of "$target")
    if [ "$file" != src/bound.h ] && [ "$other" -gt "$own" ]; then
        echo "$file (room $own) includes $target (room $other)" >&2
        status=1
    fi
done <"$arrows"
# tsort says so where there is a circle.
tsort "$arrows" >/dev/null || status=1
exit $status
