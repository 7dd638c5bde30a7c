package edit

import (
	"fmt"

	"proscen/core/scene"
)

type recipePutArgs struct {
	scene.Recipe
	ID string `json:"id,omitempty"`
}

// recipePut adds a recipe for deliveries or replaces one. Recipes are chosen by their
// names, so no two have the same.
func recipePut(d *Draft, a recipePutArgs) (string, error) {
	for id, r := range d.Doc.Recipes {
		if r.Name == a.Name && id != a.ID {
			return "", fmt.Errorf("there is a recipe %q already; call this one otherwise", a.Name)
		}
	}
	d.SetRecipe(pick(d, a.ID), a.Recipe)
	return "write the recipe " + a.Name, nil
}
