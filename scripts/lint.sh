#!/usr/bin/env bash
# Formatting, static checks and freshness of generated files.
source "$(dirname "$0")/tools.sh"
need_toolchains
npm_ci web
npm_ci e2e
fail=0
step() {
  local name=$1
  shift
  if ! out=$("$@" 2>&1); then
    say "lint: $name"
    printf '%s\n' "$out" | grep -v '^npm warn' >&2
    fail=1
  fi
}
unformatted() { local f; f=$(gofmt -l core internal cmd web/embed.go); [ -z "$f" ] || { echo "not formatted: $f"; return 1; }; }
stale() {
  local before after
  before=$(cat api/scene.schema.json internal/httpapi/api.gen.go web/src/core/core.gen.ts web/src/api/api.gen.ts | sha256sum)
  scripts/generate.sh
  after=$(cat api/scene.schema.json internal/httpapi/api.gen.go web/src/core/core.gen.ts web/src/api/api.gen.ts | sha256sum)
  [ "$before" = "$after" ] || { echo "generated files were stale and have been made again: commit them"; return 1; }
}
step gofmt unformatted
step vet go vet ./...
step 'vet wasm' env GOOS=js GOARCH=wasm go vet ./cmd/corewasm
step staticcheck go tool staticcheck ./...
step 'generated files' stale
step eslint bash -c 'cd web && npx --no-install eslint .'
step prettier bash -c 'cd web && npx --no-install prettier --check . ../e2e/*.ts'
step vue-tsc bash -c 'cd web && npx --no-install vue-tsc --noEmit'
step 'tsc e2e' bash -c 'cd e2e && npx --no-install tsc --noEmit'
[ $fail = 0 ] && say "lint: all clean"
exit $fail
