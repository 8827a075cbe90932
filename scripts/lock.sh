#!/bin/sh
# Renews requirements.lock (the app) and requirements-dev.lock (what the tests need besides), with hashes and without hosts.
set -eu
tools=$(mktemp -d)
trap 'rm -rf "$tools"' EXIT
python3 -m venv "$tools"
"$tools/bin/pip" install --quiet pip-tools
compile() {
  CUSTOM_COMPILE_COMMAND="make lock" "$tools/bin/pip-compile" --quiet --strip-extras --generate-hashes --allow-unsafe \
    --no-emit-index-url --no-emit-trusted-host --no-emit-find-links --no-emit-options "$@"
}
compile --all-build-deps --output-file requirements.lock pyproject.toml
compile --all-build-deps --extra dev --output-file "$tools/all.lock" pyproject.toml
awk 'NR == FNR { if (/^[a-z]/) app[$1]; next } /^[a-z]/ { ours = !($1 in app) } ours || /^#/' \
  requirements.lock "$tools/all.lock" > requirements-dev.lock
