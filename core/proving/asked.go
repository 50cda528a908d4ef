package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// What is played for a while, what people go on with another day, and what has a picture.
var (
	running  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo, dossier.Music, dossier.Audiobook}
	resumed  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.Audiobook}
	pictured = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo}
)

func always(*dossier.Dossier, Case) Weight { return Required }

// asWished asks for paths that reach one of the contents (none: any), and requires it where the
// customer needs what the path brings into its room.
func asWished(of ...dossier.ContentKind) func(*dossier.Dossier, Case) Weight {
	return func(d *dossier.Dossier, c Case) Weight {
		switch {
		case !brings(d, c.Path, of):
			return NotAsked
		case wished(d, c.Path):
			return Required
		}
		return Advised
	}
}

func advisedFor(of ...dossier.ContentKind) func(*dossier.Dossier, Case) Weight {
	return func(d *dossier.Dossier, c Case) Weight {
		if brings(d, c.Path, of) {
			return Advised
		}
		return NotAsked
	}
}

func brings(d *dossier.Dossier, p dossier.Path, of []dossier.ContentKind) bool {
	return len(of) == 0 || slices.ContainsFunc(contents(d, p), func(k dossier.ContentKind) bool { return slices.Contains(of, k) })
}

// wished reports whether the customer needs content of the path in the room of its device.
func wished(d *dossier.Dossier, p dossier.Path) bool {
	device, _ := d.Devices.Get(p.Device)
	return slices.ContainsFunc(d.Wishes, func(w dossier.Wish) bool {
		return w.Need != dossier.Welcome && (w.Room == "" || w.Room == device.Room) && slices.Contains(contents(d, p), dossier.ContentKind(w.What))
	})
}

// whereSearched: only a device that looks for its server by multicast can find it.
func whereSearched(_ *dossier.Dossier, c Case) Weight {
	if c.Path.FoundBy == dossier.ByMulticast {
		return Required
	}
	return NotAsked
}

// amongOthers: where another server of the kind shows itself, the right one must be told apart.
func amongOthers(d *dossier.Dossier, c Case) Weight {
	if len(otherServers(d, c.Path)) > 0 {
		return whereSearched(d, c)
	}
	return NotAsked
}

func otherServers(d *dossier.Dossier, p dossier.Path) []dossier.Source {
	var out []dossier.Source
	for _, s := range d.Sources {
		if s.ID != p.Source && s.Protocol == dossier.ProtocolUPnPAV {
			out = append(out, s)
		}
	}
	return out
}

// whereCounted: completeness can be judged where the items on the disk were counted.
func whereCounted(_ *dossier.Dossier, c Case) Weight {
	if c.Folder.ItemsOnDisk > 0 {
		return Required
	}
	return NotAsked
}

func unlessWritable(d *dossier.Dossier, c Case) Weight {
	if s, _ := d.Sources.Get(c.Path.Source); s.Writable == dossier.Yes {
		return NotAsked
	}
	return Required
}

// acrossRooms: the wish holds for what people go on with, on paths of more than one device.
func acrossRooms(d *dossier.Dossier, c Case) Weight {
	wish := slices.ContainsFunc(d.Wishes, func(w dossier.Wish) bool { return w.What == dossier.WishResumeAcrossRooms })
	other := slices.ContainsFunc(d.Paths, func(p dossier.Path) bool { return !p.Retired && p.Device != c.Path.Device && brings(d, p, resumed) })
	if wish && other && brings(d, c.Path, resumed) {
		return Required
	}
	return NotAsked
}

func withFallBack(_ *dossier.Dossier, c Case) Weight {
	if c.Path.FallBack != "" {
		return Required
	}
	return NotAsked
}

func whereRestricted(d *dossier.Dossier, c Case) Weight {
	if len(restrictions(d, c.Path)) > 0 {
		return Required
	}
	return NotAsked
}

// restrictions returns those that hold for the path's device or its room, and for what it brings.
func restrictions(d *dossier.Dossier, p dossier.Path) []dossier.Restriction {
	device, _ := d.Devices.Get(p.Device)
	var out []dossier.Restriction
	for _, r := range d.Restrictions {
		here := r.Device == p.Device && r.Device != "" || r.Room == device.Room && r.Room != ""
		if here && brings(d, p, r.Contents) {
			out = append(out, r)
		}
	}
	return out
}

func whereItSleeps(d *dossier.Dossier, c Case) Weight {
	source, _ := d.Sources.Get(c.Path.Source)
	if server, _ := d.Devices.Get(source.Device); server.Standby == dossier.Yes {
		return Required
	}
	return NotAsked
}
