package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// What is played for a while, what people go on with another day, what has a picture, and what
// lies in files of which new ones come.
var (
	running  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo, dossier.Music, dossier.Audiobook}
	resumed  = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.Audiobook}
	pictured = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo}
	filed    = []dossier.ContentKind{dossier.Film, dossier.Series, dossier.HomeVideo, dossier.Music, dossier.Audiobook, dossier.Photo}
)

func always(*dossier.Index, Case) Weight { return Required }

// asWished asks for paths that reach one of the contents (none: any), and requires it where the
// customer needs what the path brings into its room.
func asWished(of ...dossier.ContentKind) func(*dossier.Index, Case) Weight {
	return func(x *dossier.Index, c Case) Weight {
		switch {
		case !brings(x, c.Path, of):
			return NotAsked
		case wished(x, c.Path):
			return Required
		}
		return Advised
	}
}

func advisedFor(of ...dossier.ContentKind) func(*dossier.Index, Case) Weight {
	return func(x *dossier.Index, c Case) Weight {
		if brings(x, c.Path, of) {
			return Advised
		}
		return NotAsked
	}
}

func brings(x *dossier.Index, p dossier.Path, of []dossier.ContentKind) bool {
	return len(of) == 0 || slices.ContainsFunc(x.Brings(p), func(k dossier.ContentKind) bool { return slices.Contains(of, k) })
}

// wished reports whether the customer needs content of the path in the room of its device.
func wished(x *dossier.Index, p dossier.Path) bool {
	device, _ := x.Devices.Get(p.Device)
	return slices.ContainsFunc(x.Wishes, func(w dossier.Wish) bool {
		return w.Need != dossier.Welcome && For(w, device) && slices.Contains(x.Brings(p), dossier.ContentKind(w.What))
	})
}

// For reports whether a wish is about that device: it is named, or stands in the room, or the wish
// is for the whole home.
func For(w dossier.Wish, device dossier.Device) bool {
	if w.Device != "" {
		return w.Device == device.ID
	}
	return w.Room == "" || w.Room == device.Room
}

// whereSearched: only a device that looks for its server by multicast can find it.
func whereSearched(_ *dossier.Index, c Case) Weight {
	if c.Path.FoundBy == dossier.ByMulticast {
		return Required
	}
	return NotAsked
}

// amongOthers: where another server of the kind shows itself, the right one must be told apart.
func amongOthers(x *dossier.Index, c Case) Weight {
	if len(otherServers(x, c.Path)) > 0 {
		return whereSearched(x, c)
	}
	return NotAsked
}

func otherServers(x *dossier.Index, p dossier.Path) []dossier.Source {
	var out []dossier.Source
	for _, s := range x.Sources {
		if s.ID != p.Source && s.Protocol == dossier.ProtocolUPnPAV {
			out = append(out, s)
		}
	}
	return out
}

// whereCounted: completeness can be judged where the items on the disk were counted.
func whereCounted(_ *dossier.Index, c Case) Weight {
	if c.Folder.ItemsOnDisk > 0 {
		return Required
	}
	return NotAsked
}

func unlessWritable(x *dossier.Index, c Case) Weight {
	if s, _ := x.Sources.Get(c.Path.Source); s.Writable == dossier.Yes {
		return NotAsked
	}
	return Required
}

// acrossRooms: the wish holds for what people go on with, in its room or in all, where paths of
// more than one device bring it.
func acrossRooms(x *dossier.Index, c Case) Weight {
	device, _ := x.Devices.Get(c.Path.Device)
	wish := slices.ContainsFunc(x.Wishes, func(w dossier.Wish) bool {
		return w.What == dossier.WishResumeAcrossRooms && (w.Room == "" && w.Device == "" || w.Room != "" && w.Room == device.Room || w.Device == device.ID && w.Device != "")
	})
	other := slices.ContainsFunc(x.InUse, func(p dossier.Path) bool { return p.Device != c.Path.Device && brings(x, p, resumed) })
	if wish && other && brings(x, c.Path, resumed) {
		return Required
	}
	return NotAsked
}

// whereWatchedOutside: outside viewing is wished, and the source can be reached from outside.
func whereWatchedOutside(x *dossier.Index, c Case) Weight {
	source, _ := x.Sources.Get(c.Path.Source)
	wish := slices.ContainsFunc(x.Wishes, func(w dossier.Wish) bool {
		return w.What == dossier.WishOutsideViewing && (w.Device == "" || w.Device == c.Path.Device)
	})
	device, _ := x.Devices.Get(c.Path.Device)
	if wish && source.OutsidePort != 0 && device.Carried {
		return Required
	}
	return NotAsked
}

func withFallBack(_ *dossier.Index, c Case) Weight {
	if c.Path.FallBack != "" {
		return Required
	}
	return NotAsked
}

func whereRestricted(x *dossier.Index, c Case) Weight {
	if len(restrictions(x, c.Path)) > 0 {
		return Required
	}
	return NotAsked
}

// restrictions returns those that hold for the path's device or its room, and for what it brings.
func restrictions(x *dossier.Index, p dossier.Path) []dossier.Restriction {
	device, _ := x.Devices.Get(p.Device)
	var out []dossier.Restriction
	for _, r := range x.Restrictions {
		here := r.Device == p.Device && r.Device != "" || r.Room == device.Room && r.Room != ""
		if here && brings(x, p, r.Contents) {
			out = append(out, r)
		}
	}
	return out
}

func whereItSleeps(x *dossier.Index, c Case) Weight {
	source, _ := x.Sources.Get(c.Path.Source)
	if server, _ := x.Devices.Get(source.Device); server.Standby == dossier.Yes {
		return Required
	}
	return NotAsked
}
