// Package pgcluster runs a PostgreSQL cluster of our own, on loopback, in a
// folder of ours, for the demo and the tests. It never touches one that is
// there.
package pgcluster

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"

	"candlepath/internal/platform/loopback"
)

// ErrNoServer says that no PostgreSQL server is installed.
var ErrNoServer = errors.New("no PostgreSQL server is installed; as root: apt-get install -y --no-install-recommends postgresql postgresql-contrib")

// Cluster is a running server.
type Cluster struct {
	Port int
	cmd  *exec.Cmd
	done chan struct{}
	out  *bytes.Buffer
}

// Options of a cluster.
type Options struct {
	// Hasty gives up safety against power loss, for tests.
	Hasty bool
	// Port to listen on; 0 takes a free one.
	Port int
}

// Start makes a cluster in dir if there is none, and starts it. It stops when
// Stop is called or when this process ends, however it ends.
func Start(ctx context.Context, dir string, o Options) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return nil, err
	}
	as, err := serverUser(dir)
	if err != nil {
		return nil, err
	}
	data := filepath.Join(dir, "data")
	if err := initialise(ctx, bin, data, as); err != nil {
		return nil, err
	}
	if o.Port == 0 {
		if o.Port, err = loopback.FreePort(); err != nil {
			return nil, err
		}
	}
	return run(ctx, bin, data, as, o)
}

// DSN names a database of the cluster.
func (c *Cluster) DSN(database string) string {
	return fmt.Sprintf("postgres://candlepath@127.0.0.1:%d/%s?sslmode=disable", c.Port, database)
}

// Stop ends the server and waits for it.
func (c *Cluster) Stop() {
	_ = c.cmd.Process.Signal(syscall.SIGINT)
	select {
	case <-c.done:
	case <-time.After(10 * time.Second):
		_ = c.cmd.Process.Signal(syscall.SIGQUIT)
		<-c.done
	}
}

// Done is closed when the server has ended.
func (c *Cluster) Done() <-chan struct{} { return c.done }

// Programs is the folder of the programs of the newest installed server; empty if
// there is none.
func Programs() string {
	bin, _ := binaries()
	return bin
}

// binaries finds the folder of the newest installed server.
func binaries() (string, error) {
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if err != nil {
		return "", err
	}
	if len(found) == 0 {
		path, err := exec.LookPath("postgres")
		if err != nil {
			return "", ErrNoServer
		}
		return filepath.Dir(path), nil
	}
	version := func(p string) int {
		n, _ := strconv.Atoi(strings.Split(p, "/")[4])
		return n
	}
	return filepath.Dir(slices.MaxFunc(found, func(a, b string) int { return version(a) - version(b) })), nil
}

// credential is who the server runs as; nil is who we are.
type credential = *syscall.Credential

// serverUser makes the folder. PostgreSQL refuses to run as root, so root
// runs it as the user postgres, who must be able to reach the folder.
func serverUser(dir string) (credential, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("make data folder: %w", err)
	}
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("root cannot run the server and there is no user postgres: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	for up := filepath.Dir(dir); up != "/"; up = filepath.Dir(up) {
		if st, err := os.Stat(up); err == nil && st.Mode().Perm()&0o001 == 0 {
			return nil, fmt.Errorf("the user postgres cannot reach %s because of %s; give another folder with DATA=/var/tmp/candlepath", dir, up)
		}
	}
	if err := os.Chown(dir, uid, gid); err != nil {
		return nil, fmt.Errorf("hand data folder over: %w", err)
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func initialise(ctx context.Context, bin, data string, as credential) error {
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err == nil {
		return nil
	}
	// An unfinished one of an earlier try is ours and empty of data.
	for _, d := range []string{data, data + ".new"} {
		if err := os.RemoveAll(d); err != nil {
			return err
		}
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", data+".new", "-U", "candlepath",
		"--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "--no-instructions", "--no-sync")
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: as}
	cmd.Dir = filepath.Dir(data)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb: %w\n%s", err, out)
	}
	return os.Rename(data+".new", data)
}

func run(ctx context.Context, bin, data string, as credential, o Options) (*Cluster, error) {
	args := []string{
		"-D", data, "-p", strconv.Itoa(o.Port), "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=",
		"-c", "max_connections=120", "-c", "shared_buffers=128MB", "-c", "log_min_messages=warning", "-c", "jit=off",
	}
	if o.Hasty {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	c := &Cluster{Port: o.Port, done: make(chan struct{}), out: &bytes.Buffer{}}
	c.cmd = exec.Command(filepath.Join(bin, "postgres"), args...)
	c.cmd.Stdout, c.cmd.Stderr, c.cmd.Dir = c.out, c.out, filepath.Dir(data)
	c.cmd.SysProcAttr = &syscall.SysProcAttr{Credential: as, Pdeathsig: syscall.SIGINT, Setpgid: true}
	started := make(chan error, 1)
	go func() {
		// The death signal is sent when the thread that started the child ends.
		runtime.LockOSThread()
		err := c.cmd.Start()
		started <- err
		if err == nil {
			_ = c.cmd.Wait()
			close(c.done)
		}
	}()
	if err := <-started; err != nil {
		return nil, fmt.Errorf("start PostgreSQL: %w", err)
	}
	if err := c.ready(ctx); err != nil {
		c.Stop()
		return nil, err
	}
	return c, nil
}

func (c *Cluster) ready(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, c.DSN("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-c.done:
			return fmt.Errorf("PostgreSQL ended at once:\n%s", c.out)
		case <-ctx.Done():
			return fmt.Errorf("PostgreSQL does not answer: %w", err)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// CreateDatabase makes a database if it is not there; from is its template,
// empty for the usual one.
func (c *Cluster) CreateDatabase(ctx context.Context, name, from string) error {
	conn, err := pgx.Connect(ctx, c.DSN("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there); err != nil || there {
		return err
	}
	q := "CREATE DATABASE " + pgx.Identifier{name}.Sanitize()
	if from != "" {
		q += " TEMPLATE " + pgx.Identifier{from}.Sanitize()
	}
	_, err = conn.Exec(ctx, q)
	return err
}

// DropDatabase removes a database, with whatever is connected to it still.
func (c *Cluster) DropDatabase(ctx context.Context, name string) error {
	conn, err := pgx.Connect(ctx, c.DSN("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, "DROP DATABASE IF EXISTS "+pgx.Identifier{name}.Sanitize()+" WITH (FORCE)")
	return err
}
