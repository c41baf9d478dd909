# Sourced by ./start and ./test: installs what is missing, rebuilds what changed.
# Usage: prepare PACKAGE...   (Debian packages that must be there)

export npm_config_update_notifier=false

say() { printf '%s\n' "$*"; }

# A step is due when its result is missing or its inputs' hash is not the one of its last run.
hash_of() { find "$@" -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum; }
due() { # due STEP RESULT INPUT...
  local step=$1 result=$2
  shift 2
  [ ! -e "$result" ] || [ "$(cat ".cache/$step" 2>/dev/null)" != "$(hash_of "$@")" ]
}
done_with() { # done_with STEP INPUT...
  local step=$1
  shift
  hash_of "$@" >".cache/$step"
}

# Debian's own Python before any other: it is built with profiles of real use, a fifth faster.
python311() {
  local candidate
  for candidate in /usr/bin/python3.11 python3.11; do
    if "$candidate" -c 'import ensurepip' 2>/dev/null; then
      printf '%s' "$candidate"
      return
    fi
  done
  return 1
}

debian_packages() {
  local missing=() package
  python311 >/dev/null || set -- "$@" python3.11 python3.11-venv
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

# The program runs on requirements.lock; the tests need requirements-dev.lock, which holds it too.
LOCK=requirements.lock
python_environment() {
  due python .venv/bin/python "$LOCK" || return 0
  due python .venv/bin/python requirements-dev.lock || return 0
  say "Making the Python environment (about a minute)"
  "$(python311)" -m venv --clear .venv
  .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --require-hashes \
    -r "$LOCK"
  done_with python "$LOCK"
}

node_modules() {
  due node frontend/node_modules/.package-lock.json frontend/package-lock.json || return 0
  node_is_there
  say "Installing the front-end packages (under a minute)"
  (cd frontend && npm ci --no-audit --no-fund --loglevel=error)
  done_with node frontend/package-lock.json
}

PAGES=(frontend/src frontend/public frontend/index.html frontend/package-lock.json
  frontend/*.ts)
pages() {
  due pages frontend/dist/index.html "${PAGES[@]}" || return 0
  node_modules
  say "Building the pages"
  (cd frontend && npx --no-install vite build --logLevel warn)
  done_with pages "${PAGES[@]}"
}

prepare() {
  mkdir -p .cache
  debian_packages "$@"
  python_environment
  pages
}

RUN_PACKAGES=(postgresql libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)
