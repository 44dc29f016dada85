#!/bin/sh
# The Debian package: built by CPack, passed by lintian, and unpacked; its tool runs. The argument is a folder for what is built.
set -eu
mkdir -p "$1"
out=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
cmake -S . -B "$out/build" -DCMAKE_BUILD_TYPE=Release -DCMAKE_INSTALL_PREFIX=/usr -DDROMIKOS_TESTS=OFF >"$out/log" 2>&1 &&
    cmake --build "$out/build" -j 2 >>"$out/log" 2>&1 && (cd "$out/build" && rm -f ./*.deb && cpack -G DEB >>"$out/log" 2>&1) ||
    { tail -n 20 "$out/log"; exit 1; }
lintian --allow-root --fail-on error,warning "$out"/build/*.deb
rm -rf "$out/unpacked"
dpkg-deb -x "$out"/build/*.deb "$out/unpacked"
"$out/unpacked/usr/bin/dromikos" --version
echo "the Debian package: lintian passes it"
