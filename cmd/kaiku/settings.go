package main

import (
	"cmp"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/netip"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/pelletier/go-toml/v2"
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
	responder, token string // the firm's responder, and the file with its token
	publicURL        string
	certificate, key string
	verbose, trust   bool
	tried            bool // a demo: only what is wrong is logged
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
	f.String("line-responder", "", "`URL` of the firm's responder, which tries from outside whether the home can be reached (KAIKU_LINE_RESPONDER)")
	f.String("line-token-file", "", "`file` with the responder's token (KAIKU_LINE_TOKEN_FILE)")
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
	name, _ := flags.GetString("config")
	if !flags.Changed("config") {
		name = cmp.Or(getenv(variable("config")), name)
	}
	values := map[string]any{}
	if name != "" {
		text, err := os.ReadFile(name)
		if err == nil {
			err = toml.Unmarshal(text, &values)
		}
		if err != nil {
			return settings{}, settingsWrong("the file %s cannot be read: %v", name, err)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(values)) {
		if err := fromFile(flags, name, key, values[key]); err != nil {
			return settings{}, err
		}
	}
	var wrong error
	own := pflag.NewFlagSet("settings", pflag.ContinueOnError) // and not the flags of every command
	settingFlags(own)
	own.VisitAll(func(o *pflag.Flag) {
		f, text := flags.Lookup(o.Name), getenv(variable(o.Name))
		if text == "" || f.Changed || wrong != nil {
			return
		}
		list, isList := f.Value.(pflag.SliceValue)
		if isList {
			wrong = list.Replace(strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' }))
		} else {
			wrong = f.Value.Set(text)
		}
		if wrong != nil {
			wrong = settingsWrong("%s=%s: %v", variable(f.Name), text, wrong)
		}
	})
	if wrong != nil {
		return settings{}, wrong
	}
	var s settings
	var proxies, roles []string
	for flag, into := range map[string]any{"data": &s.data, "listen": &s.listen, "on-site": &s.onSite, "probe-within": &s.within, "line-responder": &s.responder, "line-token-file": &s.token, "public-url": &s.publicURL, "tls-certificate": &s.certificate,
		"tls-key": &s.key, "verbose": &s.verbose, "trust-clock": &s.trust, "log-format": &s.logFormat, "proxies": &proxies, "second-factor-for": &roles} {
		var err error
		switch into := into.(type) {
		case *string:
			*into, err = flags.GetString(flag)
		case *bool:
			*into, err = flags.GetBool(flag)
		case *[]string:
			*into, err = flags.GetStringSlice(flag)
		}
		if err != nil {
			return s, err
		}
	}
	if err := s.read(proxies, roles); err != nil {
		return s, err
	}
	return s, s.check()
}

// fromFile sets a flag that was not given to what the file says. It refuses names that are no settings, and values
// of another type than the setting's.
func fromFile(flags *pflag.FlagSet, file, key string, value any) error {
	own := pflag.NewFlagSet("settings", pflag.ContinueOnError)
	settingFlags(own)
	f := flags.Lookup(key)
	if own.Lookup(key) == nil || key == "config" {
		return settingsWrong("%s: unknown setting %q", file, key)
	}
	set := func(text string) error {
		if f.Changed {
			return nil
		}
		return f.Value.Set(text)
	}
	list, isList := f.Value.(pflag.SliceValue)
	switch v := value.(type) {
	case string:
		if f.Value.Type() == "string" {
			return set(v)
		}
	case bool:
		if f.Value.Type() == "bool" {
			return set(strconv.FormatBool(v))
		}
	case []any:
		var texts []string
		for _, one := range v {
			if text, is := one.(string); is {
				texts = append(texts, text)
			}
		}
		if isList && len(texts) == len(v) {
			if f.Changed {
				return nil
			}
			return list.Replace(texts)
		}
	}
	want := map[string]string{"bool": "true or false", "stringSlice": "a list of quoted texts in brackets"}[f.Value.Type()]
	return settingsWrong("%s: %s must be %s", file, key, cmp.Or(want, "text in quotes"))
}

// read reads the settings that are more than a text.
func (s *settings) read(proxies, roles []string) error {
	for _, text := range proxies {
		p, err := netip.ParsePrefix(text)
		if at, no := netip.ParseAddr(text); no == nil {
			p, err = at.Prefix(at.BitLen())
		}
		if err != nil {
			return settingsWrong("--proxies: %q is neither a prefix such as 10.20.0.0/24 nor an address", text)
		}
		s.proxies = append(s.proxies, p.Masked())
	}
	for _, text := range roles {
		if !slices.Contains(service.Roles, service.Role(text)) {
			return settingsWrong("--second-factor-for: %q is not a role; the roles are coordinator, lead, technician and observer", text)
		}
		s.factorFor = append(s.factorFor, service.Role(text))
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
	far := probe.FirmResponder{URL: s.responder}
	if s.responder != "" {
		token, err := os.ReadFile(s.token)
		if err != nil {
			return nil, settingsWrong("--line-responder needs --line-token-file, a file with its token: %v", err)
		}
		far.Token = strings.TrimSpace(string(token))
	}
	return probe.Prober{Guard: g, Log: log, Responder: far}, nil
}
