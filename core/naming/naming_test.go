package naming_test

import (
	"testing"

	"proscen/core/naming"

	"github.com/stretchr/testify/assert"
)

func TestSlug(t *testing.T) {
	for in, want := range map[string]string{"Last Car Down": "last-car-down", "../../etc": "etc", "  ": "unnamed", "Zürich 2": "z-rich-2", "ABC": "abc"} {
		assert.Equal(t, want, naming.Slug(in))
	}
	assert.LessOrEqual(t, len(naming.Slug(string(make([]byte, 500))+"aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa")), 61)
}

func TestNamesSayWhatIsInside(t *testing.T) {
	assert.Equal(t, "t_first-cut_list_v012", naming.Versioned(naming.Sheet("T", "first cut", "list"), 12))
	assert.Equal(t, "outputs/hollin-pass/last-car-down-45n91s/delivery-003", naming.Folder("Hollin Pass", "Last Car Down", "01M8DZNRPTCWXT2EYX9N45N91S", 3))
	assert.Equal(t, "outputs/p/t-ab/delivery-1000", naming.Folder("P", "T", "ab", 1000))
	assert.Equal(t, "t_first-cut_list", naming.Sheet("T", "first cut", "list"))
}

func TestNoTwoFilesOfAFolderHaveOneName(t *testing.T) {
	n := naming.Names{}
	assert.Equal(t, "a_v001.mp4", n.Free("a_v001", "mp4"))
	assert.Equal(t, "a_v001-2.mp4", n.Free("a_v001", "mp4"))
	assert.Equal(t, "a_v002.mp4", n.Free("a_v002", "mp4"))
	assert.Equal(t, "a_v001-2-2.mp4", n.Free("a_v001-2", "mp4"), "also when somebody is called like that")
	assert.Equal(t, "a_v001-3.mp4", n.Free("a_v001", "mp4"))
	assert.Equal(t, "a_v001", n.Free("a_v001", ""), "a folder")
	assert.Equal(t, "a_v001-4", n.Free("a_v001-4", ""))
}
