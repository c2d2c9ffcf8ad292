package table

// Target is where a delivery goes.
type Target struct {
	To   string // its path
	Mark string // with which the names of unfinished files begin
}

// SinkColumn is a column of a delivery.
type SinkColumn struct {
	Index    int // of the batches
	Name     string
	Is       string // its kind, as the plan names it
	Decimals int    // of a number; -1 for as many as it needs
}

// Sink takes the fact rows of a delivery, block by block, and lets all of them appear or
// none. Its methods are called by one goroutine; those of its parts as they say.
type Sink interface {
	// Begin begins, or begins again with nothing.
	Begin([]SinkColumn) error
	// Part returns what takes a block at a time.
	Part() SinkPart
	// End brings all that was put safely to where it will appear; it returns how many bytes
	// that is, and a file that has them, "" for none.
	End() (bytes int64, file string, err error)
	// Publish lets the delivery appear. It is called when all deliveries have ended well.
	Publish() error
	// Abandon removes what has not appeared.
	Abandon()
}

// SinkPart takes one block of a delivery.
type SinkPart interface {
	// Encode takes the delivered rows of a batch, beside other parts.
	Encode(*Batch)
	// Put puts them behind those of the blocks before; parts do so one after another.
	Put() error
}
