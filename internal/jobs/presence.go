package jobs

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/app/plan"
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

	giveUp func(context.Context, plan.Job) error
	stop   context.CancelFunc
	over   <-chan struct{}
}

// Times of a presence. A job is not taken for lost in its first moments, in which an instance that was cut off from the
// database may hold its lock again.
const (
	lookEvery = 5 * time.Second
	lostAfter = 10 * time.Second

	longestLook = 10 * time.Second // where the network goes away, nothing tells
)

// presenceLock is the first key of the locks; the second is made of the name of the instance.
const presenceLock = 0x1ead

// bePresent holds the lock, and looks for lost jobs until it is ended.
func bePresent(ctx context.Context, pool *pgxpool.Pool, name string, log *slog.Logger, work *background.Group, giveUp func(context.Context, plan.Job) error) (*presence, error) {
	p := &presence{pool: pool, name: name, log: log, giveUp: giveUp}
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
		short, stop := context.WithTimeout(ctx, longestLook)
		lost, err := reclaimLostJobs(short, p.conn)
		stop()
		if err != nil && ctx.Err() == nil {
			p.close(p.conn)
			p.conn = nil
		}
		for _, j := range lost {
			p.log.Warn("job of a process that was lost", "kind", j.Kind, "job", j.ID, "given up", j.GivenUp)
			if !j.GivenUp {
				continue
			}
			if err := p.giveUp(ctx, plan.Job{Kind: plan.JobKind(j.Kind), ID: j.Of}); err != nil {
				p.log.Error("free the person of a job", "kind", j.Kind, "job", j.ID, "error", err)
			}
		}
	}
}

// lostJob is a job that ran for an instance that is not there any more.
type lostJob struct {
	ID      int64
	Kind    string
	Of      string
	GivenUp bool
}

// reclaimLostJobs makes jobs begin again that run for nobody. Given up are those that come back by themselves, so
// that the next one begins; those that read what strangers made, which may be what ended the process; and
// those that were lost with a process before.
func reclaimLostJobs(ctx context.Context, conn *pgx.Conn) ([]lostJob, error) {
	var reading []string
	for _, row := range plan.JobKinds() {
		if row.Reads {
			reading = append(reading, string(row.Kind))
		}
	}
	rows, err := conn.Query(ctx, `UPDATE river_job j SET scheduled_at = now(), metadata = j.metadata || '{"lost": true}',
			state = CASE WHEN l.given_up THEN 'discarded' ELSE 'available' END::river_job_state,
			finalized_at = CASE WHEN l.given_up THEN now() END
		FROM (SELECT id, attempt >= max_attempts OR kind = ANY ($3) OR metadata ? 'lost' AS given_up FROM river_job
			WHERE state = 'running' AND attempted_at < now() - $2 * interval '1 second'
			AND hashtext(attempted_by[cardinality(attempted_by)])::bigint & 4294967295 NOT IN (SELECT l.objid::bigint FROM pg_locks l
				WHERE l.locktype = 'advisory' AND l.classid = $1 AND l.objsubid = 2 AND l.granted
				AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())) FOR UPDATE SKIP LOCKED) l
		WHERE j.id = l.id RETURNING j.id, j.kind, coalesce(j.args ->> 'id', '') AS of, l.given_up`, presenceLock, lostAfter.Seconds(), reading)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[lostJob])
}

// end lets the lock go.
func (p *presence) end() {
	p.stop()
	<-p.over
}
