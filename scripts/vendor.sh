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
fetch @fontsource/atkinson-hyperlegible-next@5.3.0 font
fetch axe-core@4.14.1 axe
rm -rf "$dest"
mkdir -p "$dest/htmx" "$dest/bootstrap" "$dest/font" tests/browser/axe
cp "$work/htmx/package/dist/htmx.min.js" "$work/htmx/package/LICENSE" "$dest/htmx/"
for file in css/bootstrap.min.css js/bootstrap.bundle.min.js; do
  sed '/sourceMappingURL/d' "$work/bootstrap/package/dist/$file" > "$dest/bootstrap/$(basename "$file")"
done
cp "$work/bootstrap/package/LICENSE" "$dest/bootstrap/"
for weight in 400 700; do
  cp "$work/font/package/files/atkinson-hyperlegible-next-latin-$weight-normal.woff2" "$dest/font/"
done
cp "$work/font/package/LICENSE" "$dest/font/"
# The accessibility checker is for the tests alone.
cp "$work/axe/package/axe.min.js" "$work/axe/package/LICENSE" tests/browser/axe/
