package main

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// examples are what --help shows of each command, by its name. They follow one another: each
// can be run where those before it have been.
var examples = []struct{ command, lines string }{
	{"demo export", "proscen demo export scene.json"},
	{"inspect", `proscen inspect scene.json --screen-frame 300
proscen inspect scene.json --camera "Docking side" --story-frame 334 --json`},
	{"still", `proscen still scene.json --shot 040 --size 640x360 --out tomas.png
proscen still scene.json --camera 3 --story-frame 334 --size 640x360 --out docking.jpg`},
	{"render", "proscen render scene.json --out videos --shots 070 --size 320x180 --quality rough"},
	{"export", `proscen export scene.json --as edl --manifest videos/manifest.json --out cut.edl
proscen export scene.json --as csv --out shots.csv`},
	{"import", `proscen import cut.edl --into scene.json --out second.json
proscen import monday.csv --into scene.json --dry-run`},
	{"conform", "proscen conform videos --list videos/one.edl --against videos/first-cut/070/last-car-down_070_cam07_wide-16-9_v001.mp4"},
	{"bench picture", "proscen bench picture model.obj cameras.json --frames 4"},
	{"migrate", "proscen migrate"},
	{"serve", "proscen serve --demo"},
	{"work", "proscen work --threads 2"},
	{"pack", `proscen pack "Last Car Down" last-car-down.zip`},
	{"unpack", "proscen unpack last-car-down.zip"},
}

// exemplify gives the commands their examples. A command that only holds others refuses names
// that it does not hold.
func exemplify(root *cobra.Command) {
	for _, e := range examples {
		c, _, err := root.Find(strings.Fields(e.command))
		if err != nil {
			panic(err) // the list is our own
		}
		c.Example = "  " + strings.ReplaceAll(e.lines, "\n", "\n  ")
	}
	for _, c := range root.Commands() {
		if c.HasSubCommands() {
			c.Args, c.RunE = cobra.ArbitraryArgs, func(cmd *cobra.Command, args []string) error {
				if len(args) > 0 {
					return badInput("there is no command %q; ‘%s --help’ lists them", cmd.Name()+" "+args[0], cmd.CommandPath())
				}
				return cmd.Help()
			}
		}
	}
}

// flagError says what is wrong with a flag.
func flagError(_ *cobra.Command, err error) error {
	var wrong *pflag.InvalidValueError
	if !errors.As(err, &wrong) {
		return inputError{err}
	}
	what := map[string]string{"int": "a whole number", "float64": "a number", "bool": "true or false", "duration": "a length of time, such as 90s"}[wrong.GetFlag().Value.Type()]
	if what == "" {
		return inputError{err}
	}
	return inputError{fmt.Errorf("--%s is %s, not %q", wrong.GetFlag().Name, what, wrong.GetValue())}
}
