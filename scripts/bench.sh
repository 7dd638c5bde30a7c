#!/usr/bin/env bash
# Benchmarks that later changes are compared with.
#   --farm   only tells how well workers share a delivery
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
