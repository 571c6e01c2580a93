package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/devpg"
	"stoop/internal/facts"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

func serveCommand() *cobra.Command {
	return &cobra.Command{
		Use: "serve", Short: "Serve on any PostgreSQL database, named by STOOP_DATABASE_URL",
		RunE: func(cmd *cobra.Command, _ []string) error {
			config, log, err := configuration()
			if err != nil {
				return err
			}
			server.CollectLessOften(cmd.Context())
			s, err := server.Start(cmd.Context(), config, log, false)
			if err != nil {
				return err
			}
			if begin, err := s.Account.BeginPath(cmd.Context()); err != nil {
				log.Error("whether there is an admin is not known", "error", err)
			} else if begin != "" {
				fmt.Fprintf(cmd.OutOrStdout(), "\n  Stoop has no admin yet. Make the first account here:\n\n    %s%s\n\n", cmp.Or(config.URL, s.URL), begin)
			}
			waitErr := s.Wait(cmd.Context())
			return errors.Join(waitErr, s.Stop())
		},
	}
}

func openStore() (*store.Store, error) {
	config, _, err := configuration()
	if err != nil {
		return nil, err
	}
	if config.DatabaseURL == "" {
		return nil, errors.New("STOOP_DATABASE_URL is not set")
	}
	return store.Open(config.DatabaseURL, 4)
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{
		Use: "migrate", Short: "Bring the database's schema up to date (serve does it too)",
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := openStore()
			if err != nil {
				return err
			}
			defer s.Close()
			return s.Migrate(cmd.Context())
		},
	}
}

// rebuildFactsCommand counts anew what reports count, from the logs of all chats.
func rebuildFactsCommand() *cobra.Command {
	return &cobra.Command{
		Use: "rebuild-facts", Short: "Count anew what reports and searches go by, from the logs of all chats; servers may run meanwhile",
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, log, err := configuration()
			if err != nil {
				return err
			}
			s, err := openStore()
			if err != nil {
				return err
			}
			defer s.Close()
			if err := s.Migrate(cmd.Context()); err != nil {
				return err
			}
			all, err := (&settings.Cache{Tables: settings.On(s)}).Get(cmd.Context())
			if err != nil {
				return err
			}
			err = facts.On(s).Rebuild(cmd.Context(), all, log, func(done, total int64) {
				fmt.Fprintf(cmd.OutOrStdout(), "\r%d of %d chats", done, total)
			})
			fmt.Fprintln(cmd.OutOrStdout())
			return err
		},
	}
}

// passwordCommand makes the first admin of an installation, and lets in one
// who has forgotten their password.
func passwordCommand() *cobra.Command {
	var name, role string
	c := &cobra.Command{
		Use: "operator EMAIL", Short: "Add an operator, or set the password of one; the password is read from standard input", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := openStore()
			if err != nil {
				return err
			}
			defer s.Close()
			if err := s.Migrate(cmd.Context()); err != nil {
				return err
			}
			typed, err := readPassword(cmd.InOrStdin())
			if words := password.Check(typed, password.For{Name: name, Email: args[0]}); words != "" {
				return errors.Join(errors.New(words), err)
			}
			return setOperator(cmd.Context(), s, args[0], name, access.Role(role), typed)
		},
	}
	c.Flags().StringVar(&name, "name", "", "shown name, for a new operator")
	c.Flags().StringVar(&role, "role", string(access.Admin), "operator, lead or admin, for a new operator")
	return c
}

func setOperator(ctx context.Context, s *store.Store, email, name string, role access.Role, typed string) error {
	hash, err := password.Hash(ctx, typed)
	if err != nil {
		return err
	}
	known, err := settings.On(s).OperatorByEmail(ctx, email)
	if err == nil {
		return settings.On(s).SetPassword(ctx, known.ID, hash)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if name == "" {
		return errors.New("there is no operator with this email; give --name to add one")
	}
	id, err := uuid.NewV7()
	if err != nil {
		return err
	}
	o := settings.Operator{ID: id.String(), Email: email, Name: name, Role: role, PasswordHash: hash}
	if err := settings.On(s).AddOperator(ctx, o); err != nil {
		return err
	}
	return settings.On(s).JoinDefault(ctx, o.ID)
}

// widgetCommand makes the chat of a site; its settings screen comes later.
func widgetCommand() *cobra.Command {
	w := settings.Widget{}
	var formFile string
	var departments []string
	c := &cobra.Command{
		Use: "widget KEY", Short: "Add the widget of a site, or change it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			for i, site := range w.Sites {
				w.Sites[i] = strings.TrimRight(site, "/")
			}
			s, err := openStore()
			if err != nil {
				return err
			}
			defer s.Close()
			if err := s.Migrate(cmd.Context()); err != nil {
				return err
			}
			before, err := settings.On(s).WidgetByKey(cmd.Context(), args[0])
			existed := err == nil
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			if !existed && (w.Name == "" || len(w.Sites) == 0) {
				return errors.New("a new widget needs --name and --site")
			}
			if err := widgetDetails(cmd.Context(), s, &w, formFile, departments); err != nil {
				return err
			}
			w.Survey.On = true
			w.ID, w.Key, w.Corner, w.CreatedAt = uuid.NewSHA1(uuid.NameSpaceURL, []byte(args[0])).String(), args[0], "right", time.Now()
			if existed {
				w = changedWidget(before, w, cmd.Flags().Changed)
			}
			if err := refused(w.Check()); err != nil {
				return err
			}
			if err := settings.On(s).SaveWidget(cmd.Context(), w); err != nil {
				return err
			}
			if err := s.Notify(cmd.Context(), store.SettingsChanged); err != nil {
				return err
			}
			config, _, err := configuration()
			if err != nil {
				return err
			}
			address := cmp.Or(config.URL, "http://"+config.Address)
			fmt.Fprintf(cmd.OutOrStdout(), "Put this before the closing </body> of each page:\n\n  <script src=\"%s/stoop.js\" data-key=\"%s\" async></script>\n\nOr share the page of its own: %s/panel/%s\n", address, w.Key, address, w.Key)
			return nil
		},
	}
	c.Flags().StringVar(&w.Name, "name", "", "the site's name, for the team")
	c.Flags().StringVar(&w.Title, "title", "Ask us", "what the launcher says")
	c.Flags().StringVar(&w.Colour, "colour", "#9c3f27", "colour of the launcher, as #rrggbb")
	c.Flags().StringSliceVar(&w.Sites, "site", nil, "an address that may carry the widget, like https://www.example.com; may be given several times")
	c.Flags().IntVar(&w.MessageLimit, "message-limit", chat.DefaultWordLimit, "longest message, in characters")
	c.Flags().IntVar(&w.AnswerTargetSeconds, "answer-target", 60, "seconds within which a chat should be taken and answered")
	c.Flags().StringVar(&w.ReachBy, "reach-by", "email", "what a message needs for its answer: email, phone or either")
	c.Flags().IntVar(&w.GoneSeconds, "gone-after", 60, "seconds after which a waiting visitor who left counts as missed")
	c.Flags().StringVar(&w.Greeting, "greeting", "", "said before a chat, while somebody is in")
	c.Flags().StringVar(&w.ClosedGreeting, "closed-greeting", "", "said before a message, while nobody is in")
	c.Flags().BoolVar(&w.HideClosed, "hide-closed", false, "do not show the launcher while nobody is in")
	c.Flags().BoolVar(&w.DraftsSeen, "drafts-seen", true, "the team sees what a visitor is typing; the visitor is told so")
	c.Flags().BoolVar(&w.VisitorFiles, "visitor-files", true, "visitors may send files")
	c.Flags().StringVar(&formFile, "form", "", "a JSON file with what is asked before a chat, see the admins' guide")
	c.Flags().StringSliceVar(&departments, "department", nil, "the widget's own departments by name; all if left out")
	return c
}

// refused says which flags are wrong, and how.
func refused(wrong []form.Wrong) error {
	flags := map[string]string{"sites": "site", "reachBy": "reach-by", "messageLimit": "message-limit"}
	var errs []error
	for _, w := range wrong {
		field, _, _ := strings.Cut(w.Field, ".")
		errs = append(errs, fmt.Errorf("--%s: %s", cmp.Or(flags[field], field), w.Words))
	}
	return errors.Join(errs...)
}

// changedWidget returns a widget with what was given on the command line; all
// else stays as it was saved, on screen or here.
func changedWidget(before, given settings.Widget, changed func(flag string) bool) settings.Widget {
	after := before
	for flag, take := range map[string]func(){
		"name": func() { after.Name = given.Name }, "title": func() { after.Title = given.Title }, "colour": func() { after.Colour = given.Colour },
		"site": func() { after.Sites = given.Sites }, "message-limit": func() { after.MessageLimit = given.MessageLimit },
		"answer-target": func() { after.AnswerTargetSeconds = given.AnswerTargetSeconds }, "reach-by": func() { after.ReachBy = given.ReachBy },
		"gone-after": func() { after.GoneSeconds = given.GoneSeconds }, "greeting": func() { after.Greeting = given.Greeting },
		"closed-greeting": func() { after.ClosedGreeting = given.ClosedGreeting }, "hide-closed": func() { after.HideClosed = given.HideClosed },
		"drafts-seen": func() { after.DraftsSeen = given.DraftsSeen }, "visitor-files": func() { after.VisitorFiles = given.VisitorFiles },
		"form": func() { after.Form = given.Form }, "department": func() { after.Departments = given.Departments },
	} {
		if changed(flag) {
			take()
		}
	}
	after.Version++
	return after
}

// readPassword asks for a password without showing what is typed; from a pipe it
// reads a line.
func readPassword(in io.Reader) (string, error) {
	fmt.Fprint(os.Stderr, "Password: ")
	if file, ok := in.(*os.File); ok && term.IsTerminal(int(file.Fd())) {
		typed, err := term.ReadPassword(int(file.Fd()))
		fmt.Fprintln(os.Stderr)
		return string(typed), err
	}
	line, err := bufio.NewReader(in).ReadString('\n')
	if errors.Is(err, io.EOF) {
		err = nil
	}
	return strings.TrimRight(line, "\r\n"), err
}

// widgetDetails checks and completes what flags cannot.
func widgetDetails(ctx context.Context, s *store.Store, w *settings.Widget, formFile string, departments []string) error {
	w.Version, w.Departments = 1, []string{}
	w.Tidy()
	if formFile != "" {
		content, err := os.ReadFile(formFile)
		if err != nil {
			return fmt.Errorf("--form: %w", err)
		}
		if err := json.Unmarshal(content, &w.Form); err != nil {
			return fmt.Errorf("--form %s is not a list of fields: %w", formFile, err)
		}
	}
	known, err := settings.On(s).Departments(ctx)
	if err != nil {
		return err
	}
	for _, name := range departments {
		at := slices.IndexFunc(known, func(d settings.Department) bool { return strings.EqualFold(d.Name, name) })
		if at < 0 {
			return fmt.Errorf("--department: there is no department %q", name)
		}
		w.Departments = append(w.Departments, known[at].ID)
	}
	return nil
}

// testDatabaseCommand runs a command beside a PostgreSQL server of its own, so
// that all packages of a test run share one.
func testDatabaseCommand() *cobra.Command {
	return &cobra.Command{
		Use: "testdb -- COMMAND", Short: "Run a command with a throw-away database server in STOOP_TEST_DATABASE_URL", Args: cobra.MinimumNArgs(1), Hidden: true,
		RunE: func(cmd *cobra.Command, args []string) error {
			dir, err := os.MkdirTemp("", "stoop-test-*")
			if err != nil {
				return err
			}
			defer os.RemoveAll(dir)
			if err := os.Chmod(dir, 0o755); err != nil {
				return err
			}
			cluster, err := devpg.Start(cmd.Context(), dir, devpg.Options{Fast: true})
			if err != nil {
				return err
			}
			run := exec.CommandContext(cmd.Context(), args[0], args[1:]...)
			run.Stdin, run.Stdout, run.Stderr = os.Stdin, os.Stdout, os.Stderr
			run.Env = append(os.Environ(), "STOOP_TEST_DATABASE_URL="+cluster.URL("postgres"))
			return errors.Join(run.Run(), cluster.Stop())
		},
	}
}

func openAPICommand() *cobra.Command {
	return &cobra.Command{
		Use: "openapi", Short: "Print the OpenAPI document", Hidden: true,
		RunE: func(cmd *cobra.Command, _ []string) error {
			doc, err := server.Document()
			if err == nil {
				fmt.Fprintln(cmd.OutOrStdout(), string(doc))
			}
			return err
		},
	}
}
