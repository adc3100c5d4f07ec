#!/bin/sh
# The wheel as a stranger installs it: built, put into an empty environment with what it says it needs, started, and asked for its first page.
set -eu
cd "$(dirname "$0")/.."
work="$(mktemp -d)"
trap 'kill "$pid" 2>/dev/null || true; rm -rf "$work"' EXIT
pid=
.venv/bin/python -m flit_core.wheel --outdir "$work" . >/dev/null
grep -v '^ *--hash' requirements/runtime.txt | sed 's/ *\\$//' >"$work/pins.txt"  # the versions we test with, but none that the wheel does not ask for
"${PYTHON:-python3}" -m venv --without-pip "$work/empty"
if [ -x .venv/bin/uv ]; then
  .venv/bin/uv pip install --quiet --python "$work/empty/bin/python" --constraint "$work/pins.txt" "$work"/*.whl
else
  .venv/bin/pip --python "$work/empty/bin/python" install --quiet --disable-pip-version-check --constraint "$work/pins.txt" "$work"/*.whl
fi
cd "$work" # nothing of the checkout in reach
"$work/empty/bin/tall-heron" demo --port 0 --data "$work/data" >"$work/said" 2>&1 &
pid=$!
"$work/empty/bin/python" - "$work/said" "$pid" <<'ASK'
import os, re, sys, time, urllib.request
for _ in range(600):
    found = re.search(r"http://\S+", open(sys.argv[1]).read())
    if found:
        page = urllib.request.urlopen(found[0], timeout=60).read().decode()
        assert "Bittern" in page, page[:400]
        print("wheel: installed into an empty environment, started, its first page has the demo builds")
        sys.exit(0)
    os.kill(int(sys.argv[2]), 0)
    time.sleep(0.1)
sys.exit("the wheel did not start: " + open(sys.argv[1]).read())
ASK
