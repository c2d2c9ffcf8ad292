package cli

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	"time"

	"golang.org/x/term"

	"umbau/internal/core/place"
	"umbau/internal/core/whole"
)

// grace is how long a command may take to end in its own way once it is told to.
const grace = 400 * time.Millisecond

// untilTold is a context that ends when the program is told to. A command that does not end soon then,
// or is told once more, is ended: what is unfinished goes, and what appears just then does so whole.
func (a *app) untilTold() (ctx context.Context, stop func()) {
	ctx, cancel := context.WithCancel(context.Background())
	told, done := make(chan os.Signal, 2), make(chan struct{})
	signal.Notify(told, os.Interrupt, syscall.SIGTERM)
	go func() {
		select {
		case <-told:
		case <-done:
			return
		}
		cancel()
		select {
		case <-told:
		case <-time.After(grace):
		case <-done:
			return
		}
		a.endNow()
	}()
	return ctx, func() {
		signal.Stop(told)
		close(done)
		cancel()
	}
}

// endNow ends the program.
func (a *app) endNow() {
	message := "interrupted; nothing was delivered"
	if whole.AbandonAll() {
		message = "interrupted"
	}
	if before := a.terminal.Load(); before != nil {
		term.Restore(int(os.Stdin.Fd()), before)
		fmt.Fprintln(a.out)
	}
	list := place.List{{What: "interrupted", Message: message, Count: 1}}
	if a.json {
		a.printJSON(head(a.command, 1, list))
	} else {
		fmt.Fprintln(a.err, list.Error())
	}
	os.Exit(1)
}
