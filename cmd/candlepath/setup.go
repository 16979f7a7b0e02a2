package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/app"
	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/markup"
	"candlepath/internal/platform/objects"
	"candlepath/internal/store"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// setupCmd makes the first site of an empty database.
type setupCmd struct {
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to use."`
	Site     string `required:"" help:"Name of the site, like \"Quillmere Inside\"."`
	Host     string `required:"" help:"Host at which colleagues reach it, like inside.quillmere.example."`
	Manager  string `required:"" help:"Sign-in name of the first site manager."`
	Name     string `help:"Their name; the sign-in name if empty."`
	Plain    bool   `help:"The site is reached by http, not https. A port or an address of this machine says so, too."`
}

func (c *setupCmd) Run() error {
	ctx := context.Background()
	pool, err := config{}.openPool(ctx, c.Database)
	if err != nil {
		return err
	}
	defer pool.Close()
	if err := store.Migrate(ctx, pool); err != nil {
		return err
	}
	if c.Name == "" {
		c.Name = c.Manager
	}
	st, err := store.Open(pool)
	if err != nil {
		return err
	}
	a := app.New(st, markup.New(), nil, func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) })
	_, token, err := a.SetUp(ctx, account.SetupAsk{Name: c.Site, Host: c.Host, Manager: plan.Person{Login: c.Manager, Name: c.Name}})
	if errors.Is(err, plan.ErrDone) {
		return errors.New("there is a site in this database already; nothing was changed")
	}
	if err != nil {
		return err
	}
	scheme := "https://"
	if c.Plain || urls.WithoutTLS(c.Host) {
		scheme = "http://"
	}
	fmt.Printf("The site %q is there. Start the program with candlepath serve; then choose your password, within three days, at\n\n  %s%s%s/%s\n\n", c.Site, scheme, c.Host, urls.Password, token)
	return nil
}

// checkCmd looks at what the program needs, and says what is wrong.
type checkCmd struct {
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to look at."`
	Objects  string `name:"objects" env:"FILES" default:".run/files" help:"Where pictures and files are kept, as for serve."`
	Proxies  string `env:"TRUSTED_PROXIES" help:"Servers that pass requests on, as for serve."`
}

func (c *checkCmd) Run() error {
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	wrong := 0
	tell := func(what string, err error) {
		if err != nil {
			wrong++
			fmt.Printf("wrong  %-9s %v\n", what, err)
			return
		}
		fmt.Printf("fine   %s\n", what)
	}
	pool, err := config{PoolSize: 2}.openPool(ctx, c.Database)
	if err == nil {
		defer pool.Close()
		err = pool.Ping(ctx)
	}
	tell("database", err)
	if err == nil {
		tell("server", serverVersion(ctx, pool))
		tell("schema", requireSchema(ctx, pool))
		tell("tables", canStore(ctx, pool))
		tell("clock", clocksAgree(ctx, pool))
		tell("proxies", c.proxiesTrusted(ctx, pool))
	}
	tell("files", canKeep(ctx, c.Objects))
	if wrong > 0 {
		return &exitError{code: exitFindings, message: ""}
	}
	return nil
}

// oldestServer is the oldest PostgreSQL that the program works with.
const oldestServer = 140000

func serverVersion(ctx context.Context, pool *pgxpool.Pool) error {
	var version int
	if err := pool.QueryRow(ctx, `SELECT current_setting('server_version_num')::int`).Scan(&version); err != nil {
		return err
	}
	if version < oldestServer {
		return fmt.Errorf("this is PostgreSQL %d; %d or newer is needed", version/10000, oldestServer/10000)
	}
	return nil
}

// canStore writes something and takes it back.
func canStore(ctx context.Context, pool *pgxpool.Pool) error {
	tx, err := pool.Begin(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback(ctx) //nolint:errcheck // nothing of it is to stay
	if _, err := tx.Exec(ctx, `CREATE TABLE candlepath_check (data bytea)`); err != nil {
		return fmt.Errorf("tables cannot be made: %w", err)
	}
	if _, err := tx.Exec(ctx, `INSERT INTO candlepath_check VALUES ($1)`, make([]byte, 1<<20)); err != nil {
		return fmt.Errorf("a megabyte cannot be stored: %w", err)
	}
	var readOnly string
	if err := tx.QueryRow(ctx, `SHOW transaction_read_only`).Scan(&readOnly); err != nil || readOnly == "on" {
		return errors.Join(errors.New("the database can only be read"), err)
	}
	return nil
}

// canKeep writes a file, reads it and removes it.
func canKeep(ctx context.Context, where string) (err error) {
	if folder, is := objects.Folder(where); is {
		if _, err := os.Stat(folder); err != nil {
			return fmt.Errorf("FILES: %w; make the folder, and let the user that runs Candle Path write to it", err)
		}
	}
	kept, err := objects.Open(ctx, where)
	if err != nil {
		return fmt.Errorf("FILES: %w", err)
	}
	defer kept.Close()
	const key, text = "candlepath-check", "fine"
	if err := kept.Put(ctx, key, strings.NewReader(text)); err != nil {
		return fmt.Errorf("FILES: a file cannot be written: %w", err)
	}
	defer func() { err = errors.Join(err, kept.Delete(ctx, key)) }()
	r, _, err := kept.Get(ctx, key)
	if err != nil {
		return fmt.Errorf("FILES: a file cannot be read: %w", err)
	}
	defer r.Close()
	if got, err := io.ReadAll(r); err != nil || string(got) != text {
		return errors.Join(errors.New("FILES: a file was not read as it was written"), err)
	}
	return nil
}

// proxiesTrusted tells of servers that passed requests on lately and are not trusted to say for whom.
func (c *checkCmd) proxiesTrusted(ctx context.Context, pool *pgxpool.Pool) error {
	trusted, err := border.ParseProxies(c.Proxies)
	if err != nil {
		return fmt.Errorf("TRUSTED_PROXIES: %w", err)
	}
	if has, wants, err := store.Schema(ctx, pool); err != nil || has != wants {
		return err // the schema is told of already
	}
	st, err := store.Open(pool)
	if err != nil {
		return err
	}
	seen, err := app.New(st, markup.New(), nil, time.Now).Neighbours(ctx)
	for _, address := range seen {
		if !trusted.Trusts(address) {
			err = errors.Join(err, fmt.Errorf("requests are passed on by %s, which is not in TRUSTED_PROXIES: all who come by it share one address in the limits of sign-in", address))
		}
	}
	return err
}

// mostApart is how much the clocks here and at the database may differ.
const mostApart = 5 * time.Second

func clocksAgree(ctx context.Context, pool *pgxpool.Pool) error {
	var there time.Time
	if err := pool.QueryRow(ctx, `SELECT clock_timestamp()`).Scan(&there); err != nil {
		return err
	}
	if apart := time.Since(there).Abs(); apart > mostApart {
		return fmt.Errorf("the clock of the database differs by %s; timed changes and sessions need both to be right", apart.Round(time.Second))
	}
	return nil
}
