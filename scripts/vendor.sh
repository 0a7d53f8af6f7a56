#!/bin/sh
# Fetch the browser's packages named in package.json and copy the files that ship, with their licences.
set -eu
root=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp "$root/package.json" "$work/"
(cd "$work" && npm install --silent --omit=dev --no-package-lock --no-audit --no-fund --ignore-scripts)
from="$work/node_modules"
to="$root/viva_tick/web/static/vendor"
rm -rf "$to" && mkdir -p "$to/licences"
cp "$from/@alpinejs/csp/dist/module.esm.min.js" "$to/alpine-csp.js"
cp "$from/@alpinejs/morph/dist/module.esm.min.js" "$to/alpine-morph.js"
for part in reboot grid utilities; do
  sed '/sourceMappingURL/d' "$from/bootstrap/dist/css/bootstrap-$part.min.css" > "$to/bootstrap-$part.css"
done
cp "$from/bootstrap/LICENSE" "$to/licences/bootstrap.txt"
for font in bricolage-grotesque spline-sans spline-sans-mono; do
  cp "$from/@fontsource-variable/$font/files/$font-latin-wght-normal.woff2" "$to/"
  cp "$from/@fontsource-variable/$font/files/$font-latin-ext-wght-normal.woff2" "$to/"
  cp "$from/@fontsource-variable/$font/LICENSE" "$to/licences/$font.txt"
done
for part in csp morph; do cp "$root/scripts/licence-alpine.txt" "$to/licences/alpine-$part.txt"; done
axe="$root/tests/browser/vendor"
mkdir -p "$axe"
cp "$from/axe-core/axe.min.js" "$axe/"
cp "$from/axe-core/LICENSE" "$axe/axe-core-LICENSE.txt"
(cd "$to" && find . -type f ! -name SHA256SUMS | sort | xargs sha256sum > SHA256SUMS)
echo "Vendored into $to and $axe."
