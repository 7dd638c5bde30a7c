#!/usr/bin/env bash
# Makes everything that is generated from another file: the JSON Schema of the
# document, the API's server part, and the front end's types.
set -euo pipefail
cd "$(dirname "$0")/.."
go run ./internal/tools/schemagen > api/scene.schema.json
(cd internal/httpapi && go tool oapi-codegen -config oapi.yaml ../../api/openapi.yaml)
(cd web &&
  npx --no-install json2ts -i ../api/scene.schema.json -o src/core/scene.gen.ts --bannerComment '/* Made from api/scene.schema.json by scripts/generate.sh. */' &&
  npx --no-install openapi-typescript ../api/openapi.yaml -o src/api/api.gen.ts >/dev/null)
