package cli

import (
	"fmt"
	"io"
	"strings"
	"sync"
	"time"
)

// progress is a bar on a terminal, once work has lasted a second; elsewhere it
// is nothing.
type progress struct {
	what  string
	out   io.Writer
	mutex sync.Mutex
	next  time.Time // when it is drawn again
	drawn bool
}

func (a *app) progress(what string) *progress {
	f, ok := terminal(a.err)
	if a.quiet || !ok {
		return &progress{}
	}
	return &progress{what: what, out: f, next: time.Now().Add(time.Second)}
}

// set shows how far the work is.
func (p *progress) set(done, all int64) {
	if p.out == nil {
		return
	}
	p.mutex.Lock()
	defer p.mutex.Unlock()
	now := time.Now()
	if p.out == nil || now.Before(p.next) {
		return
	}
	p.next, p.drawn = now.Add(100*time.Millisecond), true
	const width = 40
	full := int(width * min(done, all) / max(1, all))
	const unit = 1 << 20
	fmt.Fprintf(p.out, "\r%s %s%s %.1f of %.1f MB ", p.what, strings.Repeat("▇", full), strings.Repeat("·", width-full), float64(done)/unit,
		float64(all)/unit)
}

// stop takes the bar away.
func (p *progress) stop() {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.drawn {
		fmt.Fprint(p.out, "\r\x1b[K")
	}
	p.out, p.drawn = nil, false
}
