# Sourced by the other scripts: finding and installing what is needed, building,
# and a private PostgreSQL. Everything of ours lives under var/.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
VAR=${PROSCEN_VAR:-$PWD/var}
# The renderer looks at eight samples at once where this is set; see docs/performance.md.
[ "$(uname -m)" != x86_64 ] || export GOEXPERIMENT=${GOEXPERIMENT-simd}

say() { printf '%s\n' "$*" >&2; }
die() { say "proscen: $*"; exit 1; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null; then sudo "$@"
  else die "installing needs root; run this as root or install: $*"; fi
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

# need_packages installs Debian packages unless their probe succeeds:
# pairs of "probe command" package.
need_packages() {
  local missing=()
  while [ $# -gt 0 ]; do
    eval "$1" >/dev/null 2>&1 || missing+=("$2")
    shift 2
  done
  [ ${#missing[@]} -eq 0 ] && return
  command -v apt-get >/dev/null || die "these are missing and apt-get is not here to install them: ${missing[*]}"
  say "installing ${missing[*]}"
  as_root apt-get update -qq || die "apt-get update failed; check the network"
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null \
    || die "installing ${missing[*]} failed; install them by hand and try again"
}

need_toolchains() {
  command -v go >/dev/null || die "Go is missing; install Go 1.26 or newer and try again"
  command -v npm >/dev/null || die "Node.js is missing; install Node.js 20.19 or newer with npm and try again"
  node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||a===20&&b>=19?0:1)' \
    || die "Node.js $(node --version) is too old; 20.19 or newer is needed"
}

RUN_PACKAGES=('[ -n "$(pg_bin)" ]' postgresql 'command -v ffmpeg' ffmpeg 'command -v pdftoppm' poppler-utils 'command -v curl' curl)

need_run() {
  need_toolchains
  need_packages "${RUN_PACKAGES[@]}"
  [ -x "$(pg_bin)/initdb" ] || die "PostgreSQL is broken: initdb is missing; reinstall the package postgresql"
}

# npm_ci installs a folder's packages when its lock file has changed.
npm_ci() {
  local stamp=$1/node_modules/.proscen-lock
  cmp -s "$1/package-lock.json" "$stamp" && return
  say "installing npm packages of $1"
  (cd "$1" && npm ci --no-audit --no-fund --loglevel=error >&2) || die "npm ci failed in $1; check the network"
  cp "$1/package-lock.json" "$stamp"
}

build_wasm() {
  mkdir -p web/wasm
  GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o web/wasm/core.wasm ./cmd/corewasm
  cp -f "$(go env GOROOT)/lib/wasm/wasm_exec.js" web/wasm/wasm_exec.js
}

build_web() {
  npm_ci web
  build_wasm
  node scripts/compress.mjs web/wasm/core.wasm "$VAR/compressed" &
  local ahead=$!
  (cd web && npx --no-install vite build --logLevel warn >&2) || die "the front end could not be built"
  wait $ahead || true # what failed is tried again, and told
  node scripts/compress.mjs web/dist/assets "$VAR/compressed" || die "the front end could not be compressed"
}

build_program() { mkdir -p bin && go build -o bin/proscen ./cmd/proscen; }

free_port() {
  node -e 'const s=require("net").createServer();s.listen(0,"127.0.0.1",()=>{console.log(s.address().port);s.close()})'
}

# PostgreSQL refuses to run as root: as root it runs as the user postgres.
as_pg() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }

# data_folder prints where the database lies: under var/, or, when root runs this
# in a folder that the user postgres cannot enter, under /var/lib/proscen.
data_folder() {
  mkdir -p "$VAR"
  if [ "$(id -u)" != 0 ] || as_pg test -x "$VAR" 2>/dev/null; then
    echo "$VAR/postgres"
  else
    echo "/var/lib/proscen/$(printf %s "$VAR" | sha256sum | cut -c1-12)"
  fi
}

# start_postgres DATA [OPTIONS] starts a private server on loopback and sets DATABASE_URL.
start_postgres() {
  local data=$1 more=${2:-} port log
  mkdir -p "$data"
  [ "$(id -u)" != 0 ] || chown -R postgres: "$data"
  if [ ! -f "$data/PG_VERSION" ]; then
    as_pg "$(pg_bin)/initdb" -D "$data" -U proscen --auth=trust -E UTF8 --locale=C.UTF-8 ${more:+--no-sync} >/dev/null || die "PostgreSQL could not make its data folder $data"
  fi
  stop_postgres "$data"
  port=$(free_port)
  log=$data/server.log
  as_pg "$(pg_bin)/pg_ctl" -D "$data" -l "$log" -w -t 60 \
    -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=60 $more" start >/dev/null \
    || die "PostgreSQL does not start; $log says why"
  as_pg "$(pg_bin)/psql" -h 127.0.0.1 -p "$port" -U proscen -d postgres -tAc "select 1 from pg_database where datname='proscen'" | grep -q 1 \
    || as_pg "$(pg_bin)/createdb" -h 127.0.0.1 -p "$port" -U proscen proscen
  export DATABASE_URL=postgres://proscen@127.0.0.1:$port/proscen?sslmode=disable
}

stop_postgres() {
  [ -f "$1/postmaster.pid" ] || return 0
  as_pg "$(pg_bin)/pg_ctl" -D "$1" -m fast -w -t 30 stop >/dev/null 2>&1 || rm -f "$1/postmaster.pid"
}
