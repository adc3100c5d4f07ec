#!/bin/sh
# parts.sh: a list of every package that is shipped with its version, license and hashes, as
# CycloneDX (ECMA-424), in dist/parts.cdx.json. What runs in a browser is in NOTICE.
# parts.sh audit: what is known against them; it fails where that cannot be asked.
set -eu
cd "$(dirname "$0")/.."
tools/setup.sh runtime
[ -x .venv-release/bin/cyclonedx-py ] || {
  rm -rf .venv-release
  "${PYTHON:-python3}" -m venv .venv-release
  .venv-release/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/release.txt
}
mkdir -p dist
.venv-release/bin/cyclonedx-py requirements requirements/runtime.txt --pyproject pyproject.toml --output-reproducible -o dist/parts.cdx.json
echo "dist/parts.cdx.json: $(grep -c '"purl"' dist/parts.cdx.json) packages"
[ "${1:-}" != audit ] || .venv-release/bin/pip-audit --strict --requirement requirements/runtime.txt --disable-pip --require-hashes
