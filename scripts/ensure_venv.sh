#!/bin/sh
# Makes the virtual environment; a bare Debian lacks the package for it, which is then installed.
set -eu
python3 -m venv --clear "$1" 2>/dev/null && exit 0
echo "Installing Debian's python3-venv"
sudo=""
[ "$(id -u)" -eq 0 ] || sudo="sudo"
$sudo apt-get update -qq
DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends python3-venv
python3 -m venv --clear "$1"
