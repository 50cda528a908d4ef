package wording

import (
	"fmt"
	"strings"

	"kaiku/core/matching"
)

// EndMembers name the settings that have to match at both ends of a path.
var EndMembers = map[matching.EndMember]string{
	matching.EndAddress: "Address", matching.EndPort: "Port", matching.EndName: "Name", matching.EndLocator: "Locator", matching.EndAccount: "Account", matching.EndClock: "Clock",
}

// Agreements say how the ends of a path go together.
var Agreements = map[matching.Agreement]string{
	matching.DeviceOther: "the ends differ", matching.RecordOld: "the record is behind", matching.OneSays: "not compared", matching.Agree: "agree",
}

// EndRow says what differs between the ends of a path and what to do about it; "" if nothing is to be done.
func EndRow(r matching.EndRow) string {
	device, server, seen := listed(r.Device, "or"), listed(r.Server, "or"), listed(r.Seen, "or")
	var said []string
	switch {
	case r.Agreement == matching.DeviceOther && r.Member == matching.EndClock:
		said = append(said, fmt.Sprintf("The server's clock is off by %s, the device's by %s. Let both take their time from one time server.", server, device))
	case r.Agreement == matching.DeviceOther && r.Member == matching.EndAccount:
		said = append(said, fmt.Sprintf("The device is signed in with %s, and the server asks for %s. Sign in with that one, or correct what is recorded.", device, server))
	case r.Agreement == matching.DeviceOther && seen != "":
		said = append(said, fmt.Sprintf("The device has %s, and the server answers with %s. Enter that on the device, then record it.", device, seen))
	case r.Agreement == matching.DeviceOther:
		said = append(said, fmt.Sprintf("The device has %s, and %s is recorded of the server. No scan saw which is right: look at both.", device, server))
	case r.Agreement == matching.RecordOld:
		said = append(said, fmt.Sprintf("The server answers with %s, and %s is recorded of it.", seen, server))
	}
	if len(r.Corrects) > 0 && len(r.Server) > 0 && r.Agreement != matching.Agree {
		said = append(said, "What was seen of the server can be recorded.")
	}
	if r.ByLease {
		said = append(said, "The device has it typed in, and the server has it by lease: reserve it, or it stops working when the lease changes.")
	}
	return strings.Join(said, " ")
}

// ServerSeen says whether the latest scan saw the server of a path.
func ServerSeen(p matching.PathEnds) string {
	switch {
	case p.Host != nil:
		return "The server answered the latest scan."
	case p.Silent:
		return "The server did not answer the latest scan: what it has now is not known."
	}
	return "No scan has recognised the server for certain, so what it has now is not known."
}
