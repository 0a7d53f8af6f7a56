#!/bin/sh
# What the tests need from the system and pip cannot bring: a browser, its driver, a C++ compiler, the cross compiler
# with the headers of the 8-bit boards, and a simulator of their instructions.
set -eu
missing=""
[ -x /usr/bin/chromium ] || missing="$missing chromium"
[ -x /usr/bin/chromedriver ] || missing="$missing chromium-driver"
command -v g++ >/dev/null || missing="$missing g++"
command -v avr-g++ >/dev/null || missing="$missing gcc-avr"
[ -f /usr/lib/avr/include/avr/io.h ] || missing="$missing avr-libc"
command -v simavr >/dev/null || missing="$missing simavr"
[ -z "$missing" ] && exit 0
echo "Installing$missing with apt-get."
root=""
[ "$(id -u)" = 0 ] || root="sudo"
export DEBIAN_FRONTEND=noninteractive
$root apt-get update -qq
$root apt-get install -y -qq --no-install-recommends $missing >/dev/null
