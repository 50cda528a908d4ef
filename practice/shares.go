package practice

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/netip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"kaiku/practice/layout"
)

// shares is a file server: the operating system's own SMB daemon, run as the user who runs the
// house, on a high port, with a configuration and a folder of its own.
type shares struct {
	device   *Device
	dir      string
	programs []*exec.Cmd // the helpers, then the daemon itself
	was      [3]bool     // the faults that it shows
}

// ErrNoDaemon is what is noted where there is no SMB daemon on the machine.
var ErrNoDaemon = errors.New("smbd is not on this machine")

// daemon is where the SMB daemon and its helpers are.
type daemon struct {
	program string   // smbd
	helpers string   // folder of samba-dcerpcd and those it starts
	env     []string // what they need beside the environment
}

// helpers are the programs that answer who lists shares, with those that they need themselves.
var helpers = []string{"rpcd_epmapper", "rpcd_winreg", "rpcd_lsad", "rpcd_classic"}

// findDaemon finds the daemon: installed, or unpacked beside the program.
func findDaemon() (daemon, error) {
	if p, err := exec.LookPath("smbd"); err == nil {
		return daemon{p, "/usr/libexec/samba", nil}, nil
	}
	roots := []string{os.Getenv("KAIKU_PEERS")}
	if self, err := os.Executable(); err == nil {
		roots = append(roots, filepath.Join(filepath.Dir(self), "peers"))
	}
	if here, err := os.Getwd(); err == nil {
		for range 4 {
			roots = append(roots, filepath.Join(here, "bin", "peers"))
			here = filepath.Dir(here)
		}
	}
	for _, root := range roots {
		p := filepath.Join(root, "usr", "sbin", "smbd")
		if _, err := os.Stat(p); root == "" || err != nil {
			continue
		}
		libs, err := filepath.Glob(filepath.Join(root, "usr", "lib", "*-linux-gnu*"))
		if err != nil {
			return daemon{}, err
		}
		var path []string
		for _, l := range libs {
			path = append(path, l, filepath.Join(l, "samba"))
		}
		return daemon{p, filepath.Join(root, "usr", "libexec", "samba"), []string{"LD_LIBRARY_PATH=" + strings.Join(path, ":")}}, nil
	}
	return daemon{}, ErrNoDaemon
}

func (s *shares) start(ctx context.Context, d *Device) error {
	s.device = d
	found, err := findDaemon()
	if err != nil {
		d.house.note("The house has no file share: %v; scripts/setup unpacks it.", err)
		return nil
	}
	if s.dir, err = os.MkdirTemp("", "kaiku-shares-"); err != nil {
		return err
	}
	if err := errors.Join(s.fill(), s.configure()); err != nil {
		return errors.Join(err, os.RemoveAll(s.dir))
	}
	s.was = [3]bool{}
	args := []string{}
	for _, h := range helpers {
		args = append(args, filepath.Join(found.helpers, h))
	}
	// The helpers come first: the daemon hands on to them by sockets that they make.
	if err := s.run(found, filepath.Join(found.helpers, "samba-dcerpcd"), args...); err != nil {
		return err
	}
	if err := s.addUser(found); err != nil {
		return s.failed(err)
	}
	pipe := filepath.Join(s.dir, "ncalrpc", "np", "srvsvc")
	if err := s.until(ctx, func() bool { _, err := os.Stat(pipe); return err == nil }); err != nil {
		return s.failed(err)
	}
	if err := s.run(found, found.program); err != nil {
		return err
	}
	to := netip.AddrPortFrom(d.Address.Addr(), layout.SharePort).String()
	err = s.until(ctx, func() bool {
		c, err := (&net.Dialer{Timeout: time.Second}).DialContext(ctx, "tcp4", to)
		return err == nil && c.Close() == nil
	})
	if err != nil {
		return s.failed(err)
	}
	return s.switched()
}

// SharePassword is the password of the account that may open the share of papers; its name is that
// of who runs the house.
const SharePassword = "kelp-and-granite"

// ShareUser is the name of that account.
func ShareUser() string { return userName() }

// addUser gives the account its password.
func (s *shares) addUser(found daemon) error {
	tool := filepath.Join(filepath.Dir(filepath.Dir(found.program)), "bin", "pdbedit")
	cmd := exec.Command(tool, "-s", filepath.Join(s.dir, "smb.conf"), "-a", "-u", userName(), "-t")
	cmd.Env = append(os.Environ(), found.env...)
	cmd.Stdin = strings.NewReader(SharePassword + "\n" + SharePassword + "\n")
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("pdbedit: %w: %s", err, out)
	}
	return nil
}

// run starts one program of the daemon.
func (s *shares) run(found daemon, program string, args ...string) error {
	cmd := exec.Command(program, append([]string{"-F", "--no-process-group", "-l", s.dir, "-s", filepath.Join(s.dir, "smb.conf")}, args...)...)
	cmd.Env = append(os.Environ(), found.env...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Setpgid: true}
	if err := cmd.Start(); err != nil {
		s.stop()
		return fmt.Errorf("file server: %w", err)
	}
	s.programs = append(s.programs, cmd)
	return nil
}

// failed ends what was started and says what its log says.
func (s *shares) failed(err error) error {
	log, _ := os.ReadFile(filepath.Join(s.dir, "log"))
	s.stop()
	lines := strings.Split(strings.TrimSpace(string(log)), "\n")
	return fmt.Errorf("file server: %w; it says: %s", err, strings.Join(lines[max(0, len(lines)-3):], " "))
}

// until waits until something holds.
func (s *shares) until(ctx context.Context, holds func() bool) error {
	for began := time.Now(); time.Since(began) < 15*time.Second; {
		if holds() {
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(10 * time.Millisecond):
		}
	}
	return errors.New("it did not start in 15 s")
}

func (s *shares) stop() {
	if s.dir == "" {
		return
	}
	for _, p := range s.programs {
		_ = syscall.Kill(-p.Process.Pid, syscall.SIGKILL) // with those it made for its connections
		_ = p.Wait()                                      // killed: that is not an error
	}
	_ = os.RemoveAll(s.dir)
	s.programs, s.dir = nil, ""
}

// fill puts the films and music of the house into the shared folder, as short clips.
func (s *shares) fill() error {
	for _, f := range granite[:2] {
		dir := filepath.Join(s.dir, "media", f.title)
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return err
		}
		for _, i := range f.items {
			if err := os.WriteFile(filepath.Join(dir, i.file), i.clip(), 0o644); err != nil {
				return err
			}
		}
	}
	papers := filepath.Join(s.dir, "papers", "Manuals")
	if err := errors.Join(os.MkdirAll(papers, 0o700), os.WriteFile(filepath.Join(papers, "foghorn.txt"), []byte("Foghorn"), 0o600)); err != nil {
		return err
	}
	// Who runs as root serves guests as nobody, who needs a way in.
	return errors.Join(os.Chmod(s.dir, 0o755), os.Chmod(filepath.Join(s.dir, "media"), 0o777))
}

// configure writes the daemon's configuration for the faults that are on.
func (s *shares) configure() error {
	guest := "nobody"
	if os.Geteuid() != 0 {
		guest = userName()
	}
	only := "yes"
	if s.device.on("share-writable") {
		only = "no"
	}
	films := os.FileMode(0o755)
	if only == "no" {
		films = 0o777
	}
	if s.device.on("share-no-rights") {
		films = 0o700
		if os.Geteuid() != 0 {
			films = 0
		}
	}
	text := strings.NewReplacer("{dir}", s.dir, "{guest}", guest, "{only}", only, "{at}", s.device.Address.Addr().String(), "{port}", fmt.Sprint(layout.SharePort)).Replace(`[global]
private dir = {dir}
lock directory = {dir}
state directory = {dir}
cache directory = {dir}
pid directory = {dir}
ncalrpc dir = {dir}/ncalrpc
log file = {dir}/log
rpc start on demand helpers = no
passdb backend = tdbsam:{dir}/passdb.tdb
smb ports = {port}
interfaces = {at}/8
bind interfaces only = yes
server role = standalone server
server min protocol = SMB2
guest account = {guest}
map to guest = Bad User
load printers = no
printing = bsd
disable spoolss = yes
usershare max shares = 0
[media]
path = {dir}/media
guest ok = yes
read only = {only}
[papers]
path = {dir}/papers
guest ok = no
read only = yes
`)
	return errors.Join(os.Chmod(filepath.Join(s.dir, "media", "Films"), films), os.WriteFile(filepath.Join(s.dir, "smb.conf"), []byte(text), 0o644))
}

// userName is the name of who runs this; the daemon serves guests as him.
func userName() string {
	b, err := os.ReadFile("/etc/passwd")
	if err == nil {
		for line := range strings.Lines(string(b)) {
			if f := strings.Split(line, ":"); len(f) > 2 && f[2] == fmt.Sprint(os.Geteuid()) {
				return f[0]
			}
		}
	}
	return "nobody"
}

// switched shows the faults of the share as they are now.
func (s *shares) switched() error {
	is := s.state()
	if s.dir == "" || is == s.was {
		return nil
	}
	s.was = is
	err := s.configure()
	pid := s.programs[len(s.programs)-1].Process.Pid
	signal := syscall.SIGCONT
	if s.device.on("share-hangs") {
		signal = syscall.SIGSTOP
	}
	// It reads its configuration anew on SIGHUP, for the connections that come after.
	return errors.Join(err, syscall.Kill(pid, syscall.SIGHUP), syscall.Kill(-pid, signal))
}

func (s *shares) state() [3]bool {
	return [3]bool{s.device.on("share-writable"), s.device.on("share-no-rights"), s.device.on("share-hangs")}
}

// ShareHolds lists what lies at the top of the house's file share.
func (h *House) ShareHolds() []string {
	var out []string
	for _, d := range h.devices {
		for _, p := range d.parts {
			if s, ok := p.(*shares); ok && s.dir != "" {
				entries, _ := os.ReadDir(filepath.Join(s.dir, "media"))
				for _, e := range entries {
					out = append(out, e.Name())
				}
			}
		}
	}
	return out
}
