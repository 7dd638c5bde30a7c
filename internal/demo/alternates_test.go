package demo

import (
	"testing"

	"proscen/core/alternate"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheDemonstrationHasANightAndATallOne(t *testing.T) {
	d := Scene()
	assert.Empty(t, alternate.Faults(d))
	night, rests, err := alternate.Resolve(d, Night)
	require.NoError(t, err)
	assert.Empty(t, rests)
	assert.Empty(t, night.Validate())
	assert.Less(t, night.Settings.Sun.Strength, d.Settings.Sun.Strength)
	assert.Greater(t, night.Nodes["lamp-light"].Lamp.Strength, d.Nodes["lamp-light"].Lamp.Strength)
	assert.Contains(t, night.Nodes, "window-light")
	assert.NotContains(t, d.Nodes, "window-light")
	assert.Equal(t, d.Shots, night.Shots)

	tall, rests, err := alternate.Resolve(d, Tall)
	require.NoError(t, err)
	assert.Empty(t, rests)
	assert.NotEqual(t, d.Nodes["bench"].Position, tall.Nodes["bench"].Position)
	longer := 0
	for id, s := range tall.Shots {
		if was := d.Shots[id]; s.ScreenOut-s.ScreenIn > was.ScreenOut-was.ScreenIn {
			longer++
		}
	}
	assert.Equal(t, 2, longer)
	assert.Equal(t, "tall", tall.Settings.Format, "the format that it is bound to")

	// One shot has a brighter lamp and a barrel elsewhere, and in the alternates, too.
	for _, as := range []string{"", Night, Tall} {
		whole, _, err := alternate.Resolve(d, as)
		require.NoError(t, err)
		one, err := alternate.Apart(whole, "shot-060")
		require.NoError(t, err)
		assert.NotEqual(t, whole.Nodes["barrel-1"].Position, one.Nodes["barrel-1"].Position, as)
		assert.Equal(t, 7.5, one.Nodes["lamp-light"].Lamp.Strength, as)
		other, err := alternate.Apart(whole, "shot-050")
		require.NoError(t, err)
		assert.Nil(t, other)
	}
}
