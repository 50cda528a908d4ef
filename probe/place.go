package probe

import (
	"bufio"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"net/netip"
	"os"
	"slices"
	"strings"

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
		"/proc/net/arp":   func(r io.Reader) (err error) { p.Neighbours, err = readNeighbours(r); return err },
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
	return p, nil
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

// arpComplete is the flag of an entry of /proc/net/arp whose hardware address is known.
const arpComplete = "0x2"

// readNeighbours returns the complete entries of /proc/net/arp.
func readNeighbours(r io.Reader) ([]network.Neighbour, error) {
	var out []network.Neighbour
	lines := bufio.NewScanner(r)
	for lines.Scan() {
		words := strings.Fields(lines.Text())
		if len(words) < 4 || words[2] != arpComplete {
			continue
		}
		at, err := netip.ParseAddr(words[0])
		hardware, wrong := dossier.ParseHardwareAddr(words[3])
		if err == nil && wrong == nil && hardware != "" {
			out = append(out, network.Neighbour{HardwareAddress: hardware, Address: at})
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
