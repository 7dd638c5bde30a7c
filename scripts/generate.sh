#!/usr/bin/env bash
# Makes everything that is generated from another file: the JSON Schema of the
# document, the API's server part, and the front end's types of the core and the API.
set -euo pipefail
cd "$(dirname "$0")/.."
made=$(mktemp -d)
trap 'rm -rf "$made"' EXIT
go build -o "$made/schemagen" ./internal/tools/schemagen
"$made/schemagen" document > api/scene.schema.json
"$made/schemagen" core > "$made/core.json"
(cd internal/httpapi && go tool oapi-codegen -config oapi.yaml ../../api/openapi.yaml)
(cd web &&
  npx --no-install json2ts -i "$made/core.json" -o src/core/core.gen.ts --additionalProperties false --bannerComment '/* Made from the operations and calls of the core by scripts/generate.sh. */' &&
  npx --no-install openapi-typescript ../api/openapi.yaml -o src/api/api.gen.ts >/dev/null)
