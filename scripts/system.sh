#!/bin/sh
# What the tests need from the system and pip cannot bring: a browser, its driver, a C++ compiler, the cross compiler
# with the headers of the 8-bit boards, a simulator of their instructions, and a small runtime of Python in node.
set -eu
missing=""
[ -x /usr/bin/chromium ] || missing="$missing chromium"
[ -x /usr/bin/chromedriver ] || missing="$missing chromium-driver"
command -v g++ >/dev/null || missing="$missing g++"
command -v avr-g++ >/dev/null || missing="$missing gcc-avr"
[ -f /usr/lib/avr/include/avr/io.h ] || missing="$missing avr-libc"
command -v simavr >/dev/null || missing="$missing simavr"
command -v node >/dev/null || missing="$missing nodejs"
command -v npm >/dev/null || missing="$missing npm"
if [ -n "$missing" ]; then
echo "Installing$missing with apt-get."
root=""
[ "$(id -u)" = 0 ] || root="sudo"
export DEBIAN_FRONTEND=noninteractive
$root apt-get update -qq
$root apt-get install -y -qq --no-install-recommends $missing >/dev/null
fi
# The small runtime of Python, as it runs in node: the boards' programs are run under it.
at="$(cd "$(dirname "$0")/.." && pwd)/build/runtime"
wants=$(sed -n 's/.*"\(@micropython[^"]*\)": "\([^"]*\)".*/\1@\2/p' "$(dirname "$0")/../package.json")
if [ "$(cat "$at/has" 2>/dev/null)" != "$wants" ]; then
  mkdir -p "$at"
  npm install --silent --no-save --no-package-lock --no-audit --no-fund --ignore-scripts --prefix "$at" "$wants"
  echo "$wants" > "$at/has"
fi
