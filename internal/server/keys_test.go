package server_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/internal/keys"
	"stoop/internal/problem"
	"stoop/internal/standin/talker"
)

// readWith asks the interface for other programs with a key.
func (f fixture) readWith(key, path string) (status int, body []byte) {
	f.t.Helper()
	q, err := http.NewRequestWithContext(f.ctx, http.MethodGet, f.URL+path, nil)
	require.NoError(f.t, err)
	if key != "" {
		q.Header.Set("Authorization", "Bearer "+key)
	}
	r, err := http.DefaultClient.Do(q)
	require.NoError(f.t, err)
	defer func() { _ = r.Body.Close() }()
	body, err = io.ReadAll(r.Body)
	require.NoError(f.t, err)
	return r.StatusCode, body
}

func (f fixture) refusal(key, path string) string {
	f.t.Helper()
	status, body := f.readWith(key, path)
	var p problem.Problem
	require.NoError(f.t, json.Unmarshal(body, &p), string(body))
	require.Equal(f.t, status, p.Status)
	return p.Code
}

func (f fixture) key(admin *talker.Operator, order keys.KeyOrder) (made keys.KeyMade) {
	f.t.Helper()
	require.NoError(f.t, admin.Post(f.ctx, "/api/keys", order, &made))
	return made
}

// Every example of the document is run as it stands there, and what comes back is held against
// the document's own schemas by another library (JSON Schema 2020-12, as OpenAPI 3.1 has it).
func TestTheDocumentsExamplesWork(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	chatID, contactID := f.zelda(idris)
	key := f.key(admin, keys.KeyOrder{Name: "Warehouse", Scopes: []string{"transcripts", "contacts", "reports"}}).Key
	status, document := f.readWith("", "/api/v1/openapi.json")
	require.Equal(t, http.StatusOK, status, "anybody may read it")
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string                    `json:"operationId"`
			Security    []map[string][]string     `json:"security"`
			Samples     []struct{ Source string } `json:"x-codeSamples"`
		}
	}
	require.NoError(t, json.Unmarshal(document, &doc))
	whole, err := jsonschema.UnmarshalJSON(bytes.NewReader(document))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("http://stoop.example/openapi.json", whole))
	ids := map[string]string{"/api/v1/transcripts/{id}": chatID, "/api/v1/contacts/{id}": contactID}
	command := regexp.MustCompile(`^curl -H "Authorization: Bearer \$STOOP_KEY" "https://chat\.example\.com(/api/v1/[^"]+)"$`)
	ran := 0
	for path, operations := range doc.Paths {
		require.Len(t, operations, 1, "it reads, and changes nothing")
		op := operations["get"]
		require.NotEmpty(t, op.Security, path)
		at := "http://stoop.example/openapi.json#/paths/" + strings.NewReplacer("~", "~0", "/", "~1").Replace(path) + "/get/responses/200/content/application~1json/schema"
		schema, err := compiler.Compile(at)
		require.NoError(t, err, path)
		example := command.FindStringSubmatch(op.Samples[0].Source)
		require.NotNil(t, example, op.Samples[0].Source)
		for _, address := range []string{example[1], path} { // and without anything that narrows it
			address = strings.Replace(address, "{id}", ids[path], 1)
			status, body := f.readWith(key, address)
			require.Equal(t, http.StatusOK, status, "%s: %s", address, body)
			answer, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
			require.NoError(t, err)
			require.NoError(t, schema.Validate(answer), address)
			ran++
		}
	}
	require.Equal(t, 12, ran)
	_, body := f.readWith(key, "/api/v1/transcripts?words=zither")
	require.Contains(t, string(body), chatID)
	_, body = f.readWith(key, "/api/v1/transcripts/"+chatID)
	require.Contains(t, string(body), "Zithers travel for free.")
	require.NotContains(t, string(body), "zitherist", "notes are asked for")
}

// A key reads what it may and nothing else, until it expires or is revoked; and it is told once.
func TestWhatAKeyMayRead(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	made := f.key(admin, keys.KeyOrder{Name: "Reports only", Scopes: []string{"reports", "reports"}, Days: 30})
	require.Regexp(t, `^stoop_[A-Z2-7]{52}$`, made.Key)
	status, _ := f.readWith(made.Key, "/api/v1/reports?from=2026-11-01&to=2026-11-30")
	require.Equal(t, http.StatusOK, status)
	for _, path := range []string{"/api/v1/transcripts", "/api/v1/contacts"} {
		require.Equal(t, "key-scope", f.refusal(made.Key, path))
	}
	require.Equal(t, "key-unknown", f.refusal("", "/api/v1/reports"))
	require.Equal(t, "key-unknown", f.refusal(made.Key+"x", "/api/v1/reports"))
	// A key opens nothing of the console, and a login nothing here.
	status, _ = f.readWith(made.Key, "/api/reports")
	require.Equal(t, http.StatusUnauthorized, status)
	require.Error(t, admin.Get(f.ctx, "/api/v1/reports", nil))

	for _, o := range []*talker.Operator{idris, lead} {
		requireProblem(t, o.Get(f.ctx, "/api/keys", nil), "not-allowed")
		requireProblem(t, o.Post(f.ctx, "/api/keys", keys.KeyOrder{Name: "x", Scopes: []string{"reports"}}, nil), "not-allowed")
		requireProblem(t, o.Delete(f.ctx, "/api/keys/"+made.ID), "not-allowed")
	}
	p := requireProblem(t, admin.Post(f.ctx, "/api/keys", keys.KeyOrder{Name: " ", Scopes: []string{}}, nil), "bad-fields")
	require.Equal(t, []string{"name", "scopes"}, []string{p.Fields[0].Field, p.Fields[1].Field})
	requireProblem(t, admin.Post(f.ctx, "/api/keys", keys.KeyOrder{Name: "x", Scopes: []string{"everything"}}, nil), "bad-request")

	var list []keys.KeyView
	require.NoError(t, admin.Get(f.ctx, "/api/keys", &list))
	require.Equal(t, []string{"Reports only", "Ansel Merrow"}, []string{list[0].Name, list[0].CreatedBy})
	require.NotNil(t, list[0].LastUsedAt)
	require.Equal(t, made.Key[:12], list[0].Shown)
	require.Empty(t, f.mentioned(made.Key, made.Key[20:40]), "it is kept nowhere")

	require.NoError(t, f.Store.DB.Exec("update api_keys set expires_at = now() - interval '1 second'").Error)
	require.Equal(t, "key-expired", f.refusal(made.Key, "/api/v1/reports"))
	require.NoError(t, f.Store.DB.Exec("update api_keys set expires_at = null").Error)
	require.NoError(t, admin.Delete(f.ctx, "/api/keys/"+made.ID))
	require.Equal(t, "key-unknown", f.refusal(made.Key, "/api/v1/reports"))
	requireProblem(t, admin.Delete(f.ctx, "/api/keys/"+made.ID), "not-found")
}

// One key asks so often and no more, and who guesses is stopped; another address and another key
// are not held up by it.
func TestKeysAskWithinLimits(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	admin := f.operator(4, newInbox())
	busy := f.key(admin, keys.KeyOrder{Name: "Busy", Scopes: []string{"contacts"}}).Key
	calm := f.key(admin, keys.KeyOrder{Name: "Calm", Scopes: []string{"contacts"}}).Key
	began, fine := time.Now(), 0
	for range 200 {
		if status, _ := f.readWith(busy, "/api/v1/contacts"); status == http.StatusOK {
			fine++
		}
	}
	// Two windows of a minute at most were begun.
	require.LessOrEqual(t, fine, 120*(2+int(time.Since(began).Minutes())))
	require.Less(t, fine, 200)
	require.Equal(t, "too-fast", f.refusal(busy, "/api/v1/contacts"))
	status, _ := f.readWith(calm, "/api/v1/contacts")
	require.Equal(t, http.StatusOK, status)
	refused := 0
	for range 60 {
		if f.refusal("stoop_GUESS", "/api/v1/contacts") == "too-fast" {
			refused++
		}
	}
	require.Positive(t, refused)
}

// What another program asks wrongly is refused as its own fault: a page that never was, bytes that
// no text holds, days that are none.
func TestWhatIsAskedWronglyIsRefused(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	key := f.key(f.operator(4, newInbox()), keys.KeyOrder{Name: "Warehouse", Scopes: []string{"transcripts", "contacts", "reports"}}).Key
	for _, path := range []string{
		"/transcripts?nextId=nobody", "/transcripts?nextId=nobody&nextAt=2026-11-01T00:00:00Z", "/transcripts?words=%00", "/transcripts?words=%ff", "/transcripts?words=%22", "/transcripts?words=-%20OR",
		"/transcripts?from=2026-02-30", "/transcripts?department=%00", "/transcripts?tag=%00", "/transcripts?operator=nobody", "/transcripts?nextAt=soon", "/transcripts/nobody",
		"/contacts?words=%00", "/contacts?nextId=nobody&nextName=x", "/contacts?nextName=%00&nextId=6f1f6d3e-0000-4000-8000-000000000000", "/contacts/nobody",
		"/reports?from=2020-01-01&to=2026-01-01", "/reports?by=%00", "/reports?by=colour", "/reports?from=%00", "/reports?against=%ff", "/reports?department=nobody", "/reports/operators?from=soon", "/reports/operators?department=%ff",
	} {
		status, body := f.readWith(key, "/api/v1"+path)
		assert.Less(t, status, 500, "%s: %s", path, body)
	}
}
