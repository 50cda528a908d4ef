package proving

import (
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
)

var basisNames = map[string]Basis{"reach": OnReach, "found": OnFound, "listed": OnDevice, "apart": OnNames, "opens": OnOpen, "named": OnList, "complete": OnCount,
	"plays": OnPlay, "sound": OnSound, "resumes": OnMarks, "elsewhere": OnAcross, "writing": OnWriting, "hours": OnHours, "restart": OnStart, "wakes": OnWaking,
	"outside": OnOutside, "fallback": OnFallBack, "together": OnSet}

var partNames = map[string]Part{"path": asPath, "another path": asOther, "source": asSource, "another source": asOtherSource, "server": asServer, "server's adapter": asServerAdapter,
	"server's segment": asServerSegment, "server's opening": asServerOpening, "server's software": asServerSoftware, "device": asDevice, "device's adapter": asDeviceAdapter,
	"device's segment": asDeviceSegment, "device's opening": asDeviceOpening, "device's software": asDeviceSoftware, "naming segment": asNamingSegment, "router": asRouter,
	"DHCP server": asDHCP, "gear between": asGear, "gear's adapter": asGearAdapter, "link": asLink, "outlet": asOutlet, "signal": asSignal, "folder": asFolder, "storage": asStorage,
	"storage's adapter": asStorageAdapter, "register entry": asRegister, "server's setting": asServerSetting, "device's setting": asDeviceSetting, "router's setting": asRouterSetting,
	"gear's setting": asGearSetting, "storage's setting": asStorageSetting, "control point": asController, "control point's adapter": asControllerAdapter, "chain link": asChainLink,
	"device of the chain": asChained, "account": asAccount, "password": asSecret, "Wi-Fi password": asWiFiSecret, "restriction": asRestriction, "line": asLine, "set": asSet}

// What stands on what was written down a second time by hand, in the order of the tests and not in
// that of the records: a fact that is forgotten in one of the two is noticed.
func TestTheTableOfRelevanceIsAsWrittenByHand(t *testing.T) {
	text, err := os.ReadFile("testdata/no-longer-proof.txt")
	require.NoError(t, err)
	parts := make([]string, 0, len(partNames))
	for name := range partNames {
		parts = append(parts, name)
	}
	slices.SortFunc(parts, func(a, b string) int { return len(b) - len(a) }) // the longest that fits
	byHand := map[Part]map[string]Basis{}
	for line := range strings.Lines(string(text)) {
		if line = strings.TrimSpace(line); line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		first, rest, _ := strings.Cut(line, ":")
		rest = strings.TrimSpace(rest)
		i := slices.IndexFunc(parts, func(p string) bool { return strings.HasPrefix(rest, p+" ") })
		require.GreaterOrEqual(t, i, 0, line)
		basis, known := basisNames[first]
		require.True(t, known, line)
		part := partNames[parts[i]]
		if byHand[part] == nil {
			byHand[part] = map[string]Basis{}
		}
		for _, member := range strings.Fields(rest[len(parts[i]):]) {
			_, twice := byHand[part][member]
			assert.False(t, twice, "%s of the %s stands twice", member, parts[i])
			byHand[part][member] = basis
		}
	}
	inTable := map[Part]map[string]Basis{}
	for _, k := range dossier.Kinds {
		for _, f := range k.Fields {
			for part, basis := range relevance[k.Name][f.Name].by {
				if inTable[part] == nil {
					inTable[part] = map[string]Basis{}
				}
				inTable[part][f.Name] = basis
			}
		}
	}
	for name, part := range partNames {
		assert.Equal(t, byHand[part], inTable[part], name)
	}
	assert.Len(t, partNames, int(asSet)+1)
	assert.Len(t, basisNames, int(bases)-1, "all but what appears in a place, which only takes in others")
}

// What each test builds on, as a technician would say it.
func TestBasesBuildOnEachOther(t *testing.T) {
	for above, below := range map[Basis][]Basis{
		OnReach: {}, OnFound: {OnReach}, OnDevice: {OnFound, OnReach}, OnNames: {OnDevice, OnFound, OnReach}, OnOpen: {OnReach}, OnList: {OnOpen, OnReach},
		OnCount: {OnList, OnOpen, OnReach}, OnPlay: {OnDevice, OnFound, OnOpen, OnReach}, OnSound: {OnPlay, OnDevice, OnFound, OnOpen, OnReach},
		OnMarks: {OnPlay, OnDevice, OnFound, OnOpen, OnReach}, OnAcross: {OnMarks, OnPlay, OnDevice, OnFound, OnOpen, OnReach}, OnWriting: {OnOpen, OnReach},
		OnPlace: {OnPlay, OnList, OnDevice, OnFound, OnOpen, OnReach}, OnHours: {OnDevice, OnFound, OnReach}, OnStart: {OnPlay, OnDevice, OnFound, OnOpen, OnReach},
		OnWaking: {OnFound, OnReach}, OnOutside: {OnPlay, OnDevice, OnFound, OnOpen, OnReach}, OnFallBack: {}, OnSet: {OnPlay, OnDevice, OnFound, OnOpen, OnReach},
	} {
		for other := range bases {
			assert.Equal(t, other == above || slices.Contains(below, other), above.Takes(other), "%d on %d", above, other)
		}
	}
}
