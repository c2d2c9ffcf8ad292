// Package expression holds regular expressions that most runs of the program
// never ask: each is compiled when it is first asked for, so that a command that reads
// no names of files does not wait for what they are taken apart by.
package expression

import (
	"regexp"
	"sync"
)

// Of returns what compiles an expression (the syntax of package regexp) once, at
// its first call, and gives it. It panics there where the expression is none.
func Of(text string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(text) })
}
