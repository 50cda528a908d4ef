package main

import (
	"bytes"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/cli"
	"kaiku/service"
	"kaiku/store"
)

func nothing(string) string { return "" }

// typedIn runs one command and returns its exit code and all it said.
// stdin is what a command reads, among the variables of its environment.
const stdin = "(standard input)"

func typedIn(t *testing.T, env map[string]string, args ...string) (int, string) {
	var out bytes.Buffer
	a := newApp()
	a.In, a.Out, a.Err = strings.NewReader(env[stdin]), &out, &out
	a.Getenv = func(name string) string { return env[name] }
	a.Extra = ownCommands(a)
	return a.Run(t.Context(), args...), out.String()
}

func settingsOf(t *testing.T, env map[string]string, args ...string) (settings, error) {
	f := pflag.NewFlagSet("serve", pflag.ContinueOnError)
	settingFlags(f)
	require.NoError(t, f.Parse(args))
	return readSettings(f, func(name string) string { return env[name] })
}

func TestSettingsByFlagVariableAndFile(t *testing.T) {
	file := filepath.Join(t.TempDir(), "kaiku.toml")
	require.NoError(t, os.WriteFile(file, []byte(`# the office
data = "/srv/kaiku"
listen = "127.0.0.1:1"
on-site = true
probe-within = ["10.20.4.0/24", "10.20.5.0/24"]
log-format = "json"
`), 0o600))
	s, err := settingsOf(t, map[string]string{"KAIKU_CONFIG": file, "KAIKU_LISTEN": "127.0.0.1:2", "KAIKU_LOG_FORMAT": "text", "KAIKU_URL": "elsewhere"}, "--log-format", "json")
	require.NoError(t, err)
	assert.Equal(t, "/srv/kaiku", s.data, "the file, where nothing else says it")
	assert.Equal(t, "127.0.0.1:2", s.listen, "a variable beats the file")
	assert.Equal(t, "json", s.logFormat, "a flag beats both")
	assert.True(t, s.onSite)
	assert.Equal(t, []string{"10.20.4.0/24", "10.20.5.0/24"}, s.within)
	s, err = settingsOf(t, map[string]string{"KAIKU_PROBE_WITHIN": "10.1.0.0/16,10.2.0.0/16", "KAIKU_ON_SITE": "1"})
	require.NoError(t, err)
	assert.Equal(t, []string{"10.1.0.0/16", "10.2.0.0/16"}, s.within)
	assert.Equal(t, "kaiku-data", s.data, "the default")
	assert.Empty(t, s.proxies)
	s, err = settingsOf(t, map[string]string{"KAIKU_PROXIES": "10.1.0.7, 10.2.0.0/16", "KAIKU_SECOND_FACTOR_FOR": "coordinator,lead"})
	require.NoError(t, err)
	assert.Equal(t, []netip.Prefix{netip.MustParsePrefix("10.1.0.7/32"), netip.MustParsePrefix("10.2.0.0/16")}, s.proxies)
	assert.Equal(t, []service.Role{service.Coordinator, service.Lead}, s.factorFor)
	for says, env := range map[string]map[string]string{
		"neither a prefix":  {"KAIKU_PROXIES": "everybody"},
		"is not a role":     {"KAIKU_SECOND_FACTOR_FOR": "king"},
		"KAIKU_ON_SITE=may": {"KAIKU_ON_SITE": "may"},
	} {
		_, err := settingsOf(t, env)
		require.ErrorContains(t, err, says)
	}
	_, err = settingsOf(t, nil, "--config", file)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(file, []byte(`household = "H-0001"`), 0o600))
	_, err = settingsOf(t, nil, "--config", file)
	require.ErrorContains(t, err, `unknown setting "household"`)
}

func TestWrongSettingsAreSaid(t *testing.T) {
	for _, c := range []struct{ name, file, says string }{
		{"a name that is none", `liston = "x"`, `unknown setting "liston"`},
		{"a number for a text", `listen = 7440`, "listen must be text in quotes"},
		{"a text for a switch", `on-site = "yes"`, "on-site must be true or false"},
		{"a text for a list", `probe-within = "10.0.0.0/8"`, "probe-within must be a list"},
		{"no TOML", `listen: 7440`, "cannot be read"},
		{"a certificate without its key", `tls-certificate = "c.pem"`, "must be given together"},
		{"a public address with a path", `public-url = "https://example.org/kaiku"`, "without a path"},
		{"another log", `log-format = "xml"`, "text or json"},
	} {
		file := filepath.Join(t.TempDir(), "kaiku.toml")
		require.NoError(t, os.WriteFile(file, []byte(c.file), 0o600))
		_, err := settingsOf(t, nil, "--config", file)
		assert.ErrorContains(t, err, c.says, c.name)
	}
	_, err := settingsOf(t, nil, "--config", "/nowhere/kaiku.toml")
	assert.ErrorContains(t, err, "/nowhere/kaiku.toml")
}

// pemFiles writes a certificate for 127.0.0.1 and its key.
func pemFiles(t *testing.T, dir, name string) (certificate, key string, pool *x509.CertPool) {
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(time.Now().UnixNano()), Subject: pkix.Name{CommonName: name}, IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
		NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &private.PublicKey, private)
	require.NoError(t, err)
	keyDER, err := x509.MarshalECPrivateKey(private)
	require.NoError(t, err)
	certificate, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	require.NoError(t, os.WriteFile(certificate, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: keyDER}), 0o600))
	parsed, err := x509.ParseCertificate(der)
	require.NoError(t, err)
	pool = x509.NewCertPool()
	pool.AddCert(parsed)
	return certificate, key, pool
}

func TestOwnCertificate(t *testing.T) {
	dir := t.TempDir()
	cert, key, pool := pemFiles(t, dir, "first")
	r, err := start(t.Context(), settings{data: filepath.Join(dir, "data"), listen: "127.0.0.1:0", certificate: cert, key: key, publicURL: ""}, io.Discard)
	require.NoError(t, err)
	defer func() { assert.NoError(t, r.stop()) }()
	assert.True(t, strings.HasPrefix(r.address, "https://127.0.0.1:"))
	get := func(pool *x509.CertPool) string {
		c := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}, DisableKeepAlives: true}}
		resp, err := c.Get(r.address + "/readyz")
		require.NoError(t, err)
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		assert.Equal(t, "ready\n", string(b))
		return resp.TLS.PeerCertificates[0].Subject.CommonName
	}
	assert.Equal(t, "first", get(pool))
	_, _, renewed := pemFiles(t, dir, "renewed")
	require.NoError(t, os.Chtimes(cert, time.Now(), time.Now().Add(time.Second)))
	assert.Equal(t, "renewed", get(renewed), "a renewal needs no restart")
	_, err = start(t.Context(), settings{data: filepath.Join(dir, "other"), listen: "127.0.0.1:0", certificate: cert, key: cert}, io.Discard)
	assert.ErrorContains(t, err, "certificate cannot be used")
}

// Reached by https through a proxy, cookies are Secure and the public origin may write.
func TestPublicURL(t *testing.T) {
	r, err := start(t.Context(), settings{data: t.TempDir(), listen: "127.0.0.1:0", publicURL: "https://kaiku.example.org/"}, io.Discard)
	require.NoError(t, err)
	defer func() { assert.NoError(t, r.stop()) }()
	assert.Equal(t, "https://kaiku.example.org", r.address)
	post := func(origin string) *http.Response {
		w := &recorder{header: http.Header{}}
		req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, "/api/v1/session", strings.NewReader(`{"login":"coordinator","password":"`+r.first+`"}`))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Origin", origin)
		req.Host = "127.0.0.1:7440"
		r.server.Handler.ServeHTTP(w, req)
		return &http.Response{StatusCode: w.status, Header: w.header}
	}
	good := post("https://kaiku.example.org")
	require.Equal(t, http.StatusOK, good.StatusCode)
	require.Len(t, good.Cookies(), 1)
	assert.True(t, good.Cookies()[0].Secure)
	assert.Equal(t, http.StatusForbidden, post("https://elsewhere.example.org").StatusCode)
}

type recorder struct {
	header http.Header
	status int
	bytes.Buffer
}

func (r *recorder) Header() http.Header    { return r.header }
func (r *recorder) WriteHeader(status int) { r.status = status }

// A clock that was set back does not make entries older than those before them, and is said.
func TestClockSetBack(t *testing.T) {
	dir, noon := t.TempDir(), time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	run := func(now time.Time, trust bool) (address string, r *running, log *bytes.Buffer) {
		log = &bytes.Buffer{}
		r, err := start(t.Context(), settings{data: dir, listen: "127.0.0.1:0", now: func() time.Time { return now }, trust: trust}, log)
		require.NoError(t, err)
		return r.address, r, log
	}
	env := map[string]string{"KAIKU_SESSION_FILE": filepath.Join(t.TempDir(), "s.json"), "KAIKU_HOUSEHOLD": "H-0700"}
	address, r, log := run(noon, false)
	assert.Empty(t, log.String())
	require.NoError(t, r.service.FirstShown(t.Context()))
	env["KAIKU_URL"], env[stdin] = address, r.first+"\n"
	code, said := typedIn(t, env, "login", "coordinator")
	require.Equal(t, cli.Done, code, said)
	code, said = typedIn(t, env, "household", "add", "Quay House", "--code", "H-0700")
	require.Equal(t, cli.Done, code, said)
	require.NoError(t, r.stop())

	address, r, log = run(noon.Add(-3*time.Hour), false)
	env["KAIKU_URL"] = address
	assert.Contains(t, log.String(), "3h0m0s behind the latest")
	code, said = typedIn(t, env, "login", "coordinator")
	require.Equal(t, cli.Done, code, said)
	code, said = typedIn(t, env, "today")
	require.Equal(t, cli.Done, code, said)
	assert.Contains(t, said, "Set the clock.")
	code, said = typedIn(t, env, "room", "add", "--name", "Cellar")
	require.Equal(t, cli.Done, code, said)
	_, said = typedIn(t, env, "journal", "list", "--format", "json")
	assert.Equal(t, 2, strings.Count(said, `"at": "2026-11-25T12:00:00Z"`), said)
	resp, err := http.Get(address + "/readyz")
	require.NoError(t, err)
	b, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	assert.Contains(t, string(b), "ready, but")
	require.NoError(t, r.stop())

	_, r, log = run(noon.Add(-3*time.Hour), true)
	assert.Empty(t, log.String(), "--trust-clock takes it as it is")
	require.NoError(t, r.stop())
}

func TestWhatIsWrongAtTheStartIsSaid(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	foreign := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(foreign, "letters.odt"), nil, 0o600))
	used := t.TempDir()
	r, err := start(t.Context(), settings{data: used, listen: "127.0.0.1:0"}, io.Discard)
	require.NoError(t, err)
	defer func() { assert.NoError(t, r.stop()) }()
	for _, c := range []struct {
		name string
		args []string
		says []string
	}{
		{"port in use", []string{"serve", "--data", t.TempDir(), "--listen", taken.Addr().String()}, []string{"in use by another program", "--listen"}},
		{"no such port", []string{"serve", "--data", t.TempDir(), "--listen", "127.0.0.1:99999"}, []string{"cannot listen on 127.0.0.1:99999", "free port"}},
		{"not an address of this machine", []string{"serve", "--data", t.TempDir(), "--listen", "192.0.2.1:7440"}, []string{"cannot listen on 192.0.2.1:7440"}},
		{"another program's folder", []string{"serve", "--data", foreign}, []string{"not a data folder of Kaiku", "letters.odt", "--data"}},
		{"a folder in use", []string{"serve", "--data", used}, []string{"Another Kaiku is already using", "Stop that one first"}},
		{"restore under a running one", []string{"restore", "--data", used, "x.tar.gz"}, []string{"x.tar.gz"}},
		{"backup of nothing", []string{"backup", "--data", t.TempDir(), filepath.Join(t.TempDir(), "b.tar.gz")}, []string{"not a data folder of Kaiku"}},
	} {
		code, said := typedIn(t, nil, c.args...)
		assert.Equal(t, cli.Failed, code, c.name)
		for _, want := range c.says {
			assert.Contains(t, said, want, c.name)
		}
		assert.NotContains(t, said, "{", c.name)
	}
}

// quayHouse starts the service on a new data folder with one home of one room, and returns what a command needs to be used on it.
func quayHouse(t *testing.T, dir, data string) (*running, map[string]string) {
	t.Helper()
	r, err := start(t.Context(), settings{data: data, listen: "127.0.0.1:0"}, io.Discard)
	require.NoError(t, err)
	env := map[string]string{"KAIKU_SESSION_FILE": filepath.Join(dir, "s.json"), "KAIKU_HOUSEHOLD": "H-0700", "KAIKU_URL": r.address, stdin: r.first + "\n", "KAIKU_DATA": data}
	for _, args := range [][]string{{"login", "coordinator"}, {"household", "add", "Quay House", "--code", "H-0700"}, {"room", "add", "--name", "Cellar"}} {
		code, said := typedIn(t, env, args...)
		require.Equal(t, cli.Done, code, said)
	}
	return r, env
}

func TestBackupAndRestoreByCommand(t *testing.T) {
	dir := t.TempDir()
	data, file := filepath.Join(dir, "data"), filepath.Join(dir, "kaiku.tar.gz")
	r, env := quayHouse(t, dir, data)
	code, said := typedIn(t, env, "backup", file)
	require.Equal(t, cli.Done, code, said)
	assert.Contains(t, said, "Backed up 1 home and 0 files")
	assert.Contains(t, said, store.KeyName)
	code, said = typedIn(t, env, "backup", file)
	assert.Equal(t, cli.Failed, code)
	assert.Contains(t, said, "already exists")
	code, said = typedIn(t, env, "restore", file, "--replace")
	assert.Equal(t, cli.Failed, code)
	assert.Contains(t, said, "Another Kaiku is already using")
	require.NoError(t, r.stop())
	code, said = typedIn(t, env, "restore", file)
	assert.Equal(t, cli.Failed, code)
	assert.Contains(t, said, "--replace")
	code, said = typedIn(t, env, "restore", file, "--replace")
	require.Equal(t, cli.Done, code, said)
	assert.Contains(t, said, "kept in")
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	var out bytes.Buffer
	a := newApp()
	a.In, a.Out, a.Err, a.Getenv = strings.NewReader(""), &out, &out, nothing
	a.Extra = ownCommands(a)
	require.Equal(t, cli.Failed, a.Run(ctx, "backup", filepath.Join(dir, "stopped.tar.gz"), "--data", data))
	assert.Contains(t, out.String(), "stopped; no backup has been written")
	left, err := filepath.Glob(filepath.Join(dir, ".kaiku-backup-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
	require.NoFileExists(t, filepath.Join(dir, "stopped.tar.gz"))
}

// Files that are lost are named by backup and by restore, which do the rest and ask for attention.
func TestWhatIsLostIsNamed(t *testing.T) {
	dir := t.TempDir()
	data, file := filepath.Join(dir, "data"), filepath.Join(dir, "kaiku.tar.gz")
	r, env := quayHouse(t, dir, data)
	for _, text := range []string{"one", "two", "three"} {
		log := filepath.Join(dir, text)
		require.NoError(t, os.WriteFile(log, []byte(text), 0o600))
		code, said := typedIn(t, env, "attachment", "add", log, "--about", "room/Cellar", "--caption", text)
		require.Equal(t, cli.Done, code, said)
	}
	require.NoError(t, r.stop())
	at := func(text string) string {
		sum := fmt.Sprintf("%x", sha256.Sum256([]byte(text)))
		return filepath.Join(data, store.BodiesName, sum[:2], sum)
	}
	require.NoError(t, os.Remove(at("one")))
	require.NoError(t, os.WriteFile(at("two"), []byte("TWO"), 0o600))
	missing := "1 file that a record names was not in the data folder. An older backup may still have it:\n  " + filepath.Base(at("one")) + "\n"
	damaged := "1 file was damaged in the data folder and is not in the backup. An older backup may still have it:\n  " + filepath.Base(at("two")) + "\n"
	code, said := typedIn(t, env, "backup", file)
	assert.Equal(t, cli.Attention, code)
	assert.Contains(t, said, "Backed up 1 home and 1 file")
	assert.Contains(t, said, missing+damaged)
	env["KAIKU_DATA"] = filepath.Join(dir, "restored")
	code, said = typedIn(t, env, "restore", file)
	assert.Equal(t, cli.Attention, code)
	assert.Contains(t, said, missing+damaged)
	code, said = typedIn(t, env, "check")
	assert.Equal(t, cli.Attention, code)
	assert.Equal(t, 2, strings.Count(said, "is missing ("), said)
}

// A start that cannot work, since its address is taken, makes nothing.
func TestAStartThatCannotWorkLeavesNothing(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	data := filepath.Join(t.TempDir(), "data")
	code, said := typedIn(t, nil, "serve", "--data", data, "--listen", taken.Addr().String())
	assert.Equal(t, cli.Failed, code, said)
	require.NoDirExists(t, data)
	code, said = typedIn(t, nil, "serve", "--data", data, "--listen", "127.0.0.1:0", "--tls-certificate", "nowhere.pem", "--tls-key", "nowhere.key")
	assert.Equal(t, cli.Failed, code, said)
	require.NoDirExists(t, data)
}

// Where no coordinator can log in any more, the machine itself makes one; kaiku check then finds nothing wrong, and
// what is wrong after somebody meddled.
func TestRescueAndCheckByCommand(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	code, said := typedIn(t, nil, "rescue", "ilona", "--data", data)
	assert.Equal(t, cli.Failed, code)
	assert.Contains(t, said, "not a data folder of Kaiku")
	require.NoDirExists(t, data)
	r, err := start(t.Context(), settings{data: data, listen: "127.0.0.1:0"}, io.Discard)
	require.NoError(t, err)
	code, said = typedIn(t, nil, "rescue", "ilona", "--data", data)
	assert.Equal(t, cli.Failed, code)
	assert.Contains(t, said, "Stop that one first")
	require.NoError(t, r.stop())
	for range 2 { // a new one, then one who is there
		code, said = typedIn(t, nil, "rescue", "ilona", "--data", data)
		require.Equal(t, cli.Done, code, said)
		password := regexp.MustCompile(`with the password ([a-z2-7]{16});`).FindStringSubmatch(said)
		require.Len(t, password, 2, said)
		r, err = start(t.Context(), settings{data: data, listen: "127.0.0.1:0"}, io.Discard)
		require.NoError(t, err)
		env := map[string]string{"KAIKU_SESSION_FILE": filepath.Join(t.TempDir(), "s.json"), "KAIKU_URL": r.address, stdin: password[1] + "\n"}
		code, said = typedIn(t, env, "login", "ilona")
		require.Equal(t, cli.Done, code, said)
		code, said = typedIn(t, env, "household", "add", "Quay House", "--custodian", "ilona")
		require.Equal(t, cli.Done, code, said)
		require.NoError(t, r.stop())
	}
	code, said = typedIn(t, nil, "check", "--data", data)
	require.Equal(t, cli.Done, code, said)
	assert.Contains(t, said, "Read 2 homes with 2 records and 2 journal entries, 0 files and 0 secrets in ")
	assert.Contains(t, said, "Nothing is wrong.")
	require.NoError(t, os.Chmod(filepath.Join(data, store.FileName), 0o644)) //nolint:gosec // what is looked for
	code, said = typedIn(t, nil, "check", "--data", data)
	assert.Equal(t, cli.Attention, code, said)
	assert.Contains(t, said, "Others on this machine can read kaiku.db (644). Restrict it to the account that runs Kaiku: chmod 600.")
}
