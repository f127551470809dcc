#!/usr/bin/env bash
# Sets up everything that `make demo` or `make test` needs. Runs again quickly: a step whose inputs have not changed is left out.
set -euo pipefail
cd "$(dirname "$0")/.."
purpose=${1:-demo}
python=${PYTHON:-python3}
say() { printf '%s\n' "$*"; }
stop() { printf 'Wattaxis cannot be set up: %s\n' "$*" >&2; exit 1; }
can_install() { [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; }
debian() { # debian PACKAGES...: install them where that is allowed
  can_install || return 1
  say "Installing Debian packages: $*"
  (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@") >/tmp/wattaxis-apt.log 2>&1 \
    || stop "apt-get install $* failed; see /tmp/wattaxis-apt.log"
}
fresh() { # fresh STAMP FILES...: true when the files are as they were when the stamp was made
  local stamp=$1; shift
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$(cat "$@" | sha256sum)" ]
}
mark() { local stamp=$1; shift; cat "$@" | sha256sum >"$stamp"; }

command -v "$python" >/dev/null || stop "Python 3.11 or later is missing (Debian: apt-get install python3 python3-venv)."
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || stop "$("$python" --version) is too old; 3.11 or later is needed."
command -v node >/dev/null || stop "Node.js 20.19 or later is missing."
node -e 'const [a,b]=process.versions.node.split(".").map(Number); process.exit(a>20||(a===20&&b>=19)?0:1)' \
  || stop "Node.js $(node --version) is too old; 20.19 or later is needed."
command -v npm >/dev/null || stop "npm is missing; it comes with Node.js."

front_end() {
  if ! fresh frontend/node_modules/.stamp frontend/package-lock.json; then
    say "Installing front-end packages"
    npm ci --prefix frontend --no-audit --no-fund --loglevel=error || stop "npm ci failed; is the network or package registry reachable?"
    mark frontend/node_modules/.stamp frontend/package-lock.json
  fi
  mapfile -t sources < <(find frontend/src frontend/public frontend/index.html frontend/vite.config.ts frontend/package-lock.json -type f | sort)
  if ! { [ -f frontend/dist/index.html ] && fresh frontend/dist/.stamp "${sources[@]}"; }; then
    say "Building the front end"
    npm run --prefix frontend --silent build -- --logLevel error || stop "the front end could not be built."
    mark frontend/dist/.stamp "${sources[@]}"
  fi
}
front_end & # beside the Python packages: both wait for the network more than for each other
front=$!
trap 'kill "$front" 2>/dev/null || true' EXIT # where the other half stops

if ! [ -x .venv/bin/pip ]; then
  "$python" -c 'import ensurepip' 2>/dev/null || debian python3-venv || stop "the Python module venv is missing (Debian: apt-get install python3-venv)."
  say "Making a Python environment in .venv"
  "$python" -m venv .venv || stop "python -m venv failed."
fi
lists=(requirements/runtime.txt); [ "$purpose" = test ] && lists+=(requirements/dev.txt)
if ! fresh ".venv/.stamp-$purpose" "${lists[@]}" pyproject.toml; then
  say "Installing Python packages (${lists[*]})"
  # Python compiles what it imports when it first does; all of it now would take as long as the rest of the set-up.
  .venv/bin/pip install -q --no-compile --disable-pip-version-check --require-hashes $(printf -- '-r %s ' "${lists[@]}") \
    || stop "the Python packages could not be installed; is the network or package registry reachable?"
  .venv/bin/pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e . || stop "the package wattaxis could not be installed."
  mark ".venv/.stamp-$purpose" "${lists[@]}" pyproject.toml
fi

.venv/bin/wattaxis warm
wait "$front" || exit 1
if [ "$purpose" = test ]; then
  if ! { command -v chromium && command -v chromedriver; } >/dev/null; then
    debian chromium chromium-driver || stop "the browser tests need Debian's chromium and chromium-driver (apt-get install chromium chromium-driver)."
  fi
  command -v redis-server >/dev/null || debian redis-server || stop "the tests of several web processes need redis-server (apt-get install redis-server)."
else
  .venv/bin/python web/manage.py migrate --verbosity 0
  .venv/bin/python web/manage.py collectstatic --noinput --verbosity 0
  .venv/bin/python web/manage.py load_demo
fi
