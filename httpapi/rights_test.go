package httpapi_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/service"
	"kaiku/wire"
)

// may says, written down by hand and by role, who may carry out an operation in a home of Petri's, a technician,
// whose handover is made out to Maarit, another one. Aino is a lead technician, Ilona a coordinator, Tilit an
// observer. It is not derived from what the service declares: that is what it checks.
var may = map[string]string{
	// Without a log-in.
	"log-in": everyone, "join": everyone, "show-measuring": everyone, "begin-measuring": everyone, "end-measuring": everyone, "list-decoding-questions": everyone, "declare-decoding": everyone,
	// About oneself, and what everyone in the firm may read.
	"log-out": staff, "whoami": staff, "today": staff, "change-password": staff, "list-logins": staff, "end-login": staff, "add-token": staff, "add-feed": staff, "add-join": staff,
	"offer-second-factor": staff, "set-second-factor": staff, "remove-second-factor": staff, "list-people": staff, "list-kinds": staff, "list-households": staff, "follow-events": staff, "read-label": staff,
	"show-overview": staff, "list-findings": staff, "list-suspects": staff, "export-faults": staff, "list-recurring": staff, "list-shared-faults": staff, "list-odds": staff, "compare-faults": staff, "show-survey": staff, "show-kit": staff, "show-departure": staff, "show-arrival": staff, "export-records": staff, "show-drawing": staff,
	"show-address-plan": staff, "list-tests": staff, "preview-changes": staff, "show-dossier": staff, "list-jobs": staff, "show-job": staff, "list-needed": staff, "view-issue": staff, "view-handover": staff,
	"list-journal": staff, "show-body": staff, "show-scan": staff, "list-recipes": staff, "export-recipes": staff, "list-recipe-steps": staff, "show-forecast": staff, "show-load": staff, "show-openings": staff, "show-ends": staff, "show-room-card": staff, "show-sheet": staff, "write-sheet": staff, "list-waking": staff, "propose-paths": staff, "show-load-together": staff, "show-contents": staff, "list-knowledge": staff, "export-knowledge": staff, "compare-knowledge": staff, "list-knowledge-changes": staff, "show-entry-card": staff,
	// The work in a home.
	"import-records": writers, "apply-document": writers, "make-supposed": writers, "answer-gap": writers, "set-ready": writers, "run-tests": writers, "set-nightly": writers, "watch-source": writers, "show-nightly": staff, "show-coverage": staff, "list-samples": staff, "stop-job": writers, "record-attempt": writers, "record-round": writers, "tick-prerequisite": writers,
	"refuse-prerequisite": writers, "untick-prerequisite": writers, "set-recipe-step": writers, "open-issue": writers, "take-issue": writers, "next-issue": writers, "try-issue": writers, "wait-issue": writers,
	"give-issue": writers, "answer-issue": writers, "remedy-issue": writers, "close-issue": writers, "join-issue": writers, "reopen-issue": writers, "draft-handover": writers, "offer-handover": writers, "answer-handover": writers, "undo-entry": writers,
	"undo-revision": writers, "run-scan": writers, "add-scan": writers, "record-scan": writers, "review-scan": writers, "browse-source": writers, "read-folder": writers, "add-contents": writers, "record-contents": writers, "record-listing": writers, "invite-measuring": writers, "show-wifi-code": writers,
	"add-secret": writers, "reveal-secret": writers, "rotate-secret": writers, "add-attachment": writers,
	// What others decide.
	"confirm-handover": "maarit", "ask-handover": "maarit", "accept-handover": "maarit", "return-handover": "maarit",
	"begin-household": "petri maarit aino ilona", "apply-new-household": "petri maarit aino ilona",
	"assign-household": "aino ilona", "import-recipes": "aino ilona", "remove-recipe": "aino ilona", "import-knowledge": "aino ilona", "import-faults": "aino ilona", "remove-fault": "aino ilona", "keep-odds": "aino ilona", "remove-knowledge": "aino ilona",
	"waive-test": "aino", "require-test": "aino",
	"add-person": "ilona", "change-person": "ilona", "reset-person": "ilona", "erase-personal": "ilona",
}

const (
	everyone = "nobody petri maarit aino ilona tilit"
	staff    = "petri maarit aino ilona tilit"
	writers  = "petri aino ilona"
)

// whoMay is who may carry out an operation: by its name, or by the verb of a general one on records of a kind.
func whoMay(t *testing.T, operation string) []string {
	who, written := may[operation]
	for _, k := range dossier.Kinds {
		switch operation {
		case "list-" + k.Plural, "show-" + k.Name:
			who, written = staff, true
		case "add-" + k.Name, "set-" + k.Name, "remove-" + k.Name:
			who, written = writers, true
		}
	}
	require.True(t, written, "%s: write down who may", operation)
	return strings.Fields(who)
}

// Every operation x everyone: who may not is refused with 401 or 403, who may is not.
func TestOperationsTimesRoles(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx := t.Context()
	_, err := s.as["petri"].RecordAttempt(ctx, "H-0701", wire.NewAttempt{Test: testID("plays", ids), Outcome: dossier.Fail})
	require.NoError(t, err)
	issue, err := s.as["petri"].OpenIssue(ctx, "H-0701", wire.NewIssue{Symptom: "stutters", Test: testID("plays", ids)})
	require.NoError(t, err)
	ids["issue"] = string(issue.Record.ID)
	handover, err := s.as["petri"].DraftHandover(ctx, "H-0701", wire.NewHandover{To: "maarit"})
	require.NoError(t, err)
	ids["handover"] = string(handover.Record.ID)
	ids["attempt"] = string(issue.Record.FailedAttempt)

	operations := s.api.Operations()
	require.Greater(t, len(operations), 60)
	for _, op := range operations {
		declared, ok := service.RightOf(op.ID)
		require.True(t, ok, "%s declares nobody", op.ID)
		require.Equal(t, declared, op.Right, op.ID)
		for who := range s.as {
			status := s.send(who, op.Method, placeOf(op.Path, op.ID, ids), bodyOf(op.ID, ids))
			if slices.Contains(whoMay(t, op.ID), who) {
				assert.NotContains(t, []int{401, 403}, status, "%s may %s", who, op.ID)
			} else if who == "nobody" {
				assert.Equal(t, 401, status, "%s by nobody", op.ID)
			} else {
				assert.Equal(t, 403, status, "%s by %s", op.ID, who)
			}
			assert.Less(t, status, 500, op.ID)
		}
	}
}

func placeOf(path, operation string, ids map[string]string) string {
	if operation == "add-attachment" {
		path += "?caption=x&kind=room&record=" + ids["room"]
	}
	path = strings.NewReplacer("{code}", "H-0701", "{revision}", "9999", "{n}", "1").Replace(path)
	for _, k := range dossier.Kinds {
		if strings.Contains(path, "/"+k.Plural+"/{id}") {
			id := ids[k.Name]
			if operation == "remove-"+k.Name || id == "" {
				id = uuid.Must(uuid.NewV7()).String() // nothing is really removed, so that the next may be asked
			}
			return strings.Replace(path, "{id}", id, 1)
		}
	}
	return strings.Replace(path, "{id}", uuid.Must(uuid.NewV7()).String(), 1)
}

// bodyOf is a body that gets past the schema, so that the right decides.
func bodyOf(operation string, ids map[string]string) any {
	verb, kind, _ := strings.Cut(operation, "-")
	switch {
	case operation == "add-secret":
		return wire.NewSecret{Name: uuid.NewString(), Kind: dossier.SecretPassword, Body: "x"}
	case operation == "rotate-secret":
		return wire.SecretBody{Body: "x"}
	case operation == "import-knowledge" || operation == "compare-knowledge":
		return json.RawMessage(firmSheets)
	case operation == "import-recipes":
		return firmRecipes
	case operation == "set-recipe-step":
		return wire.SetRecipeStep{Recipe: "on a server", Setting: "Start with the machine", Subject: dossier.Ref{Kind: "device", ID: ids["server"]}}
	case operation == "reveal-secret" || operation == "show-wifi-code":
		return wire.Why{Why: "test"}
	case operation == "waive-test":
		return wire.NewWaiver{Test: testID("plays", ids), Why: "x"}
	case operation == "require-test":
		return wire.TestNamed{Test: testID("plays", ids)}
	case operation == "invite-measuring":
		return wire.NewInvite{}
	case operation == "record-scan":
		return wire.RecordSeen{Scan: uuid.NewString(), Certain: true}
	case operation == "browse-source":
		return wire.BrowseSource{}
	case operation == "run-scan":
		return wire.RunScan{}
	case operation == "read-folder":
		return wire.ReadFolder{}
	case operation == "add-contents":
		return contents.Contents{Folder: dossier.ID[dossier.Folder](ids["folder"]), Ended: time.Now()}.Cut()
	case operation == "record-contents", operation == "record-listing":
		return wire.RecordContents{Read: time.Now()}
	case operation == "review-scan":
		return wire.ReviewHosts{Scan: uuid.NewString()}
	case operation == "add-scan":
		return matching.Scan{ID: uuid.NewString(), Segments: []matching.CoveredSegment{}, Asked: []matching.Question{}, Hosts: []matching.Host{}}
	case operation == "answer-gap":
		return wire.AnswerGap{Code: "no-line", Answer: dossier.NoneHere}
	case operation == "apply-document" || operation == "apply-new-household":
		return "wishes:\n- what: film\n"
	case operation == "make-supposed":
		return wire.MakeSupposed{Changes: []wire.PreviewStep{{Verb: "set", Kind: "room", ID: ids["room"], Members: map[string]any{"note": "x"}}}, AsOf: 1000}
	case operation == "set-ready":
		return wire.SupplyReady{What: "ladder"}
	case operation == "add-attachment" || operation == "import-records" || operation == "read-label":
		return "text"
	case verb == "add" && dossier.KindNamed(kind) != nil:
		return map[string]any{"name": uuid.NewString()[:12], "prefix": "10.9.0.0/24", "device": ids["device"], "source": ids["source"], "protocol": "smb", "contentKind": "film", "kind": "av-pull", "foundBy": "name"}
	case operation == "watch-source":
		return wire.Watch{Test: testID("reach", ids)}
	case operation == "set-nightly":
		return wire.SetNightly{At: "03:00"}
	case verb == "set":
		return map[string]any{}
	case operation == "log-in":
		return wire.LogIn{Login: "petri", Password: "granite-and-gulls"}
	case operation == "begin-household":
		return wire.NewHousehold{Code: "H-" + strings.ReplaceAll(uuid.NewString(), "-", "")[:0] + "0702", Name: "x"}
	case operation == "erase-personal":
		return wire.Erase{Code: "H-0000", Why: "x"}
	case operation == "assign-household":
		return wire.Assign{To: "petri", Why: "test"}
	case operation == "record-round":
		return wire.NewRound{Results: []wire.RoundResult{{Test: testID("plays", ids), Outcome: dossier.Pass}}}
	case operation == "record-attempt":
		return wire.NewAttempt{Test: testID("plays", ids), Outcome: dossier.Pass}
	case kind == "prerequisite":
		return wire.Tick{What: "server-chosen", Subject: dossier.Ref{Kind: "path", ID: ids["path"]}}
	case operation == "open-issue":
		return wire.NewIssue{Symptom: "x"}
	case operation == "import-faults", operation == "compare-faults":
		return json.RawMessage(`{"format": "kaiku-faults/1", "questions": [], "modes": []}`)
	case operation == "keep-odds":
		return wire.OddsKept{Kept: true}
	case operation == "answer-issue":
		return wire.IssueAnswer{Question: "hot", Said: dossier.No}
	case kind == "issue" && verb != "view":
		return wire.IssueStep{}
	case operation == "draft-handover":
		return wire.NewHandover{To: "petri"}
	case kind == "handover" && verb != "view":
		return wire.HandoverStep{Point: "p999", Question: "?"}
	case operation == "add-person":
		return wire.NewPerson{Login: "x" + uuid.NewString()[:8], Name: "x", Role: "observer"}
	case operation == "change-person":
		return wire.PersonChange{Name: "x"}
	case operation == "change-password":
		return wire.NewPassword{Old: "not mine", New: "long enough to pass"}
	case operation == "add-token":
		return wire.NewToken{Name: "x", Days: 1}
	case operation == "run-tests":
		return wire.Run{}
	}
	return nil
}

func (s *site) send(who, method, path string, body any) int {
	resp := s.request(who, method, path, body, nil)
	defer resp.Body.Close()
	return resp.StatusCode
}

// raw sends a body as it is, with the content type that the method takes.
func (s *site) raw(who, method, path, body string) *http.Response {
	return s.request(who, method, path, json.RawMessage(body), nil)
}

func (s *site) request(who, method, path string, body any, headers map[string]string) *http.Response {
	s.t.Helper()
	var r io.Reader
	if body != nil {
		b, raw := body.(json.RawMessage)
		if !raw {
			var err error
			b, err = json.Marshal(body)
			require.NoError(s.t, err)
		}
		r = bytes.NewReader(b)
	}
	req, err := http.NewRequestWithContext(s.t.Context(), method, s.address+path, r)
	require.NoError(s.t, err)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	if method == http.MethodPatch {
		req.Header.Set("Content-Type", "application/merge-patch+json")
	}
	if method == http.MethodPatch || method == http.MethodDelete {
		req.Header.Set("If-Match", `"1"`)
	}
	for k, v := range headers {
		req.Header.Set(k, v)
	}
	// A session that another operation of this test ended must not decide: log-out ends one of its own.
	token := s.token(who, path == "/api/v1/session" && method == http.MethodDelete)
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	}
	resp, err := http.DefaultClient.Do(req)
	require.NoError(s.t, err)
	return resp
}

func (s *site) token(who string, fresh bool) string {
	if who == "nobody" {
		return ""
	}
	if s.tokens[who] == "" || fresh {
		session, err := s.as["nobody"].LogIn(s.t.Context(), who, "granite-and-gulls", "test")
		require.NoError(s.t, err)
		if fresh {
			return session.Token
		}
		s.tokens[who] = session.Token
	}
	return s.tokens[who]
}
