package practice

import (
	"net/netip"
	"time"

	"kaiku/practice/layout"
)

// put adds a device at a host number of the home's segment.
func (h *House) put(host byte, port uint16, d *Device, parts ...part) *Device {
	d.house, d.host, d.Segment = h, host, h.Segment
	d.Address = netip.AddrPortFrom(h.at(host), port)
	d.parts = parts
	if d.UDN == "" && d.Type != "" {
		d.UDN = udn(host)
	}
	h.devices = append(h.devices, d)
	return d
}

// server adds a UPnP AV server with what it offers.
func (h *House) server(host byte, port uint16, d *Device, shelf []folder, also ...part) *Device {
	d.Type, d.shelf = "MediaServer:1", shelf
	return h.put(host, port, d, append([]part{&upnp{services: serverServices, also: mediaHandlers}}, also...)...)
}

// screen adds a UPnP AV renderer with what it decodes.
func (h *House) screen(host byte, d *Device, sinks ...string) *Device {
	d.Type, d.sinks = "MediaRenderer:1", sinks
	return h.put(host, layout.ScreenPort, d, &upnp{services: rendererServices})
}

// keepersHouse furnishes a house with one device of everything that Kaiku can look at.
func (h *House) keepersHouse() {
	h.Gateway = h.put(1, layout.GatewayPort, &Device{Name: "Orre OR-7 Pier", Type: "InternetGatewayDevice:2", Make: "Orre", Model: "OR-7 Pier", Serial: "OR7-20114", HostName: "pier", Software: "Pier/3.1"},
		&upnp{services: gatewayServices}, &mapper{}, &names{}, &pages{title: "Orre OR-7 Pier"})
	h.put(2, layout.GatewayPort, &Device{Name: "Provider's box", Type: "InternetGatewayDevice:1", Make: "Orre", Model: "OR-L Line", HostName: "box", Software: "Line/1.0", only: "second-gateway"},
		&upnp{services: gatewayServices}, &mapper{})
	h.put(3, 40103, &Device{Name: "Mast", Make: "Orre", Model: "OR-A Mast", HostName: "mast"}, &pages{title: "Orre OR-A Mast"}, offers(offering{kind: "_http._tcp", port: 40103, texts: []string{"path=/"}}))
	h.Server = h.server(10, layout.ServerPort, &Device{Name: layout.ServerName, Make: "Tuulkivi", Model: "TK-4 Cellar", Serial: "TK4-00317", HostName: "granite", Software: "Ahtola/2.6"}, granite)
	h.put(11, 0, &Device{Name: "Kelp", Make: "Tuulkivi", Model: "TS-2 Kelp", HostName: "kelp"}, &shares{}, &exports{},
		offers(offering{kind: "_smb._tcp", port: layout.SharePort}, offering{kind: "_nfs._tcp", port: layout.ExportPort, texts: []string{"path=/kelp"}}))
	h.put(12, layout.StreamPort, &Device{Name: "Foghorn", Make: "Tuulkivi", Model: "TB-1 Foghorn", HostName: "foghorn", Software: "Rantatie/1.8"}, &streams{}, offers(offering{kind: "_http._tcp", port: layout.StreamPort, texts: []string{"path=/foghorn.ts"}}))
	h.put(13, layout.TunerPort, &Device{Name: "Aerial", Make: "Tuulkivi", Model: "TT-4 Aerial", HostName: "aerial", Software: "Aerial/2.4"}, &tuner{}, offers(offering{kind: "_http._tcp", port: layout.TunerPort, texts: []string{"path=/aerial.m3u"}}))
	h.put(14, layout.RTSPPort, &Device{Name: "Harbour view", Make: "Kielo", Model: "KC-1", HostName: "harbour"}, &harbour{}, offers(offering{kind: "_rtsp._tcp", port: layout.RTSPPort, texts: []string{"path=/harbour"}}))
	h.server(15, 40215, &Device{Name: "Attic", Make: "Tuulkivi", Model: "TK-2 Attic", Serial: "TK2-00051", HostName: "attic", Software: "Ahtola/2.5", sleeps: true}, attic, &sleeper{})
	h.Screen = h.screen(21, &Device{Name: layout.ScreenName, Make: "Norrvik", Model: "NV-43", Serial: "NV43-1182", HostName: "lamp-room-screen", Software: "Norrvik/3.1"},
		`video/mp4;codecs="avc1.640029,mp4a.40.2"`, "video/x-matroska", "audio/mpeg", "image/jpeg")
	h.screen(22, &Device{Name: "Kitchen screen", Make: "Norrvik", Model: "NV-24", Serial: "NV24-0077", HostName: "kitchen-screen", Software: "NorrvikJunior/2.6"},
		`video/mp4;codecs="avc1.4D401F,mp4a.40.2"`, "audio/mpeg", "image/jpeg")
	h.screen(23, &Device{Name: "Kielo in the kitchen", Make: "Kielo", Model: "KM-1", Serial: "KM1-4410", HostName: "kielo", Software: "KieloMusic/2.0"}, "audio/mpeg", "audio/flac", "audio/mp4")
	h.screen(24, &Device{Name: "Hallway frame", Make: "Kielo", Model: "KF-1", HostName: "frame", Software: "KieloFrame/1.1"}, "image/jpeg", "image/png")
	h.server(31, 40231, &Device{Name: "Eila's telephone", Make: "Palvara", Model: "PV-P", HostName: "eila", Software: "PocketServer/0.9"}, camera)
	stick := h.screen(33, &Device{Name: "Parlour stick", Make: "Palvara", Model: "PV-2", HostName: "parlour-stick", Software: "Palvara/1.9.0"},
		`video/mp4;codecs="hvc1.1.6.L120,avc1.640028,mp4a.40.2"`, "video/x-matroska", "video/mp2t", "audio/flac", "audio/mpeg", "image/jpeg")
	stick.Segment = h.Guest
	stick.Address = netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, h.octet + 1, 133}), layout.ScreenPort)
}

// sailLoft furnishes the boatyard attic: an archive server, a projector's player and a screen.
func (h *House) sailLoft() {
	h.Server = h.server(10, layout.ServerPort, &Device{Name: "Sail Loft", Make: "Tuulkivi", Model: "TK-8 Vault", HostName: "vault", Software: "Ahtola/3.1", like: "granite", converts: true}, []folder{
		{"Photographs", numbered(48214, item{"Hull", "hull.jpg", "object.item.imageItem.photo", "image/jpeg", 0.262144, time.Second})},
		{"Films", numbered(38, film("Film", "film.mkv", "video/x-matroska", 58, 112*time.Minute))},
		{"Films, converted", numbered(38, film("Film", "film.mp4", "video/mp4", 9, 112*time.Minute))},
	})
	h.screen(101, &Device{Name: "projector player", Make: "Palvara", Model: "PV-4", HostName: "projector-player", Software: "Palvara/2.2.0", marks: true, like: "lamp-room-screen"}, "video/mp4", "image/jpeg")
	h.screen(102, &Device{Name: "office screen", Make: "Norrvik", Model: "NV-55", HostName: "office-screen", Software: "Norrvik/3.2", marks: true}, "video/mp4", "video/x-matroska", "image/jpeg")
}

// alderRow furnishes the home of a family of five.
func (h *House) alderRow() {
	h.Server = h.server(10, layout.ServerPort, &Device{Name: "Alder Row", Make: "Tuulkivi", Model: "TK-4 Cellar", HostName: "hall", Software: "Ahtola/3.1", like: "granite"}, []folder{
		{"Films", numbered(214, film("Film", "film.mp4", "video/mp4", 8, 100*time.Minute))},
		{"Series", numbered(803, film("Episode", "episode.mp4", "video/mp4", 5, 42*time.Minute))},
		{"Music", numbered(6120, song("Song", "song.mp3", "audio/mpeg", 0.256, 210*time.Second))},
	})
	h.screen(101, &Device{Name: "living room screen", Make: "Norrvik", Model: "NV-55", HostName: "living-room-screen", Software: "Norrvik/3.1"}, "video/mp4", "audio/mpeg", "image/jpeg")
	h.screen(102, &Device{Name: "girls' player", Make: "Palvara", Model: "PV-2", HostName: "girls-player", Software: "Palvara/1.9.0", marks: true}, "video/mp4", "audio/mpeg")
	h.screen(103, &Device{Name: "boy's screen", Make: "Norrvik", Model: "NV-32", HostName: "boys-screen", Software: "Norrvik/19.0"}, "video/mp4", "audio/mpeg")
	h.screen(104, &Device{Name: "kitchen music player", Make: "Kielo", Model: "KM-1", HostName: "kitchen-music", Software: "KieloMusic/5.0"}, "audio/mpeg", "audio/flac")
}
