#!/bin/sh
# Makes the virtual environment; a bare Debian lacks the package for it, which is then installed. Into it comes
# what fetches libraries side by side, in a fifth of the time the pip beside it takes.
set -eu
make_it() {
  python3 -m venv --clear "$1" 2>/dev/null || return 1
  "$1/bin/python" -m pip install --quiet --disable-pip-version-check "uv==0.13.9" || echo "The pip that is there will do."
}
make_it "$1" && exit 0
echo "Installing Debian's python3-venv"
sudo=""
[ "$(id -u)" -eq 0 ] || sudo="sudo"
$sudo apt-get update -qq
DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends python3-venv
make_it "$1"
