# Sourced by ./start and ./test: installs what is missing, rebuilds what changed.
# Usage: prepare PACKAGE...   (Debian packages that must be there)

say() { printf '%s\n' "$*"; }

# A stamp holds the hash of its inputs; the step runs again when they change.
changed() { # changed STAMP PATH...
  local stamp=$1 now
  shift
  now=$(find "$@" -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum)
  if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$now" ]; then return 1; fi
  NEW_STAMP=$now
}

debian_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local line="apt-get install -y --no-install-recommends ${missing[*]}"
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    if ! sudo -n true 2>/dev/null; then
      say "These Debian packages are missing. Run this line, then start again:"
      say "  sudo apt-get update && sudo $line"
      exit 1
    fi
    as_root=(sudo)
  fi
  say "Installing Debian packages: ${missing[*]} (a minute or two)"
  "${as_root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" $line >/dev/null
}

node_is_there() {
  if ! node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null; then
    say "Node.js 20.19 or newer with npm is needed to build the pages; install it and start again."
    exit 1
  fi
}

python_environment() {
  changed .cache/python requirements.lock && [ -n "$NEW_STAMP" ] || [ ! -x .venv/bin/python ] || return 0
  say "Making the Python environment (about a minute)"
  python3.11 -m venv .venv
  .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --require-hashes -r requirements.lock
  printf '%s' "$NEW_STAMP" >.cache/python
}

node_modules() {
  changed .cache/node frontend/package.json frontend/package-lock.json || [ ! -d frontend/node_modules ] || return 0
  say "Installing the front-end packages (under a minute)"
  (cd frontend && npm ci --no-audit --no-fund --loglevel=error)
  printf '%s' "$NEW_STAMP" >.cache/node
}

pages() {
  local inputs=(frontend/src frontend/index.html frontend/package-lock.json frontend/vite.config.ts)
  changed .cache/pages "${inputs[@]}" || [ ! -f frontend/dist/index.html ] || return 0
  node_is_there
  node_modules
  changed .cache/pages "${inputs[@]}" || true
  say "Building the pages"
  (cd frontend && npx --no-install vite build --logLevel warn)
  printf '%s' "$NEW_STAMP" >.cache/pages
}

prepare() {
  mkdir -p .cache
  debian_packages "$@"
  python_environment
  pages
}

RUN_PACKAGES=(postgresql libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)
