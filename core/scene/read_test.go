package scene_test

import (
	"strings"
	"testing"

	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFilesOfOthersAreReadStrictly(t *testing.T) {
	stock := func(kind string) bool { return kind != "dragon" }
	good := string(scenetest.Rich().Encode())
	for _, text := range []string{good, "\ufeff" + good} {
		d, err := scene.Read([]byte(text), stock)
		require.NoError(t, err)
		assert.Equal(t, good, string(d.Encode()))
	}
	small := string(scenetest.Small().Encode())
	change := func(old, by string) string {
		require.Contains(t, small, old)
		return strings.Replace(small, old, by, 1)
	}
	box := small[strings.Index(small, `"box":{`):]
	box = box[:strings.Index(box, `},"walker"`)+1]
	for says, text := range map[string]string{
		"nodes/a/position has 2 numbers; it must have 3":         change(`"position":[0,1.5,0]`, `"position":[0,1.5]`),
		"nodes/a/position has 4 numbers; it must have 3":         change(`"position":[0,1.5,0]`, `"position":[0,1.5,0,7]`),
		"paths/track/points/1 has 1 numbers; it must have 3":     change(`[8,2,0]`, `[8]`),
		"nodes/a/camera/sensor has 3 numbers; it must have 2":    change(`"sensor":[36,24]`, `"sensor":[36,24,1]`),
		"nodes/box/piece/stock is \"dragon\"":                    change(`"stock":"box"`, `"stock":"dragon"`),
		"boards is missing; a collection":                        change(`"boards":{},`, ``),
		"nodes is missing; a collection":                         change(`"nodes":{`, `"knots":{`),
		"nodes/a/Position is no name of this":                    change(`"position":[0,1.5,0]`, `"Position":[0,1.5,0]`),
		"nodes/box is there twice":                               change(`"box":{`, box+`,"box":{`),
		"markers is there twice":                                 change(`"markers":{`, `"markers":{},"markers":{`),
		"curves/b-travel/keys/1/Value is no name of this":        change(`"frame":96,"value"`, `"frame":96,"Value"`),
		"it is UTF-16; save it as UTF-8":                         "\xff\xfe{",
		"settings/sun/color is there twice":                      change(`"sun":{`, `"sun":{"color":"#ffffff",`),
		"shots/s1/lane refers to \"none\", and there is no such": change(`"lane":"main"`, `"lane":"none"`),
	} {
		_, err := scene.Read([]byte(text), stock)
		assert.ErrorContains(t, err, says)
	}
}
