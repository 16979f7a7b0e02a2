// Package store keeps everything in PostgreSQL. It is the only importer of gorm;
// rows never leave it, only records of app and types of the core.
//
// # Transactions
//
// Write holds the row of the site, so that acts on the structure and publishing
// happen one after another; WriteUnlocked does not, for saves of texts, visits and
// sessions; Read sees one committed moment. All three hand a Tx to their function,
// which rolls back where that returns an error.
//
// # Validity
//
// Planned and published rows stand in the same tables. A row is what readers get
// from its from_edition (inclusive) to its to_edition (exclusive); one without a
// from_edition is planned, one without a to_edition is live. Publishing closes
// rows before it opens others. So edition 7 is read with one condition:
//
//	from_edition <= 7 AND (to_edition IS NULL OR to_edition > 7)
//
// A planned row of an entry stands only where Next differs from Live.
package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	"candlepath/migrations"
)

// Store is the database of one installation.
type Store struct {
	pool  *pgxpool.Pool
	db    *gorm.DB
	queue *river.Client[*sql.Tx]
}

// Open opens a database over an existing pool.
func Open(pool *pgxpool.Pool) (*Store, error) {
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)}), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: false,
	})
	if err != nil {
		return nil, fmt.Errorf("open gorm: %w", err)
	}
	queue, err := newQueue()
	if err != nil {
		return nil, fmt.Errorf("open the queue of jobs: %w", err)
	}
	return &Store{pool, db, queue}, nil
}

// Migrate brings the schema up to date. Several instances may try at once.
func Migrate(ctx context.Context, pool *pgxpool.Pool) error {
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	conn, err := db.Conn(ctx)
	if err != nil {
		return fmt.Errorf("connect: %w", err)
	}
	defer conn.Close()
	const key = 7_211_503 // any number that is ours
	if _, err := conn.ExecContext(ctx, "SELECT pg_advisory_lock($1)", key); err != nil {
		return fmt.Errorf("lock migrations: %w", err)
	}
	defer conn.ExecContext(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1)", key) //nolint:errcheck // closing frees it too
	waits := pool.Config().ConnConfig.Copy()
	waits.RuntimeParams["lock_timeout"] = migrationLock
	short := stdlib.OpenDB(*waits)
	defer short.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, short, migrations.Files)
	if err != nil {
		return fmt.Errorf("read migrations: %w", err)
	}
	return goingOn(ctx, func() error {
		if _, err := p.Up(ctx); err != nil {
			return fmt.Errorf("migrate: %w", err)
		}
		return migrateJobs(ctx, pool)
	})
}

const (
	// migrationLock is how long a migration waits for a lock that a running instance holds: while it waits,
	// all who come after it wait, too.
	migrationLock = "3s"
	// migrationTries is how often one is tried that met others; each is one transaction.
	migrationTries = 40
)

// goingOn tries again what met others in the database: a deadlock, or a lock that was held for long.
func goingOn(ctx context.Context, migrate func() error) error {
	pause := 200 * time.Millisecond
	for try := 1; ; try++ {
		err := migrate()
		pg := (*pgconn.PgError)(nil)
		if err == nil || try == migrationTries || !errors.As(err, &pg) || pg.Code != deadlock && pg.Code != lockNotAvailable {
			return err
		}
		select {
		case <-ctx.Done():
			return errors.Join(err, ctx.Err())
		case <-time.After(pause):
		}
		pause = min(2*pause, 3*time.Second)
	}
}

// Codes of PostgreSQL.
const (
	deadlock         = "40P01"
	lockNotAvailable = "55P03"
)

// Schema tells which version of the schema a database has, and which one this
// program works with. One whose tables of jobs are not up to date counts as the
// version before.
func Schema(ctx context.Context, pool *pgxpool.Pool) (has, wants int64, err error) {
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, migrations.Files)
	if err != nil {
		return 0, 0, fmt.Errorf("read migrations: %w", err)
	}
	for _, m := range p.ListSources() {
		wants = max(wants, m.Version)
	}
	var there bool
	if err := pool.QueryRow(ctx, `SELECT to_regclass('goose_db_version') IS NOT NULL`).Scan(&there); err != nil || !there {
		return 0, wants, err
	}
	err = pool.QueryRow(ctx, `SELECT coalesce(max(version_id), 0) FROM goose_db_version WHERE is_applied`).Scan(&has)
	if err != nil || has != wants {
		return has, wants, err
	}
	if ok, err := jobsUpToDate(ctx, pool); err != nil || !ok {
		return has - 1, wants, err
	}
	return has, wants, nil
}

type siteRow struct {
	ID          string
	Hosts       string // joined by the query
	Edition     int
	PlanVersion int64
	Settings    json.RawMessage
	Work        string
}

func (r siteRow) toPort() (plan.Site, error) {
	s := plan.Site{ID: r.ID, Edition: r.Edition, PlanVersion: r.PlanVersion}
	if r.Hosts != "" {
		s.Hosts = strings.Split(r.Hosts, ",")
	}
	s.Work = plan.ParseWork(r.Work)
	return s, json.Unmarshal(r.Settings, &s.Settings)
}

const (
	selectWork = `SELECT string_agg(part || ' ' || version, ',') FROM (SELECT part, sum(version) AS version FROM work_versions GROUP BY part) w`
	selectSite = `SELECT id, array_to_string(hosts, ',') AS hosts, edition, plan_version, settings, (` + selectWork + `) AS work FROM sites ORDER BY id LIMIT 1`
	lockSite   = selectSite + ` FOR NO KEY UPDATE OF sites`
)

// Write runs f while holding the site's row: this is the one place where
// structure edits and publishing are made to happen one after another. The
// row's key stays free, so that saves which refer to it need not wait.
func (s *Store) Write(ctx context.Context, f func(app.Tx, plan.Site) error) error {
	return s.run(ctx, lockSite, "", f)
}

// Read runs f over one view of the data.
func (s *Store) Read(ctx context.Context, f func(app.Tx, plan.Site) error) error {
	return s.run(ctx, selectSite, "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY", f)
}

// WriteUnlocked runs f in a transaction that does not hold the site.
func (s *Store) WriteUnlocked(ctx context.Context, f func(app.Tx, plan.Site) error) error {
	return s.run(ctx, selectSite, "", f)
}

func (s *Store) run(ctx context.Context, query, mode string, f func(app.Tx, plan.Site) error) error {
	err := s.transaction(ctx, query, mode, f)
	if gone := context.Cause(ctx); err != nil && gone != nil && !errors.Is(err, gone) {
		return fmt.Errorf("database: %w", gone) // whoever asked is gone, so the transaction was ended under it
	}
	return err
}

func (s *Store) transaction(ctx context.Context, query, mode string, f func(app.Tx, plan.Site) error) error {
	return s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		if mode != "" {
			if err := db.Exec(mode).Error; err != nil {
				return fmt.Errorf("begin: %w", err)
			}
		}
		var rows []siteRow
		if err := db.Raw(query).Scan(&rows).Error; err != nil {
			return fmt.Errorf("read site: %w", err)
		}
		if query == lockSite && len(rows) > 0 { // whoever was waited for changed the work after this statement began
			if err := db.Raw(selectWork).Scan(&rows[0].Work).Error; err != nil {
				return fmt.Errorf("read work versions: %w", err)
			}
		}
		var site plan.Site
		if len(rows) > 0 {
			var err error
			if site, err = rows[0].toPort(); err != nil {
				return fmt.Errorf("settings of the site: %w", err)
			}
		}
		return f(&tx{db: db, site: site.ID, steady: mode != "", queue: s.queue}, site)
	})
}

// tx is a transaction on one site.
type tx struct {
	db     *gorm.DB
	site   string
	steady bool
	queue  *river.Client[*sql.Tx]
}

// WorkAfter raises the numbers of what the transaction changed, and reads them.
func (t *tx) WorkAfter(ctx context.Context) (plan.WorkVersions, error) {
	if _, err := t.exec(ctx, `SET CONSTRAINTS work_raised IMMEDIATE`); err != nil {
		return plan.WorkVersions{}, err
	}
	return t.workNow(ctx)
}

// workNow reads the numbers of the work.
func (t *tx) workNow(ctx context.Context) (plan.WorkVersions, error) {
	var joined string
	err := t.scan(ctx, &joined, selectWork)
	return plan.ParseWork(joined), err
}

// Steady tells whether all reads see one committed moment.
func (t *tx) Steady() bool { return t.steady }

// exec runs a statement that is written out because it works on sets.
func (t *tx) exec(ctx context.Context, query string, args ...any) (int64, error) {
	r := t.db.WithContext(ctx).Exec(query, args...)
	return r.RowsAffected, wordError(r.Error)
}

// scan runs a query that is written out for one use case.
func (t *tx) scan(ctx context.Context, into any, query string, args ...any) error {
	return wordError(t.db.WithContext(ctx).Raw(query, args...).Scan(into).Error)
}

// constraints words violations that users can run into.
var constraints = map[string]error{
	"acts_key":     plan.ErrDone,
	"editions_act": plan.ErrDone,

	"page_pictures_file": plan.ErrShown,
}

func wordError(err error) error {
	if err == nil {
		return nil
	}
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return plan.ErrNotFound
	}
	if pg := (*pgconn.PgError)(nil); errors.As(err, &pg) {
		if known := constraints[pg.ConstraintName]; known != nil {
			return known
		}
		switch pg.Code {
		case "22P02", "22021", // an id that is none, or text that cannot be
			"25P02": // such an error came before in the transaction, and was taken for nothing being there
			return plan.ErrNotFound
		case "53100", "53000": // the disk is full
			return errors.Join(plan.ErrDatabaseFull, err)
		}
	}
	return fmt.Errorf("database: %w", err)
}
