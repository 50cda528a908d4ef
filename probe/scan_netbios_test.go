package probe

import (
	"encoding/binary"
	"io"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/multicast"
)

// status is a node status answer with these names, each with its suffix and flags.
func status(id uint16, hardware []byte, names ...string) []byte {
	b := binary.BigEndian.AppendUint16(nil, id)
	b = append(b, 0x84, 0, 0, 0, 0, 1, 0, 0, 0, 0)
	b = append(b, statusQuestion(id)[12:46]...)
	b = append(b, 0, nodeStatus, 0, 1, 0, 0, 0, 0, 0, byte(1+18*len(names)+6), byte(len(names)))
	for _, n := range names {
		one := append([]byte(n[:len(n)-1]), make([]byte, 0)...)
		for len(one) < nameLength {
			one = append(one, ' ')
		}
		flags := []byte{0x04, 0}
		if n[len(n)-1] == 'G' {
			flags[0] = 0x84
		}
		b = append(append(append(b, one...), workstation), flags...)
	}
	return append(b, hardware...)
}

func TestNetBIOSNames(t *testing.T) {
	hardware := []byte{2, 0x4b, 0x49, 0, 0, 0x10}
	name, hw, ok := statusNames(status(7, hardware, "WORKGROUPG", "OLDBOXU"), 7)
	assert.True(t, ok)
	assert.Equal(t, "OLDBOX", name, "a group is not the name of a computer")
	assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:00:10"), hw)
	_, _, ok = statusNames(status(7, hardware, "OLDBOXU"), 8)
	assert.False(t, ok, "an answer to another question")
	name, hw, ok = statusNames(status(7, nil, "OLDBOXU"), 7)
	assert.True(t, ok)
	assert.Equal(t, "OLDBOX", name)
	assert.Empty(t, hw)
}

func FuzzWindowsNames(f *testing.F) {
	f.Add(status(7, nil, "OLDBOXU"), uint16(7))
	f.Add([]byte(`<Envelope><Body><ProbeMatches><ProbeMatch><Types>a:b</Types></ProbeMatch></ProbeMatches></Body></Envelope>`), uint16(0))
	f.Fuzz(func(_ *testing.T, b []byte, id uint16) {
		_, _, _ = statusNames(b, id)
		for _, m := range readMatches(b) {
			h := matching.NewHost("", netip.MustParseAddr("10.0.0.1"))
			m.say(&h)
		}
	})
}

// An old computer that shares files has a NetBIOS name, and one that answers a WS-Discovery probe by
// what it says it is.
func TestOldComputersAreKnown(t *testing.T) {
	h := draw(t, 3, 90, 1, 0)
	at := netip.MustParseAddr("127.66.90.77")
	l, err := net.Listen("tcp4", at.String()+":139")
	require.NoError(t, err)
	defer l.Close()
	names, err := net.ListenUDP("udp4", net.UDPAddrFromAddrPort(netip.AddrPortFrom(at, nameService)))
	require.NoError(t, err)
	defer names.Close()
	go func() {
		b := make([]byte, 512)
		for {
			n, from, err := names.ReadFromUDPAddrPort(b)
			if err != nil {
				return
			}
			if n >= 50 {
				_, _ = names.WriteToUDPAddrPort(status(binary.BigEndian.Uint16(b), nil, "OLDBOXU"), from)
			}
		}
	}()
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	hear, err := multicast.Hear(discoveryGroup, lo)
	require.NoError(t, err)
	defer hear.Close()
	go func() {
		b := make([]byte, 9000)
		for {
			_, from, err := hear.Next(b)
			if err != nil {
				return
			}
			c, err := net.DialUDP("udp4", net.UDPAddrFromAddrPort(netip.AddrPortFrom(at, 0)), net.UDPAddrFromAddrPort(from))
			if err == nil {
				_, _ = c.Write([]byte(`<s:Envelope xmlns:s="http://www.w3.org/2003/05/soap-envelope" xmlns:d="http://schemas.xmlsoap.org/ws/2005/04/discovery"><s:Body><d:ProbeMatches><d:ProbeMatch><a:EndpointReference xmlns:a="b"><a:Address>urn:uuid:one&amp;1</a:Address></a:EndpointReference><d:Types>wsdp:Device pub:Computer</d:Types><d:XAddrs>http://127.66.90.77:5357/x/ http://192.0.2.9/</d:XAddrs></d:ProbeMatch></d:ProbeMatches></s:Body></s:Envelope>`))
				_ = c.Close()
			}
		}
	}()
	about, err := net.Listen("tcp4", at.String()+":5357")
	require.NoError(t, err)
	srv := &http.Server{ReadHeaderTimeout: time.Minute, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		if r.Method != http.MethodPost || !strings.Contains(string(body), "<wsa:To>urn:uuid:one&amp;1</wsa:To>") {
			http.Error(w, "no", http.StatusBadRequest)
			return
		}
		_, _ = io.WriteString(w, `<s:Envelope xmlns:s="http://www.w3.org/2003/05/soap-envelope"><s:Body><x:Metadata xmlns:x="y"><x:MetadataSection><p:ThisDevice xmlns:p="z"><p:FriendlyName>A device host</p:FriendlyName></p:ThisDevice></x:MetadataSection><x:MetadataSection><p:ThisModel xmlns:p="z"><p:Manufacturer>Tuulkivi</p:Manufacturer><p:ModelName>TT-9</p:ModelName></p:ThisModel></x:MetadataSection><x:MetadataSection><p:Relationship xmlns:p="z"><p:Host><p:Computer>STUDY/Workgroup:HOME</p:Computer></p:Host></p:Relationship></x:MetadataSection></x:Metadata></s:Body></s:Envelope>`)
	})}
	go func() { _ = srv.Serve(about) }()
	defer srv.Close()
	g, err := Prober{Guard: Guard{Within: loopback}, Late: time.Second}.Scan(t.Context(), h.home(), nil)
	require.NoError(t, err)
	old := hostAt(t, g, at)
	assert.Equal(t, "STUDY", old.Seen[0].Members["name"], "what a computer is called, and not its device host")
	assert.Equal(t, "study", old.Seen[0].Members["hostName"])
	assert.Equal(t, "Tuulkivi", old.Seen[0].Members["make"])
	assert.Equal(t, "TT-9", old.Seen[0].Members["model"])
	assert.Contains(t, old.Services, matching.Service{Type: "WS-Discovery", Name: "Computer", Port: 5357})
	assert.Equal(t, []int{3702}, old.Heard)
}
