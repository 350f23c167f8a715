# Sourced by ./start and ./test: Debian packages, uv and the locked environment.
# Everything it makes lives in .venv/ and var/; a second run finds it all there and is quick.

UV_VERSION=0.13.9
BASE_PACKAGES=(mariadb-server-core mariadb-client-core libmariadb-dev pkg-config gcc python3-dev python3-venv
  libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)

say() { printf '%s\n' "$*"; }
fail() { printf '%s\n' "$*" >&2; exit 1; }

# install_packages PACKAGE... : install those that are missing, or say the one line that does.
install_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -gt 0 ] || return 0
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
      as_root=(sudo)
    else
      fail "Debian packages are missing and this account may not install them. Run once: sudo apt-get update && sudo apt-get install --no-install-recommends ${missing[*]}"
    fi
  fi
  say "Installing Debian packages: ${missing[*]}"
  mkdir -p var
  "${as_root[@]}" apt-get update -qq >var/apt.log 2>&1 \
    || fail "apt-get update failed; its messages are in var/apt.log"
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive \
    apt-get install -y -qq --no-install-recommends "${missing[@]}" >var/apt.log 2>&1 \
    || fail "apt-get install failed; its messages are in var/apt.log"
}

# one_at_a_time : wait until nobody else prepares this folder, and hold it until `prepared`.
one_at_a_time() {
  mkdir -p var
  exec 9>var/preparing
  flock --nonblock 9 && return
  say "Another start or test is preparing this folder; waiting for it."
  flock 9
}
prepared() { exec 9>&-; }

# make_environment [UV OPTION...] : .venv/ just as uv.lock says.
make_environment() {
  local python=/usr/bin/python3
  [ -x "$python" ] || python=$(command -v python3) || fail "Python 3.11 or newer is needed."
  local stamp wanted
  wanted=$(cat uv.lock pyproject.toml scripts/prepare.sh; printf '%s' "$*")
  wanted=$(printf '%s' "$wanted" | sha256sum | cut -d' ' -f1)
  stamp=$(cat .venv/prepared 2>/dev/null || true)
  if [ "$stamp" != "$wanted" ]; then
    say "Preparing .venv from uv.lock"
    mkdir -p var
    if [ "$(var/uv/bin/uv --version 2>/dev/null | cut -d' ' -f2)" != "$UV_VERSION" ]; then
      rm -rf var/uv
      "$python" -m venv var/uv && var/uv/bin/pip install --quiet --disable-pip-version-check "uv==$UV_VERSION" 2>var/uv.log \
        || fail "uv could not be installed from PyPI; its messages are in var/uv.log"
    fi
    UV_PYTHON_DOWNLOADS=never UV_PROJECT_ENVIRONMENT=.venv \
      var/uv/bin/uv sync --frozen --quiet --compile-bytecode --python "$python" "$@" 2>var/uv.log \
      || fail "The environment could not be made; the messages are in var/uv.log"
    printf '%s' "$wanted" > .venv/prepared
  fi
  .venv/bin/python -m compileall -q recensor || true
}
