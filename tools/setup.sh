#!/bin/sh
# Make .venv with pinned, hashed packages: setup.sh runtime | dev. Safe to run again; a stamp is written last.
set -eu
cd "$(dirname "$0")/.."
want="$1"
stamp=".venv/.stamp-$want"
key="$(cat requirements/$want.txt pyproject.toml tools/setup.sh | cksum)"
[ -f "$stamp" ] && [ "$(cat "$stamp")" = "$key" ] && exit 0
# dev holds everything runtime needs, so a dev environment serves for both.
if [ "$want" = runtime ] && [ -f .venv/.stamp-dev ]; then want=dev; stamp=.venv/.stamp-runtime; fi

python="${PYTHON:-python3}"
command -v "$python" >/dev/null || { echo "Python 3.11 or later is needed and '$python' is not there." >&2; exit 1; }
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or later is needed; this is $("$python" --version)." >&2; exit 1; }

# What was set up to run has no pip; it gets one where more is wanted, and what runs there goes on.
if [ ! -x .venv/bin/pip ] && [ -x .venv/bin/python ]; then .venv/bin/python -m ensurepip >/dev/null 2>&1 || true; fi
if [ ! -x .venv/bin/pip ] && [ -x .venv/bin/pip3 ]; then ln -s pip3 .venv/bin/pip; fi
if [ ! -x .venv/bin/pip ]; then
  rm -rf .venv
  if ! "$python" -m venv .venv >/dev/null 2>&1; then
    rm -rf .venv
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
      apt-get update -qq && apt-get install -y -qq python3-venv
      "$python" -m venv .venv
    else
      echo "This Python cannot make environments. Type:  sudo apt-get install python3-venv  and run make again." >&2; exit 1
    fi
  fi
fi
echo "Installing pinned packages ($want) into .venv ..."
.venv/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/uv.txt 2>/dev/null || true
if [ ! -x .venv/bin/uv ] || ! .venv/bin/uv pip install --quiet --python .venv/bin/python --require-hashes --compile-bytecode -r requirements/$want.txt; then
  .venv/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/$want.txt
fi
.venv/bin/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
.venv/bin/python -m compileall -q src
# What only sets up has no place in what runs; it comes back where more is wanted.
[ "$want" = dev ] || .venv/bin/pip uninstall --quiet --disable-pip-version-check --yes uv flit_core setuptools pip
printf '%s' "$key" > "$stamp"
