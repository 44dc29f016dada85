#!/bin/sh
# Takes the pictures in this folder: each command in an xterm of about 1280x800, on a screen that nobody sees.
#   take.sh                          all of them
#   take.sh shoot FILE SIZE COMMAND  one, on the screen that is there
set -eu
cd "$(dirname "$0")/../.."
PATH="$PWD/build:$PATH"
export PATH

shoot() {
    work=$(mktemp -d)
    cat >"$work/session" <<END
printf '\033[?25l\$ %s\n' '$3'
$3
touch "$work/done"
sleep 60
END
    xterm -fa "DejaVu Sans Mono" -fs 10 -geometry "$2" -bg "#fbfaf7" -fg "#222222" -b 12 +sb -e sh "$work/session" &
    terminal=$!
    tries=0
    while [ ! -e "$work/done" ] && [ "$tries" -lt 100 ]; do
        sleep 0.1
        tries=$((tries + 1))
    done
    sleep 0.5
    import -window root -trim +repage "$1"
    kill "$terminal"
    rm -r "$work"
}

take() {
    xvfb-run -a -s "-screen 0 1400x1000x24" sh docs/screenshots/take.sh shoot "docs/screenshots/$1.png" "$2" "$3"
    echo "docs/screenshots/$1.png"
}

if [ "${1-}" = shoot ]; then
    shoot "$2" "$3" "$4"
    exit
fi
take listen 125x40 "dromikos listen --sheet examples/lantern/wand.csv examples/lantern/presses.vcd"
take rehearse 125x56 "dromikos rehearse examples/lantern/lantern.plan examples/lantern/presses.csv"
