package jobs

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/platform/background"
)

// presence is how the instances know of each other which of them live: each holds a lock of the database on a connection of its own,
// which ends with its process, however that ends. What a job says to be running for an instance that holds none was lost with
// it, and is taken up by another. (The queue itself knows only how long a job may run.)
type presence struct {
	pool *pgxpool.Pool
	name string // of the instance, as the queue notes it with a job
	log  *slog.Logger
	conn *pgx.Conn // nil: it was cut off
	stop context.CancelFunc
	over <-chan struct{}
}

// Times of a presence. A job is not taken for lost in its first moments, in which an instance that was cut off from the
// database may hold its lock again.
const (
	lookEvery = 5 * time.Second
	lostAfter = 10 * time.Second
)

// presenceLock is the first key of the locks; the second is made of the name of the instance.
const presenceLock = 0x1ead

// bePresent holds the lock, and looks for lost jobs until it is ended.
func bePresent(ctx context.Context, pool *pgxpool.Pool, name string, log *slog.Logger, work *background.Group) (*presence, error) {
	p := &presence{pool: pool, name: name, log: log}
	if err := p.hold(ctx); err != nil {
		return nil, err
	}
	ctx, p.stop = context.WithCancel(ctx)
	p.over = work.Keep(ctx, "look for lost jobs", p.look)
	return p, nil
}

func (p *presence) hold(ctx context.Context) error {
	pooled, err := p.pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("be present: %w", err)
	}
	conn := pooled.Hijack()
	if _, err := conn.Exec(ctx, `SELECT pg_advisory_lock_shared($1, hashtext($2))`, presenceLock, p.name); err != nil {
		p.close(conn)
		return fmt.Errorf("be present: %w", err)
	}
	p.conn = conn
	return nil
}

func (p *presence) close(conn *pgx.Conn) {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	if err := conn.Close(ctx); err != nil {
		p.log.Debug("connection not closed", "error", err)
	}
}

func (p *presence) look(ctx context.Context) error {
	every := time.NewTicker(lookEvery)
	defer every.Stop()
	for {
		select {
		case <-ctx.Done():
			if p.conn != nil {
				p.close(p.conn)
				p.conn = nil
			}
			return ctx.Err()
		case <-every.C:
		}
		if p.conn == nil { // the others may have been cut off, too: they get time to hold theirs
			if err := p.hold(ctx); err != nil {
				p.log.Debug("cut off from the database", "error", err)
			}
			continue
		}
		n, err := takeUp(ctx, p.conn)
		switch {
		case err != nil && ctx.Err() == nil:
			p.close(p.conn)
			p.conn = nil
		case n > 0:
			p.log.Warn("jobs of a process that was lost are taken up", "jobs", n)
		}
	}
}

// takeUp makes jobs begin again that run for nobody. What comes back by itself is given up instead, so that the next one begins.
func takeUp(ctx context.Context, conn *pgx.Conn) (int64, error) {
	tag, err := conn.Exec(ctx, `UPDATE river_job SET scheduled_at = now(),
			state = CASE WHEN attempt < max_attempts THEN 'available' ELSE 'discarded' END::river_job_state,
			finalized_at = CASE WHEN attempt < max_attempts THEN NULL ELSE now() END
		WHERE state = 'running' AND attempted_at < now() - $2 * interval '1 second'
		AND hashtext(attempted_by[cardinality(attempted_by)])::bigint & 4294967295 NOT IN (SELECT l.objid::bigint FROM pg_locks l
			WHERE l.locktype = 'advisory' AND l.classid = $1 AND l.objsubid = 2 AND l.granted
			AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database()))`, presenceLock, lostAfter.Seconds())
	return tag.RowsAffected(), err
}

// end lets the lock go.
func (p *presence) end() {
	p.stop()
	<-p.over
}
