// Package api holds the description of the HTTP interface.
package api

import _ "embed" // the description is compiled in

// Spec is the description in OpenAPI 3.0, as YAML.
//
//go:embed openapi.yaml
var Spec []byte
