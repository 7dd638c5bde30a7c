#!/usr/bin/env bash
# Starts everything: installs what is missing, builds, starts a private
# PostgreSQL, loads the demonstration once, and serves until Ctrl-C.
source "$(dirname "$0")/tools.sh"
LISTEN=${PROSCEN_LISTEN:-127.0.0.1:8470}
if curl -fs "http://$LISTEN/api/health" >/dev/null 2>&1; then
  say "Proscen is running already: http://$LISTEN"
  exit 0
fi
need_run
build_web
build_program
DATA=$(data_folder)
trap 'trap - EXIT INT TERM; [ -n "${SERVER:-}" ] && kill "$SERVER" 2>/dev/null && wait "$SERVER" 2>/dev/null; stop_postgres "$DATA"' EXIT
trap 'exit 0' INT TERM
start_postgres "$DATA"
export PROSCEN_DATABASE=$DATABASE_URL PROSCEN_BLOBS=${PROSCEN_BLOBS:-$VAR/blobs}
bin/proscen serve --demo --listen "$LISTEN" &
SERVER=$!
for _ in $(seq 100); do
  kill -0 "$SERVER" 2>/dev/null || break
  if curl -fs "http://$LISTEN/api/health" >/dev/null 2>&1; then
    say ""
    say "  Proscen is ready: http://$LISTEN"
    say "  Ctrl-C stops it and its database."
    say ""
    break
  fi
  sleep 0.1
done
wait "$SERVER"
