package wording

import (
	"fmt"
	"slices"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// WakeStates say whether a machine can be woken by who needs it.
var WakeStates = map[network.WakeState]string{
	network.WakeCannot: "cannot be woken", network.WakeUnknown: "not known", network.WakeShould: "should work", network.WakeSeen: "seen to work", network.WakeNeedNot: "does not sleep",
}

// WakeGaps say what is not recorded about waking.
var WakeGaps = map[network.WakeGap]string{
	network.GapWokenBy: "what wakes it", network.GapMedium: "how it is connected", network.GapSends: "whether {by} can send the packet that wakes",
	network.GapSegment: "in which segments the two are",
}

// onMedium says by which medium a machine is woken.
var onMedium = map[dossier.Medium]string{dossier.OnCable: " over its cable", dossier.OnRadio: " over Wi-Fi", dossier.OnPowerline: " over the mains wiring"}

// Waking says who has to wake a machine and whether that is possible.
func Waking(w network.Waking, sleeper, by string) string {
	switch w.State {
	case network.WakeNeedNot:
		return sleeper + " does not go to sleep."
	case network.WakeSeen:
		return fmt.Sprintf("%s wakes %s%s: it was seen to work.", by, sleeper, onMedium[w.Medium])
	case network.WakeShould:
		return fmt.Sprintf("%s can wake %s with a packet%s: nothing recorded speaks against it, and nobody has seen it work.", by, sleeper, onMedium[w.Medium])
	case network.WakeCannot:
		return fmt.Sprintf("%s cannot wake %s: %s.", by, sleeper, valueTexts(map[string]dossier.Value{"why": w.Why})["why"])
	}
	if slices.Contains(w.Unknown, network.GapSleeps) {
		return fmt.Sprintf("It is not recorded whether %s goes to sleep.", sleeper)
	}
	var open []string
	for _, gap := range w.Unknown {
		open = append(open, Fill(WakeGaps[gap], map[string]string{"by": by}))
	}
	return fmt.Sprintf("Whether %s can wake %s is not known, as it is not recorded %s.", by, sleeper, And(open))
}
