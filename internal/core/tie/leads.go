package tie

// Leads find out whether the used rows of an extract, or those between two total rows, are groups that each begin
// with their own total, as pivot tables write them: from the first row on, or the second one below a total of all,
// to the last one; or that each end with it, a total of all below them or not. Rows are known by the hashes that runs have.
type Leads []Lead

// Lead follows groups of one kind.
type Lead struct {
	from  int    // the row that the first one begins with
	depth uint64 // 2 where the rows of a group are themselves groups that begin with a total; else 1
	least int    // rows of a group that ends with its total; 0 where they begin with it

	start  uint64 // the hash of the rows before all groups
	seen   int    // rows so far
	end    uint64 // the hash of all rows to the end of the group at hand, or of one that ends with its total to its beginning
	rows   int    // of it that have figures, its total aside
	groups int    // before it, of two rows or more for each level …
	single int    // … and of fewer
	over   bool   // these are no groups
	Heads  []Head // the first ones
	Count  int    // of all
	digits int    // of their figures, as far as these count: those of one that is as the one before do not
	own    uint64 // the hash of the last one
}

// Behind reports whether the groups end with their totals.
func (l *Lead) Behind() bool { return l.least > 0 }

// Head is a row that is the total of those below it, or above.
type Head struct {
	Line    int
	Label   string
	Telling bool // its figures are no chance
	None    bool // the plan says that it is no total
	Digits  int  // of its figures
	Shared  bool // the row below, or above, has the same label
}

const (
	// mostSingle is how many more groups there may be, for a time, of too few rows than of enough: rows that are all the same are such.
	mostSingle = 64
	mostHeads  = 1000 // that are kept
)

// LongFigure is how many digits a figure has that is no chance.
const LongFigure = 6

const (
	// fewRows is how many a table has at least that groups are looked for in: fewer may agree by chance.
	fewRows = 5
	// leastOfAll is how many there are at least, and as many groups of too few rows as others at most, where totals have certain digits.
	leastOfAll = 3
	// certain is how many digits several figures have together that are hardly a chance.
	certain = 10
)

// Reset begins again, below a total row or above all rows.
func (l *Leads) Reset() {
	*l = Leads{{depth: 1}, {from: 1, depth: 1}, {depth: 2}, {from: 1, depth: 2}, {depth: 1, least: 1}, {depth: 1, least: 2}}
}

// Follow takes in more rows, by their hashes; those before them add up to hash. headOf tells of one of them that is the
// total of rows above it, or below.
func (l Leads) Follow(hashes []uint64, hash uint64, headOf func(i int, behind bool) Head) {
	for k := range l {
		of := func(i int) Head { return headOf(i, l[k].Behind()) }
		if l[k].Behind() {
			l[k].followBehind(hashes, hash, of)
		} else {
			l[k].follow(hashes, hash, of)
		}
	}
}

// followBehind is follow for groups that end with their totals.
func (l *Lead) followBehind(hashes []uint64, hash uint64, headOf func(i int) Head) {
	if l.over {
		return
	}
	if l.seen == 0 {
		l.start, l.end = hash, hash // rows without figures add nothing
	}
	seen, rows, end := l.seen, l.rows, l.end // most rows change nothing else
	for i, own := range hashes {
		if own == 0 {
			continue
		}
		ofAll := rows == 0 && l.Count > 1 && 2*own == hash-l.start
		if ofAll || rows >= l.least && own == hash-end {
			if l.rows = rows; !ofAll {
				l.close()
			}
			l.begin(headOf(i), own)
			if end, rows = hash+own, 0; l.over {
				return
			}
		} else {
			rows++
		}
		seen++
		hash += own
	}
	l.seen, l.rows, l.end = seen, rows, end
}

func (l *Lead) follow(hashes []uint64, hash uint64, headOf func(i int) Head) {
	if l.over {
		return
	}
	seen, rows, end := l.seen, l.rows, l.end // most rows change nothing else
	for i, own := range hashes {
		if own == 0 {
			continue
		}
		if seen == l.from || seen > l.from && hash == end && rows > 0 {
			l.rows = rows
			l.close()
			l.begin(headOf(i), own)
			if end, rows = hash+own+l.depth*own, 0; l.over {
				return
			}
		} else {
			rows++
		}
		seen++
		hash += own
	}
	l.seen, l.rows, l.end = seen, rows, end
}

// begin takes the total of a group, and its hash.
func (l *Lead) begin(h Head, own uint64) {
	if l.Count++; len(l.Heads) < mostHeads {
		l.Heads = append(l.Heads, h)
	}
	if l.digits < certain && own != l.own {
		l.digits += h.Digits
	}
	l.own = own
	l.over = l.over || h.None || l.single > l.groups+mostSingle
}

// close counts the group at hand.
func (l *Lead) close() {
	switch {
	case l.Count == 0 && !l.Behind(): // above all groups
	case l.rows > int(l.depth):
		l.groups++
	default: // three rows of one figure are no total of two levels
		l.single++
	}
}

// Complete returns the groups, if all rows so far, which add up to hash, are such; those that are sure before others.
func (l Leads) Complete(hash uint64) (groups *Lead) {
	for _, g := range l {
		if g.over || g.Count == 0 || hash != g.end || g.Behind() != (g.rows == 0) {
			continue
		}
		if !g.Behind() {
			g.close()
		}
		if g.Sure() {
			return &g
		}
		if groups == nil && g.seen >= leastOfAll && g.groups > 0 && g.groups >= g.single && g.digits >= certain {
			groups = &g
		}
	}
	return groups
}

// Sure reports whether there are enough groups, and rows, to call their totals such; fewer may agree by chance, of rows that have some
// figures alike.
func (l *Lead) Sure() bool { return l.groups > l.single && l.seen >= fewRows && l.digits >= LongFigure }
