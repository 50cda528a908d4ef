package practice

import "sync"

// faults holds which are on.
type faults struct {
	mu sync.Mutex
	is map[string]bool
}

func (f *faults) on(name string) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.is[name]
}

func (f *faults) set(name string, on bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.is == nil {
		f.is = map[string]bool{}
	}
	f.is[name] = on
}
