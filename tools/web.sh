#!/bin/sh
# Scripts and styles of the pages: eslint, prettier, and node --test for what is pure. Node comes with most machines; where it does not, that is said and the browser tests run the scripts alone.
set -eu
cd "$(dirname "$0")/.."
if ! command -v node >/dev/null || ! command -v npm >/dev/null; then
  echo "web: Node is not here, so scripts and styles are not looked over"; exit 0
fi
if [ ! -d tools/web/node_modules/eslint ] && ! (cd tools/web && npm ci --ignore-scripts --no-audit --no-fund --silent); then
  echo "web: eslint and prettier could not be fetched, so scripts and styles are not looked over"; exit 0
fi
static=src/tall_heron/web/static
tools/web/node_modules/.bin/prettier --print-width 100 --log-level warn --check "$static/*.js" "$static/css/*.css" "tests/js/*.mjs"
tools/web/node_modules/.bin/eslint --config tools/web/eslint.config.mjs "$static"/*.js tests/js/*.mjs
node --test --test-reporter=dot tests/js/
