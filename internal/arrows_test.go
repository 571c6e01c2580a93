package internal_test

import (
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"bytes"

	"github.com/stretchr/testify/require"
)

// rooms are what people do, each a folder of its own. No room imports another.
var rooms = []string{"account", "delivery", "desk", "feedback", "floor", "library", "mailing", "outside", "people", "reports", "setup", "site", "staffing", "talk", "teamtalk", "transcripts"}

// The arrows between packages point one way, and each that there is stands in
// docs/architecture.md: who adds one says so there.
func TestArrowsPointOneWay(t *testing.T) {
	arrows := imports(t)
	var listed []string
	for _, p := range arrows.names {
		of := arrows.of[p]
		listed = append(listed, strings.TrimSpace(p+": "+strings.Join(of, " ")))
		for _, to := range of {
			switch {
			case strings.HasPrefix(p, "core/"):
				require.True(t, strings.HasPrefix(to, "core/"), "%s imports %s: core knows nothing of the house", p, to)
			case p == "chatlog" || p == "store" || strings.Contains(p, "/"):
				require.NotContains(t, append([]string{"httpapi", "live", "server"}, rooms...), to, "%s imports %s, which stands above it", p, to)
			case slices.Contains(rooms, p):
				require.NotContains(t, append([]string{"server"}, rooms...), to, "%s imports %s: rooms state interfaces instead", p, to)
			case p == "httpapi" || p == "live":
				require.NotContains(t, append([]string{"server"}, rooms...), to, "%s imports %s: rooms come to it, not it to them", p, to)
			}
		}
	}
	document, err := os.ReadFile("../docs/architecture.md")
	require.NoError(t, err)
	_, rest, found := strings.Cut(string(document), "```arrows\n")
	require.True(t, found)
	there, _, _ := strings.Cut(rest, "```")
	require.Equal(t, strings.Join(listed, "\n")+"\n", there, "docs/architecture.md lists the arrows")
}

// The rules of the job are computation alone: no clock, no random, no I/O.
func TestCoreIsPure(t *testing.T) {
	for _, p := range packages(t, "stoop/core/...") {
		for _, to := range p.Imports {
			require.NotContains(t, []string{"os", "net/http", "database/sql", "math/rand", "math/rand/v2", "crypto/rand", "log", "log/slog", "os/exec"}, to, p.ImportPath)
		}
	}
}

type arrowList struct {
	names []string
	of    map[string][]string
}

// imports returns who imports whom, without what is there for tests and demos
// alone.
func imports(t *testing.T) arrowList {
	t.Helper()
	list := arrowList{of: map[string][]string{}}
	apart := []string{"demo", "demo/history", "devpg", "testpg", "standin", "standin/booking", "standin/crowd", "standin/mailbox", "standin/places", "standin/pushservice", "standin/talker", "chatlog/logtest", "server"}
	for _, p := range packages(t, "stoop/core/...", "stoop/internal/...") {
		name := shorter(p.ImportPath)
		if slices.Contains(apart, name) || name == "internal" {
			continue
		}
		list.names = append(list.names, name)
		for _, to := range p.Imports {
			if strings.HasPrefix(to, "stoop/") {
				list.of[name] = append(list.of[name], shorter(to))
			}
		}
	}
	return list
}

func shorter(path string) string {
	return strings.TrimPrefix(strings.TrimPrefix(path, "stoop/internal/"), "stoop/")
}

type goPackage struct {
	Dir        string
	ImportPath string
	GoFiles    []string
	Imports    []string
}

func packages(t *testing.T, patterns ...string) []goPackage {
	t.Helper()
	out, err := exec.Command("go", append([]string{"list", "-json=Dir,ImportPath,GoFiles,Imports"}, patterns...)...).Output()
	require.NoError(t, err)
	var list []goPackage
	for decoder := json.NewDecoder(bytes.NewReader(out)); ; {
		var p goPackage
		if err := decoder.Decode(&p); errors.Is(err, io.EOF) {
			return list
		} else if err != nil {
			t.Fatal(err)
		}
		list = append(list, p)
	}
}

// owners are the tables with who has them. Nobody else names them in a query.
// The chats' projection, chats, is there to be read by all: see the log for
// what is written.
var owners = map[string]string{
	"chats": "chatlog", "events": "chatlog", "chat_search": "transcripts", "marks": "chatlog", "followers": "chatlog", "feed": "chatlog store",
	"nodes": "floor", "connections": "floor", "absences": "floor", "availability": "floor", "turns_taken": "floor",
	"operators": "setup/settings", "widgets": "setup/settings", "departments": "setup/settings", "members": "setup/settings", "hours": "setup/settings", "rules": "setup/settings",
	"settings": "setup/settings store", "river_job": "store",
	"visitors": "people/register", "contacts": "people/register", "contact_notes": "people", "bans": "people",
	"visits": "site/visits", "invitations": "site", "files": "files",
	"canned_responses": "library", "canned_uses": "library", "articles": "library", "article_passages": "library", "flow_versions": "setup/settings",
	"fact_chats": "facts reports transcripts", "fact_operators": "facts reports", "fact_quarters": "facts", "fact_busy": "facts reports", "fact_hours": "facts", "progress": "facts",
	"shifts": "staffing", "alerts": "alerts", "deletions": "retention", "reviews": "reviews", "review_draws": "reviews", "report_mails": "reports", "saved_searches": "transcripts", "exports": "transcripts",
	"talk_rooms": "teamtalk", "talk_members": "teamtalk", "talk_messages": "teamtalk",
	"webhooks": "hooks", "webhook_deliveries": "hooks", "tickets": "tickets", "ticket_events": "tickets", "ticket_chats": "tickets", "api_keys": "keys",
	"rule_runs": "acting", "push_sender": "pushes", "push_devices": "pushes", "pushes": "pushes", "operator_sessions": "account setup/settings",
}

// No room reaches into another's tables: of another it asks. Readers of chats
// may name that table, and events that of the searched words.
func TestNobodyNamesAnothersTables(t *testing.T) {
	query := regexp.MustCompile("(?is)[`\"][^`\"]*\\b(select|insert|update|delete|join)\\b[^`\"]*[`\"]")
	table := regexp.MustCompile(`(?i)\b(from|join|into|update)\s+([a-z_]+)`)
	reads := regexp.MustCompile(`(?i)\b(from|join)\b`)
	seen := map[string]bool{}
	for _, p := range packages(t, "stoop/internal/...") {
		name := shorter(p.ImportPath)
		for _, file := range p.GoFiles {
			source, err := os.ReadFile(filepath.Join(p.Dir, file))
			require.NoError(t, err)
			for _, q := range query.FindAllString(string(source), -1) {
				for _, m := range table.FindAllStringSubmatch(q, -1) {
					owner, known := owners[m[2]]
					if !known {
						continue
					}
					seen[m[2]] = true
					if (m[2] == "chats" || m[2] == "events") && reads.MatchString(m[1]) {
						continue
					}
					require.Contains(t, strings.Fields(owner), name, "%s names the table %s, which is of %s:\n%s", file, m[2], owner, q)
				}
			}
		}
	}
	require.True(t, seen["chats"] && seen["operators"] && seen["visits"], "the queries were not found")
}
