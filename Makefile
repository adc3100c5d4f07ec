# make demo: install and start with the demo data.   make test: install, lint, types, all tests.
# make fuzz: thousands of made-up circuits, hostile visitors, spoilt documents, the sweeps that are too long for every time, and how fast it is.   make bench: that alone.   make soak: two hours of a shop's work on one application.   make parts, make audit: a list of what is shipped, what is known against it.   make mutants: how many one-line changes of the core the tests see.
.PHONY: demo test bench fuzz soak mutants shots lock vendor parts audit clean
PY = .venv/bin/python
export PYTHONDONTWRITEBYTECODE =

demo:
	@tools/setup.sh runtime
	@.venv/bin/tall-heron demo

test:
	@tools/setup.sh dev
	@tools/chromium.sh
	@tools/nginx.sh
	.venv/bin/ruff check .
	.venv/bin/ruff format --check -q .
	.venv/bin/mypy
	for kind in html jinja; do .venv/bin/djlint --lint --quiet --extension $$kind src/tall_heron/web || exit 1; done
	tools/web.sh
	$(PY) -m pytest -n 3 --dist worksteal
	tools/wheel.sh

bench:
	@tools/setup.sh dev
	@tools/chromium.sh
	$(PY) bench/bench.py

fuzz:
	@tools/setup.sh dev
	$(PY) tests/fuzz/fuzz.py
	$(PY) tests/fuzz/hostile_fuzz.py
	$(PY) tests/fuzz/spoilt_fuzz.py
	@tools/chromium.sh
	$(PY) -m pytest -n 2 -m sweep
	$(PY) bench/bench.py

soak:
	@tools/setup.sh dev
	$(PY) bench/soak.py

mutants:
	@tools/setup.sh dev
	$(PY) tools/mutants.py

shots:
	@tools/setup.sh dev
	@tools/chromium.sh
	$(PY) tools/shots.py

lock:
	@tools/setup.sh dev
	cd requirements && for f in runtime dev uv release; do ../.venv/bin/uv pip compile -q --universal --python-version 3.11 --generate-hashes --no-emit-index-url --no-header $$f.in -o $$f.txt; done

vendor:
	tools/vendor.sh

parts:
	@tools/parts.sh

audit:
	@tools/parts.sh audit

clean:
	rm -rf .venv .venv-release .mypy_cache .ruff_cache .pytest_cache
