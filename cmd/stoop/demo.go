package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/facts"
	"stoop/internal/server"
	"stoop/internal/standin/booking"
	"stoop/internal/standin/crowd"
	"stoop/internal/standin/mailbox"
	"stoop/internal/standin/phone"
	"stoop/internal/standin/phrasebook"
	"stoop/internal/standin/places"
	"stoop/internal/store"
)

func demoCommand() *cobra.Command {
	var fresh bool
	var size int
	c := &cobra.Command{
		Use: "demo", Short: "Serve Kelpwick Ferries on a database of its own",
		RunE: func(cmd *cobra.Command, _ []string) error { return runDemo(cmd.Context(), fresh, size) },
	}
	c.Flags().BoolVar(&fresh, "fresh", false, "forget what earlier demos stored")
	c.Flags().IntVar(&size, "crowd", usualCrowd(), "how many simulated visitors are on the site; 0 for none (CROWD sets it too)")
	return c
}

// usualCrowd is how many simulated visitors there are unless it is said otherwise.
func usualCrowd() int {
	if n, err := strconv.Atoi(os.Getenv("CROWD")); err == nil {
		return max(n, 0)
	}
	return 36
}

// fits returns how many simulated visitors the files that this process may open are
// enough for: each holds a connection, of which both ends are here.
func fits(size int) int {
	var limit syscall.Rlimit
	if err := syscall.Getrlimit(syscall.RLIMIT_NOFILE, &limit); err != nil {
		return size
	}
	most := max(int(min(limit.Cur, 1<<30))-2000, 0) / 2
	if size > most {
		fmt.Printf("\n  A crowd of %d needs %d open files, and this shell allows %d: %d come. Raise it with `ulimit -n`.\n", size, 2*size+2000, limit.Cur, most)
	}
	return min(size, most)
}

// siteAddress is where the demo site is served, if it is free.
const siteAddress = "127.0.0.1:8090"

func runDemo(ctx context.Context, fresh bool, size int) (err error) {
	config, log, err := configuration()
	if err != nil {
		return err
	}
	size = fits(size)
	if os.Getenv("STOOP_LOG_LEVEL") == "" {
		log = slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))
	}
	checkout, err := os.Getwd()
	if err != nil {
		return err
	}
	folder, err := devpg.Folder(checkout)
	if err != nil {
		return err
	}
	cluster, err := devpg.StartFree(ctx, folder, fresh, devpg.Options{})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cluster.Stop()) }()
	if err := cluster.Create(ctx, "stoop"); err != nil {
		return err
	}
	config.DatabaseURL = cluster.URL("stoop")
	// The crowd says from where its visitors come, as a proxy would.
	config.TrustedProxies = []string{"127.0.0.0/8", "::1/128"}
	config.AllowedNetworks = []string{"127.0.0.0/8", "::1/128"} // where the demo site stands
	// Of a large crowd many share an address.
	config.VisitorRequestsPerMinute = max(config.VisitorRequestsPerMinute, 20*size)
	config.Places = filepath.Join(folder, "places.mmdb")
	if err := places.Write(config.Places); err != nil {
		return err
	}
	config.TimeZone = demo.TimeZone
	config.FilesFolder = filepath.Join(checkout, ".stoop-files")
	if fresh {
		if err := os.RemoveAll(config.FilesFolder); err != nil {
			return err
		}
	}
	box, err := startMailbox(log)
	if err != nil {
		return err
	}
	defer box.Close()
	config.SMTP, config.ReplyDomain, config.MailAddress = "smtp://"+box.smtp, "reply.example.com", "127.0.0.1:0"
	lines, err := startBooking(log)
	if err != nil {
		return err
	}
	defer lines.Close()
	config.BookingURL, config.BookingKey = lines.Records+"/api", bookingKey
	translator, err := startTranslator(log)
	if err != nil {
		return err
	}
	defer translator.Close()
	config.TranslatorURL, config.TranslatorKey, config.TranslatorLanguages = "http://"+translator.Addr, translatorKey, phrasebook.Languages()
	phones, telephone, telephoneURL, err := startTelephone(log)
	if err != nil {
		return err
	}
	defer telephone.Close()
	config.PhoneURL, config.PhoneKey = telephoneURL+"/ring", telephoneKey
	config.TextsURL, config.TextsKey = telephoneURL+"/send", telephoneKey
	server.CollectLessOften(ctx)
	s, err := server.Start(ctx, config, log, true)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Stop()) }()

	box.Inbound, box.Lines, box.Own = s.MailAddress, []string{demo.MailAddress}, demo.OwnAddress
	phones.SetInbound(s.URL)

	listener, err := server.Listen(siteAddress, true)
	if err != nil {
		return err
	}
	site, err := serveSite(listener, s.URL, lines.System, log)
	if err != nil {
		return err
	}
	defer site.Close()
	lines.Site = demo.SiteURL(listener.Addr())
	if err := demo.Seed(ctx, s.Store, []string{demo.SiteURL(listener.Addr())}, time.Now()); err != nil {
		return err
	}
	if err := demo.SeedFAQs(ctx, s.Store, time.Now()); err != nil {
		return err
	}
	if err := demo.SeedHelper(ctx, s.Store, time.Now()); err != nil {
		return err
	}
	if err := demo.SeedTickets(ctx, s.Store, time.Now()); err != nil {
		return err
	}
	if err := demo.SeedRules(ctx, s.Store); err != nil {
		return err
	}
	if err := demo.SeedChannels(ctx, s.Store); err != nil {
		return err
	}
	if err := demo.SeedPages(ctx, s.Store, demo.SiteURL(listener.Addr()), time.Now()); err != nil {
		return err
	}
	var colleagues []crowd.Colleague
	if size > 0 {
		if err := demo.SeedSimulated(ctx, s.Store, time.Now()); err != nil {
			return err
		}
		for i, l := range demo.Simulated {
			colleagues = append(colleagues, crowd.Colleague{Base: s.URL, Email: l.Email, Password: demo.Password, Log: log, Seed: uint64(i)})
		}
	}
	s.Settings.Forget()
	announce(listener.Addr(), s.URL, box.url, lines.Records, telephoneURL)
	visitors := crowd.Crowd{Base: s.URL, Key: demo.WidgetKey, Site: demo.SiteURL(listener.Addr()), Size: size, Log: log}
	crowdCtx, leave := context.WithCancel(ctx)
	var simulated sync.WaitGroup
	simulated.Go(func() { loadPast(crowdCtx, s.Store, demo.SiteURL(listener.Addr()), log) })
	simulated.Go(func() { visitors.Run(crowdCtx) })
	if size > 0 {
		asking := &crowd.Crowd{Base: s.URL, Key: demo.HelperKey, Site: demo.SiteURL(listener.Addr()), Log: log}
		askers := crowd.Askers{Crowd: asking, Page: "/quick-answers", Title: "Quick answers", Questions: demo.QuestionWords(), Size: min(3, size)}
		simulated.Go(func() { askers.Run(crowdCtx) })
	}
	simulated.Go(func() { crowd.WorkTogether(crowdCtx, colleagues...) })
	err = s.Wait(ctx)
	leave()
	simulated.Wait()
	return err
}

// loadPast gives the demo a year of chats, beside everything else.
func loadPast(ctx context.Context, data *store.Store, site string, log *slog.Logger) {
	tables, began := facts.On(data), time.Now()
	err := demo.SeedPast(ctx, data, site, pastChats(), began, func(l facts.Loading) {
		if err := tables.SayLoading(ctx, l); err != nil {
			log.Error("how far the demo's past is was not noted", "error", err)
		}
		if l.Done == l.Total {
			fmt.Printf("  The last year is there: %d chats, in %.1f s.\n", l.Total, time.Since(began).Seconds())
		}
	})
	if err != nil && ctx.Err() == nil {
		log.Error("the demo's past could not be loaded; it goes on with the next start", "error", err)
	}
}

// pastChats is how many chats the demo's last year has, unless it is said otherwise.
func pastChats() int {
	if n, err := strconv.Atoi(os.Getenv("PAST")); err == nil {
		return max(n, 0)
	}
	return demo.PastChats
}

// bookingAddress is where the stand-in for the booking system is asked; bookingKey is
// what it wants. It listens on loopback only.
const (
	bookingAddress = "127.0.0.1:8092"
	bookingKey     = "kelpwick"
)

// runningBooking is the stand-in for the booking system, served.
type runningBooking struct {
	*booking.System
	*http.Server
}

func startBooking(log *slog.Logger) (runningBooking, error) {
	zone, err := time.LoadLocation(demo.TimeZone)
	if err != nil {
		return runningBooking{}, err
	}
	listener, err := server.Listen(bookingAddress, true)
	if err != nil {
		return runningBooking{}, err
	}
	lines := booking.New(zone, time.Now)
	return runningBooking{lines, lines.Serve(listener, bookingKey, log)}, nil
}

// translatorKey is what the stand-in for a translator wants.
const translatorKey = "phrases"

// startTranslator serves the phrase book that stands in for a translator.
func startTranslator(log *slog.Logger) (*http.Server, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s := &http.Server{Addr: listener.Addr().String(), Handler: phrasebook.Handler(translatorKey, log), ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := s.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			log.Error("the stand-in for a translator stopped", "error", err)
		}
	}()
	return s, nil
}

// telephoneAddress is where the stand-in for telephones shows what rings, and telephoneKey what
// it wants.
const (
	telephoneAddress = "127.0.0.1:8093"
	telephoneKey     = "rings"
)

// startTelephone serves the stand-in for telephones.
func startTelephone(log *slog.Logger) (*phone.Phone, *http.Server, string, error) {
	listener, err := server.Listen(telephoneAddress, true)
	if err != nil {
		return nil, nil, "", err
	}
	phones := phone.New(telephoneKey, log)
	phones.Lines, phones.Own = []string{demo.TextNumber}, demo.OwnNumber
	s := &http.Server{Handler: phones.Handler(), ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := s.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			log.Error("the stand-in for telephones stopped", "error", err)
		}
	}()
	return phones, s, "http://" + listener.Addr().String(), nil
}

// mailboxAddress is where the stand-in for mail shows what it got.
const mailboxAddress = "127.0.0.1:8091"

// runningMailbox is the stand-in for mail with its addresses.
type runningMailbox struct {
	*mailbox.Mailbox
	smtp, url string
}

func startMailbox(log *slog.Logger) (runningMailbox, error) {
	smtpOn, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return runningMailbox{}, err
	}
	pageOn, err := server.Listen(mailboxAddress, true)
	if err != nil {
		return runningMailbox{}, errors.Join(err, smtpOn.Close())
	}
	return runningMailbox{mailbox.Start(smtpOn, pageOn, "", log), smtpOn.Addr().String(), "http://" + pageOn.Addr().String()}, nil
}

func serveSite(listener net.Listener, stoopURL string, lines *booking.System, log *slog.Logger) (*http.Server, error) {
	handler, err := demo.SiteHandler(stoopURL, lines, log)
	if err != nil {
		return nil, err
	}
	site := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := site.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			log.Error("the demo site stopped", "error", err)
		}
	}()
	return site, nil
}

func announce(site net.Addr, console, mailbox, bookings, telephone string) {
	fmt.Printf("\n  Kelpwick Ferries   %s\n  Stoop's console    %s\n  Mailbox (stand-in) %s\n  Bookings (stand-in) %s\n  Telephone (stand-in) %s\n\n  Logins, all with the password  %s\n", demo.SiteURL(site), console, mailbox, bookings, telephone, demo.Password)
	for _, l := range demo.Logins {
		fmt.Printf("    %-9s %-22s %s\n", l.Role, l.Email, l.Name)
	}
	fmt.Print("\n  Ctrl-C stops everything. The data is kept for the next start; `make demo FRESH=1` begins anew.\n\n")
}
