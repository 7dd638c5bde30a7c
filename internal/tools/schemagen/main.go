// Command schemagen prints the JSON Schema of the scene document.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"

	"github.com/invopop/jsonschema"

	"proscen/core/scene"
	"proscen/core/timing"
)

func main() {
	r := jsonschema.Reflector{Anonymous: true, ExpandedStruct: true, Mapper: func(t reflect.Type) *jsonschema.Schema {
		if t == reflect.TypeFor[timing.Rate]() {
			return &jsonschema.Schema{Type: "string", Pattern: `^[0-9]+(/[0-9]+)?$`, Description: "Frames per second, such as 24 or 24000/1001"}
		}
		return nil
	}}
	s := r.Reflect(&scene.Document{})
	s.Title = "Proscen scene"
	body, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	_, _ = os.Stdout.Write(append(body, '\n'))
}
