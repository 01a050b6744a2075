# make demo   the invented shop on this machine (PORT, default 8000)
# make test   what must hold; CI runs it, then make test-long
.DEFAULT_GOAL := help
PORT ?= 8000
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
export PORT
export PYTHONUNBUFFERED := 1
# Processes of the tests start anew all the time; compiled modules stay.
unexport PYTHONDONTWRITEBYTECODE

help:
	@echo "make demo    the invented shop at http://127.0.0.1:$(PORT)/"
	@echo "make test    checks and all tests"
	@echo "make test-long the tests that take minutes; CI runs both"
	@echo "make search  new examples for the property tests"
	@echo "make check   linters, types, import contracts"
	@echo "make bench   speed, queries and bytes, as ratios and counts"
	@echo "make shots   the pictures in docs/screenshots"
	@echo "make format  format code and templates"
	@echo "make lock    lock the requirements again, with hashes"

$(VENV)/base.done: requirements/base.txt pyproject.toml tools/setup.sh
	@PYTHON=$(PYTHON) sh tools/setup.sh base
$(VENV)/dev.done: $(VENV)/base.done requirements/dev.txt
	@PYTHON=$(PYTHON) sh tools/setup.sh dev

chromium:
	@sh tools/setup.sh chromium

demo: $(VENV)/base.done
	@DJANGO_SETTINGS_MODULE=mindful_tally.settings.demo $(BIN)/python manage.py demo

check: $(VENV)/dev.done
	@echo "check: lint, format, types, import contracts, migrations"
	@$(BIN)/ruff check --quiet .
	@$(BIN)/ruff format --quiet --check .
	@$(BIN)/djlint --quiet --lint mindful_tally rooms
	@$(BIN)/mypy --no-error-summary
	@$(BIN)/lint-imports > var/imports.log || (cat var/imports.log; false)
	@$(BIN)/python tools/architecture.py --check
	@DJANGO_SETTINGS_MODULE=mindful_tally.settings.test $(BIN)/python manage.py makemigrations --check --dry-run --verbosity 0
	@SECRET_KEY=$$(head -c 48 /dev/urandom | base64 | tr -d '\n') ALLOWED_HOSTS=shop.example DJANGO_SETTINGS_MODULE=mindful_tally.settings.production $(BIN)/python manage.py check --deploy --fail-level WARNING

test: $(VENV)/dev.done chromium check
	@echo "test: core, rooms, journeys in the browser"
	@$(BIN)/pytest -n 2 --dist worksteal -q -m "not long" --durations=10

test-long: $(VENV)/dev.done chromium
	@echo "test-long: more journeys, all sizes and themes, long properties, upgrades"
	@$(BIN)/pytest -n 2 --dist worksteal -q -m long

search: $(VENV)/dev.done
	@$(BIN)/pytest -n 2 --dist worksteal -q --hypothesis-profile=search tests/cutting tests/rooms

bench: $(VENV)/dev.done chromium
	@DJANGO_SETTINGS_MODULE=mindful_tally.settings.test $(BIN)/python tools/bench.py

shots: $(VENV)/dev.done chromium
	@DJANGO_SETTINGS_MODULE=mindful_tally.settings.demo $(BIN)/python tools/shots.py

format: $(VENV)/dev.done
	@$(BIN)/ruff check --quiet --fix . && $(BIN)/ruff format --quiet .

lock: $(VENV)/base.done
	@sh tools/lock.sh

.PHONY: help chromium demo check test test-long search bench shots format lock
