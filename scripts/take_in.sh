#!/bin/sh
# Takes packages into a virtual environment: the first argument is its folder, the rest what pip would be told.
# Where uv is not there, or a machine's settings for pip lead to packages that uv does not find, pip does it.
set -eu
venv=$1
shift
if [ -x "$venv/bin/uv" ] && "$venv/bin/uv" pip install --quiet --system-certs --python "$venv/bin/python" "$@"; then
  exit 0
fi
exec "$venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-compile "$@"
