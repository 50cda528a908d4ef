package cli

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/assess"
	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/homes"
	"kaiku/views"
	"kaiku/wire"
)

// office answers the API from one dossier; what is posted or patched is kept for the test.
type office struct {
	d       *dossier.Dossier
	sent    []sent
	asked   []string // paths of a household
	suppose []string // headers that supposed changes
	fault   string   // the answer to what is sent
	preview wire.Preview
	known   knowledge.Knowledge
	changes []wire.KnowledgeChange // the answer to a file of what the firm knows
	read    contents.Contents      // what was handed in of a folder
	asks    wire.ContentsQuery     // what was last asked of it
}

type sent struct {
	method, path, ifMatch string
	body                  map[string]any
}

func (o *office) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	path := strings.TrimPrefix(r.URL.Path, "/api/v1")
	w.Header().Set("ETag", `"1"`)
	if strings.HasPrefix(path, "/households/") {
		o.asked = append(o.asked, path)
		if header := r.Header.Get("Kaiku-Suppose"); header != "" {
			b, _ := base64.RawURLEncoding.DecodeString(header)
			o.suppose = append(o.suppose, string(b))
		}
	}
	if o.fault != "" && r.Method != http.MethodGet {
		w.WriteHeader(http.StatusUnprocessableEntity)
		_, _ = w.Write([]byte(o.fault))
		return
	}
	if r.Method != http.MethodGet {
		if strings.HasPrefix(path, "/knowledge") {
			_ = json.NewEncoder(w).Encode(o.changes)
			return
		}
		if strings.HasSuffix(path, "/preview") {
			_ = json.NewEncoder(w).Encode(o.preview)
			return
		}
		if strings.HasSuffix(path, "/contents") {
			if err := json.NewDecoder(r.Body).Decode(&o.read); err != nil || o.read.Check() != nil {
				w.WriteHeader(http.StatusUnprocessableEntity)
			}
			_ = json.NewEncoder(w).Encode(wire.FolderContents{})
			return
		}
		s := sent{method: r.Method, path: path, ifMatch: r.Header.Get("If-Match")}
		_ = json.NewDecoder(r.Body).Decode(&s.body)
		o.sent = append(o.sent, s)
		if s.body == nil {
			s.body = map[string]any{}
		}
		s.body["id"] = string(homes.RoomID(7))
		_ = json.NewEncoder(w).Encode(s.body)
		return
	}
	home := "/households/H-0900"
	switch {
	case strings.HasSuffix(path, "/contents"):
		o.asks = wire.ContentsQuery{Search: r.URL.Query().Get("search"), Trouble: contents.Trouble(r.URL.Query().Get("trouble"))}
		o.asks.Format, _ = strconv.Atoi(r.URL.Query().Get("format"))
		o.asks.After, _ = strconv.Atoi(r.URL.Query().Get("after"))
		folder, _ := o.d.Folders.Get(o.read.Folder)
		_ = json.NewEncoder(w).Encode(views.Contents(o.d, folder, o.read, o.asks, nil))
	case path == "/me":
		_ = json.NewEncoder(w).Encode(wire.Session{Person: wire.Person{Login: "petri"}})
	case path == "/people":
		_ = json.NewEncoder(w).Encode([]wire.Person{{ID: homes.Person, Login: "petri", Name: "Petri Lokki", Role: "technician"}})
	case path == "/households":
		_ = json.NewEncoder(w).Encode([]wire.HouseholdRow{{Code: "H-0900", Name: "Keeper's Test", Custodian: "Petri Lokki", Blockers: 1}})
	case path == "/knowledge":
		_ = json.NewEncoder(w).Encode(views.Knowledge(o.known))
	case path == home+"/forecast":
		_ = json.NewEncoder(w).Encode(views.Forecast(assess.Assess(o.d, knowledge.Knowledge{}, homes.Day)))
	case path == home+"/dossier":
		_ = json.NewEncoder(w).Encode(o.d)
	case path == home:
		_ = json.NewEncoder(w).Encode(o.d.Home())
	default:
		for _, k := range dossier.Kinds {
			if id, one := strings.CutPrefix(path, home+"/"+k.Plural+"/"); one {
				r, _ := k.In(o.d).Lookup(id)
				_ = json.NewEncoder(w).Encode(r)
				return
			}
			if path == home+"/"+k.Plural {
				list := []dossier.Record{}
				for i := range k.In(o.d).Len() {
					list = append(list, k.In(o.d).At(i))
				}
				_ = json.NewEncoder(w).Encode(wire.Records{Records: list})
				return
			}
		}
		w.WriteHeader(http.StatusNotFound)
		_ = json.NewEncoder(w).Encode(wire.Problem{Status: 404, Code: "no-such-page", Detail: "There is nothing at this address."})
	}
}

// program is a run of the command line against an office.
type program struct {
	t       *testing.T
	office  *office
	address string
}

func newProgram(t *testing.T) *program {
	o := &office{d: homes.Small()}
	s := httptest.NewServer(o)
	t.Cleanup(s.Close)
	return &program{t, o, s.URL}
}

func (p *program) run(args ...string) (int, string, string) {
	var out, errs bytes.Buffer
	file := filepath.Join(p.t.TempDir(), "session.json")
	a := &App{In: strings.NewReader("secret\n"), Out: &out, Err: &errs, Version: "test", Getenv: func(name string) string {
		return map[string]string{"KAIKU_URL": p.address, "KAIKU_HOUSEHOLD": "H-0900", "KAIKU_SESSION_FILE": file}[name]
	}}
	code := a.Run(context.Background(), args...)
	return code, out.String(), errs.String()
}

func TestRecordsAreListedForPeopleAndPrograms(t *testing.T) {
	p := newProgram(t)
	code, out, _ := p.run("device")
	assert.Equal(t, Done, code)
	assert.Equal(t, `Name            Room       Roles   Id
───────────────────────────────────────────
granite server  cellar     server  000000
lamp screen     lamp room  screen  000001
`, out)
	_, out, _ = p.run("room", "list", "--format", "csv")
	assert.Equal(t, "Name,Floor,Id\ncellar,-1,000000\nlamp room,2,000001\n", out)
	_, out, _ = p.run("path", "list", "--format", "json")
	var paths []dossier.Path
	require.NoError(t, json.Unmarshal([]byte(out), &paths), out)
	assert.Equal(t, "lamp room films", paths[0].Name)
	_, out, _ = p.run("issue")
	assert.Equal(t, "Nothing here.\n", out)
	code, _, errs := p.run("room", "list", "--format", "xml")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "choose one of table, json, csv")
}

func TestOneRecordIsShownByName(t *testing.T) {
	p := newProgram(t)
	for _, name := range []string{"lamp room films", "LAMP", "000000"} {
		code, out, errs := p.run("path", "show", name)
		require.Equal(t, Done, code, errs)
		assert.Contains(t, out, "Device           lamp screen\n")
		assert.Contains(t, out, "Folders          granite server media Films\n")
	}
	code, _, errs := p.run("device", "show", "kettle")
	assert.Equal(t, Failed, code)
	assert.Contains(t, errs, `there is no device "kettle"; kaiku device list shows them`)
	p.office.d.Rooms[0].Name = "lamp store"
	code, _, errs = p.run("room", "show", "lamp")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, `"lamp" could be "lamp store" (000000), "lamp room" (000001)`)
	code, _, errs = p.run("room", "show")
	assert.Equal(t, WrongUse, code)
	assert.Contains(t, errs, "needs NAME")
}

func TestMembersAreFlags(t *testing.T) {
	d0 := homes.Small()
	for _, c := range []struct {
		name string
		args []string
		want map[string]any
	}{
		{"text, number, reference by name, list", []string{"device", "add", "--name", "x", "--room", "lamp room", "--role", "server", "--role", "storage", "--carried", "yes"},
			map[string]any{"name": "x", "room": string(homes.RoomID(1)), "roles": []any{"server", "storage"}, "carried": true}},
		{"a whole number", []string{"room", "add", "--name", "x", "--floor", "-1"}, map[string]any{"name": "x", "floor": -1.0}},
		{"members of a group", []string{"path", "add", "--name", "x", "--device", "lamp screen", "--source", "media", "--kind", "av-pull", "--found-by", "multicast", "--server-end.port", "40210", "--server-end.name", "G"},
			map[string]any{"name": "x", "device": string(d0.Devices[1].ID), "source": string(d0.Sources[0].ID), "kind": "av-pull", "foundBy": "multicast", "serverEnd": map[string]any{"port": 40210.0, "name": "G"}}},
		{"addresses", []string{"interface", "add", "--name", "x", "--device", "lamp screen", "--address", "10.0.0.1", "--address", "2001:db8::1", "--hardware-address", "02-4B-49-00-00-10"},
			map[string]any{"name": "x", "device": string(d0.Devices[1].ID), "addresses": []any{"10.0.0.1", "2001:db8::1"}, "hardwareAddress": "02-4B-49-00-00-10"}},
		{"a list of groups", []string{"household", "set", "H-0900", "--contact", "name=Eila,phone=555-0101", "--contact", "name=Arvo"},
			map[string]any{"contacts": []any{map[string]any{"name": "Eila", "phone": "555-0101"}, map[string]any{"name": "Arvo"}}}},
		{"an empty value clears", []string{"device", "set", "lamp screen", "--room", ""}, map[string]any{"room": nil}},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := newProgram(t)
			code, out, errs := p.run(c.args...)
			require.Equal(t, Done, code, out+errs)
			require.Len(t, p.office.sent, 1)
			delete(p.office.sent[0].body, "id")
			assert.Equal(t, c.want, p.office.sent[0].body)
			if c.args[1] == "set" {
				assert.Equal(t, "PATCH", p.office.sent[0].method)
				assert.Equal(t, `"1"`, p.office.sent[0].ifMatch, "a change says which version it starts from")
			}
		})
	}
}

func TestWhatIsTypedWronglyIsSaid(t *testing.T) {
	p := newProgram(t)
	for _, c := range []struct {
		code int
		says string
		args []string
	}{
		{WrongUse, "this is not a whole number", []string{"room", "add", "--name", "x", "--floor", "two"}},
		{WrongUse, "write yes or no", []string{"device", "add", "--name", "x", "--carried", "perhaps"}},
		{Failed, `there is no room "moon"`, []string{"device", "add", "--name", "x", "--room", "moon"}},
		{WrongUse, "write it as name=", []string{"household", "set", "--contact", "Eila"}},
		{WrongUse, "nothing to change", []string{"room", "set", "cellar"}},
		{WrongUse, "there is no flag --state", []string{"issue", "set", "--state", "closed"}},
		{WrongUse, `has no command "remove"`, []string{"attempt", "remove", "x"}},
		{WrongUse, "--why is missing", []string{"household", "assign", "H-0900", "maarit"}},
		{WrongUse, "--to is missing", []string{"handover", "draft"}},
		{Failed, "there is no handover yet", []string{"handover", "show"}},
		{Failed, `there is no "nobody" in the firm`, []string{"journal", "list", "--by", "nobody"}},
		{WrongUse, "this is not a day", []string{"journal", "list", "--since", "yesterday"}},
		{WrongUse, "write the record as kind/name", []string{"journal", "list", "--record", "cellar"}},
		{Failed, "no path has the prerequisite", []string{"prerequisite", "tick", "tea"}},
	} {
		code, out, errs := p.run(c.args...)
		assert.Equal(t, c.code, code, "%v %s", c.args, out)
		assert.Contains(t, errs, c.says, c.args)
		assert.Empty(t, p.office.sent)
	}
}

func TestNamesAndWordsComplete(t *testing.T) {
	p := newProgram(t)
	for _, c := range []struct {
		args []string
		want []string
		not  []string
	}{
		{[]string{"room", "show", "la"}, []string{"lamp room"}, []string{"cellar"}},
		{[]string{"device", "add", "--role", ""}, []string{"server", "renderer"}, nil},
		{[]string{"device", "add", "--room", "c"}, []string{"cellar"}, []string{"lamp room"}},
		{[]string{"room", "list", "-H", "H-"}, []string{"H-0900\tKeeper's Test"}, nil},
		{[]string{"test", "run", ""}, []string{"reach", "found", "plays"}, []string{"sound", "wakes"}},
		{[]string{"attempt", "add", "--outcome", ""}, []string{"pass", "impossible"}, nil},
	} {
		_, out, _ := p.run(append([]string{cobra.ShellCompRequestCmd}, c.args...)...)
		for _, w := range c.want {
			assert.Contains(t, out, w, c.args)
		}
		for _, w := range c.not {
			assert.NotContains(t, out, w, c.args)
		}
	}
}

func TestALogInIsKeptForItsOwner(t *testing.T) {
	p := newProgram(t)
	file := filepath.Join(t.TempDir(), "deep", "session.json")
	a := &App{sessionFile: file, Getenv: func(string) string { return "" }}
	require.NoError(t, a.keep(session{URL: p.address, Token: "t", Login: "petri"}))
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	assert.Equal(t, p.address, a.where())
	require.NoError(t, os.WriteFile(file, []byte("{"), 0o600))
	assert.Equal(t, "http://127.0.0.1:7440", a.where(), "an unreadable log-in is no log-in")
}

func TestTablesFitAndWrap(t *testing.T) {
	var out bytes.Buffer
	a := &App{Out: &out, format: "table"}
	require.NoError(t, a.show(nil, []string{"Short", "Long"}, [][]string{{"ä", strings.Repeat("word ", 60)}, {"日本語", "x"}}))
	lines := strings.Split(strings.TrimRight(out.String(), "\n"), "\n")
	assert.Greater(t, len(lines), 5)
	for _, line := range lines {
		assert.LessOrEqual(t, len([]rune(line)), tableWidth)
		assert.Equal(t, strings.TrimRight(line, " "), line, "no blanks at the end")
	}
	out.Reset()
	require.NoError(t, a.details(nil, "Name", "x", "Empty", "", "Text", strings.Repeat("word ", 40)))
	assert.NotContains(t, out.String(), "Empty")
	assert.Equal(t, "Name  x", strings.Split(out.String(), "\n")[0])
}

func TestFlagNames(t *testing.T) {
	for member, flag := range map[string]string{"hardwareAddress": "hardware-address", "name": "name", "itemsOnDisk": "items-on-disk"} {
		assert.Equal(t, flag, flagName(member))
	}
	assert.Equal(t, "abc…", clip("abcdef", 4))
	assert.Equal(t, "abc", clip("abc", 4))
}

// What a change would do to what is proven is told before it is made, and with --dry-run it is not made.
func TestAChangeIsToldBeforeItIsMade(t *testing.T) {
	p := newProgram(t)
	p.office.preview = wire.Preview{Sentence: "This would make 1 proven test stale.", Stale: []wire.PreviewTest{{ID: "plays:x", Title: "Plays", About: wire.Named{Label: "films"}, Sentence: "port of media changed from 1 to 2"}},
		Found: []wire.Finding{{Severity: "blocker", Sentence: "Two clash.", Remedy: "Move one."}}, Gone: []wire.Finding{{Severity: "advice", Sentence: "It was slow."}}}
	code, out, errs := p.run("source", "set", "media", "--port", "2", "--dry-run")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "port of media changed from 1 to 2")
	assert.Contains(t, out, "no longer found")
	assert.Contains(t, errs, "This would make 1 proven test stale. Nothing has been written; leave out --dry-run to write it.")
	assert.Empty(t, p.office.sent)

	code, _, errs = p.run("source", "set", "media", "--port", "2")
	require.Zero(t, code, errs)
	assert.Contains(t, errs, "This would make 1 proven test stale.")
	require.Len(t, p.office.sent, 1)
	assert.Equal(t, http.MethodPatch, p.office.sent[0].method)

	p.office.preview = wire.Preview{}
	code, _, errs = p.run("room", "add", "--name", "attic", "--dry-run")
	require.Zero(t, code, errs)
	assert.Contains(t, errs, "Nothing that is proven would change.")
	code, _, _ = p.run("room", "remove", "cellar", "--dry-run")
	assert.Zero(t, code)
	require.Len(t, p.office.sent, 1, "and nothing more was sent")
}

// What is said goes through say and ask, which leave out what steers a terminal; nothing else writes to it.
func TestNothingWritesToTheTerminalByItself(t *testing.T) {
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	stream := regexp.MustCompile(`\ba\.(Out|Err)\b`)
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		n := 0
		for line := range strings.Lines(string(b)) {
			if strings.Contains(line, "fmt.Print") || strings.Contains(line, "os.Std") || stream.MatchString(line) {
				n++
			}
		}
		assert.Equal(t, map[string]int{"cli.go": 6, "suppose.go": 1}[file], n, "%s: say, ask, print and the line of progress write, and nothing else", file)
	}
	var out, errs bytes.Buffer
	a := &App{Out: &out, Err: &errs, format: "csv"}
	a.note("attic%s", "\x1b[2J\u202e")
	a.say("%s", "lamp\x07")
	require.NoError(t, a.show(nil, []string{"Name"}, [][]string{{"=1+1"}, {"-81"}}))
	assert.Equal(t, "attic[2J\n", errs.String())
	assert.Equal(t, "lamp\nName\n'=1+1\n-81\n", out.String())
	out.Reset()
	require.NoError(t, a.print([]byte("id,name\r\n1,lamp\x1b[2J\u202e\r\n")))
	require.NoError(t, a.print([]byte("{\"name\": \"lamp\u202e\"}\n")))
	assert.Equal(t, "id,name\n1,lamp[2J\n{\"name\": \"lamp\\u202e\"}\n", out.String())
}
