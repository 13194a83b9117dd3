# `make demo` and `make test` do everything, on a new machine too.
.PHONY: demo test setup stop reset-demo check pytest formats bench screenshots install-service

# As an ordinary shell would find them; the environment's own Node comes first where it is needed.
NODE_PATH_FIRST = PATH="$(CURDIR)/.venv/bin:$$PATH"

demo:
	@scripts/setup.sh demo
	@exec .venv/bin/revani up --demo

setup:
	@scripts/setup.sh

stop:
	@.venv/bin/revani stop

# The same services under systemd, for this user; they begin with `systemctl --user enable --now revani.target`.
install-service:
	@scripts/setup.sh demo
	@.venv/bin/revani units "$${XDG_CONFIG_HOME:-$$HOME/.config}/systemd/user"
	@systemctl --user daemon-reload || echo "The units are written; systemd is not to be reached from here."
	@echo "Begin with: systemctl --user enable --now revani.target (and loginctl enable-linger, to go on when you log out)"

reset-demo:
	@.venv/bin/revani reset-demo

test: setup check pytest

check:
	@echo "Checking style, types and imports"
	@.venv/bin/ruff format --check -q revani tests scripts $(wildcard bench)
	@.venv/bin/ruff check -q revani tests scripts $(wildcard bench)
	@.venv/bin/mypy --no-error-summary
	@.venv/bin/lint-imports --no-logo >var/setup/imports.log 2>&1 || { cat var/setup/imports.log; exit 1; }
	@cd web && $(NODE_PATH_FIRST) npx --no-update-notifier biome check --error-on-warnings src
	@cd web && $(NODE_PATH_FIRST) npx tsc --noEmit

pytest:
	@.venv/bin/pytest -n 4 --dist worksteal

# The published formats and the interface's client, from the code.
formats: setup
	.venv/bin/revani formats docs/formats >/dev/null
	cd web && $(NODE_PATH_FIRST) npx openapi-typescript ../docs/formats/openapi.json -o src/api/schema.d.ts

screenshots:
	.venv/bin/python -W ignore scripts/look.py

# Needs `make demo` in another shell.
bench:
	@.venv/bin/python -W ignore -m bench
