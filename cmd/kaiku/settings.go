package main

import (
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/knadh/koanf/parsers/toml/v2"
	"github.com/knadh/koanf/providers/env/v2"
	"github.com/knadh/koanf/providers/file"
	"github.com/knadh/koanf/providers/posflag"
	"github.com/knadh/koanf/v2"
	"github.com/spf13/pflag"

	"kaiku/probe"
	"kaiku/service"
	"kaiku/wording"
)

// settings of serve. Each is a flag, a variable KAIKU_ and its name in capitals, and a line of
// the TOML file; the first of these that is given holds.
type settings struct {
	data, listen     string
	onSite           bool
	within           []string
	publicURL        string
	certificate, key string
	verbose, trust   bool
	proxies          []netip.Prefix
	factorFor        []service.Role
	logFormat        string
	now              func() time.Time // nil: the machine's clock
}

// settingFlags are the flags of serve with their help and defaults.
func settingFlags(f *pflag.FlagSet) {
	f.String("config", "", "TOML `file` with any of these settings (KAIKU_CONFIG)")
	f.String("data", "kaiku-data", "`folder` for the database, the files and the key (KAIKU_DATA)")
	f.String("listen", "127.0.0.1:7440", "`address:port` to listen on (KAIKU_LISTEN)")
	f.Bool("on-site", false, "this Kaiku is on the household's network and may send requests to its devices (KAIKU_ON_SITE=1)")
	f.StringSlice("probe-within", nil, "`prefixes` it may send requests to (KAIKU_PROBE_WITHIN)")
	f.String("public-url", "", "`URL` at which people reach it, such as https://kaiku.example.org (KAIKU_PUBLIC_URL)")
	f.String("tls-certificate", "", "PEM `file` with the certificate and its chain (KAIKU_TLS_CERTIFICATE)")
	f.String("tls-key", "", "PEM `file` with the certificate's key (KAIKU_TLS_KEY)")
	f.StringSlice("proxies", nil, "`prefixes` of the reverse proxies in front of it, whose X-Forwarded-For is believed (KAIKU_PROXIES)")
	f.StringSlice("second-factor-for", nil, "`roles` that must have a second factor, such as coordinator,lead (KAIKU_SECOND_FACTOR_FOR)")
	f.Bool("verbose", false, "log every request (KAIKU_VERBOSE=1)")
	f.String("log-format", "text", "`format` of the log: text or json (KAIKU_LOG_FORMAT)")
	f.Bool("trust-clock", false, "use the machine's clock even if it is behind the newest entry (KAIKU_TRUST_CLOCK=1)")
}

func variable(flag string) string {
	return "KAIKU_" + strings.ToUpper(strings.ReplaceAll(flag, "-", "_"))
}

// readSettings puts flags, variables and file together.
func readSettings(flags *pflag.FlagSet, getenv func(string) string) (settings, error) {
	k := koanf.New("/")
	name, _ := flags.GetString("config")
	if name == "" {
		name = getenv(variable("config"))
	}
	if name != "" {
		if err := k.Load(file.Provider(name), toml.Parser()); err != nil {
			return settings{}, settingsWrong("the file %s cannot be read: %v", name, err)
		}
		if err := checkFile(k, name); err != nil {
			return settings{}, err
		}
	}
	var given []string
	flags.VisitAll(func(f *pflag.Flag) {
		if v := getenv(variable(f.Name)); v != "" {
			given = append(given, f.Name+"="+v)
		}
	})
	if err := errors.Join(k.Load(env.Provider("/", env.Opt{EnvironFunc: func() []string { return given }}), nil),
		k.Load(posflag.Provider(flags, "/", k), nil)); err != nil {
		return settings{}, err
	}
	list := func(name string) []string {
		all := k.Strings(name)
		if text := k.String(name); len(all) == 0 && text != "" {
			all = strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' })
		}
		return all
	}
	within := list("probe-within")
	s := settings{data: k.String("data"), listen: k.String("listen"), onSite: k.Bool("on-site"), within: within, publicURL: k.String("public-url"),
		certificate: k.String("tls-certificate"), key: k.String("tls-key"), verbose: k.Bool("verbose"), trust: k.Bool("trust-clock"), logFormat: k.String("log-format")}
	for _, text := range list("proxies") {
		p, err := netip.ParsePrefix(text)
		if at, no := netip.ParseAddr(text); no == nil {
			p, err = at.Prefix(at.BitLen())
		}
		if err != nil {
			return s, settingsWrong("--proxies: %q is neither a prefix such as 10.20.0.0/24 nor an address", text)
		}
		s.proxies = append(s.proxies, p.Masked())
	}
	for _, text := range list("second-factor-for") {
		if !slices.Contains(service.Roles, service.Role(text)) {
			return s, settingsWrong("--second-factor-for: %q is no role; the roles are coordinator, lead, technician and observer", text)
		}
		s.factorFor = append(s.factorFor, service.Role(text))
	}
	return s, s.check()
}

// checkFile refuses names that are no settings, and values of another type than the setting's.
func checkFile(k *koanf.Koanf, name string) error {
	flags := pflag.NewFlagSet("settings", pflag.ContinueOnError)
	settingFlags(flags)
	for _, key := range k.Keys() {
		f := flags.Lookup(key)
		if f == nil || key == "config" {
			return settingsWrong("%s: unknown setting %q", name, key)
		}
		want, right := "text in quotes", false
		switch v := k.Get(key).(type) {
		case string:
			right = f.Value.Type() == "string"
		case bool:
			right = f.Value.Type() == "bool"
		case []any:
			right = f.Value.Type() == "stringSlice" && !slices.ContainsFunc(v, func(e any) bool { _, text := e.(string); return !text })
		}
		switch f.Value.Type() {
		case "bool":
			want = "true or false"
		case "stringSlice":
			want = "a list of quoted texts in brackets"
		}
		if !right {
			return settingsWrong("%s: %s must be %s", name, key, want)
		}
	}
	return nil
}

func settingsWrong(format string, args ...any) error {
	return errors.New(wording.Say("settings-wrong", map[string]string{"detail": fmt.Sprintf(format, args...)}))
}

func (s settings) check() error {
	if s.logFormat != "text" && s.logFormat != "json" {
		return settingsWrong("--log-format must be text or json, not %q", s.logFormat)
	}
	if (s.certificate == "") != (s.key == "") {
		return settingsWrong("--tls-certificate and --tls-key must be given together")
	}
	if s.publicURL != "" {
		u, err := url.Parse(s.publicURL)
		if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || strings.Trim(u.Path, "/") != "" || u.RawQuery != "" {
			return settingsWrong("--public-url must be an http or https URL without a path, not %q", s.publicURL)
		}
	}
	return nil
}

// origin is the public address without a slash at its end, or "".
func (s settings) origin() string { return strings.TrimRight(s.publicURL, "/") }

// secure reports whether people reach this Kaiku by https.
func (s settings) secure() bool {
	if s.publicURL != "" {
		return strings.HasPrefix(s.publicURL, "https:")
	}
	return s.certificate != ""
}

func (s settings) prober(log *slog.Logger) (service.Prober, error) {
	if !s.onSite {
		return nil, nil
	}
	if len(s.within) == 0 {
		return nil, errors.New("--on-site needs --probe-within, the prefixes to which this Kaiku may send requests")
	}
	g, err := probe.GuardWithin(s.within)
	if err != nil {
		return nil, err
	}
	return probe.Prober{Guard: g, Log: log}, nil
}
