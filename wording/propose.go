package wording

import (
	"kaiku/core/dossier"
	"kaiku/core/pathkind"
	"kaiku/core/propose"
)

// PathKinds say how media get to a device.
var PathKinds = map[dossier.PathKind]string{
	dossier.AVPull: "the device looks into the server and fetches by itself", dossier.AVPush: "sent to the device from a phone or a program",
	dossier.OwnPlayer: "with the server's own player on the device", dossier.Share: "straight from the files of a share", dossier.Copy: "copied to the device",
	dossier.Stream: "a stream that somebody starts", dossier.StreamList: "from a list of streams", dossier.Tuner: "from a tuner on the network", dossier.Feed: "from a feed",
}

// PathLimits say what a kind of path cannot do.
var PathLimits = map[pathkind.Limit]string{
	pathkind.Seek: "no jumping within what is playing", pathkind.Resume: "no going on later where it was left", pathkind.Subtitles: "no subtitles that lie beside the file",
	pathkind.Convert: "nothing is converted for the device", pathkind.Restrict: "hours and content cannot be kept from the device", pathkind.Several: "several devices cannot watch different things at once",
	pathkind.Restart: "somebody has to start it again after a restart", pathkind.Replace: "has to be set up again when the device is replaced",
}

// ProposedAble says why a device is taken to be able to do something.
var ProposedAble = map[propose.Sign]string{
	propose.ByRecord: "The device does this already, by a recorded path.", propose.ByRole: "The device is recorded as a renderer.", propose.ByServer: "The server knows the device.",
	propose.ByProgram: "A player is installed on the device.", propose.None: "It is not recorded whether the device can do this: look in its menus.",
}

// contentWords are kinds of content as people call them.
var contentWords = map[dossier.ContentKind]string{
	dossier.Film: "films", dossier.Series: "series", dossier.Music: "music", dossier.Photo: "photographs", dossier.LiveTV: "television", dossier.Radio: "radio", dossier.HomeVideo: "home videos", dossier.Audiobook: "audiobooks",
}

// Contents says a kind of content in the plural; whatever there is for none.
func Contents(k dossier.ContentKind) string {
	if said, known := contentWords[k]; known {
		return said
	}
	return "whatever there is"
}

// ProposedFinds says how a device finds the server, and how else it can.
func ProposedFinds(by, second dossier.FoundBy) string {
	said := map[dossier.FoundBy]string{dossier.ByMulticast: "by multicast", dossier.ByTypedAddress: "by its address, typed in", dossier.ByName: "by its name", dossier.ByPairingCode: "by a pairing code"}
	switch {
	case by == dossier.ByNothing:
		return "The device needs to find no server."
	case second == "":
		return "The server is found " + said[by] + " only."
	}
	return "The server is found " + said[by] + ", or else " + said[second] + "."
}

// needsSource says what would make a kind of path possible.
var needsSource = map[dossier.PathKind]string{
	dossier.AVPull: "server software that speaks UPnP AV", dossier.AVPush: "server software that speaks UPnP AV", dossier.OwnPlayer: "server software with a player of its own",
	dossier.Share: "a share or an export of the folders", dossier.Copy: "any source that the files can be copied from", dossier.Stream: "a program that sends a stream",
	dossier.StreamList: "a list of streams (M3U)", dossier.Tuner: "a tuner with an aerial or cable", dossier.Feed: "a feed",
}

// protocols are names that people read.
var protocols = map[dossier.Protocol]string{
	dossier.ProtocolUPnPAV: "UPnP AV", dossier.ProtocolHTTP: "HTTP", dossier.ProtocolSMB: "SMB", dossier.ProtocolNFS: "NFS", dossier.ProtocolRTSP: "RTSP", dossier.ProtocolHLS: "HLS", dossier.ProtocolM3U: "M3U",
}

// ProposedWithout says why a kind of path is not possible in a home, and what would make it possible.
func ProposedWithout(w propose.Without) string {
	var speaks []string
	for _, p := range w.Speaks {
		speaks = append(speaks, protocols[p])
	}
	return Capital(PathKinds[w.Kind]) + ": no source is recorded that speaks " + listed(speaks, "or") + ". It would take " + needsSource[w.Kind] + "."
}

// ProposedFor heads the ways for a kind of content.
func ProposedFor(w propose.Wished) string {
	said := Capital(Contents(w.What))
	switch {
	case w.None && w.What == "":
		return "No source is recorded that another device could use."
	case w.None:
		return said + ": no source is recorded that has any."
	case w.What == "":
		return "Nothing is wished for here; these are ways to whatever there is:"
	case len(w.Ways) == 0:
		return said + ": no kind of path suits the sources that have any."
	}
	return "Wished for here: " + Contents(w.What)
}
