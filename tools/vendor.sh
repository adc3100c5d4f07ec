#!/bin/sh
# Re-create src/tall_heron/web/static/vendor from npm packages at the versions in tools/vendor/package.json.
set -eu
cd "$(dirname "$0")/vendor"
npm ci --ignore-scripts --no-audit --no-fund
out=../../src/tall_heron/web/static/vendor
rm -rf "$out" && mkdir -p "$out/fonts"
cp node_modules/@alpinejs/csp/dist/cdn.min.js "$out/alpine-csp.min.js"
# The map files are not shipped: drop the line that asks for one.
sed '/sourceMappingURL/d' node_modules/bootstrap/dist/css/bootstrap.min.css > "$out/bootstrap.min.css"
cp node_modules/uplot/dist/uPlot.esm.js "$out/uplot.js"
cp node_modules/uplot/dist/uPlot.min.css "$out/uplot.css"
cp node_modules/uplot/LICENSE "$out/LICENSE-uplot"
for weight in 500 600 700; do
  for subset in latin latin-ext; do
    cp "node_modules/@fontsource/familjen-grotesk/files/familjen-grotesk-$subset-$weight-normal.woff2" "$out/fonts/"
  done
  for subset in latin latin-ext greek; do
    cp "node_modules/@fontsource/sofia-sans-condensed/files/sofia-sans-condensed-$subset-$weight-normal.woff2" "$out/fonts/"
  done
done
cp node_modules/@fontsource/familjen-grotesk/LICENSE "$out/fonts/LICENSE-familjen-grotesk"
cp node_modules/@fontsource/sofia-sans-condensed/LICENSE "$out/fonts/LICENSE-sofia-sans-condensed"
cp node_modules/bootstrap/LICENSE "$out/LICENSE-bootstrap"
node -p '["@alpinejs/csp","bootstrap","uplot","@fontsource/familjen-grotesk","@fontsource/sofia-sans-condensed"].map(n => n + " " + require("./node_modules/" + n + "/package.json").version).join("\n")' > "$out/VERSIONS"
(cd "$out" && find . -type f ! -name SHA256SUMS | LC_ALL=C sort | xargs sha256sum > SHA256SUMS)  # nobody changes them here
mkdir -p ../../tests/browser/vendor && cp node_modules/axe-core/axe.min.js node_modules/axe-core/LICENSE ../../tests/browser/vendor/
rm -rf node_modules
