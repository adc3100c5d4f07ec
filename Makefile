# make demo: install and start with the demo data.   make test: install, lint, types, all tests.
.PHONY: demo test bench shots lock vendor clean
PY = .venv/bin/python
export PYTHONDONTWRITEBYTECODE =

demo:
	@tools/setup.sh runtime
	@.venv/bin/tall-heron demo

test:
	@tools/setup.sh dev
	@tools/chromium.sh
	.venv/bin/ruff check .
	.venv/bin/mypy
	$(PY) -m pytest -n 2 --dist worksteal

bench:
	@tools/setup.sh dev
	$(PY) bench/bench.py

shots:
	@tools/setup.sh dev
	@tools/chromium.sh
	$(PY) tools/shots.py

lock:
	@tools/setup.sh dev
	cd requirements && for f in runtime dev uv; do ../.venv/bin/uv pip compile -q --universal --python-version 3.11 --generate-hashes --no-emit-index-url --no-header $$f.in -o $$f.txt; done

vendor:
	tools/vendor.sh

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache
