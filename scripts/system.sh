#!/bin/sh
# What the tests need from the system and pip cannot bring: a browser, its driver, a C++ compiler.
set -eu
missing=""
[ -x /usr/bin/chromium ] || missing="$missing chromium"
[ -x /usr/bin/chromedriver ] || missing="$missing chromium-driver"
command -v g++ >/dev/null || missing="$missing g++"
[ -z "$missing" ] && exit 0
echo "Installing$missing with apt-get."
root=""
[ "$(id -u)" = 0 ] || root="sudo"
export DEBIAN_FRONTEND=noninteractive
$root apt-get update -qq
$root apt-get install -y -qq --no-install-recommends $missing >/dev/null
