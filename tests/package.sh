#!/bin/sh
# The Debian package: built by CPack, passed by lintian, and unpacked; its tool runs. The argument is a folder for what is built.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
# quietly COMMAND...: its output goes to a log, of which the end is shown where it fails.
quietly() { "$@" >>"$out/log" 2>&1 || { tail -n 20 "$out/log"; exit 1; }; }
: >"$out/log"
quietly cmake -S . -B "$out/build" -DCMAKE_BUILD_TYPE=Release -DCMAKE_INSTALL_PREFIX=/usr -DDROMIKOS_TESTS=OFF
quietly cmake --build "$out/build" -j 2
rm -f "$out"/build/*.deb
(cd "$out/build" && quietly cpack -G DEB)
lintian --allow-root --fail-on error,warning "$out"/build/*.deb
rm -rf "$out/unpacked"
dpkg-deb -x "$out"/build/*.deb "$out/unpacked"
"$out/unpacked/usr/bin/dromikos" --version
echo "the Debian package: lintian passes it"
