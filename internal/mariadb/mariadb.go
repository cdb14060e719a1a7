// Package mariadb runs a private MariaDB server from a folder of the
// application's own, on loopback only, and stops it again.
package mariadb

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

// Server is a running database server. Keep it going, and stop it when done.
type Server struct {
	dir      string
	mariadbd string // the program
	port     int
	password string
	quick    bool

	mu      sync.Mutex
	proc    *process
	stopped bool
}

// process is one start of the server.
type process struct {
	cmd    *exec.Cmd
	done   chan struct{} // closed when it has ended
	err    error         // how, then
	serves bool
}

const (
	account    = "amberproof"
	startLimit = 60 * time.Second
	stopLimit  = 30 * time.Second

	leftoverLimit = 15 * time.Second
)

// tool finds one of the server's programs, which Debian puts outside an
// ordinary user's path.
func tool(name string) (string, error) {
	if p, err := exec.LookPath(name); err == nil {
		return p, nil
	}
	for _, d := range []string{"/usr/sbin", "/usr/bin", "/usr/local/sbin"} {
		if p := filepath.Join(d, name); fileThere(p) {
			return p, nil
		}
	}
	return "", fmt.Errorf("%s is not installed; install Debian's package mariadb-server", name)
}

func fileThere(p string) bool { _, err := os.Stat(p); return err == nil }

// Start runs a server on the data in dir, made if missing. quick trades safety
// against a crash of the machine for speed: for tests only. say is told what
// goes on during the long parts.
func Start(ctx context.Context, dir string, quick bool, say func(string)) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	mariadbd, err := tool("mariadbd")
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the database's folder: %w", err)
	}
	if err := stopLeftover(dir, say); err != nil {
		return nil, err
	}
	data := filepath.Join(dir, "data")
	if !fileThere(filepath.Join(dir, "ready")) {
		say("making a new database in " + dir)
		if err := install(ctx, dir, data); err != nil {
			return nil, err
		}
	}
	s := &Server{dir: dir, mariadbd: mariadbd, quick: quick}
	if s.password, err = password(dir); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	return s, s.start(ctx)
}

// start launches a process and waits until it serves.
func (s *Server) start(ctx context.Context) error {
	data, tmp := filepath.Join(s.dir, "data"), filepath.Join(s.dir, "tmp")
	if err := errors.Join(os.RemoveAll(tmp), os.Mkdir(tmp, 0o700)); err != nil {
		return err
	}
	init := filepath.Join(s.dir, "init.sql")
	if err := os.WriteFile(init, []byte(s.initSQL()), 0o600); err != nil {
		return err
	}
	// The socket, which has to have a short path and is not used, is named from
	// the data folder, and temporary files stay beside it: nothing is left in /tmp.
	args := append(serverArgs(data), "--socket=socket", "--tmpdir="+tmp, "--pid-file="+filepath.Join(s.dir, "pid"),
		"--bind-address=127.0.0.1", "--port="+strconv.Itoa(s.port),
		"--init-file="+init, "--skip-name-resolve", "--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_ci",
		"--log-error="+filepath.Join(s.dir, "log"))
	if s.quick {
		args = append(args, "--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=OFF")
	}
	p, err := launch(s.mariadbd, args)
	if err != nil {
		return err
	}
	s.mu.Lock()
	s.proc = p
	s.mu.Unlock()
	if err := s.wait(ctx, p); err != nil {
		return errors.Join(err, p.end())
	}
	return nil
}

// serverArgs are what the installer and the server must agree on.
func serverArgs(data string) []string {
	a := []string{"--no-defaults", "--datadir=" + data, "--innodb-log-file-size=4M", "--innodb-autoextend-increment=1",
		"--innodb-data-file-path=ibdata1:4M:autoextend"}
	if u, err := user.Current(); err == nil {
		a = append(a, "--user="+u.Username)
	}
	return a
}

func install(ctx context.Context, dir, data string) error {
	prog, err := tool("mariadb-install-db")
	if err != nil {
		return err
	}
	// A folder half made by an earlier start that was cut off is made anew.
	if err := os.RemoveAll(data); err != nil {
		return err
	}
	// The installer is a script that stumbles over spaces: it is told of the folder
	// by a name without any.
	args := append(serverArgs("./"+filepath.Base(data)), "--auth-root-authentication-method=normal", "--skip-test-db")
	install := exec.CommandContext(ctx, prog, args...)
	install.Dir = dir
	// In a shared folder, servers that are made at one moment take each other's
	// temporary tables away.
	tmp := filepath.Join(dir, "tmp")
	if err := os.MkdirAll(tmp, 0o700); err != nil {
		return err
	}
	install.Env = append(os.Environ(), "TMPDIR="+tmp)
	if out, err := install.CombinedOutput(); err != nil {
		return fmt.Errorf("making the database: %w\n%s", err, complaints(out))
	}
	return os.WriteFile(filepath.Join(dir, "ready"), nil, 0o600)
}

// complaints are what the installer says has gone wrong: the lines that call
// themselves errors, before its general advice, or else its last lines.
func complaints(out []byte) string {
	all := strings.Split(strings.TrimSpace(string(out)), "\n")
	var said []string
	for _, l := range all {
		if strings.Contains(l, "ERROR") {
			said = append(said, l)
		}
	}
	if said == nil {
		said = all
	}
	return strings.Join(said[max(0, len(said)-5):], "\n")
}

func password(dir string) (string, error) {
	p := filepath.Join(dir, "password")
	b, err := os.ReadFile(p)
	if err == nil && len(b) >= 32 {
		return string(bytes.TrimSpace(b)), nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return "", err
	}
	pw := hex.EncodeToString(raw)
	return pw, os.WriteFile(p, []byte(pw), 0o600)
}

// initSQL gives the application its own account, and root a password.
func (s *Server) initSQL() string {
	return fmt.Sprintf(`CREATE DATABASE IF NOT EXISTS amberproof CHARACTER SET utf8mb4;
CREATE USER IF NOT EXISTS '%[1]s'@'127.0.0.1' IDENTIFIED BY '%[2]s';
ALTER USER '%[1]s'@'127.0.0.1' IDENTIFIED BY '%[2]s';
GRANT ALL ON `+"`amberproof%%`"+`.* TO '%[1]s'@'127.0.0.1';
ALTER USER 'root'@'localhost' IDENTIFIED BY '%[2]s';
DELETE FROM mysql.global_priv WHERE User = '' OR (User = 'root' AND Host <> 'localhost');
FLUSH PRIVILEGES;
`, account, s.password)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// launch starts the process. It gets its own process group, so that Ctrl+C in
// a terminal reaches us alone, and dies with us should we be killed.
func launch(prog string, args []string) (*process, error) {
	p := &process{done: make(chan struct{})}
	started := make(chan error)
	go func() {
		// The kernel ties "dies with its parent" to the thread that started it.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		p.cmd = exec.Command(prog, args...)
		p.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
		err := p.cmd.Start()
		started <- err
		if err == nil {
			p.err = p.cmd.Wait()
			close(p.done)
		}
	}()
	return p, <-started
}

// wait returns when the process serves, or why it does not.
func (s *Server) wait(ctx context.Context, p *process) error {
	ctx, cancel := context.WithTimeout(ctx, startLimit)
	defer cancel()
	for {
		select {
		case <-p.done:
			log, _ := os.ReadFile(filepath.Join(s.dir, "log"))
			return fmt.Errorf("the database stopped at its start (%v); the end of %s says:\n%s", p.err, filepath.Join(s.dir, "log"), complaints(log))
		case <-ctx.Done():
			return fmt.Errorf("the database did not start within %s; see %s", startLimit, filepath.Join(s.dir, "log"))
		case <-time.After(50 * time.Millisecond):
			if p.serves = s.greets(); p.serves {
				return nil
			}
		}
	}
}

// How often a server that ends by itself is started again within a time.
const (
	mostRestarts  = 4
	restartWithin = 10 * time.Minute
)

// Keep starts the server again, at the same address, when it ends by itself. It
// returns nil when ctx ends, and an error when the server ends again and again or
// cannot be started.
func (s *Server) Keep(ctx context.Context, say func(string)) error {
	var restarts []time.Time
	for {
		s.mu.Lock()
		p := s.proc
		s.mu.Unlock()
		select {
		case <-ctx.Done():
			return nil
		case <-p.done:
		}
		if s.isStopped() || ctx.Err() != nil {
			return nil
		}
		now := time.Now()
		restarts = append(restarts, now)
		for now.Sub(restarts[0]) > restartWithin {
			restarts = restarts[1:]
		}
		if len(restarts) > mostRestarts {
			return fmt.Errorf("the database ended %d times within %s (%v); the end of %s says why", len(restarts), restartWithin, p.err, filepath.Join(s.dir, "log"))
		}
		say(fmt.Sprintf("the database has ended (%v) and is started again", p.err))
		if err := s.start(ctx); err != nil && ctx.Err() == nil {
			// It ends once more, and is counted as that; where no process came about at
			// all, the one before still stands for it.
			say(err.Error())
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (s *Server) isStopped() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.stopped
}

// greets tells whether the server serves: its port is open well before that,
// but only one that serves speaks first.
func (s *Server) greets() bool {
	c, err := net.DialTimeout("tcp", fmt.Sprintf("127.0.0.1:%d", s.port), time.Second)
	if err != nil {
		return false
	}
	defer c.Close()
	_ = c.SetReadDeadline(time.Now().Add(time.Second)) // a TCP connection has deadlines
	n, _ := c.Read(make([]byte, 1))
	return n == 1
}

// DSN is the address of a database on the server in the driver's form; the
// database's name must begin with amberproof.
func (s *Server) DSN(database string) string {
	return fmt.Sprintf("%s:%s@tcp(127.0.0.1:%d)/%s?charset=utf8mb4", account, s.password, s.port, database)
}

// Kill ends the server as a crash would, for tests; Keep starts it again.
func (s *Server) Kill() {
	s.mu.Lock()
	defer s.mu.Unlock()
	_ = s.proc.cmd.Process.Kill() // it may have ended already
}

// Stop ends the server cleanly and waits for it.
func (s *Server) Stop() error {
	s.mu.Lock()
	s.stopped = true
	p := s.proc
	s.mu.Unlock()
	return p.end()
}

// end ends a process and waits for it. One that does not serve yet is killed, for
// told to stop while it starts it would hang; its data survives that.
func (p *process) end() error {
	how := syscall.SIGTERM
	if !p.serves {
		how = syscall.SIGKILL
	}
	if err := p.cmd.Process.Signal(how); err != nil {
		return nil // it has ended already
	}
	select {
	case <-p.done:
		return nil
	case <-time.After(stopLimit):
		return errors.Join(fmt.Errorf("the database did not stop within %s and was ended", stopLimit), p.cmd.Process.Kill())
	}
}

// stopLeftover ends a server that an earlier, killed process of ours left on
// the same data; by force, if it hangs for having been told to stop in its start.
func stopLeftover(dir string, say func(string)) error {
	b, err := os.ReadFile(filepath.Join(dir, "pid"))
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
	if err != nil {
		return nil
	}
	ours := func() bool {
		cmd, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
		return err == nil && bytes.Contains(cmd, []byte("--datadir="+filepath.Join(dir, "data")))
	}
	if !ours() {
		return nil
	}
	say("stopping the database that an earlier start left running")
	for _, how := range []syscall.Signal{syscall.SIGTERM, syscall.SIGKILL} {
		if err := syscall.Kill(pid, how); err != nil && !errors.Is(err, syscall.ESRCH) {
			return fmt.Errorf("stopping the left-over database (process %d): %w", pid, err)
		}
		for end := time.Now().Add(leftoverLimit); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
			if !ours() {
				return nil
			}
		}
	}
	return fmt.Errorf("a left-over database (process %d) does not stop; end it by hand", pid)
}
