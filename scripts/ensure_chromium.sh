#!/bin/sh
# The browser tests drive Debian's own Chromium, headless; install it when the machine has none.
set -eu
if command -v chromium-headless-shell >/dev/null 2>&1; then exit 0; fi
echo "Installing Debian's chromium for the browser tests"
sudo=""
[ "$(id -u)" -eq 0 ] || sudo="sudo"
$sudo apt-get update -qq
DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends chromium-headless-shell
