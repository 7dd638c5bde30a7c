#!/usr/bin/env bash
# Benchmarks that later changes are compared with.
#   --farm     only tells how well workers share a delivery
#   --picture  only compares the renderer with another one, in turns: MODEL and CAMERAS are
#              what both render, REFERENCE and PLAIN commands that print fps= with and
#              without smooth edges and shadow
source "$(dirname "$0")/tools.sh"
need_toolchains
if [ "${1:-}" = --farm ]; then
  DATA=$(mktemp -d /tmp/proscen-bench-pg.XXXXXX)
  trap 'stop_postgres "$DATA"; rm -rf "$DATA"' EXIT
  need_run
  start_postgres "$DATA"
  go test ./internal/render -run '^Test(Farm|TwoAgainstOne)$' -farm -count=1 -timeout 20m -v | grep -v '^=== \|^ *---'
  exit
fi
if [ "${1:-}" = --picture ]; then
  [ -n "${MODEL:-}" ] && [ -n "${CAMERAS:-}" ] && [ -n "${REFERENCE:-}" ] && [ -n "${PLAIN:-}" ] \
    || die "say what to compare: MODEL=model.glb CAMERAS=cameras.json REFERENCE='command' PLAIN='command'"
  build_program
  ours() { bin/proscen bench picture "$MODEL" "$CAMERAS" --json "$@" | node -pe 'JSON.parse(require("fs").readFileSync(0)).FPS'; }
  theirs() { bash -c "$1" | grep -o 'fps=[0-9.]*' | cut -d= -f2; }
  turn() { node -e '
    const [what, ours, before, after] = process.argv.slice(1).map((v, i) => (i ? Number(v) : v))
    const theirs = (before + after) / 2
    console.log(`${what}: ours ${ours.toFixed(2)}, theirs ${theirs.toFixed(2)}, ${(ours / theirs).toFixed(2)} times`)' "$@"; }
  for _ in 1 2 3 4 5; do
    before=$(theirs "$REFERENCE") mine=$(ours)
    turn 'smooth, with shadow' "$mine" "$before" "$(theirs "$REFERENCE")"
    before=$(theirs "$PLAIN") mine=$(ours --samples 1 --shadow 0)
    turn 'one sample, no shadow' "$mine" "$before" "$(theirs "$PLAIN")"
  done
  exit
fi
npm_ci web
build_wasm
build_program
go test -run '^$' -bench . -benchmem -timeout 60m ./core/... ./internal/demo ./internal/render | grep -E '^(Benchmark|pkg)'
DATA=$(mktemp -d /tmp/proscen-bench-pg.XXXXXX)
trap 'stop_postgres "$DATA"; rm -rf "$DATA"' EXIT
need_run
start_postgres "$DATA"
go test -run '^$' -bench StoreGrowth ./internal/store | grep -E '^(Benchmark|pkg)'
node scripts/wasmsmoke.mjs --bench
