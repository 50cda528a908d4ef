package cli

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) observationCommand() *cobra.Command {
	list := &cobra.Command{Use: "list [HOST]", Short: "What was seen on the network, beside the record; one host with all it said", Args: cobra.MaximumNArgs(1), ValidArgsFunction: a.completeHosts}
	var all bool
	list.Flags().BoolVar(&all, "all", false, "also the hosts and values that are as recorded")
	list.RunE = func(cmd *cobra.Command, args []string) error {
		o, err := a.observations(cmd.Context())
		if err != nil {
			return err
		}
		if len(args) == 1 {
			h, err := hostNamed(o, args[0])
			if err != nil {
				return err
			}
			return a.showHost(h, all)
		}
		return a.listHosts(o, all)
	}
	return group("observation", "What is on the network", list.RunE, a.gatherCommand(), list, a.takeCommand(), a.isCommand(), a.dropCommand())
}

func (a *App) observations(ctx context.Context) (wire.Observations, error) {
	code, err := a.code()
	if err != nil {
		return wire.Observations{}, err
	}
	return a.client().Observations(ctx, code)
}

func (a *App) gatherCommand() *cobra.Command {
	var within []string
	var service bool
	var user string
	c := &cobra.Command{Use: "gather", Short: "Look what is on the network: who is there, what it speaks, serves and decodes", Args: cobra.NoArgs,
		Long: "Looks from this machine, which must stand in the home's network, in every recorded segment that it is in, and hands what it saw to Kaiku. Nothing outside --probe-within and the recorded segments is asked; nothing is written to devices, but for one empty file for each share, removed at once, that proves whether it can be written to. It ends within twelve seconds; Ctrl-C ends it before, and what was seen until then is kept.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			if service {
				return a.gatherThere(ctx)
			}
			return a.gatherHere(ctx, within, user)
		}}
	a.withinFlag(c, &within)
	c.Flags().BoolVar(&service, "by-kaiku", false, "let the Kaiku that stands in the home look, not this machine")
	c.Flags().StringVar(&user, "share-user", "", "open shares as this user, with the password in KAIKU_SHARE_PASSWORD; without it as a guest")
	return c
}

// withinFlag adds the flag that says which networks this machine may ask.
func (a *App) withinFlag(c *cobra.Command, within *[]string) {
	c.Flags().StringSliceVar(within, "probe-within", splitList(a.env("KAIKU_PROBE_WITHIN", "")), "prefixes this machine may ask, such as 10.20.4.0/24 (KAIKU_PROBE_WITHIN)")
}

// guard reads the networks that this machine may ask. It has no default: a wrong guess would send
// packets into a network that nobody meant.
func guard(within []string) (probe.Guard, error) {
	if len(within) == 0 {
		return probe.Guard{}, wrongUse("say which networks this machine may ask: --probe-within PREFIX, or KAIKU_PROBE_WITHIN")
	}
	g, err := probe.GuardWithin(within)
	if err != nil {
		return g, errUse{err}
	}
	return g, nil
}

func (a *App) gatherHere(ctx context.Context, within []string, user string) error {
	g, err := guard(within)
	if err != nil {
		return err
	}
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	a.note("Looking at the network of %s ...", a.household)
	p := probe.Prober{Guard: g, Shares: probe.Login{User: user, Password: a.env("KAIKU_SHARE_PASSWORD", "")}}
	seen, err := p.Gather(ctx, d, func(s matching.Progress) {
		a.progress("%d of %d asked, %s seen", s.Done, s.Of, wording.Count(s.Hosts, "host"))
	})
	if err != nil {
		return err
	}
	a.progress("")
	if len(seen.Looked) == 0 {
		return wrongUse("this machine stands in no recorded segment of %s that --probe-within lets it ask; look with kaiku here %s", a.household, a.household)
	}
	seen.ID = uuid.Must(uuid.NewV7()).String()
	if seen.With, err = os.Hostname(); err != nil {
		seen.With = "laptop"
	}
	o, err := a.client().AddGathering(context.WithoutCancel(ctx), a.household, seen)
	if err != nil {
		return err
	}
	return a.listHosts(o, false)
}

// gatherThere lets the service look, and waits for it; Ctrl-C stops it.
func (a *App) gatherThere(ctx context.Context) error {
	code, err := a.code()
	if err != nil {
		return err
	}
	job, err := a.client().Gather(ctx, code)
	if err != nil {
		return err
	}
	a.note("Kaiku looks at the network of %s ...", code)
	end := context.WithoutCancel(ctx)
	ended, err := a.client().WaitJob(ctx, code, job.ID)
	if ctx.Err() != nil {
		ended, err = a.client().StopJob(end, code, job.ID)
	}
	if err != nil {
		return err
	}
	if ended.Failed != nil {
		return ended.Failed
	}
	o, err := a.client().Observations(end, code)
	if err != nil {
		return err
	}
	return a.listHosts(o, false)
}

func (a *App) listHosts(o wire.Observations, all bool) error {
	rows := [][]string{}
	for _, h := range o.Hosts {
		if h.Standing == matching.AsRecorded && !all && h.Since == "" {
			continue
		}
		said := h.Sentence
		if h.Since != "" {
			said = wording.Capital(string(h.Since)) + " since the look before. " + said
		}
		rows = append(rows, []string{h.Address.String(), h.Called, wording.Plain(string(h.Standing)), said + " " + strings.Join(h.Changes, "; ")})
		a.attention = a.attention || h.Standing != matching.AsRecorded
	}
	if a.format == "table" && o.Look == "" {
		a.say("Nobody has looked at this network yet: kaiku observation gather.")
		return nil
	}
	if err := a.show(o, []string{"Address", "What", "Stands", "And"}, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("\n%s", summary(o))
	return nil
}

// summary says the counts of a look, and what it says nothing about.
func summary(o wire.Observations) string {
	c := o.Counts
	text := fmt.Sprintf("Looked %s by %s: %d as recorded, %d changed, %d new, %d unsure, %d not seen.", when(o.Ended), o.By, c.AsRecorded, c.Changed, c.New, c.Unsure, c.NotSeen)
	if o.Short {
		text += " It was stopped before its end: what was not seen says nothing."
	}
	for _, s := range o.Unseen {
		text += fmt.Sprintf(" Nobody has looked into segment %s.", s.Label)
	}
	if c.Sure > 0 {
		text += fmt.Sprintf("\n%s can be taken over without thought: kaiku observation take --sure.", wording.Count(c.Sure, "value"))
	}
	return text
}

func (a *App) showHost(h wire.Observed, all bool) error {
	if a.format == "json" {
		return a.show(h, nil, nil)
	}
	if a.format == "table" {
		a.say("%s at %s: %s", h.Called, h.Address, h.Sentence)
		if len(h.Because) > 0 {
			a.say("It is %s by: %s.", h.Device.Label, strings.Join(h.Because, ", "))
		}
		if h.Standing == matching.Unsure {
			for _, c := range h.Candidates {
				a.say("It may be %s: %s.", c.Device.Label, strings.Join(c.Because, ", "))
			}
			a.say("Say which: kaiku observation is %s DEVICE, or --none.", h.Address)
		}
	}
	rows, same := [][]string{}, 0
	for n, d := range h.Differences {
		if d.Relation == matching.Same && !all && a.format == "table" {
			same++
			continue
		}
		state := wording.Plain(string(d.Relation))
		if d.Aside {
			state = "set aside"
		}
		rows = append(rows, []string{fmt.Sprint(n + 1), d.Record.Label, d.Title, d.Recorded, d.Seen, state})
	}
	if len(rows) > 0 || a.format != "table" {
		if err := a.show(h, []string{"No", "Record", "What", "Recorded", "Seen", ""}, rows); err != nil || a.format != "table" {
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

// lookedAt reads what was seen, and finds the host that people name so.
func (a *App) lookedAt(ctx context.Context, name string) (wire.Observations, wire.Observed, error) {
	o, err := a.observations(ctx)
	if err != nil {
		return o, wire.Observed{}, err
	}
	h, err := hostNamed(o, name)
	return o, h, err
}

// hostNamed finds a host by its address, by what it is called, or by an unambiguous beginning.
func hostNamed(o wire.Observations, name string) (wire.Observed, error) {
	var found []wire.Observed
	for _, h := range o.Hosts {
		if h.Address.String() == name || strings.EqualFold(h.Called, name) {
			return h, nil
		}
		if strings.HasPrefix(strings.ToLower(h.Called), strings.ToLower(name)) {
			found = append(found, h)
		}
	}
	switch len(found) {
	case 0:
		return wire.Observed{}, wrongUse("no host %s in the newest look; kaiku observation list --all shows them", name)
	case 1:
		return found[0], nil
	}
	var names []string
	for _, h := range found {
		names = append(names, h.Called+" ("+h.Address.String()+")")
	}
	return wire.Observed{}, wrongUse("%s could be %s; give the address", name, strings.Join(names, " or "))
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

// chosen finds the differences that are named by their numbers in the list of one host.
func chosen(h wire.Observed, numbers []string) ([]string, error) {
	var out []string
	for _, text := range numbers {
		var n int
		if _, err := fmt.Sscan(text, &n); err != nil || n < 1 || n > len(h.Differences) {
			return nil, wrongUse("%s is no number in the list of %s; kaiku observation list %s shows them", text, h.Called, h.Address)
		}
		out = append(out, h.Differences[n-1].ID)
	}
	return out, nil
}

func (a *App) takeCommand() *cobra.Command {
	var sure bool
	var room string
	c := &cobra.Command{Use: "take [HOST [NO...]]", Short: "Take over into the record what was seen: all that is sure, all of a host, or single values", ValidArgsFunction: a.completeHosts,
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			if sure == (len(args) > 0) {
				return wrongUse("name a host, or take all that is sure with --sure")
			}
			o, err := a.observations(ctx)
			if err != nil {
				return err
			}
			in := wire.TakeOver{Look: o.Look, Sure: sure}
			if len(args) > 0 {
				h, err := hostNamed(o, args[0])
				if err != nil {
					return err
				}
				if h.Standing == matching.Unsure {
					return wrongUse("nobody has said which device %s is: kaiku observation is %s DEVICE", h.Address, h.Address)
				}
				if in.Differences, err = chosen(h, args[1:]); err != nil {
					return err
				}
				if len(args) == 1 {
					in.Hosts = []string{h.Key}
				}
				if room != "" {
					_, r, err := a.recordNamed(ctx, dossier.KindNamed("room"), []string{room})
					if err != nil {
						return err
					}
					in.Rooms = map[string]string{h.Key: r.Key()}
				}
			}
			if o.Look == "" {
				return wrongUse("nobody has looked at this network yet: kaiku observation gather")
			}
			taken, err := a.client().TakeOver(ctx, a.household, in)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, r := range taken.Records {
				rows = append(rows, []string{wording.Plain(r.Kind), r.Label})
			}
			if err := a.show(taken, []string{"Record", "Name"}, rows); err != nil || a.format != "table" {
				return err
			}
			a.say("\n%s taken over.", wording.Count(taken.Values, "value"))
			return nil
		}}
	c.Flags().BoolVar(&sure, "sure", false, "everything that needs no thought")
	c.Flags().StringVar(&room, "room", "", "the room the host stands in")
	return c
}

func (a *App) isCommand() *cobra.Command {
	var none bool
	c := &cobra.Command{Use: "is HOST [DEVICE]", Short: "Say which recorded device a host is", Args: cobra.RangeArgs(1, 2), ValidArgsFunction: a.completeHosts,
		RunE: func(cmd *cobra.Command, args []string) error {
			if none == (len(args) == 2) {
				return wrongUse("name the device, or say --none")
			}
			o, h, err := a.lookedAt(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			is, called := "new", "no recorded device"
			if !none {
				_, r, err := a.recordNamed(cmd.Context(), dossier.KindNamed("device"), args[1:])
				if err != nil {
					return err
				}
				is, called = r.Key(), args[1]
			}
			if o, err = a.client().SayOfHosts(cmd.Context(), a.household, wire.SayOfHosts{Look: o.Look, Is: map[string]string{h.Key: is}}); err != nil {
				return err
			}
			i := slices.IndexFunc(o.Hosts, func(one wire.Observed) bool { return one.Key == h.Key })
			if i < 0 || a.format != "table" {
				return a.show(o, nil, nil)
			}
			a.say("%s is %s. %s", h.Address, called, o.Hosts[i].Sentence)
			return nil
		}}
	c.Flags().BoolVar(&none, "none", false, "it is none of the recorded devices")
	return c
}

func (a *App) dropCommand() *cobra.Command {
	var back bool
	c := &cobra.Command{Use: "drop HOST NO...", Short: "Set values aside: they are not offered again while the same is seen", Args: cobra.MinimumNArgs(2), ValidArgsFunction: a.completeHosts,
		RunE: func(cmd *cobra.Command, args []string) error {
			o, h, err := a.lookedAt(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			ids, err := chosen(h, args[1:])
			if err != nil {
				return err
			}
			in := wire.SayOfHosts{Look: o.Look, Aside: ids}
			if back {
				in.Aside, in.Back = nil, ids
			}
			if _, err = a.client().SayOfHosts(cmd.Context(), a.household, in); err != nil {
				return err
			}
			word := "set aside"
			if back {
				word = "offered again"
			}
			a.say("%s of %s %s.", wording.Count(len(ids), "value"), h.Called, word)
			return nil
		}}
	c.Flags().BoolVar(&back, "back", false, "offer them again")
	return c
}
