# Two commands for a fresh machine with Python 3.11 and make: `make demo` and `make test`.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
BIN := .venv/bin
HOST ?= 127.0.0.1
PORT ?= 8765

.PHONY: demo compiled test deep mutants fuzz crowd kills audit approve speed scale soak shots docs vendor format clean

demo: .venv/app $(if $(COMPILED),build/compiled/made)
	@$(BIN)/python -m compileall -q viva_tick
	$(if $(COMPILED),PYTHONPATH=build/compiled )$(BIN)/viva-tick demo --data data --host $(HOST) --port $(PORT)

compiled: build/compiled/made

build/compiled/made: .venv/test scripts/compiled.py $(shell find viva_tick -type f ! -path '*__pycache__*')
	@$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[compiled]"
	@$(BIN)/python -W ignore -m scripts.compiled

test: .venv/test
	@sh scripts/system.sh
	@$(BIN)/python -W ignore::ResourceWarning -m tests

deep: .venv/test
	@sh scripts/system.sh
	@DEPTH=10 $(BIN)/python -W ignore::ResourceWarning -m tests

mutants: .venv/test
	@sh scripts/system.sh
	@$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[mutants]"
	@$(BIN)/python -W ignore -m scripts.mutants

crowd kills: .venv/test
	@$(BIN)/python -W ignore -m scripts.crowd $@

audit: .venv/app
	@mkdir -p build
	@$(PYTHON) -m venv build/audit && build/audit/bin/pip install --quiet --disable-pip-version-check $$($(BIN)/python scripts/audit.py tools)
	@build/audit/bin/cyclonedx-py environment .venv/bin/python --of JSON -o build/bom.json && echo "What is installed: build/bom.json"
	@$(BIN)/python scripts/audit.py pins > build/pins.txt && build/audit/bin/pip-audit -r build/pins.txt --no-deps --disable-pip --strict

fuzz: .venv/test
	@$(BIN)/python -W ignore -m tests.fuzz

approve: .venv/test
	@$(BIN)/python -W ignore -m tests.approve

speed: .venv/test build/compiled/made
	@sh scripts/system.sh
	@$(BIN)/python -m compileall -q viva_tick
	@$(BIN)/python -m scripts.speed

scale: .venv/test
	@$(BIN)/python -W ignore -m scripts.scale

soak: .venv/test
	@$(BIN)/python -W ignore -m scripts.soak

shots: .venv/test
	@sh scripts/system.sh
	@$(BIN)/python -m scripts.shots

docs: .venv/test
	$(BIN)/python -m scripts.docs

vendor:
	sh scripts/vendor.sh

format: .venv/test
	$(BIN)/ruff format viva_tick tests scripts
	$(BIN)/ruff check --fix viva_tick tests scripts

clean:
	rm -rf .venv build *.egg-info

.venv/app: pyproject.toml constraints.txt
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))' || { echo "Viva Tick needs Python 3.11; name it with make PYTHON=…"; exit 1; }
	$(PYTHON) -m venv .venv
	$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e .
	@$(BIN)/python -m compileall -q viva_tick
	@touch $@

.venv/test: .venv/app
	$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[test]'
	@touch $@
