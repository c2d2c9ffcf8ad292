//go:build unix

package e2e

import (
	"context"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// window is a real browser that is looking at a page.
type window struct {
	context.Context
	t     *testing.T
	mutex sync.Mutex
	asked []string // what it loaded
	said  []string // errors, and what its policy refused
}

// open opens a page in a browser of some size.
func open(t *testing.T, file string, width, height int64) *window {
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.ExecPath(need(t, "chromium")))
	alloc, cancel := chromedp.NewExecAllocator(context.Background(), options...)
	t.Cleanup(cancel)
	ctx, cancel := chromedp.NewContext(alloc)
	t.Cleanup(cancel)
	w := &window{Context: ctx, t: t}
	require.NoError(t, chromedp.Listen(ctx, func(event any) {
		w.mutex.Lock()
		defer w.mutex.Unlock()
		switch e := event.(type) {
		case *network.EventRequestWillBeSent:
			w.asked = append(w.asked, e.Request.URL)
		case *log.EventEntryAdded:
			w.said = append(w.said, e.Entry.Text)
		case *runtime.EventExceptionThrown:
			w.said = append(w.said, e.ExceptionDetails.Text)
		}
	}))
	call(w, network.Enable, network.EnableParams{})
	call(w, log.Enable, cdp.Empty{})
	call(w, runtime.Enable, cdp.Empty{})
	w.size(width, height)
	w.visit(file, "")
	return w
}

// call gives the browser a command.
func call[P, R any](w *window, command cdp.Command[P, R], params P) R {
	w.t.Helper()
	out, err := chromedp.Call(w, command, params)
	require.NoError(w.t, err)
	return out
}

// size makes the window so large.
func (w *window) size(width, height int64) {
	call(w, emulation.SetDeviceMetricsOverride, emulation.SetDeviceMetricsOverrideParams{Width: width, Height: height, DeviceScaleFactor: 1})
}

// media says how the page is to be shown: "" or print, light or dark.
func (w *window) media(kind, scheme string) {
	call(w, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: kind,
		Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}})
}

// visit goes to a page with a choice.
func (w *window) visit(file, choice string) {
	w.t.Helper()
	address := (&url.URL{Scheme: "file", Path: file}).String() + choice
	require.NoError(w.t, chromedp.Do(w, chromedp.Navigate("about:blank"), chromedp.Navigate(address)))
}

// wait waits until an expression is true in the page, which may be on its way yet.
func (w *window) wait(expression string) {
	w.t.Helper()
	require.Eventually(w.t, func() bool {
		is, err := chromedp.Run(w, chromedp.Evaluate[bool](expression))
		return err == nil && is
	}, 20*time.Second, 20*time.Millisecond, expression)
}

// ready waits until the cross table has been drawn by its program.
func (w *window) ready() {
	w.t.Helper()
	w.wait(`document.querySelector('#cross[data-ready="yes"]') !== null`)
}

// eval is what an expression is in the page.
func eval[T any](w *window, expression string) T {
	w.t.Helper()
	out, err := chromedp.Run(w, chromedp.Evaluate[T](expression))
	require.NoError(w.t, err, expression)
	return out
}

// quiet requires that the page asked for nothing, and that nothing went wrong in it.
func (w *window) quiet() {
	w.t.Helper()
	w.mutex.Lock()
	defer w.mutex.Unlock()
	for _, asked := range w.asked {
		own := strings.HasPrefix(asked, "file:") && strings.Contains(asked, ".html")
		require.True(w.t, own || strings.HasPrefix(asked, "blob:") || asked == "about:blank", asked)
	}
	require.NotEmpty(w.t, w.asked)
	require.Empty(w.t, w.said)
}
