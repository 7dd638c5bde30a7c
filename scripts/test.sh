#!/usr/bin/env bash
# All tests: lint, Go with a private PostgreSQL, the core in WebAssembly, the
# front end, and journeys through the real application in Chromium.
#   --screenshots   only makes docs/screenshots anew
#   --soak          only tries faults, load and sync for long
source "$(dirname "$0")/tools.sh"
if [ "${1:-}" = --soak ]; then
  need_run
  DATA=$(mktemp -d /tmp/proscen-test-pg.XXXXXX)
  trap 'stop_postgres "$DATA"; rm -rf "$DATA"' EXIT
  start_postgres "$DATA"
  go test ./cmd/proscen -run NothingIsLost -count=1 -v -timeout 6h -rounds "${ROUNDS:-200}"
  go test ./cmd/proscen -run Heavy -count=1 -v -timeout 30m -long
  go test ./internal/httpapi -run '^$' -fuzz FuzzAPI -fuzztime "${FUZZ:-10m}" -fuzzminimizetime 1x
  go test ./internal/httpapi -run Crowd -count=1 -v -people "${PEOPLE:-50}" -seconds "${SECONDS_EACH:-60}"
  go test ./internal/httpapi -run ManyPeople -count=1 -v -people 8 -seconds "${SECONDS_EACH:-60}"
  go test ./core/local -run ManyCopies -count=1 -v -timeout 6h -runs "${RUNS:-100000}"
  exit
fi
need_toolchains
# While packages come over the network, and while one processor compresses the front end, Go
# compiles what is needed in any case: all but what has the front end in it.
(GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o /dev/null ./cmd/corewasm) >/dev/null 2>&1 &
CORE=$!
(
  needed=$(go list -e -deps -f '{{if not .Standard}}{{.ImportPath}}{{end}}' ./cmd/proscen)
  go build $(grep -v -e '^proscen/web$' -e '^proscen/internal/httpapi$' -e '^proscen/cmd/' <<<"$needed")
) >/dev/null 2>&1 &
PROGRAM=$!
need_packages 'command -v chromium' chromium 'command -v psql' postgresql-client "${RUN_PACKAGES[@]}"
need_run
npm_ci web
npm_ci e2e
wait $CORE || true # what does not compile is told below
build_web
wait $PROGRAM || true
build_program
DATA=$(mktemp -d /tmp/proscen-test-pg.XXXXXX)
trap 'stop_postgres "$DATA"; rm -rf "$DATA"' EXIT
start_postgres "$DATA" '-c fsync=off -c full_page_writes=off' # nobody needs it after the machine has stopped
if [ "${1:-}" = --screenshots ]; then
  (cd e2e && npx --no-install playwright test --project=screenshots)
  exit
fi
FAILED=()
part() {
  local name=$1
  shift
  say ""
  say "== $name"
  local began=$SECONDS
  "$@" || FAILED+=("$name")
  say "$name took $((SECONDS - began)) s"
}
# beside NAME NICENESS COMMAND… starts what has the processors when the part at hand waits;
# finished NAME waits for it and shows what it said.
declare -A BESIDE
beside() {
  local name=$1 level=$2
  shift 2
  nice -n "$level" "$@" >"$DATA.$name" 2>&1 &
  BESIDE[$name]=$!
}
finished() {
  local rc=0
  wait "${BESIDE[$1]}" || rc=$?
  cat "$DATA.$1"
  rm -f "$DATA.$1"
  return $rc
}
go_tests() { go test ./... -timeout 15m -json | node scripts/gototals.mjs; }
beside web 5 bash -c 'cd web && npx --no-install vitest run'
part go go_tests
part wasm node scripts/wasmsmoke.mjs
part web finished web
beside lint 19 scripts/lint.sh
part browser bash -c 'cd e2e && npx --no-install playwright test --project=journeys'
part lint finished lint
say ""
if [ ${#FAILED[@]} -gt 0 ]; then
  say "FAILED: ${FAILED[*]}"
  exit 1
fi
say "all parts passed"
