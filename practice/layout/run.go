package layout

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/netip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
)

// Standing is what a house says of itself once it stands.
type Standing struct {
	Segment netip.Prefix     `json:"segment"`
	Guest   netip.Prefix     `json:"guest"`
	Notes   []string         `json:"notes,omitempty"` // what could not be opened on this machine, and why
	Devices []StandingDevice `json:"devices"`
}

// StandingDevice is one device of it.
type StandingDevice struct {
	Address  netip.AddrPort `json:"address"`
	Name     string         `json:"name"`
	Make     string         `json:"make"`
	OnlyWith string         `json:"onlyWith,omitempty"` // the fault without which it is not there
}

// Running are practice houses in a program of their own.
type Running struct {
	Houses []Standing
	cmd    *exec.Cmd
	hold   io.Closer // the program ends when this is closed, also by this program's own end
}

// ProgramName is the practice house's program.
const ProgramName = "kaiku-practice"

// Program finds it: where KAIKU_PRACTICE_PROGRAM says, beside this program, or on the path.
func Program() (string, error) {
	if named := os.Getenv("KAIKU_PRACTICE_PROGRAM"); named != "" {
		return named, nil
	}
	if self, err := os.Executable(); err == nil {
		beside := filepath.Join(filepath.Dir(self), ProgramName)
		if _, err := os.Stat(beside); err == nil {
			return beside, nil
		}
	}
	found, err := exec.LookPath(ProgramName)
	if err != nil {
		return "", fmt.Errorf("the practice house is a program of its own, %s, and is neither beside kaiku nor on the path; make build makes both", ProgramName)
	}
	return found, nil
}

// Run starts houses, each named as form:octet, and returns when all of them stand.
func Run(ctx context.Context, faults []string, houses ...string) (*Running, error) {
	program, err := Program()
	if err != nil {
		return nil, err
	}
	args := []string{"--house", strings.Join(houses, ",")}
	if len(faults) > 0 {
		args = append(args, "--fault", strings.Join(faults, ","))
	}
	r := &Running{cmd: exec.CommandContext(context.WithoutCancel(ctx), program, args...)} //nolint:gosec // our own program
	var said strings.Builder
	r.cmd.Stderr = &said
	r.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // Ctrl-C in a terminal is not for the houses: they end with who started them
	if r.hold, err = r.cmd.StdinPipe(); err != nil {
		return nil, err
	}
	out, err := r.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := r.cmd.Start(); err != nil {
		return nil, fmt.Errorf("start the practice house: %w", err)
	}
	stop := context.AfterFunc(ctx, func() { _ = r.hold.Close() })
	defer stop()
	if err := json.NewDecoder(out).Decode(&r.Houses); err != nil {
		err = errors.Join(ctx.Err(), r.Stop()) // it has written all it had to say once it has ended
		if text := strings.TrimSpace(said.String()); text != "" {
			return nil, errors.New(text)
		}
		return nil, fmt.Errorf("the practice house did not start: %w", err)
	}
	return r, nil
}

// Stop ends the houses and waits for their goodbyes.
func (r *Running) Stop() error {
	_ = r.hold.Close()
	return r.cmd.Wait()
}
