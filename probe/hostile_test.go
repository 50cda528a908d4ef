package probe

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/miekg/dns"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/homes"
	"kaiku/multicast"
	"kaiku/practice"
)

// hostile answers every search that comes from its /24 with these locations, each from a device of
// its own, until the returned function is called.
func hostile(t testing.TB, at netip.Addr, locations []string) func() {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	hear, err := multicast.Hear(multicast.SSDP, lo)
	require.NoError(t, err)
	speak, err := multicast.Speak(netip.AddrPortFrom(at, 0), lo, 2)
	require.NoError(t, err)
	near, _ := at.Prefix(24)
	done := make(chan struct{})
	go func() {
		defer close(done)
		b := make([]byte, 4096)
		for {
			n, from, err := hear.Next(b)
			if err != nil {
				return
			}
			r, err := http.ReadRequest(bufio.NewReader(bytes.NewReader(b[:n])))
			if err != nil || r.Method != "M-SEARCH" || !near.Contains(from.Addr()) {
				continue
			}
			for i, l := range locations {
				_, _ = speak.WriteToUDPAddrPort(fmt.Appendf(nil, "HTTP/1.1 200 OK\r\nLOCATION: %s\r\nST: upnp:rootdevice\r\nUSN: uuid:stray-%d::upnp:rootdevice\r\nSERVER: x\r\n\r\n", l, i), from)
				if i%50 == 49 {
					time.Sleep(time.Millisecond) // a socket's buffer holds only so many
				}
			}
		}
	}()
	return func() {
		_ = hear.Close()
		_ = speak.Close()
		<-done
	}
}

// serveRaw serves connections at an address as the function says.
func serveRaw(t testing.TB, at string, serve func(net.Conn)) {
	l := listen(t, at, func(c net.Conn) {
		defer c.Close()
		_, _ = http.ReadRequest(bufio.NewReader(c))
		serve(c)
	})
	t.Cleanup(func() { _ = l.Close() })
}

const head = "HTTP/1.1 200 OK\r\nContent-Type: text/xml\r\nConnection: close\r\n\r\n"

// TestHostileDescriptions has one device for each thing that a description must not do to us.
func TestHostileDescriptions(t *testing.T) {
	root := `<root xmlns="urn:schemas-upnp-org:device-1-0"><device><deviceType>urn:schemas-upnp-org:device:Basic:1</deviceType><friendlyName>`
	cases := []struct {
		name  string
		serve func(net.Conn)
		ended matching.Ended
	}{
		{"huge", func(c net.Conn) {
			_, _ = io.WriteString(c, head+root)
			for range 4000 {
				if _, err := io.WriteString(c, strings.Repeat("x", 1000)); err != nil {
					return
				}
			}
		}, matching.Broken},
		{"endless", func(c net.Conn) {
			_, _ = io.WriteString(c, head)
			for {
				if _, err := io.WriteString(c, strings.Repeat("<a>", 1000)); err != nil { // little by little, a slow machine would not get to the bound
					return
				}
			}
		}, matching.Broken},
		{"one byte a second", func(c net.Conn) {
			_, _ = io.WriteString(c, head)
			for range 3000 { // until we hang up
				if _, err := io.WriteString(c, " "); err != nil {
					return
				}
				time.Sleep(200 * time.Millisecond)
			}
		}, matching.Silent},
		{"deeply nested", func(c net.Conn) { _, _ = io.WriteString(c, head+strings.Repeat("<a>", 80_000)) }, matching.Broken},
		{"entities", func(c net.Conn) {
			_, _ = io.WriteString(c, head+`<!DOCTYPE r [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]>`+root+"&b;</friendlyName></device></root>")
		}, matching.Broken},
		{"a redirect out of the home", func(c net.Conn) {
			_, _ = io.WriteString(c, "HTTP/1.1 302 Found\r\nLocation: http://127.99.0.1:9/\r\nConnection: close\r\n\r\n")
		}, matching.NotAsked},
		{"redirects without end", func(c net.Conn) {
			_, _ = io.WriteString(c, "HTTP/1.1 302 Found\r\nLocation: /again\r\nConnection: close\r\n\r\n")
		}, matching.Broken},
		{"rubbish", func(c net.Conn) { _, _ = c.Write([]byte("\x00\x01\x02rubbish\r\n\r\n\xff")) }, matching.Broken},
		{"nothing", func(net.Conn) {}, matching.Broken},
		{"names in every script, long and with control characters", func(c net.Conn) {
			_, _ = io.WriteString(c, head+root+"&#x202E;Grænit 花崗岩 גרניט &#x1F3E0;\n\t"+strings.Repeat("ä", 10_000)+"</friendlyName><UDN>uuid:x</UDN></device></root>")
		}, matching.Answered},
		{"a clock of another century", func(c net.Conn) {
			_, _ = io.WriteString(c, "HTTP/1.1 200 OK\r\nDate: Thu, 01 Jan 1970 00:00:00 GMT\r\nConnection: close\r\n\r\n"+root+"Old</friendlyName><UDN>uuid:y</UDN></device></root>")
		}, matching.Answered},
	}
	h := practice.New(71) // not started: only its segment is used
	var locations []string
	for n, c := range cases {
		at := fmt.Sprintf("127.77.71.%d:40210", 10+n)
		serveRaw(t, at, c.serve)
		locations = append(locations, "http://"+at+"/d.xml")
	}
	stop := hostile(t, netip.MustParseAddr("127.77.71.9"), locations)
	defer stop()
	g := gather(t, bare(h))
	assert.False(t, g.Short, "it ends in its time")
	for n, c := range cases {
		host := hostAt(t, g, netip.MustParseAddr(fmt.Sprintf("127.77.71.%d", 10+n)))
		assert.Equal(t, c.ended, answer(host, matching.ByUPnP).Ended, "%s: %+v", c.name, host.Answers)
		name, _ := host.Seen[0].Members["name"].(string)
		assert.LessOrEqual(t, len([]rune(name)), 120, c.name)
		assert.NotContains(t, name, "\u202e", c.name)
	}
	old := hostAt(t, g, netip.MustParseAddr(fmt.Sprintf("127.77.71.%d", 10+len(cases)-1)))
	assert.Equal(t, "reading", old.Seen[len(old.Seen)-1].Kind, "its clock is wrong")
}

// TestRubbishOnEveryPort lets one host answer rubbish wherever it is asked.
func TestRubbishOnEveryPort(t *testing.T) {
	for n, rubbish := range []func(net.Conn){
		func(c net.Conn) { _, _ = c.Write(bytes.Repeat([]byte{0xff}, 4096)) },
		func(c net.Conn) { _, _ = c.Write(make([]byte, 4096)) },
		func(c net.Conn) { _, _ = io.Copy(c, c) },                      // an echo
		func(c net.Conn) { _, _ = io.Copy(io.Discard, c) },             // reads for ever, says nothing
		func(c net.Conn) { _, _ = io.WriteString(c, "HTTP/1.1 200 ") }, // stops in the middle
	} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			t.Parallel()
			octet := byte(80 + 2*n)
			h := practice.New(octet)
			for _, port := range Ports {
				l := listen(t, fmt.Sprintf("127.77.%d.30:%d", octet, port), func(c net.Conn) {
					defer c.Close()
					rubbish(c)
				})
				defer l.Close()
			}
			g := gather(t, bare(h))
			host := hostAt(t, g, netip.MustParseAddr(fmt.Sprintf("127.77.%d.30", octet)))
			assert.Len(t, host.Open, len(Ports))
			for _, q := range host.Answers {
				assert.NotEqual(t, matching.Answered, q.Ended, "%s at %d", q.Way, q.Port)
			}
		})
	}
}

func TestFiveThousandAnswers(t *testing.T) {
	h := practice.New(91)
	var locations []string
	for n := range 5200 {
		locations = append(locations, fmt.Sprintf("http://127.77.91.%d:%d/", 20+n%200, 1000+n))
	}
	stop := hostile(t, netip.MustParseAddr("127.77.91.9"), locations)
	defer stop()
	g := gather(t, bare(h))
	assert.LessOrEqual(t, len(g.Hosts), mostHosts)
	for _, host := range g.Hosts {
		assert.LessOrEqual(t, len(host.Answers), mostQuestions)
	}
}

// TestTwoDevicesWithOneUniqueNameAreNeverMerged: the record knows one of them, and both say to be it.
func TestTwoDevicesWithOneUniqueNameAreNeverMerged(t *testing.T) {
	h := practice.New(95)
	var locations []string
	for _, host := range []int{40, 41} {
		at := fmt.Sprintf("127.77.95.%d:40210", host)
		serveRaw(t, at, func(c net.Conn) {
			_, _ = io.WriteString(c, head+`<root xmlns="urn:schemas-upnp-org:device-1-0"><device><deviceType>urn:schemas-upnp-org:device:MediaRenderer:1</deviceType><friendlyName>Twin</friendlyName><UDN>uuid:twin</UDN></device></root>`)
		})
		locations = append(locations, "http://"+at+"/d.xml")
	}
	stop := hostile(t, netip.MustParseAddr("127.77.95.9"), locations)
	defer stop()
	d := bare(h)
	twin := dossier.Device{Name: "twin", UDN: "uuid:twin"}
	twin.ID = homes.ID[dossier.Device](1)
	d.Devices.Put(twin)
	seen := 0
	for _, b := range matching.Compare(d, gather(t, d), matching.Scan{}, nil) {
		if b.Host.Address != netip.MustParseAddr("127.77.95.9") {
			seen++
			assert.Equal(t, matching.Unsure, b.Status, b.Host.Address)
			assert.False(t, slices.ContainsFunc(b.Differences, func(x matching.Difference) bool { return x.Certain }))
		}
	}
	assert.Equal(t, 2, seen)
}

// TestWhatSpeaksFromElsewhereIsNotOfThisSegment sees that what speaks from elsewhere is not taken for a
// member of this segment.
func TestWhatSpeaksFromElsewhereIsNotOfThisSegment(t *testing.T) {
	h := start(t, 93)
	d := bare(h)
	d.Segments = dossier.Records[dossier.Segment]{d.Segments[0]}
	g := gather(t, d)
	for _, host := range g.Hosts {
		assert.True(t, h.Segment.Contains(host.Address), host.Address)
	}
}

func FuzzParseNotify(f *testing.F) {
	f.Add([]byte("NOTIFY * HTTP/1.1\r\nHOST: 239.255.255.250:1900\r\nNTS: ssdp:alive\r\nLOCATION: http://127.0.0.1/\r\nUSN: uuid:x\r\n\r\n"))
	f.Add([]byte("NOTIFY * HTTP/1.1\r\nNTS: ssdp:byebye\r\n\r\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if a, goodbye, ok := parseNotify(b); ok && !goodbye {
			assert.NotEmpty(t, a.Location.Host)
		}
	})
}

func FuzzRecords(f *testing.F) {
	m := new(dns.Msg)
	m.Response = true
	m.Answer = []dns.RR{&dns.PTR{Hdr: dns.RR_Header{Name: "_http._tcp.local.", Rrtype: dns.TypePTR, Class: 1, Ttl: 9}, Ptr: `a\ b._http._tcp.local.`}}
	b, err := m.Pack()
	require.NoError(f, err)
	f.Add(b)
	f.Add([]byte("\x00\x00\x84\x00"))
	f.Fuzz(func(_ *testing.T, b []byte) {
		one := newBrowser(netip.MustParsePrefix("10.0.0.0/8"), nil)
		one.six, one.may6 = true, netip.Addr.Is6
		one.take(b, netip.MustParseAddr("127.66.0.9"))
		for _, i := range one.instances {
			host := matching.NewHost("x", netip.MustParseAddr("10.0.0.1"))
			i.say(&host)
		}
	})
}

func FuzzExports(f *testing.F) {
	f.Add([]byte{0, 0, 0, 1, 0, 0, 0, 2, '/', 'a', 0, 0, 0, 0, 0, 0, 0, 0, 0, 0})
	f.Add([]byte{0, 0, 0, 1, 0xff, 0xff, 0xff, 0xff})
	f.Fuzz(func(t *testing.T, b []byte) {
		out, _ := readExports(b)
		assert.LessOrEqual(t, len(out), mostExports)
		_, _ = accepted(b, 1)
	})
}

func FuzzUnescape(f *testing.F) {
	f.Add(`Lamp\ room\032\195\164\`)
	f.Fuzz(func(t *testing.T, s string) { assert.LessOrEqual(t, len(unescape(s)), len(s)) })
}

// endlessDir is an open directory that has always one more entry.
type endlessDir struct{ name string }

func (d endlessDir) Readdir(n int) ([]fs.FileInfo, error) {
	return slices.Repeat([]fs.FileInfo{namedFile(d.name)}, n), nil
}

type namedFile string

func (f namedFile) Name() string     { return string(f) }
func (namedFile) Size() int64        { return 0 }
func (namedFile) Mode() fs.FileMode  { return 0 }
func (namedFile) ModTime() time.Time { return time.Time{} }
func (namedFile) IsDir() bool        { return false }
func (namedFile) Sys() any           { return nil }

func TestADirectoryWithoutEndIsGivenUp(t *testing.T) {
	out, whole, err := listDir(endlessDir{"a"}, 300)
	require.NoError(t, err)
	assert.False(t, whole)
	assert.Len(t, out, 300)
	_, _, err = listDir(endlessDir{strings.Repeat("a", mostName+1)}, 300)
	assert.ErrorContains(t, err, "a name of 1025 bytes")
}

// What a file server announces is not made room for, unless it is little.
func TestAFileServerThatAnnouncesTooMuch(t *testing.T) {
	frame := func(size uint32) []byte { return binary.BigEndian.AppendUint32(nil, size) }
	for _, c := range []struct {
		name  string
		sent  [][]byte
		spare int64
		read  int // bytes that come through
		err   error
	}{
		{"two answers, in pieces", [][]byte{{0, 0}, {0, 3, 'a'}, {'b', 'c', 0, 0, 0}, {1, 'd'}}, 100, 12, io.EOF},
		{"an empty answer", [][]byte{frame(0), frame(1), {'x'}}, 100, 9, io.EOF},
		{"one of 16 MB", [][]byte{frame(1<<24 - 1)}, 1 << 30, 0, errFrame},
		{"one of another kind", [][]byte{frame(1 << 31)}, 1 << 40, 0, errFrame},
		{"many small ones, more than are wanted together", [][]byte{frame(3), {'a', 'b', 'c'}, frame(3), {'a', 'b', 'c'}}, 5, 7, errFrame},
	} {
		t.Run(c.name, func(t *testing.T) {
			here, there := net.Pipe()
			go func() {
				for _, b := range c.sent {
					_, _ = there.Write(b)
				}
				_ = there.Close()
			}()
			f := &framed{Conn: here}
			f.spare.Store(c.spare)
			var got bytes.Buffer
			_, err := io.Copy(&got, f)
			if c.err == io.EOF {
				assert.NoError(t, err)
			} else {
				assert.ErrorIs(t, err, c.err)
				_, err = io.Copy(io.Discard, here)
				require.NoError(t, err)
			}
			head := min(got.Len(), c.read) // of the last head at most three bytes came through
			assert.LessOrEqual(t, got.Len()-head, 3)
			assert.Equal(t, c.read, head)
		})
	}
}

// Exports whose directories have no end keep no more than the entries.
func TestEndlessExportsDoNotFillTheMemory(t *testing.T) {
	page := append(directory(false, nfsDirectory), make([]byte, 60<<10)...)
	l := listen(t, "127.77.71.200:0", func(c net.Conn) {
		defer c.Close()
		for n := uint64(1); ; n++ {
			call, err := readRecord(c)
			if err != nil {
				return
			}
			answer := append(slices.Clone(call[:4]), 0, 0, 0, 1)
			answer = append(append(answer, make([]byte, 16)...), page...)
			binary.BigEndian.PutUint64(answer[24+16+4+8+4+8:], n) // the cookie
			if _, err := c.Write(append(binary.BigEndian.AppendUint32(nil, uint32(len(answer))|1<<31), answer...)); err != nil {
				return
			}
		}
	})
	defer l.Close()
	var asked sync.WaitGroup
	most := mostHeap(func() {
		for range 4 {
			asked.Go(func() {
				conn, err := net.Dial("tcp4", l.Addr().String())
				if !assert.NoError(t, err) {
					return
				}
				defer conn.Close()
				out, whole, err := (&nfsDisk{rpc: &rpc{conn: conn}}).list([]byte("root"), mostOfFolder)
				assert.NoError(t, err)
				assert.False(t, whole)
				assert.Len(t, out, mostOfFolder)
			})
		}
		asked.Wait()
	})
	assert.Less(t, most, uint64(100<<20), "bytes of heap")
}

// A question that falls over ends as not understood, the rest of the scan goes on, and nobody is called silent for it.
func TestAQuestionThatPanicsEndsAlone(t *testing.T) {
	var log bytes.Buffer
	d := bare(practice.New(72)) // not started: only its segment is used
	g := &scanner{guard: Guard{Within: loopback}.ForHome(d), d: d, now: time.Now, hosts: map[netip.Addr]*matching.Host{}}
	own, via, _ := OwnAddress(d.Segments[0].Prefix)
	s := g.segment(d.Segments[0], own, via)
	s.log = slog.New(slog.NewTextHandler(&log, nil))
	q := s.safe(func() matching.Question {
		s.host(netip.MustParseAddr("127.77.72.10"), func(*matching.Host) { panic("a reader fell over") })
		return matching.Question{}
	})
	assert.Equal(t, matching.Broken, q.Ended)
	assert.Contains(t, q.Detail, "a reader fell over")
	assert.True(t, s.failed)
	assert.Contains(t, s.out.Notes[0], "an error in Kaiku itself")
	assert.Contains(t, log.String(), "hostile_test.go")
	assert.True(t, s.host(netip.MustParseAddr("127.77.72.11"), func(*matching.Host) {}), "nothing stays locked")
}
