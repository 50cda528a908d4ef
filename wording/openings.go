package wording

import (
	"fmt"
	"strings"

	"kaiku/core/matching"
	"kaiku/core/network"
)

// OpeningNeeds say how a needed opening stands.
var OpeningNeeds = map[network.OpeningNeed]string{
	network.NeedOpen: "open, as it is recorded", network.NeedShut: "blocked", network.NeedRefused: "asked for and refused", network.NeedDoubt: "recorded as open and as shut: look which of the two comes first",
	network.NeedClass: "open, but for another class of network than the host takes this one for", network.NeedAsked: "asked for, not answered yet", network.NeedUnknown: "not recorded",
}

// OpeningSeen says what the answer of a port to the latest scan says beside the record; "" if nothing. A scan asks from where it stands: who is let
// in from there need not be let in from elsewhere.
func OpeningSeen(state network.OpeningNeed, seen matching.Ended) string {
	answers := seen == matching.Answered || seen == matching.Empty || seen == matching.Denied || seen == matching.Broken
	switch {
	case seen == "":
		return ""
	case answers && (state == network.NeedOpen || state == network.NeedDoubt):
		return "It answered the latest scan."
	case answers && state == network.NeedUnknown:
		return "It answered the latest scan: from there it is open."
	case answers:
		return "It answered the latest scan all the same: look again, and correct the record."
	case seen == matching.Refused:
		return "It refused the latest scan: nothing listens there, or a firewall turns callers away."
	}
	return "It did not answer the latest scan."
}

// NeededFor says what an opening is needed for.
func NeededFor(codes []string) string {
	var said []string
	for _, c := range codes {
		said = append(said, Phrases[c])
	}
	return And(said)
}

// NeededOpening says what has to be let in.
func NeededOpening(n network.NeededOpening, host string) string {
	from := "from where it is needed (no segment is recorded)"
	var list []string
	for _, p := range n.From {
		if p.IsSingleIP() {
			list = append(list, p.Addr().String())
		} else {
			list = append(list, p.String())
		}
	}
	if len(list) > 0 {
		from = "from " + listed(list, "and")
	}
	port := fmt.Sprintf("%s port %d", strings.ToUpper(string(n.Transport)), n.Port)
	var to []string
	for _, a := range n.To {
		to = append(to, a.String())
	}
	switch {
	case n.Outside && len(to) > 0:
		return fmt.Sprintf("%s lets in %s from outside, to %s port %d", host, port, listed(to, "or"), n.ToPort)
	case n.Outside:
		return fmt.Sprintf("%s lets in %s from outside, to port %d of the server, whose address is not recorded", host, port, n.ToPort)
	case n.Port == 0:
		return fmt.Sprintf("%s lets in %s answers to its own search, to whichever port it was sent from, %s", host, strings.ToUpper(string(n.Transport)), from)
	}
	return host + " lets in " + port + " " + from
}
