package whole

import (
	"os"
	"slices"
	"sync"
)

// unfinished is what a program that must end at once takes away.
var unfinished struct {
	mutex   sync.Mutex
	files   map[string]bool
	folders []*Folders
}

func begin(file string) {
	unfinished.mutex.Lock()
	defer unfinished.mutex.Unlock()
	if unfinished.files == nil {
		unfinished.files = map[string]bool{}
	}
	unfinished.files[file] = true
}

func end(file string) {
	unfinished.mutex.Lock()
	defer unfinished.mutex.Unlock()
	delete(unfinished.files, file)
}

// appearing is held while outputs appear, of which all or none are to.
var appearing struct {
	sync.Mutex
	done bool // some have
}

// Appearing runs do, in which outputs appear: a program that must end at once waits for it.
func Appearing(do func()) {
	appearing.Lock()
	defer appearing.Unlock()
	do()
	appearing.done = true
}

// AbandonAll removes all files that are under way, and the empty folders that were made for them. From
// then on nothing appears any more: the program must end. It reports whether outputs have appeared.
func AbandonAll() bool {
	appearing.Lock()
	unfinished.mutex.Lock()
	for file := range unfinished.files {
		for _, of := range []string{"", "-journal", "-wal", "-shm"} { // the last are those of a database
			os.Remove(file + of)
		}
	}
	for _, f := range slices.Backward(unfinished.folders) {
		f.remove()
	}
	return appearing.done
}

// Aside creates a file for what does not fit into memory. It has no name where the system allows that,
// and goes however the program ends.
func Aside() (*AsideFile, error) {
	f, err := os.CreateTemp("", "umbau-aside-")
	if err != nil {
		return nil, err
	}
	a := &AsideFile{f, f.Name()}
	if os.Remove(a.name) != nil { // it goes when it is closed
		begin(a.name)
	}
	return a, nil
}

// AsideFile is such a file.
type AsideFile struct {
	*os.File
	name string
}

// Close closes the file, which goes.
func (a *AsideFile) Close() error {
	err := a.File.Close()
	os.Remove(a.name)
	end(a.name)
	return err
}
