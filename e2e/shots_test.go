package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestShots takes the pictures of the documentation, see make shots.
func TestShots(t *testing.T) {
	dir := os.Getenv("KAIKU_SHOTS")
	if dir == "" {
		t.Skip("taken by make shots")
	}
	dir, err := filepath.Abs(dir)
	require.NoError(t, err)
	base := startDemo(t)
	for name, s := range map[string]size{"": desk, "-phone": phone} {
		sc := newScreen(t, base, s)
		sc.logIn("maarit")
		sc.shoot(filepath.Join(dir, "today"+name+".png"))
		for file, path := range map[string]string{"overview": "", "proving": "/proving", "paths": "/paths", "devices": "/devices", "journal": "/journal", "survey": "/survey"} {
			if s == phone && (file == "journal" || file == "survey" || file == "paths") {
				continue
			}
			sc.open("/households/H-0001" + path)
			sc.shoot(filepath.Join(dir, file+name+".png"))
		}
		sc.open("/")
		sc.tap("A handover from Petri Lokki waits for you to read it back")
		sc.sees("Points")
		sc.shoot(filepath.Join(dir, "handover"+name+".png"))
	}
}
