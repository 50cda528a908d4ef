package probe

import (
	"bufio"
	"cmp"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"net"
	"net/netip"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Where reads from the operating system where this machine is: its adapters, gateways, name
// servers and neighbours. It sends nothing. What a system does not tell in files is left out.
func Where() (network.Place, error) {
	var p network.Place
	adapters, err := net.Interfaces()
	if err != nil {
		return p, fmt.Errorf("read adapters: %w", err)
	}
	for _, i := range adapters {
		if i.Flags&net.FlagUp == 0 || i.Flags&net.FlagLoopback != 0 {
			continue
		}
		one := network.PlaceAdapter{Name: i.Name}
		if one.HardwareAddress, err = dossier.ParseHardwareAddr(i.HardwareAddr.String()); err != nil {
			one.HardwareAddress = ""
		}
		addresses, err := i.Addrs()
		if err != nil {
			return p, fmt.Errorf("read addresses of %s: %w", i.Name, err)
		}
		for _, a := range addresses {
			if n, err := netip.ParsePrefix(a.String()); err == nil {
				one.Prefixes = append(one.Prefixes, n)
			}
		}
		p.Adapters = append(p.Adapters, one)
	}
	for name, read := range map[string]func(io.Reader) error{
		"/proc/net/route": func(r io.Reader) (err error) { p.Gateways, err = readRoutes(r); return err },
		"/etc/resolv.conf": func(r io.Reader) (err error) {
			p.Servers, err = readResolver(r)
			return err
		},
	} {
		f, err := os.Open(name)
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
			continue
		}
		if err != nil {
			return p, err
		}
		err = errors.Join(read(f), f.Close())
		if err != nil {
			return p, fmt.Errorf("read %s: %w", name, err)
		}
	}
	if p.Neighbours, err = neighboursNow(); err != nil {
		return p, err
	}
	p.Leases, err = leases(leaseFiles)
	return p, err
}

// freshFor is how long the answer of a neighbour counts as a sign that it is there.
const freshFor = time.Minute

// neighboursNow returns the neighbours that have answered lately. An older entry of the table says nothing: the
// system keeps those of hosts that are long gone.
func neighboursNow() ([]network.Neighbour, error) {
	table, err := neighbourTable()
	if err != nil {
		return nil, err
	}
	var out []network.Neighbour
	for _, n := range table {
		if n.here(time.Now().Add(-freshFor)) {
			out = append(out, network.Neighbour{HardwareAddress: n.hardware, Address: n.address})
		}
	}
	return out, nil
}

// leaseFiles are where lease clients keep what they were given: dhclient, systemd-networkd (one
// file for the index of each adapter), NetworkManager.
var leaseFiles = []string{"/var/lib/dhcp/dhclient*.leases", "/run/systemd/netif/leases/*", "/var/lib/NetworkManager/internal-*.lease"}

// leases reads the newest lease of each adapter. What may not be read is left out.
func leases(patterns []string) ([]network.Lease, error) {
	byAdapter := map[string]network.Lease{}
	for _, pattern := range patterns {
		names, err := filepath.Glob(pattern)
		if err != nil {
			return nil, err
		}
		for _, name := range names {
			b, err := os.ReadFile(name)
			if err != nil {
				continue // gone, or not for this user
			}
			for _, l := range readLeases(filepath.Base(name), string(b)) {
				byAdapter[l.Adapter] = l
			}
		}
	}
	var out []network.Lease
	for _, adapter := range slices.Sorted(maps.Keys(byAdapter)) {
		out = append(out, byAdapter[adapter])
	}
	return out, nil
}

// readLeases reads a lease file: blocks of dhclient (dhclient.leases(5)), of which the last of an
// adapter counts, or lines NAME=VALUE of the others.
func readLeases(file, text string) []network.Lease {
	var out []network.Lease
	var l network.Lease
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(line), ";"))
		name, value, named := strings.Cut(line, "=")
		words := strings.Fields(line)
		switch {
		case line == "lease {":
			l = network.Lease{}
		case line == "}":
			out = append(out, l)
			l = network.Lease{}
		case named && (name == "ADDRESS" || name == "IP_ADDRESS"):
			l.Address, _ = netip.ParseAddr(value) // an invalid one is left out below
		case named && (name == "SERVER_ADDRESS" || name == "DHCP_SERVER_IDENTIFIER"):
			l.Server, _ = netip.ParseAddr(value)
		case len(words) == 2 && words[0] == "interface":
			l.Adapter = strings.Trim(words[1], `"`)
		case len(words) == 2 && words[0] == "fixed-address":
			l.Address, _ = netip.ParseAddr(words[1])
		case len(words) == 3 && words[1] == "dhcp-server-identifier":
			l.Server, _ = netip.ParseAddr(words[2])
		}
	}
	if l.Address.IsValid() {
		out = append(out, l)
	}
	for i := range out {
		out[i].Adapter = cmp.Or(out[i].Adapter, adapterOf(file))
	}
	return slices.DeleteFunc(out, func(l network.Lease) bool { return !l.Address.IsValid() || l.Adapter == "" })
}

// adapterOf is the adapter that a file of leases is named for: by its index, or at its end.
func adapterOf(file string) string {
	if n, err := strconv.Atoi(file); err == nil {
		if i, err := net.InterfaceByIndex(n); err == nil {
			return i.Name
		}
	}
	file = strings.TrimSuffix(file, ".lease")
	return file[strings.LastIndex(file, "-")+1:]
}

// readRoutes returns the IPv4 gateways of /proc/net/route (proc_net(5)): addresses stand there as
// hexadecimal in the machine's byte order.
func readRoutes(r io.Reader) ([]netip.Addr, error) {
	var out []netip.Addr
	lines := bufio.NewScanner(r)
	for lines.Scan() {
		words := strings.Fields(lines.Text())
		if len(words) < 3 || words[1] != "00000000" {
			continue
		}
		b, err := hex.DecodeString(words[2])
		if err != nil || len(b) != 4 {
			continue
		}
		var a [4]byte
		binary.NativeEndian.PutUint32(a[:], binary.BigEndian.Uint32(b))
		if at := netip.AddrFrom4(a); !at.IsUnspecified() && !slices.Contains(out, at) {
			out = append(out, at)
		}
	}
	return out, lines.Err()
}

func readResolver(r io.Reader) ([]netip.Addr, error) {
	var out []netip.Addr
	lines := bufio.NewScanner(r)
	for lines.Scan() {
		if words := strings.Fields(lines.Text()); len(words) >= 2 && words[0] == "nameserver" {
			if at, err := netip.ParseAddr(words[1]); err == nil {
				out = append(out, at)
			}
		}
	}
	return out, lines.Err()
}
