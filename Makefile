# demo: set everything up and start with demo data.  test: set everything up and run every test.
# lint: style and types only.  bench: speed as ratios, in one table.  audit: how right the bank and the models are, into docs/.  soak: 200 kills of server and solver, eight people, fifty pages, 100 000 nonsense requests.
.PHONY: demo test lint bench audit soak

# Without the compiled files that Python keeps, every process would compile 2600 modules anew: ten seconds each.
unexport PYTHONDONTWRITEBYTECODE

demo:
	@bash tools/setup.sh demo
	@.venv/bin/python tools/serve.py

test:
	@bash tools/setup.sh test
	@$(MAKE) --no-print-directory lint
	@.venv/bin/python -m pytest -n 2 src/wattaxis tests/core tests/reference
	@.venv/bin/python -m pytest -n 2 --dist loadfile tests/web tests/browser

lint:
	@.venv/bin/ruff check . && .venv/bin/ruff format --check -q .
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-cache >/dev/null && echo "layers kept"
	@npm run --prefix frontend --silent check

bench:
	@bash tools/setup.sh test
	@.venv/bin/python benchmarks/flashes.py
	@.venv/bin/python benchmarks/plants.py
	@.venv/bin/python benchmarks/chemistry.py
	@.venv/bin/python benchmarks/reactors.py
	@.venv/bin/python benchmarks/columns.py
	@.venv/bin/python benchmarks/studies.py
	@.venv/bin/python benchmarks/page.py
	@.venv/bin/python benchmarks/start.py

audit:
	@bash tools/setup.sh test
	@.venv/bin/python -W ignore benchmarks/accuracy.py

soak:
	@bash tools/setup.sh test
	@rm -f var/soak.md; mkdir -p var
	@WATTAXIS_REPORT=var/soak.md WATTAXIS_KILLS=200 WATTAXIS_NONSENSE=100000 WATTAXIS_CROWD_SECONDS=60 \
	  .venv/bin/python -m pytest tests/web/test_survival.py tests/web/test_crowd.py tests/web/test_nonsense.py
	@cat var/soak.md
