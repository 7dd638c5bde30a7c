#!/usr/bin/env bash
# Benchmarks that later changes are compared with.
source "$(dirname "$0")/tools.sh"
need_toolchains
npm_ci web
build_wasm
build_program
go test -run '^$' -bench . -benchmem ./core/... ./internal/demo | grep -E '^(Benchmark|pkg)'
node scripts/wasmsmoke.mjs --bench
