package layout

import (
	"os/exec"
	"syscall"
)

// apart keeps Ctrl-C in a terminal from the houses: they end after who started them has said so.
func apart(c *exec.Cmd) { c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} }
