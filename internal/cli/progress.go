package cli

import (
	"io"
	"os"
	"sync"
	"time"

	"github.com/mattn/go-isatty"
	"github.com/vbauerster/mpb/v8"
	"github.com/vbauerster/mpb/v8/decor"
)

// progress is a bar on a terminal, once work has lasted a second; elsewhere it
// is nothing.
type progress struct {
	what  string
	out   io.Writer
	begin time.Time
	mutex sync.Mutex
	bars  *mpb.Progress
	bar   *mpb.Bar
}

func (a *app) progress(what string) *progress {
	f, ok := a.err.(*os.File)
	if a.quiet || !ok || !isatty.IsTerminal(f.Fd()) {
		return &progress{}
	}
	return &progress{what: what, out: f, begin: time.Now()}
}

// set shows how far the work is.
func (p *progress) set(done, all int64) {
	if p.out == nil {
		return
	}
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.bar == nil {
		if time.Since(p.begin) < time.Second {
			return
		}
		p.bars = mpb.New(mpb.WithOutput(p.out), mpb.WithWidth(50))
		p.bar = p.bars.New(all, mpb.BarStyle().Lbound("").Filler("▇").Tip("").Padding("·").Rbound(""), mpb.BarRemoveOnComplete(),
			mpb.PrependDecorators(decor.Name(p.what+" ")), mpb.AppendDecorators(decor.CountersKibiByte(" % .1f of % .1f")))
	}
	p.bar.SetCurrent(done)
}

// stop takes the bar away.
func (p *progress) stop() {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.bar != nil {
		p.bar.Abort(true)
		p.bars.Wait()
		p.bar, p.out = nil, nil
	}
}
