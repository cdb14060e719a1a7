# Sourced by ./run and ./test: finds what is missing, installs it where that is
# allowed, and sets the build flags that every step shares.

cd "$(dirname "${BASH_SOURCE[0]}")/.."
# One set of flags everywhere, or everything is compiled again.
# GOAMD64=v3 gains a few percent on some processors and takes 3.5 times as long on others,
# where its scalar FMA stands among legacy SSE; vectors are chosen at run time anyway.
export GOEXPERIMENT=simd GOAMD64=v1 GOFLAGS=-buildvcs=false CGO_ENABLED=0

say() { printf '%s\n' "$*" >&2; }
die() { say "$*"; exit 1; }

need_tool() { # command, how to get it
  command -v "$1" >/dev/null 2>&1 || die "$1 is missing: $2"
}

# need_packages PROGRAM=PACKAGE …: installs the Debian packages whose program is not there.
need_packages() {
  local missing=() pair
  for pair in "$@"; do
    PATH="$PATH:/usr/sbin:/sbin" command -v "${pair%%=*}" >/dev/null 2>&1 || missing+=("${pair#*=}")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local as=()
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
      as=(sudo -n)
    else
      die "These Debian packages are missing, and installing them needs root: ${missing[*]}
Install them with:  apt-get install ${missing[*]}"
    fi
  fi
  command -v apt-get >/dev/null 2>&1 || die "These packages are missing: ${missing[*]}"
  say "installing ${missing[*]}"
  "${as[@]}" apt-get -o DPkg::Lock::Timeout=300 -qq update >&2 || die "The package list could not be fetched; is the network there?"
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 -qq install -y --no-install-recommends "${missing[@]}" >&2 ||
    die "The packages ${missing[*]} could not be installed."
}

need_go_and_node() {
  [ -x /usr/local/go/bin/go ] && PATH="/usr/local/go/bin:$PATH"
  need_tool go "install Go 1.26 or newer from go.dev"
  need_tool node "install Node.js 20 or newer"
  need_tool npm "install npm, which comes with Node.js"
  local v
  v=$(go env GOVERSION | sed 's/^go1\.\([0-9]*\).*/\1/')
  [ "$v" -ge 26 ] 2>/dev/null || die "Go 1.26 or newer is needed; this is $(go env GOVERSION)"
  v=$(node --version | sed 's/^v\([0-9]*\).*/\1/')
  [ "$v" -ge 20 ] || die "Node.js 20 or newer is needed; this is $(node --version)"
}

# build_front_end builds web/dist when a source is newer than it.
build_front_end() {
  if [ ! -d web/node_modules ] || [ web/package-lock.json -nt web/node_modules/.package-lock.json ]; then
    say "fetching the front end's packages (a minute)"
    (cd web && npm ci --no-audit --no-fund --loglevel=error >&2) || die "The front end's packages could not be fetched."
  fi
  if [ ! -f web/dist/index.html ] || [ -n "$(find web/src web/index.html web/vite.config.ts web/package.json web/tsconfig.json -newer web/dist/index.html -print -quit)" ]; then
    say "building the front end"
    (cd web && npm run --silent build >&2) || die "The front end could not be built."
  fi
}

build_server() {
  [ -x bin/amberproof ] || say "building the server; the first time takes a few minutes"
  go build -o bin/amberproof ./cmd/amberproof || die "The server could not be built."
}
