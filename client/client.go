// Package client is the typed Go client of the API.
package client

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/matching"
	"kaiku/wire"
)

// Client talks to one Kaiku. It is safe for use by several goroutines.
type Client struct {
	base    string
	token   string
	http    *http.Client
	suppose string // header that supposes changes, or ""
}

// New returns a client of the Kaiku at address, such as http://127.0.0.1:7440, with a bearer
// token or "".
func New(address, token string) *Client {
	return &Client{base: strings.TrimRight(address, "/"), token: token, http: &http.Client{Timeout: 60 * time.Second}}
}

// Address returns where the client's Kaiku is.
func (c *Client) Address() string { return c.base }

// WithToken returns a client of the same Kaiku with another token.
func (c *Client) WithToken(token string) *Client {
	return &Client{base: c.base, token: token, http: c.http, suppose: c.suppose}
}

// Supposing returns a client that reads homes as if these changes had been made, and with which nothing can be written; without changes it
// is an ordinary one.
func (c *Client) Supposing(changes ...wire.PreviewStep) (*Client, error) {
	out := &Client{base: c.base, token: c.token, http: c.http}
	if len(changes) > 0 {
		b, err := json.Marshal(changes)
		if err != nil {
			return nil, fmt.Errorf("write what is supposed: %w", err)
		}
		out.suppose = base64.RawURLEncoding.EncodeToString(b)
	}
	return out, nil
}

// Unreachable is the error when nothing answers at the address.
type Unreachable struct {
	Address string
	Err     error
}

func (u *Unreachable) Error() string {
	return fmt.Sprintf("Kaiku at %s does not answer. Check the address, and that kaiku serve runs there.", u.Address)
}

func (u *Unreachable) Unwrap() error { return u.Err }

// Do sends one request to the API and reads the answer into out. An error answer comes back as a
// *wire.Problem. The returned ETag is that of the answer.
func (c *Client) Do(ctx context.Context, method, path string, headers map[string]string, in, out any) (etag string, err error) {
	all := map[string]string{}
	var body io.Reader
	if in != nil {
		b, err := json.Marshal(in)
		if err != nil {
			return "", fmt.Errorf("write request: %w", err)
		}
		body = bytes.NewReader(b)
		all["Content-Type"] = "application/json"
	}
	maps.Copy(all, headers)
	return c.send(ctx, method, path, all, body, func(b []byte) error {
		if out == nil || len(b) == 0 {
			return nil
		}
		return json.Unmarshal(b, out)
	})
}

// send sends a request of any body and hands the body of a good answer to read.
func (c *Client) send(ctx context.Context, method, path string, headers map[string]string, body io.Reader, read func([]byte) error) (etag string, err error) {
	resp, err := c.open(ctx, method, path, headers, body)
	if err != nil {
		return "", err
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(io.LimitReader(resp.Body, mostAnswer))
	if err != nil {
		return "", fmt.Errorf("read answer: %w", err)
	}
	if err := read(b); err != nil {
		return "", fmt.Errorf("read answer of %s: %w", path, err)
	}
	return resp.Header.Get("ETag"), nil
}

// mostAnswer bounds what is read of one answer.
const mostAnswer = 64 << 20

// open sends a request and returns a good answer, whose body the caller reads and closes.
func (c *Client) open(ctx context.Context, method, path string, headers map[string]string, body io.Reader) (*http.Response, error) {
	r, err := http.NewRequestWithContext(ctx, method, c.base+"/api/v1"+path, body)
	if err != nil {
		return nil, fmt.Errorf("make request: %w", err)
	}
	if method == http.MethodPost {
		r.Header.Set("Idempotency-Key", uuid.NewString())
	}
	for k, v := range headers {
		r.Header.Set(k, v)
	}
	if c.suppose != "" {
		r.Header.Set("Kaiku-Suppose", c.suppose)
	}
	if c.token != "" {
		r.Header.Set("Authorization", "Bearer "+c.token)
	}
	resp, err := c.http.Do(r)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, &Unreachable{c.base, err}
	}
	if resp.StatusCode < 400 {
		return resp, nil
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(io.LimitReader(resp.Body, mostAnswer))
	if err != nil {
		return nil, fmt.Errorf("read answer: %w", err)
	}
	p := &wire.Problem{}
	if json.Unmarshal(b, p) != nil || p.Status == 0 {
		return nil, fmt.Errorf("%s at %s answered %s, which is not Kaiku's way", path, c.base, resp.Status)
	}
	return nil, p
}

// IsProblem reports whether err is an error answer with that code.
func IsProblem(err error, code string) bool {
	var p *wire.Problem
	return errors.As(err, &p) && p.Code == code
}

func get[T any](ctx context.Context, c *Client, path string) (T, error) {
	var out T
	_, err := c.Do(ctx, http.MethodGet, path, nil, nil, &out)
	return out, err
}

func post[T any](ctx context.Context, c *Client, path string, in any) (T, error) {
	var out T
	_, err := c.Do(ctx, http.MethodPost, path, nil, in, &out)
	return out, err
}

// LogIn begins a session and returns it with its bearer token.
func (c *Client) LogIn(ctx context.Context, login, password, program string) (wire.Session, error) {
	return c.LogInWith(ctx, wire.LogIn{Login: login, Password: password, Client: program})
}

// LogInWith begins a session, with a code where a second factor is set up.
func (c *Client) LogInWith(ctx context.Context, in wire.LogIn) (wire.Session, error) {
	in.Bearer = true
	return post[wire.Session](ctx, c, "/session", in)
}

// OfferSecondFactor makes a secret for a program that shows codes.
func (c *Client) OfferSecondFactor(ctx context.Context) (wire.SecondFactorOffer, error) {
	return post[wire.SecondFactorOffer](ctx, c, "/me/second-factor/offer", nil)
}

// SetSecondFactor sets up a second factor with a code of an offer.
func (c *Client) SetSecondFactor(ctx context.Context, in wire.SetSecondFactor) error {
	_, err := c.Do(ctx, http.MethodPost, "/me/second-factor", nil, in, nil)
	return err
}

// RemoveSecondFactor takes one's own second factor away.
func (c *Client) RemoveSecondFactor(ctx context.Context, in wire.RemoveSecondFactor) error {
	_, err := c.Do(ctx, http.MethodPost, "/me/second-factor/remove", nil, in, nil)
	return err
}

// LogOut ends the session.
func (c *Client) LogOut(ctx context.Context) error {
	_, err := c.Do(ctx, http.MethodDelete, "/session", nil, nil, nil)
	return err
}

// WhoAmI returns who is logged in.
func (c *Client) WhoAmI(ctx context.Context) (wire.Session, error) {
	return get[wire.Session](ctx, c, "/me")
}

// People lists the firm.
func (c *Client) People(ctx context.Context) ([]wire.Person, error) {
	return get[[]wire.Person](ctx, c, "/people")
}

// NewPerson adds someone to the firm; the password is shown only once.
func (c *Client) NewPerson(ctx context.Context, in wire.NewPerson) (wire.PersonMade, error) {
	return post[wire.PersonMade](ctx, c, "/people", in)
}

// ChangePerson changes, suspends or restores someone.
func (c *Client) ChangePerson(ctx context.Context, id dossier.PersonID, in wire.PersonChange) (wire.Person, error) {
	var out wire.Person
	_, err := c.Do(ctx, http.MethodPatch, "/people/"+string(id), nil, in, &out)
	return out, err
}

// ResetPerson gives someone a new password, which is shown only once.
func (c *Client) ResetPerson(ctx context.Context, id dossier.PersonID) (wire.PersonMade, error) {
	return post[wire.PersonMade](ctx, c, "/people/"+string(id)+"/reset", nil)
}

// ChangePassword changes one's own password; all log-ins end.
func (c *Client) ChangePassword(ctx context.Context, in wire.NewPassword) error {
	_, err := c.Do(ctx, http.MethodPost, "/me/password", nil, in, nil)
	return err
}

// LogIns lists one's own log-ins and tokens.
func (c *Client) LogIns(ctx context.Context) ([]wire.LogInRow, error) {
	return get[[]wire.LogInRow](ctx, c, "/me/logins")
}

// EndLogIn ends one of them.
func (c *Client) EndLogIn(ctx context.Context, id string) error {
	_, err := c.Do(ctx, http.MethodDelete, "/me/logins/"+id, nil, nil, nil)
	return err
}

// NewToken makes a token for a program; it is shown only once.
func (c *Client) NewToken(ctx context.Context, in wire.NewToken) (wire.TokenMade, error) {
	return post[wire.TokenMade](ctx, c, "/me/tokens", in)
}

// Today returns what the logged-in person has to do.
func (c *Client) Today(ctx context.Context) (wire.Today, error) {
	return get[wire.Today](ctx, c, "/today")
}

// Households lists all households that the query selects, whatever its limit.
func (c *Client) Households(ctx context.Context, q wire.HomesQuery) ([]wire.HouseholdRow, error) {
	var all []wire.HouseholdRow
	q.Limit = 200
	for {
		page, err := get[[]wire.HouseholdRow](ctx, c, "/households?"+q.Values().Encode())
		all = append(all, page...)
		if err != nil || len(page) < q.Limit {
			return all, err
		}
		q.After = page[len(page)-1].Code
	}
}

// Begin begins a household.
func (c *Client) Begin(ctx context.Context, in wire.NewHousehold) (dossier.Household, error) {
	return post[dossier.Household](ctx, c, "/households", in)
}

// Assign gives custody to someone, with a reason.
func (c *Client) Assign(ctx context.Context, code string, in wire.Assign) error {
	_, err := c.Do(ctx, http.MethodPost, "/households/"+code+"/assign", nil, in, nil)
	return err
}

// ErasePersonal erases a home's personal data for good.
func (c *Client) ErasePersonal(ctx context.Context, code string, in wire.Erase) (wire.ErasedData, error) {
	return post[wire.ErasedData](ctx, c, "/households/"+code+"/erase", in)
}

// Overview returns the overview of a household.
func (c *Client) Overview(ctx context.Context, code string) (wire.Overview, error) {
	return get[wire.Overview](ctx, c, "/households/"+code+"/overview")
}

// Findings lists what is wrong with a home.
func (c *Client) Findings(ctx context.Context, code string) ([]wire.Finding, error) {
	return get[[]wire.Finding](ctx, c, "/households/"+code+"/findings")
}

// Survey returns the walk through a home: what is missing and found in each room.
func (c *Client) Survey(ctx context.Context, code string) (wire.Survey, error) {
	return get[wire.Survey](ctx, c, "/households/"+code+"/survey")
}

// Drawing returns the home's network by floor and room.
func (c *Client) Drawing(ctx context.Context, code string) (wire.Drawing, error) {
	return get[wire.Drawing](ctx, c, "/households/"+code+"/drawing")
}

// AddressPlan returns what each address of the home's segments is there for.
func (c *Client) AddressPlan(ctx context.Context, code string) (wire.AddressPlan, error) {
	return get[wire.AddressPlan](ctx, c, "/households/"+code+"/address-plan")
}

// Import brings a document in, or with Dry says what it would come to.
func (c *Client) Import(ctx context.Context, code string, body []byte, o wire.ImportOptions) (wire.Import, error) {
	q := url.Values{}
	for name, v := range map[string]string{"what": o.What, "device": o.Device} {
		if v != "" {
			q.Set(name, v)
		}
	}
	for name, v := range map[string]bool{"dry": o.Dry, "partly": o.Partly, "addUnknown": o.AddUnknown} {
		if v {
			q.Set(name, "true")
		}
	}
	var out wire.Import
	_, err := c.send(ctx, http.MethodPost, "/households/"+code+"/import?"+q.Encode(), map[string]string{"Content-Type": "application/octet-stream"}, bytes.NewReader(body),
		func(b []byte) error { return json.Unmarshal(b, &out) })
	return out, err
}

// Apply writes a document with records of several kinds into a household, or says what it would do.
func (c *Client) Apply(ctx context.Context, code string, body []byte, dry bool) (wire.Import, error) {
	var out wire.Import
	err := c.applied(ctx, "/households/"+code+"/apply", body, dry, &out)
	return out, err
}

// ApplyNew adds a household with a document of its records, or says what that would do.
func (c *Client) ApplyNew(ctx context.Context, body []byte, dry bool) (wire.Applied, error) {
	var out wire.Applied
	err := c.applied(ctx, "/households/apply", body, dry, &out)
	return out, err
}

func (c *Client) applied(ctx context.Context, path string, body []byte, dry bool, out any) error {
	if dry {
		path += "?dry=true"
	}
	_, err := c.send(ctx, http.MethodPost, path, map[string]string{"Content-Type": "application/yaml"}, bytes.NewReader(body), func(b []byte) error { return json.Unmarshal(b, out) })
	return err
}

// AnswerGap says that nothing is to be recorded for a gap of the survey, or withdraws that.
func (c *Client) AnswerGap(ctx context.Context, code string, in wire.AnswerGap) error {
	_, err := c.Do(ctx, http.MethodPost, "/households/"+code+"/survey/answers", nil, in, nil)
	return err
}

// Export returns all records of a kind, by its plural, as CSV, or "contacts" as vCard.
func (c *Client) Export(ctx context.Context, code, what string) (body []byte, err error) {
	_, err = c.send(ctx, http.MethodGet, "/households/"+code+"/export/"+url.PathEscape(what), nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// Sheet returns the commissioning results.
func (c *Client) Sheet(ctx context.Context, code string) (wire.Sheet, error) {
	return get[wire.Sheet](ctx, c, "/households/"+code+"/sheet")
}

// SheetFile returns them as a file: results or customer as PDF, table as CSV.
func (c *Client) SheetFile(ctx context.Context, code, form string) (body []byte, err error) {
	_, err = c.send(ctx, http.MethodGet, "/households/"+code+"/sheet/"+url.PathEscape(form), nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// Kit returns what the next visit must bring and have ready.
func (c *Client) Kit(ctx context.Context, code string) (wire.Kit, error) {
	return get[wire.Kit](ctx, c, "/households/"+code+"/kit")
}

// SetReady says whether a thing is ready for the next visit.
func (c *Client) SetReady(ctx context.Context, code string, in wire.SupplyReady) error {
	_, err := post[struct{}](ctx, c, "/households/"+code+"/kit/ready", in)
	return err
}

// Departure returns what is still to be settled before the door closes.
func (c *Client) Departure(ctx context.Context, code string) ([]wire.Remark, error) {
	return get[[]wire.Remark](ctx, c, "/households/"+code+"/departure")
}

// NewFeed makes a secret address for a calendar of one's visits.
func (c *Client) NewFeed(ctx context.Context) (wire.FeedMade, error) {
	return post[wire.FeedMade](ctx, c, "/me/calendar", nil)
}

// Plan returns the test plan with where each test stands.
func (c *Client) Plan(ctx context.Context, code string) (wire.Plan, error) {
	return get[wire.Plan](ctx, c, "/households/"+code+"/tests")
}

// RunTests lets the machine the service runs on carry out tests.
func (c *Client) RunTests(ctx context.Context, code string, in wire.Run) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/households/"+code+"/tests/run", in)
}

// Watch lets the machine the service runs on watch a source.
func (c *Client) Watch(ctx context.Context, code string, in wire.Watch) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/households/"+code+"/tests/watch", in)
}

// Coverage says how the proof of a home came about.
func (c *Client) Coverage(ctx context.Context, code string) (wire.CoverageHistory, error) {
	return get[wire.CoverageHistory](ctx, c, "/households/"+code+"/tests/coverage")
}

// Samples lists the sample clips.
func (c *Client) Samples(ctx context.Context) ([]wire.Sample, error) {
	return get[[]wire.Sample](ctx, c, "/samples")
}

// Nightly says when tests are repeated overnight, and what came of the last time.
func (c *Client) Nightly(ctx context.Context, code string) (wire.Nightly, error) {
	return get[wire.Nightly](ctx, c, "/households/"+code+"/tests/nightly")
}

// SetNightly sets at what time tests are repeated overnight.
func (c *Client) SetNightly(ctx context.Context, code string, in wire.SetNightly) (wire.Nightly, error) {
	var out wire.Nightly
	_, err := c.Do(ctx, http.MethodPut, "/households/"+code+"/tests/nightly", nil, in, &out)
	return out, err
}

// Jobs lists the long work under way on a household, and what has ended not long ago.
func (c *Client) Jobs(ctx context.Context, code string) ([]wire.Job, error) {
	return get[[]wire.Job](ctx, c, "/households/"+code+"/jobs")
}

// WaitJob waits for a job to end.
func (c *Client) WaitJob(ctx context.Context, code, id string) (wire.Job, error) {
	for {
		j, err := get[wire.Job](ctx, c, "/households/"+code+"/jobs/"+id+"?wait=25")
		if err != nil || j.State != "running" {
			return j, err
		}
	}
}

// StopJob stops a job; what it recorded stays.
func (c *Client) StopJob(ctx context.Context, code, id string) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/households/"+code+"/jobs/"+id+"/stop", nil)
}

// RecordAttempt records an attempt.
func (c *Client) RecordAttempt(ctx context.Context, code string, in wire.NewAttempt) (wire.AttemptMade, error) {
	return post[wire.AttemptMade](ctx, c, "/households/"+code+"/attempts", in)
}

// RecordRound records what was seen at several tests in one go.
func (c *Client) RecordRound(ctx context.Context, code string, in wire.NewRound) (wire.RoundMade, error) {
	return post[wire.RoundMade](ctx, c, "/households/"+code+"/attempts/round", in)
}

// Needed lists prerequisites.
func (c *Client) Needed(ctx context.Context, code string) ([]wire.Prerequisite, error) {
	return get[[]wire.Prerequisite](ctx, c, "/households/"+code+"/needed")
}

// Recipes lists the firm's recipes.
func (c *Client) Recipes(ctx context.Context) ([]knowledge.Recipe, error) {
	return get[[]knowledge.Recipe](ctx, c, "/recipes")
}

// ImportRecipes adds the recipes of a file, or replaces those of the same name.
func (c *Client) ImportRecipes(ctx context.Context, body []byte) (out []knowledge.Recipe, err error) {
	_, err = c.send(ctx, http.MethodPost, "/recipes", map[string]string{"Content-Type": "application/yaml"}, bytes.NewReader(body), func(b []byte) error { return json.Unmarshal(b, &out) })
	return out, err
}

// ExportRecipes returns recipes as a file: those of these names, or all.
func (c *Client) ExportRecipes(ctx context.Context, names []string) (body []byte, err error) {
	query := ""
	if len(names) > 0 {
		query = "?" + url.Values{"name": names}.Encode()
	}
	_, err = c.send(ctx, http.MethodGet, "/recipes/file"+query, nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// Knowledge lists what the firm knows of models of devices and of programs.
func (c *Client) Knowledge(ctx context.Context) (wire.Knowledge, error) {
	return get[wire.Knowledge](ctx, c, "/knowledge")
}

// ImportKnowledge takes up the sheets and releases of a file. With alone, what the file does not name is removed.
func (c *Client) ImportKnowledge(ctx context.Context, body []byte, alone bool) ([]wire.KnowledgeChange, error) {
	return c.sendKnowledge(ctx, "/knowledge", body, alone)
}

// CompareKnowledge says what taking up a file would change.
func (c *Client) CompareKnowledge(ctx context.Context, body []byte, alone bool) ([]wire.KnowledgeChange, error) {
	return c.sendKnowledge(ctx, "/knowledge/compare", body, alone)
}

func (c *Client) sendKnowledge(ctx context.Context, path string, body []byte, alone bool) ([]wire.KnowledgeChange, error) {
	if alone {
		path += "?alone=true"
	}
	return c.sendFile(ctx, path, "application/vnd.kaiku.knowledge+json", body)
}

// sendFile sends a file that changes what the firm knows, and returns what it changes.
func (c *Client) sendFile(ctx context.Context, path, mediaType string, body []byte) (out []wire.KnowledgeChange, err error) {
	_, err = c.send(ctx, http.MethodPost, path, map[string]string{"Content-Type": mediaType}, bytes.NewReader(body), func(b []byte) error { return json.Unmarshal(b, &out) })
	return out, err
}

// ExportKnowledge returns sheets and releases as a file.
func (c *Client) ExportKnowledge(ctx context.Context) (body []byte, err error) {
	_, err = c.send(ctx, http.MethodGet, "/knowledge/file", nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// ExportFaults returns the fault modes that the firm uses as a file.
func (c *Client) ExportFaults(ctx context.Context) (body []byte, err error) {
	_, err = c.send(ctx, http.MethodGet, "/faults", nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// ImportFaults takes up the fault modes of a file, and says what that changes; with try nothing is stored.
func (c *Client) ImportFaults(ctx context.Context, body []byte, try bool) ([]wire.KnowledgeChange, error) {
	path := "/faults"
	if try {
		path += "/compare"
	}
	return c.sendFile(ctx, path, "application/vnd.kaiku.faults+json", body)
}

// Recurring lists what keeps coming back in the homes of the firm; with a home, what it says of the devices there, or of one of them.
func (c *Client) Recurring(ctx context.Context, code, device string) ([]wire.Recurring, error) {
	return get[[]wire.Recurring](ctx, c, "/faults/recurring?"+url.Values{"household": {code}, "device": {device}}.Encode())
}

// SharedFaults lists the faults that show in several homes that have something in common.
func (c *Client) SharedFaults(ctx context.Context) ([]wire.SharedFault, error) {
	return get[[]wire.SharedFault](ctx, c, "/faults/shared")
}

// LearnedOdds lists the odds that have moved by what was found in the homes of the firm.
func (c *Client) LearnedOdds(ctx context.Context) ([]wire.LearnedOdds, error) {
	return get[[]wire.LearnedOdds](ctx, c, "/faults/odds")
}

// KeepOdds keeps the odds of a fault mode as they came, or lets them follow what is found again.
func (c *Client) KeepOdds(ctx context.Context, id string, kept bool) error {
	_, err := c.Do(ctx, http.MethodPut, "/faults/"+url.PathEscape(id)+"/odds", nil, wire.OddsKept{Kept: kept}, nil)
	return err
}

// RemoveFault removes a fault mode of the firm by its id.
func (c *Client) RemoveFault(ctx context.Context, id string) error {
	_, err := c.Do(ctx, http.MethodDelete, "/faults/"+url.PathEscape(id), nil, nil, nil)
	return err
}

// RemoveKnowledge removes a sheet or release by the id that the list gives.
func (c *Client) RemoveKnowledge(ctx context.Context, id string) error {
	_, err := c.Do(ctx, http.MethodDelete, "/knowledge/"+url.PathEscape(id), nil, nil, nil)
	return err
}

// KnowledgeChanges lists who changed what the firm knows, and when, the newest first.
func (c *Client) KnowledgeChanges(ctx context.Context) ([]wire.KnowledgeEdit, error) {
	return get[[]wire.KnowledgeEdit](ctx, c, "/knowledge/changes")
}

// RemoveRecipe removes a recipe.
func (c *Client) RemoveRecipe(ctx context.Context, name string) error {
	_, err := c.Do(ctx, http.MethodDelete, "/recipes/"+url.PathEscape(name), nil, nil, nil)
	return err
}

// DecodingQuestions lists what a browser with the code of a device is asked about what it decodes.
func (c *Client) DecodingQuestions(ctx context.Context, code string) (wire.DecodingQuestions, error) {
	return get[wire.DecodingQuestions](ctx, c, "/measure/"+url.PathEscape(code)+"/decoding")
}

// DeclareDecoding records what a browser with the code of a device says that it decodes.
func (c *Client) DeclareDecoding(ctx context.Context, code string, in wire.DecodingAnswers) (wire.DecodingDeclared, error) {
	return post[wire.DecodingDeclared](ctx, c, "/measure/"+url.PathEscape(code)+"/decoding", in)
}

// EntryCard returns what has to be keyed in on the device of a path.
func (c *Client) EntryCard(ctx context.Context, code, path string) (wire.EntryCard, error) {
	return get[wire.EntryCard](ctx, c, "/households/"+code+"/paths/"+path+"/card")
}

// WiFiCode shows the Wi-Fi network of a segment as a code to scan.
func (c *Client) WiFiCode(ctx context.Context, code, segment, why string) (wire.WiFiCode, error) {
	return post[wire.WiFiCode](ctx, c, "/households/"+code+"/segments/"+segment+"/wifi-code", wire.Why{Why: why})
}

// RecipeSteps lists what the firm's recipes ask for in a home.
func (c *Client) RecipeSteps(ctx context.Context, code string) ([]wire.RecipeStep, error) {
	return get[[]wire.RecipeStep](ctx, c, "/households/"+code+"/recipe-steps")
}

// Forecast says what of a home's folders plays on which device.
func (c *Client) Forecast(ctx context.Context, code string) (wire.Forecast, error) {
	return get[wire.Forecast](ctx, c, "/households/"+code+"/forecast")
}

// Load says what a home's paths ask of its network.
func (c *Client) Load(ctx context.Context, code string) (wire.Load, error) {
	return get[wire.Load](ctx, c, "/households/"+code+"/load")
}

// LoadTogether says what paths ask of the network when they are in use at once.
func (c *Client) LoadTogether(ctx context.Context, code string, paths []string) (wire.LoadCase, error) {
	return get[wire.LoadCase](ctx, c, "/households/"+code+"/load/together?"+url.Values{"path": paths}.Encode())
}

// Proposal says by which ways a device could get what is wished for.
func (c *Client) Proposal(ctx context.Context, code, device string) (wire.Proposal, error) {
	return get[wire.Proposal](ctx, c, "/households/"+code+"/devices/"+device+"/ways")
}

// RoomCard says of a room what is there, how to watch, and what of that is proven.
func (c *Client) RoomCard(ctx context.Context, code, room string) (wire.RoomCard, error) {
	return get[wire.RoomCard](ctx, c, "/households/"+code+"/rooms/"+room+"/card")
}

// Wakings says which machines have to be awake for a home's paths to work, and what has to wake them.
func (c *Client) Wakings(ctx context.Context, code string) ([]wire.Waking, error) {
	return get[[]wire.Waking](ctx, c, "/households/"+code+"/waking")
}

// BothEnds holds the ends of a home's paths against each other and against what the latest scan saw.
func (c *Client) BothEnds(ctx context.Context, code string) (wire.BothEnds, error) {
	return get[wire.BothEnds](ctx, c, "/households/"+code+"/ends")
}

// Openings says what the firewalls of a home have to let in for its paths.
func (c *Client) Openings(ctx context.Context, code string) (wire.Openings, error) {
	return get[wire.Openings](ctx, c, "/households/"+code+"/needed-openings")
}

// SetRecipeStep records that a step of a recipe is set.
func (c *Client) SetRecipeStep(ctx context.Context, code string, in wire.SetRecipeStep) ([]wire.RecipeStep, error) {
	return post[[]wire.RecipeStep](ctx, c, "/households/"+code+"/recipe-steps", in)
}

// Tick carries out verb (tick, refuse or untick) on a prerequisite.
func (c *Client) Tick(ctx context.Context, code, verb string, in wire.Tick) error {
	_, err := c.Do(ctx, http.MethodPost, "/households/"+code+"/needed/"+verb, nil, in, nil)
	return err
}

// OpenIssue opens an issue.
func (c *Client) OpenIssue(ctx context.Context, code string, in wire.NewIssue) (wire.Issue, error) {
	return post[wire.Issue](ctx, c, "/households/"+code+"/issues", in)
}

// Issue returns an issue with names.
func (c *Client) Issue(ctx context.Context, code, id string) (wire.Issue, error) {
	return get[wire.Issue](ctx, c, "/households/"+code+"/issues/"+id+"/view")
}

// StepIssue carries out a step of an issue.
func (c *Client) StepIssue(ctx context.Context, code, id, step string, in wire.IssueStep) (wire.Issue, error) {
	return post[wire.Issue](ctx, c, "/households/"+code+"/issues/"+id+"/"+step, in)
}

// Suspects returns the faults that would explain what is known of a home, or of one issue.
func (c *Client) Suspects(ctx context.Context, code, issue string) (wire.Suspects, error) {
	return get[wire.Suspects](ctx, c, "/households/"+code+"/suspects?issue="+url.QueryEscape(issue))
}

// AnswerIssue notes what the caller said to a question, and returns what follows from it.
func (c *Client) AnswerIssue(ctx context.Context, code, id string, in wire.IssueAnswer) (wire.Suspects, error) {
	return post[wire.Suspects](ctx, c, "/households/"+code+"/issues/"+id+"/answer", in)
}

// DraftHandover drafts a handover.
func (c *Client) DraftHandover(ctx context.Context, code string, in wire.NewHandover) (wire.Handover, error) {
	return post[wire.Handover](ctx, c, "/households/"+code+"/handovers", in)
}

// Handover returns a handover with names and sentences.
func (c *Client) Handover(ctx context.Context, code, id string) (wire.Handover, error) {
	return get[wire.Handover](ctx, c, "/households/"+code+"/handovers/"+id+"/view")
}

// StepHandover carries out a step of a handover.
func (c *Client) StepHandover(ctx context.Context, code, id, step string, in wire.HandoverStep) (wire.Handover, error) {
	return post[wire.Handover](ctx, c, "/households/"+code+"/handovers/"+id+"/"+step, in)
}

// Journal lists journal entries, newest first.
func (c *Client) Journal(ctx context.Context, code string, query url.Values) ([]wire.JournalEntry, error) {
	return get[[]wire.JournalEntry](ctx, c, "/households/"+code+"/journal?"+query.Encode())
}

// Undo writes the reverse of one journal entry, or of all of a revision where n is 0.
func (c *Client) Undo(ctx context.Context, code string, revision uint64, n int) (wire.Undone, error) {
	if n == 0 {
		return post[wire.Undone](ctx, c, fmt.Sprintf("/households/%s/journal/%d/undo", code, revision), nil)
	}
	return post[wire.Undone](ctx, c, fmt.Sprintf("/households/%s/journal/%d/%d/undo", code, revision, n), nil)
}

// recordPage is one answer of a list.
type recordPage struct {
	Records []wire.Record     `json:"records"`
	Labels  map[string]string `json:"labels"`
}

func recordPath(code string, k *dossier.Kind, id string) string {
	if k.Name == "household" {
		return "/households/" + code
	}
	if id == "" {
		return "/households/" + code + "/" + k.Plural
	}
	return "/households/" + code + "/" + k.Plural + "/" + id
}

// List returns all records of a kind as JSON objects.
func (c *Client) List(ctx context.Context, code string, k *dossier.Kind) ([]wire.Record, error) {
	if k.Name == "household" {
		one, err := get[wire.Record](ctx, c, recordPath(code, k, ""))
		return []wire.Record{one}, err
	}
	var all []wire.Record
	for after := ""; ; {
		page, err := get[recordPage](ctx, c, recordPath(code, k, "")+"?limit=200&after="+after)
		all = append(all, page.Records...)
		if err != nil || len(page.Records) < 200 {
			return all, err
		}
		after, _ = page.Records[len(page.Records)-1]["id"].(string)
	}
}

// Show returns a record with its ETag.
func (c *Client) Show(ctx context.Context, code string, k *dossier.Kind, id string) (record wire.Record, etag string, err error) {
	etag, err = c.Do(ctx, http.MethodGet, recordPath(code, k, id), nil, nil, &record)
	return record, etag, err
}

// Add adds a record of the given members.
func (c *Client) Add(ctx context.Context, code string, k *dossier.Kind, members wire.Record) (wire.Record, error) {
	return post[wire.Record](ctx, c, recordPath(code, k, ""), members)
}

// Set changes members of a record by merge patch; etag names the version it starts from.
func (c *Client) Set(ctx context.Context, code string, k *dossier.Kind, id, etag string, patch wire.Record) (wire.Record, error) {
	var out wire.Record
	_, err := c.Do(ctx, http.MethodPatch, recordPath(code, k, id),
		map[string]string{"If-Match": etag, "Content-Type": "application/merge-patch+json"}, patch, &out)
	return out, err
}

// Remove removes a record; etag names the version it starts from.
func (c *Client) Remove(ctx context.Context, code string, k *dossier.Kind, id, etag string) error {
	_, err := c.Do(ctx, http.MethodDelete, recordPath(code, k, id), map[string]string{"If-Match": etag}, nil, nil)
	return err
}

// Dossier returns everything recorded of a household as of one revision, for computing on this
// machine.
func (c *Client) Dossier(ctx context.Context, code string) (*dossier.Dossier, error) {
	d, err := get[dossier.Dossier](ctx, c, "/households/"+code+"/dossier")
	return &d, err
}

// Preview tells what changes would do to what is proven; nothing is stored.
func (c *Client) Preview(ctx context.Context, code string, changes ...wire.PreviewStep) (wire.Preview, error) {
	return post[wire.Preview](ctx, c, "/households/"+code+"/preview", wire.PreviewChanges{Changes: changes})
}

// MakeSupposed makes changes that were supposed for revision asOf of the home, all in one write or none.
func (c *Client) MakeSupposed(ctx context.Context, code string, asOf uint64, changes ...wire.PreviewStep) (wire.Made, error) {
	return post[wire.Made](ctx, c, "/households/"+code+"/preview/make", wire.MakeSupposed{Changes: changes, AsOf: asOf})
}

// AddSecret keeps a credential.
func (c *Client) AddSecret(ctx context.Context, code string, in wire.NewSecret) (dossier.Secret, error) {
	return post[dossier.Secret](ctx, c, "/households/"+code+"/secrets", in)
}

// RotateSecret puts another credential in place of the old one.
func (c *Client) RotateSecret(ctx context.Context, code string, id dossier.ID[dossier.Secret], in wire.SecretBody) (dossier.Secret, error) {
	return post[dossier.Secret](ctx, c, "/households/"+code+"/secrets/"+string(id)+"/rotate", in)
}

// RevealSecret shows a credential for a reason.
func (c *Client) RevealSecret(ctx context.Context, code string, id dossier.ID[dossier.Secret], why string) (wire.SecretShown, error) {
	return post[wire.SecretShown](ctx, c, "/households/"+code+"/secrets/"+string(id)+"/reveal", wire.Why{Why: why})
}

// WaiveTest sets a test aside.
func (c *Client) WaiveTest(ctx context.Context, code string, in wire.NewWaiver) (wire.Test, error) {
	return post[wire.Test](ctx, c, "/households/"+code+"/waivers/set", in)
}

// RequireTest ends the waiver of a test.
func (c *Client) RequireTest(ctx context.Context, code, test string) (wire.Test, error) {
	return post[wire.Test](ctx, c, "/households/"+code+"/waivers/end", wire.TestNamed{Test: test})
}

// AddAttachment keeps a photograph or a text file with a record.
func (c *Client) AddAttachment(ctx context.Context, code string, about wire.NewAttachment, body []byte) (dossier.Attachment, error) {
	q := url.Values{"kind": {about.Subject.Kind}, "record": {about.Subject.ID}, "caption": {about.Caption}}
	if about.FileName != "" {
		q.Set("fileName", about.FileName)
	}
	if about.ID != "" {
		q.Set("id", string(about.ID))
	}
	var out dossier.Attachment
	_, err := c.send(ctx, http.MethodPost, "/households/"+code+"/attachments?"+q.Encode(), map[string]string{"Content-Type": "application/octet-stream"}, bytes.NewReader(body),
		func(b []byte) error { return json.Unmarshal(b, &out) })
	return out, err
}

// AttachmentBody returns what an attachment holds, or of a photograph a small picture.
func (c *Client) AttachmentBody(ctx context.Context, code string, id dossier.ID[dossier.Attachment], small bool) (body []byte, err error) {
	size := map[bool]string{false: "full", true: "small"}[small]
	_, err = c.send(ctx, http.MethodGet, "/households/"+code+"/attachments/"+string(id)+"/body?size="+size, nil, nil, func(b []byte) error { body = b; return nil })
	return body, err
}

// Scan lets the service look at the home's network; it returns at once.
func (c *Client) Scan(ctx context.Context, code string, what wire.RunScan) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/households/"+code+"/scans/run", what)
}

// ReadFolder lets the service read what lies in a folder.
func (c *Client) ReadFolder(ctx context.Context, code, folder string, what wire.ReadFolder) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/households/"+code+"/folders/"+folder+"/contents/read", what)
}

// AddContents hands in what this machine has read of a folder.
func (c *Client) AddContents(ctx context.Context, code string, what contents.Contents) (wire.FolderContents, error) {
	return post[wire.FolderContents](ctx, c, "/households/"+code+"/folders/"+string(what.Folder)+"/contents", what)
}

// Contents returns what the newest reading of a folder found.
func (c *Client) Contents(ctx context.Context, code, folder string, q wire.ContentsQuery) (wire.FolderContents, error) {
	v := url.Values{}
	if q.Search != "" {
		v.Set("search", q.Search)
	}
	if q.Trouble != "" {
		v.Set("trouble", string(q.Trouble))
	}
	if q.Format > 0 {
		v.Set("format", strconv.Itoa(q.Format))
	}
	if q.From > 0 {
		v.Set("from", strconv.Itoa(q.From))
	}
	if q.Differs != "" {
		v.Set("differs", string(q.Differs))
	}
	if q.After > 0 {
		v.Set("after", strconv.Itoa(q.After))
	}
	return get[wire.FolderContents](ctx, c, "/households/"+code+"/folders/"+folder+"/contents?"+v.Encode())
}

// RecordContents writes what the reading that ended then has found to the folder's record.
func (c *Client) RecordContents(ctx context.Context, code, folder string, read time.Time) (wire.ContentsRecorded, error) {
	return post[wire.ContentsRecorded](ctx, c, "/households/"+code+"/folders/"+folder+"/contents/record", wire.RecordContents{Read: read})
}

// RecordListing writes how the server's list differs from what the reading that ended then has found to the folder's record.
func (c *Client) RecordListing(ctx context.Context, code, folder string, read time.Time) (wire.ContentsRecorded, error) {
	return post[wire.ContentsRecorded](ctx, c, "/households/"+code+"/folders/"+folder+"/contents/record-listing", wire.RecordContents{Read: read})
}

// AddScan hands in what this machine has seen of the home's network.
func (c *Client) AddScan(ctx context.Context, code string, g matching.Scan) (wire.Observations, error) {
	return post[wire.Observations](ctx, c, "/households/"+code+"/scans", g)
}

// Observations returns what was seen on the network, compared with the record.
func (c *Client) Observations(ctx context.Context, code string) (wire.Observations, error) {
	return get[wire.Observations](ctx, c, "/households/"+code+"/scans")
}

// RecordSeen writes into the record what was seen.
func (c *Client) RecordSeen(ctx context.Context, code string, in wire.RecordSeen) (wire.SeenRecorded, error) {
	return post[wire.SeenRecorded](ctx, c, "/households/"+code+"/scans/record", in)
}

// ReviewHosts says which device a host is, or sets what was seen aside.
func (c *Client) ReviewHosts(ctx context.Context, code string, in wire.ReviewHosts) (wire.Observations, error) {
	return post[wire.Observations](ctx, c, "/households/"+code+"/scans/review", in)
}

// BrowseSource browses a source as devices would, from the Kaiku on the home's network.
func (c *Client) BrowseSource(ctx context.Context, code string, source dossier.ID[dossier.Source], in wire.BrowseSource) (wire.SourceBrowse, error) {
	return post[wire.SourceBrowse](ctx, c, "/households/"+code+"/sources/"+string(source)+"/browse", in)
}
