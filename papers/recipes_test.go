package papers_test

import (
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"image"
	"image/color"

	"kaiku/core/knowledge"
	"kaiku/papers"
)

// What is written is read back as it was, whatever the texts are.
func TestRecipesComeBackAsTheyWere(t *testing.T) {
	text := rapid.StringMatching(`[\PC]{1,20}`)
	rapid.Check(t, func(t *rapid.T) {
		var list []knowledge.Recipe
		for range rapid.IntRange(1, 3).Draw(t, "recipes") {
			r := knowledge.Recipe{Name: text.Draw(t, "name"), Software: text.Draw(t, "software")}
			for range rapid.IntRange(1, 3).Draw(t, "steps") {
				r.Steps = append(r.Steps, knowledge.Step{Menu: text.Draw(t, "menu"), Setting: text.Draw(t, "setting"), Value: text.Draw(t, "value")})
			}
			list = append(list, r)
		}
		b, err := papers.WriteRecipes(list)
		require.NoError(t, err)
		back, err := papers.ReadRecipes(string(b))
		require.NoError(t, err)
		assert.Equal(t, list, back)
	})
}

func TestRecipesThatCannotBeRead(t *testing.T) {
	for name, c := range map[string]struct{ text, says string }{
		"empty":           {"", "empty"},
		"no form":         {"recipes: []", "must say format: kaiku-recipes/1"},
		"another form":    {"format: kaiku-recipes/2\nrecipes: [{name: a}]", "must say format"},
		"none":            {"format: kaiku-recipes/1", "holds no recipes"},
		"a mistyped word": {"format: kaiku-recipes/1\nrecipes:\n  - name: a\n    sofware: b\n", "field sofware not found"},
		"not YAML":        {"format: [", "line 1"},
	} {
		_, err := papers.ReadRecipes(c.text)
		assert.ErrorContains(t, err, c.says, name)
	}
	list, err := papers.ReadRecipes(`{"format": "kaiku-recipes/1", "recipes": [{"name": "a", "steps": [{"setting": "b", "value": "c"}]}]}`)
	require.NoError(t, err, "JSON is YAML")
	assert.Equal(t, "b", list[0].Steps[0].Setting)
}

func FuzzReadRecipes(f *testing.F) {
	f.Add("format: kaiku-recipes/1\nrecipes:\n  - name: a\n    steps: [{setting: b, value: c}]\n")
	f.Add("format: kaiku-recipes/1\nrecipes: &a [*a]\n")
	f.Fuzz(func(t *testing.T, text string) {
		list, err := papers.ReadRecipes(text)
		if err == nil && len(list) == 0 {
			t.Error("no recipes and no error")
		}
	})
}

// A camera reads from the code what was put into it, and characters that readers disagree on are told.
func TestAWiFiCodeIsReadByACamera(t *testing.T) {
	for _, c := range []struct {
		ssid, password, want string
		caution              bool
	}{
		{"Keepers", "granite-under-gulls", "WIFI:T:WPA;S:Keepers;P:granite-under-gulls;;", false},
		{"Höyry", "pass word", "WIFI:T:WPA;S:Höyry;P:pass word;;", false},
		{"a;b", `c\d:e`, `WIFI:T:WPA;S:a\;b;P:c\\d\:e;;`, true},
	} {
		text, caution := papers.WiFiCode(c.ssid, c.password)
		assert.Equal(t, c.want, text)
		assert.Equal(t, c.caution, caution)
		rows, err := papers.QR(text)
		require.NoError(t, err)
		const scale = 6
		picture := image.NewGray(image.Rect(0, 0, len(rows)*scale, len(rows)*scale))
		for y := range picture.Rect.Dy() {
			for x := range picture.Rect.Dx() {
				picture.SetGray(x, y, color.Gray{Y: map[byte]uint8{'1': 0, '0': 255}[rows[y/scale][x/scale]]})
			}
		}
		bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
		require.NoError(t, err)
		read, err := qrcode.NewQRCodeReader().Decode(bitmap, nil)
		require.NoError(t, err)
		assert.Equal(t, c.want, read.GetText())
	}
}
