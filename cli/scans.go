package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) scanCommand() *cobra.Command {
	show := &cobra.Command{Use: "show [HOST]", Short: "Show the latest scan, or everything it found out about one host", ValidArgsFunction: a.completeHosts,
		Example: "  kaiku scan show\n  kaiku scan show 10.20.4.21\n  kaiku scan show \"granite server\" --all"}
	var all bool
	allFlag(show, &all)
	a.checkFlag(show, "a host is new, changed, missing or unidentified")
	show.RunE = func(cmd *cobra.Command, args []string) error {
		o, err := a.observations(cmd.Context())
		if err != nil {
			return err
		}
		if len(args) == 1 {
			h, err := hostNamed(o, args[0], reading)
			if err != nil {
				return err
			}
			return a.showHost(h, all)
		}
		return a.listHosts(o, all)
	}
	return group("scan", "Scan the network and record what it finds", show.RunE, a.scanRunCommand(), show, a.scanHandIn(), a.scanRecordCommand(), a.scanIdentifyCommand(), a.scanIgnoreCommand())
}

func (a *App) observations(ctx context.Context) (wire.Observations, error) {
	code, err := a.code()
	if err != nil {
		return wire.Observations{}, err
	}
	return a.client().Observations(ctx, code)
}

func (a *App) scanRunCommand() *cobra.Command {
	var within []string
	var service bool
	var shares shareLogin
	var howLong time.Duration
	var only string
	c := &cobra.Command{Use: "run", Short: "Scan the home's network for devices and what they serve and play",
		Long:    "Scans every recorded segment that this machine is in, and sends the result to Kaiku. Nothing outside --probe-within and the recorded segments is contacted. Nothing is changed on any device, except that one empty file is created in each share and removed at once, to find out whether the share can be written to. A scan takes at most twelve seconds, or as long as --time says; Ctrl-C stops it and keeps what has been found.\n\nWhat a scan needs to know of the home is kept on this machine from kaiku arrive and from earlier scans. If Kaiku cannot be reached, the scan goes by that, and its result is kept on this machine, to be handed in later.",
		Example: "  kaiku scan run --probe-within 10.20.4.0/24\n  kaiku scan run --only \"lamp room screen\" --time 30s\n  kaiku scan run --from-service",
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			if howLong < 0 || howLong > matching.LongestScan {
				return wrongUse("--time is at most 2m")
			}
			if service {
				return a.scanThere(ctx, howLong, only)
			}
			return a.scanHere(ctx, within, shares, howLong, only)
		}}
	a.withinFlag(c, &within)
	fromServiceFlag(c, &service)
	c.Flags().StringVar(&only, "only", "", "scan one host only, by its address or the name of the recorded device")
	c.Flags().DurationVar(&howLong, "time", 0, "how long to scan, such as 30s; twelve seconds if left out, two minutes at most")
	a.shareFlags(c, &shares)
	a.checkFlag(c, "a host is new, changed, missing or unidentified")
	return c
}

// withinFlag adds the flag that says which networks this machine may contact.
func (a *App) withinFlag(c *cobra.Command, within *[]string) {
	c.Flags().StringSliceVar(within, "probe-within", splitList(a.env("KAIKU_PROBE_WITHIN", "")), "prefixes that this machine may contact, such as 10.20.4.0/24 (KAIKU_PROBE_WITHIN)")
}

// fromServiceFlag adds the flag by which the service does the work, not this machine.
func fromServiceFlag(c *cobra.Command, service *bool) {
	c.Flags().BoolVar(service, "from-service", false, "have the Kaiku service on the home's network do it, instead of this machine")
}

// shareLogin is how shares are opened: as a guest, or as a user whose password comes from a file
// or is asked for.
type shareLogin struct{ user, passwordFile string }

func (a *App) shareFlags(c *cobra.Command, s *shareLogin) {
	c.Flags().StringVar(&s.user, "share-user", "", "open shares as this user instead of as a guest")
	c.Flags().StringVar(&s.passwordFile, "share-password-file", "", "file with the password of --share-user, or - for standard input; without it the password is asked for")
}

func (a *App) shares(s shareLogin) (probe.Login, error) {
	if s.user == "" {
		if s.passwordFile != "" {
			return probe.Login{}, wrongUse("--share-password-file needs --share-user")
		}
		return probe.Login{}, nil
	}
	password, err := a.secret(s.passwordFile, "Password of "+s.user+" for the shares: ", "--share-password-file")
	return probe.Login{User: s.user, Password: password}, err
}

// guard reads the networks that this machine may contact. It has no default: a wrong guess would send
// packets into a network that was not meant.
func guard(within []string) (probe.Guard, error) {
	if len(within) == 0 {
		return probe.Guard{}, wrongUse("say which networks this machine may contact: --probe-within PREFIX, or KAIKU_PROBE_WITHIN")
	}
	g, err := probe.GuardWithin(within)
	if err != nil {
		return g, wrongUse("--probe-within: %v", err)
	}
	return g, nil
}

func (a *App) scanHere(ctx context.Context, within []string, shares shareLogin, howLong time.Duration, only string) error {
	g, err := guard(within)
	if err != nil {
		return err
	}
	d, err := a.homeToScan(ctx)
	if err != nil {
		return err
	}
	login, err := a.shares(shares)
	if err != nil {
		return err
	}
	what := matching.Wanted{Time: howLong}
	if only != "" {
		if what.Only, err = onlyHost(d, only); err != nil {
			return err
		}
	}
	a.note("Scanning the network of %s ...", a.household)
	seen, err := probe.Prober{Guard: g, Shares: login}.ScanOf(ctx, d, what, func(s matching.Progress) {
		a.progress("%d of %d questions answered, %s found", s.Done, s.Of, wording.Count(s.Hosts, "host"))
	})
	if err != nil {
		return err
	}
	a.progress("")
	if len(seen.Segments) == 0 {
		return fmt.Errorf("this machine is in no recorded segment of %s that --probe-within covers; kaiku arrive %s shows where it is", a.household, a.household)
	}
	seen.ID = uuid.Must(uuid.NewV7()).String()
	if seen.With, err = os.Hostname(); err != nil {
		seen.With = "laptop"
	}
	o, err := a.client().AddScan(context.WithoutCancel(ctx), a.household, seen)
	var gone *client.Unreachable
	if errors.As(err, &gone) {
		return a.keepScan(seen, err)
	}
	if err != nil {
		return err
	}
	return a.listHosts(o, false)
}

// onlyHost finds the address of the one host that is to be scanned.
func onlyHost(d *dossier.Dossier, name string) (netip.Addr, error) {
	if a, err := netip.ParseAddr(name); err == nil {
		if !(matching.Wanted{Only: a.Unmap()}).Inside(d) {
			return a, fmt.Errorf("%s is in no recorded segment of this home; kaiku segment list shows them", a)
		}
		return a.Unmap(), nil
	}
	for _, v := range d.Devices {
		if !strings.EqualFold(v.Name, name) {
			continue
		}
		for _, i := range d.InterfacesOf(v.ID) {
			for _, a := range i.Addresses {
				if a.Is4() {
					return a, nil
				}
			}
		}
		return netip.Addr{}, fmt.Errorf("no IPv4 address is recorded for %s; name its address", v.Name)
	}
	return netip.Addr{}, fmt.Errorf("%q is neither an address nor the name of a recorded device; kaiku device list shows the names", name)
}

// keptHome is where what a scan needs to know of the home is kept on this machine.
func (a *App) keptHome() string {
	return filepath.Join(a.scansFolder(), strings.ToUpper(a.household)+"-home.json")
}

func (a *App) scansFolder() string { return filepath.Join(filepath.Dir(a.sessionPath()), "scans") }

// homeToScan reads the home, and where the service cannot be reached what was kept of it: a cellar has no signal.
func (a *App) homeToScan(ctx context.Context) (*dossier.Dossier, error) {
	d, err := a.home(ctx)
	var gone *client.Unreachable
	if err == nil {
		return d, a.keepHome(d)
	}
	if !errors.As(err, &gone) {
		return nil, err
	}
	about, statErr := os.Stat(a.keptHome())
	b, readErr := os.ReadFile(a.keptHome())
	var kept scanHome
	if errors.Join(statErr, readErr) != nil || json.Unmarshal(b, &kept) != nil || kept.From != a.where() {
		return nil, fmt.Errorf("%w\nNothing of %s is kept on this machine either, so the scan does not know its segments. Run kaiku arrive %s while Kaiku can be reached, before leaving for the home", err, a.household, a.household)
	}
	a.note("Kaiku cannot be reached. The scan goes by what was recorded on %s.", when(about.ModTime()))
	return &kept.Home, nil
}

// scanHome is what a scan needs of a home, with the service it is from.
type scanHome struct {
	From string          `json:"from"`
	Home dossier.Dossier `json:"home"`
}

// keepHome keeps what a scan needs to know of a home and no more: addresses on the network, ports and names of devices.
func (a *App) keepHome(d *dossier.Dossier) error {
	kept := dossier.Dossier{Segments: d.Segments, Interfaces: d.Interfaces, Sources: d.Sources, Lines: d.Lines}
	kept.Household.Put(dossier.Household{Code: d.Home().Code})
	for _, v := range d.Devices {
		one := dossier.Device{Name: v.Name}
		one.ID = v.ID
		kept.Devices.Put(one)
	}
	b, err := json.Marshal(scanHome{a.where(), kept})
	if err == nil {
		err = os.MkdirAll(a.scansFolder(), 0o700)
	}
	if err == nil {
		err = os.WriteFile(a.keptHome(), b, 0o600)
	}
	if err != nil {
		return fmt.Errorf("keep what a scan needs of the home: %w", err)
	}
	return nil
}

// keepScan keeps a scan on this machine, for as long as the service cannot be reached: who scans in a cellar
// has to leave it to get a signal.
func (a *App) keepScan(seen matching.Scan, why error) error {
	dir := a.scansFolder()
	b, err := json.MarshalIndent(keptScan{Household: a.household, Scan: seen}, "", " ")
	if err == nil {
		err = os.MkdirAll(dir, 0o700)
	}
	name := filepath.Join(dir, a.household+"-"+seen.Ended.Format("20060102-150405")+".json")
	if err == nil {
		err = os.WriteFile(name, b, 0o600)
	}
	if err != nil {
		return errors.Join(why, fmt.Errorf("the scan could not be kept on this machine: %w", err))
	}
	return fmt.Errorf("%w\nThe scan is kept in %s. When Kaiku can be reached again, hand it in with: kaiku scan hand-in %s", why, name, name)
}

// keptScan is a scan that waits on this machine, with the household it is of.
type keptScan struct {
	Household string        `json:"household"`
	Scan      matching.Scan `json:"scan"`
}

// scanHandIn hands in a scan that was kept.
func (a *App) scanHandIn() *cobra.Command {
	return &cobra.Command{Use: "hand-in FILE", Short: "Hand in a scan that was kept on this machine", Example: "  kaiku scan hand-in H-0001-20261127-141500.json",
		Long: "Hands in a scan that could not be sent when it was made. The file stays until Kaiku has it.", RunE: func(cmd *cobra.Command, args []string) error {
			b, err := os.ReadFile(args[0])
			if err != nil {
				return fmt.Errorf("read the scan: %w", err)
			}
			var kept keptScan
			if err := json.Unmarshal(b, &kept); err != nil || kept.Household == "" {
				return fmt.Errorf("%s is not a scan that kaiku scan run has kept", args[0])
			}
			if cmd.Flags().Changed("household") && !strings.EqualFold(a.household, kept.Household) {
				return wrongUse("the scan is of %s, not of %s", kept.Household, a.household)
			}
			a.household = kept.Household
			o, err := a.client().AddScan(cmd.Context(), a.household, kept.Scan)
			if err != nil {
				return err
			}
			if err := os.Remove(args[0]); err != nil {
				return fmt.Errorf("the scan was handed in, but its file could not be removed: %w", err)
			}
			return a.listHosts(o, false)
		}}
}

// scanThere has the service scan, and waits for it; Ctrl-C stops it.
func (a *App) scanThere(ctx context.Context, howLong time.Duration, only string) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	what := wire.RunScan{Seconds: int(howLong.Seconds())}
	if only != "" {
		d, err := a.home(ctx)
		if err != nil {
			return err
		}
		if what.Only, err = onlyHost(d, only); err != nil {
			return err
		}
	}
	job, err := a.client().Scan(ctx, code, what)
	if err != nil {
		return err
	}
	a.note("Kaiku is scanning the network of %s ...", code)
	if err := a.waitOrStop(ctx, code, job.ID); err != nil {
		return err
	}
	o, err := a.client().Observations(context.WithoutCancel(ctx), code)
	if err != nil {
		return err
	}
	return a.listHosts(o, false)
}

// waitOrStop waits for a job of the service, and stops it when ctx ends.
func (a *App) waitOrStop(ctx context.Context, code, job string) error {
	ended, err := a.client().WaitJob(ctx, code, job)
	if ctx.Err() != nil {
		ended, err = a.client().StopJob(context.WithoutCancel(ctx), code, job)
	}
	if err != nil {
		return err
	}
	if ended.Failed != nil {
		return ended.Failed
	}
	return nil
}

func (a *App) listHosts(o wire.Observations, all bool) error {
	rows := [][]string{}
	for _, h := range o.Hosts {
		if h.Status == matching.AsRecorded && !all && h.Since == "" {
			continue
		}
		said := h.Sentence
		if h.Since != "" {
			said = wording.Capital(string(h.Since)) + " since the previous scan. " + said
		}
		rows = append(rows, []string{h.Address.String(), h.Called, wording.Plain(string(h.Status)), strings.TrimSpace(said + " " + strings.Join(h.Changes, "; "))})
		a.found(h.Status != matching.AsRecorded)
	}
	if a.format == "table" && o.Scan == "" {
		a.say("No scan of this home's network yet. Run one with: kaiku scan run")
		return nil
	}
	if err := a.show(o, []string{"Address", "Host", "Status", "Details"}, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("\n%s", summary(o))
	return nil
}

// summary says the counts of a scan, and what it did not cover.
func summary(o wire.Observations) string {
	c := o.Counts
	text := fmt.Sprintf("Scanned on %s by %s: %d as recorded, %d changed, %d new, %d to identify, %d not seen.", when(o.Ended), o.By, c.AsRecorded, c.Changed, c.New, c.Unsure, c.NotSeen)
	if o.Short {
		text += " The scan is not complete, so what it did not see may still be there."
	}
	for _, note := range o.Notes {
		text += " " + wording.Capital(note) + "."
	}
	for _, s := range o.NotScanned {
		text += fmt.Sprintf(" Segment %s has not been scanned.", s.Label)
	}
	if c.Certain > 0 {
		text += fmt.Sprintf("\n%s can be recorded without review: kaiku scan record --certain", wording.Count(c.Certain, "certain value"))
	}
	return text
}

func (a *App) showHost(h wire.Observed, all bool) error {
	a.found(h.Status != matching.AsRecorded)
	if a.format == "json" {
		return a.show(h, nil, nil)
	}
	if a.format == "table" {
		a.say("%s at %s: %s", h.Called, h.Address, h.Sentence)
		if len(h.Because) > 0 {
			a.say("Matched to %s by: %s.", h.Device.Label, strings.Join(h.Because, ", "))
		}
		if seems := wording.Seems(string(h.Hardware), h.Maker, h.Open, h.Announces); seems != "" {
			a.say("%s", seems)
		}
		if len(h.Also) > 0 {
			a.say("Also at: %s.", strings.Trim(strings.ReplaceAll(fmt.Sprint(h.Also), " ", ", "), "[]"))
		}
		if !h.SeenFrom.IsZero() {
			a.say("Seen since %s.", when(h.SeenFrom))
		}
		if h.Status == matching.Unsure {
			for _, c := range h.Candidates {
				a.say("It may be %s: %s.", c.Device.Label, strings.Join(c.Because, ", "))
			}
			a.say("Say which device it is: kaiku scan identify %s DEVICE (or --new)", h.Address)
		}
	}
	rows, same := [][]string{}, 0
	for n, d := range h.Differences {
		if d.Relation == matching.Same && !all && a.format == "table" {
			same++
			continue
		}
		state := map[matching.Relation]string{matching.Same: "as recorded", matching.New: "new", matching.Differs: "differs"}[d.Relation]
		if d.Ignored {
			state = "ignored"
		}
		rows = append(rows, []string{fmt.Sprint(n + 1), d.Record.Label, d.Title, d.Recorded, d.Seen, state})
	}
	if len(rows) > 0 || a.format != "table" {
		if err := a.show(h, []string{"No.", "Record", "Value", "Recorded", "Seen", "Status"}, rows); err != nil || a.format != "table" {
			return err
		}
	}
	if same > 0 {
		a.say("\n%s as recorded; --all shows them.", wording.Count(same, "value"))
	}
	a.say("")
	for _, q := range h.Answers {
		a.say("%s", q.Sentence)
	}
	return nil
}

// hostOf reads the latest scan, and finds the host with that exact name or address.
func (a *App) hostOf(ctx context.Context, name string) (wire.Observations, wire.Observed, error) {
	o, err := a.observations(ctx)
	if err != nil {
		return o, wire.Observed{}, err
	}
	h, err := hostNamed(o, name, writing)
	return o, h, err
}

// hostNamed finds a host by its address or by its name; for reading, the beginning of a name will do.
func hostNamed(o wire.Observations, name string, why purpose) (wire.Observed, error) {
	if o.Scan == "" {
		return wire.Observed{}, fmt.Errorf("there has been no scan of this home's network yet; run one with kaiku scan run")
	}
	var exact, begins []wire.Observed
	for _, h := range o.Hosts {
		switch {
		case h.Address.String() == name:
			return h, nil
		case strings.EqualFold(h.Called, name):
			exact = append(exact, h)
		case strings.HasPrefix(strings.ToLower(h.Called), strings.ToLower(name)):
			begins = append(begins, h)
		}
	}
	found := exact
	if len(found) == 0 {
		found = begins
	}
	switch {
	case len(found) == 0:
		return wire.Observed{}, fmt.Errorf("the latest scan has no host %q; kaiku scan show --all lists them", name)
	case len(found) == 1 && (len(exact) == 1 || why == reading):
		return found[0], nil
	case len(found) == 1:
		return wire.Observed{}, wrongUse("there is no host %q; give the full name, %q, or the address %s", name, found[0].Called, found[0].Address)
	}
	var names []string
	for _, h := range found {
		names = append(names, h.Called+" ("+h.Address.String()+")")
	}
	return wire.Observed{}, wrongUse("%q could be %s; give the address", name, strings.Join(names, " or "))
}

func (a *App) completeHosts(cmd *cobra.Command, args []string, _ string) ([]cobra.Completion, cobra.ShellCompDirective) {
	o, err := a.observations(cmd.Context())
	if err != nil || len(args) > 0 {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	var out []cobra.Completion
	for _, h := range o.Hosts {
		out = append(out, cobra.CompletionWithDesc(h.Address.String(), h.Called))
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

// valueFlag adds the flag that names single values of a host by their numbers.
func valueFlag(c *cobra.Command, numbers *[]int) {
	c.Flags().IntSliceVar(numbers, "value", nil, "only the value with this number in kaiku scan show HOST; may be repeated")
}

// chosen finds the differences with those numbers in the list of one host.
func chosen(h wire.Observed, numbers []int) ([]string, error) {
	var out []string
	for _, n := range numbers {
		if n < 1 || n > len(h.Differences) {
			return nil, wrongUse("--value %d: %s has no value with that number; kaiku scan show %s lists them", n, h.Called, h.Address)
		}
		out = append(out, h.Differences[n-1].ID)
	}
	return out, nil
}

func (a *App) scanRecordCommand() *cobra.Command {
	var certain, dry bool
	var numbers []int
	var room string
	c := &cobra.Command{Use: "record [HOST...]", Short: "Record what the scan found: hosts, single values, or everything certain", ValidArgsFunction: a.completeHosts,
		Example: "  kaiku scan record --certain --dry-run\n  kaiku scan record 10.20.4.33 --room kitchen\n  kaiku scan record \"granite server\" --value 3 --value 7",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			if certain == (len(args) > 0) {
				return wrongUse("name one or more hosts, or use --certain to record everything that needs no review")
			}
			if len(args) != 1 && (len(numbers) > 0 || room != "") {
				return wrongUse("--value and --room go with one host")
			}
			o, err := a.observations(ctx)
			if err != nil {
				return err
			}
			in := wire.RecordSeen{Scan: o.Scan, Certain: certain}
			for _, name := range args {
				h, err := hostNamed(o, name, writing)
				if err != nil {
					return err
				}
				if h.Status == matching.Unsure {
					return fmt.Errorf("%s has not been identified yet; say which device it is with kaiku scan identify %s DEVICE", h.Address, h.Address)
				}
				if len(numbers) == 0 {
					in.Hosts = append(in.Hosts, h.Key)
					continue
				}
				if in.Differences, err = chosen(h, numbers); err != nil {
					return err
				}
			}
			if room != "" {
				_, r, err := a.recordNamed(ctx, dossier.KindNamed("room"), []string{room}, writing)
				if err != nil {
					return err
				}
				h, _ := hostNamed(o, args[0], writing)
				in.Rooms = map[string]string{h.Key: r.Key()}
			}
			if o.Scan == "" {
				return fmt.Errorf("there has been no scan of this home's network yet; run one with kaiku scan run")
			}
			if dry {
				return a.wouldRecord(o, in, true)
			}
			if certain && !a.yes {
				if a.format == "table" {
					if err := a.wouldRecord(o, in, false); err != nil {
						return err
					}
				}
				if err := a.confirm("These values would be recorded for "+a.household+".", "Record them?"); err != nil {
					return err
				}
			}
			taken, err := a.client().RecordSeen(ctx, a.household, in)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, r := range taken.Records {
				rows = append(rows, []string{wording.Capital(wording.Noun(r.Kind)), r.Label})
			}
			if err := a.show(taken, []string{"Record", "Name"}, rows); err != nil || a.format != "table" {
				return err
			}
			a.say("\nRecorded %s. To take it all back: kaiku journal undo %d", wording.Count(taken.Values, "value"), taken.Revision)
			return nil
		}}
	c.Flags().BoolVar(&certain, "certain", false, "everything that can be recorded without review; it is listed first")
	a.yesFlag(c)
	a.roomFlag(c, &room)
	valueFlag(c, &numbers)
	dryFlag(c, &dry)
	return c
}

// wouldRecord lists what would be recorded, and records nothing.
func (a *App) wouldRecord(o wire.Observations, in wire.RecordSeen, dry bool) error {
	rows := [][]string{}
	would := []wire.Difference{}
	for _, h := range o.Hosts {
		for _, d := range h.Differences {
			wanted := slices.Contains(in.Differences, d.ID) || !d.Ignored && d.Relation != matching.Same && (slices.Contains(in.Hosts, h.Key) || in.Certain && d.Certain)
			if wanted {
				would = append(would, d)
				rows = append(rows, []string{h.Called, d.Record.Label, d.Title, d.Recorded, d.After})
			}
		}
	}
	if err := a.show(would, []string{"Host", "Record", "Value", "Recorded", "Would become"}, rows); err != nil || a.format != "table" {
		return err
	}
	if dry {
		a.say("\nNothing has been recorded. Without --dry-run, %s would be recorded.", wording.Count(len(would), "value"))
	}
	return nil
}

func (a *App) scanIdentifyCommand() *cobra.Command {
	var none bool
	c := &cobra.Command{Use: "identify HOST [DEVICE]", Short: "Say which recorded device a host is", ValidArgsFunction: a.completeHosts,
		Example: "  kaiku scan identify 10.20.4.33 \"kitchen screen\"\n  kaiku scan identify 10.20.4.34 --new",
		RunE: func(cmd *cobra.Command, args []string) error {
			if none == (len(args) == 2) {
				return wrongUse("name the device, or use --new if it is none of the recorded devices")
			}
			o, h, err := a.hostOf(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			is, called := "new", "not one of the recorded devices"
			if !none {
				d, r, err := a.recordNamed(cmd.Context(), dossier.KindNamed("device"), args[1:], writing)
				if err != nil {
					return err
				}
				is, called = r.Key(), "the "+dossier.KindNamed("device").Label(d, r)
			}
			if o, err = a.client().ReviewHosts(cmd.Context(), a.household, wire.ReviewHosts{Scan: o.Scan, Identify: map[string]string{h.Key: is}}); err != nil {
				return err
			}
			i := slices.IndexFunc(o.Hosts, func(one wire.Observed) bool { return one.Key == h.Key })
			if i < 0 || a.format != "table" {
				return a.show(o, nil, nil)
			}
			a.say("%s is %s. %s", h.Address, called, o.Hosts[i].Sentence)
			return nil
		}}
	c.Flags().BoolVar(&none, "new", false, "it is none of the recorded devices")
	return c
}

func (a *App) scanIgnoreCommand() *cobra.Command {
	var undo bool
	var numbers []int
	c := &cobra.Command{Use: "ignore HOST", Short: "Ignore values of a host for as long as the scan shows the same", ValidArgsFunction: a.completeHosts,
		Example: "  kaiku scan ignore 10.20.4.33\n  kaiku scan ignore 10.20.4.33 --value 2\n  kaiku scan ignore 10.20.4.33 --undo",
		RunE: func(cmd *cobra.Command, args []string) error {
			o, h, err := a.hostOf(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			ids, err := chosen(h, numbers)
			if err != nil {
				return err
			}
			if len(numbers) == 0 {
				for _, d := range h.Differences {
					if d.Relation != matching.Same && d.Ignored == undo {
						ids = append(ids, d.ID)
					}
				}
			}
			in, word := wire.ReviewHosts{Scan: o.Scan, Ignore: ids}, "Now ignoring"
			if undo {
				in.Ignore, in.Restore, word = nil, ids, "No longer ignoring"
			}
			if len(ids) == 0 {
				a.say("There is nothing to change for %s.", h.Called)
				return nil
			}
			if _, err = a.client().ReviewHosts(cmd.Context(), a.household, in); err != nil {
				return err
			}
			a.say("%s %s of %s.", word, wording.Count(len(ids), "value"), h.Called)
			return nil
		}}
	valueFlag(c, &numbers)
	undoFlag(c, &undo)
	return c
}
