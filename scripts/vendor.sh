#!/bin/sh
# Copies the front-end files we ship from the npm registry into static/vendor, each with its licence.
set -eu
cd "$(dirname "$0")/.."
dest=cold_arc/web/static/vendor
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
fetch() { # package@version -> $work/NAME/package
  (cd "$work" && npm pack --silent "$1" >/dev/null && mkdir "$2" && tar xzf ./*.tgz -C "$2" && rm ./*.tgz)
}
fetch htmx.org@2.0.11 htmx
fetch bootstrap@5.3.9 bootstrap
fetch @fontsource/b612@5.3.0 b612
rm -rf "$dest"
mkdir -p "$dest/htmx" "$dest/bootstrap" "$dest/b612"
cp "$work/htmx/package/dist/htmx.min.js" "$work/htmx/package/LICENSE" "$dest/htmx/"
sed '/sourceMappingURL/d' "$work/bootstrap/package/dist/css/bootstrap.min.css" > "$dest/bootstrap/bootstrap.min.css"
cp "$work/bootstrap/package/LICENSE" "$dest/bootstrap/"
cp "$work/b612/package/files/b612-latin-400-normal.woff2" "$work/b612/package/files/b612-latin-700-normal.woff2" \
   "$work/b612/package/LICENSE" "$dest/b612/"
