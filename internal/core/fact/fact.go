// Package fact makes the fact table of a plan: its deliveries and its record appear
// together, when every rule has held, and a summary says what was done, or what stands in
// the way.
package fact

import (
	"context"
	"slices"
	"time"

	"umbau/internal/core/keep"
	"umbau/internal/core/pass"
	"umbau/internal/core/place"
	"umbau/internal/core/plan"
	"umbau/internal/core/record"
	"umbau/internal/core/table"
	"umbau/internal/core/treat"
	"umbau/internal/core/whole"
)

// Options say how to build.
type Options struct {
	Version string // of the program, for build.json
	Command string // its words, for build.json
	Workers int    // how many blocks are worked on at once; 0 for one a core
	DryRun  bool   // deliver and record nothing
	Where   bool   // find out where, and in which years, each name stands
	Begin   bool   // names are decided: a book that is not there, or empty, has no names yet, and others may write to it
	Share   *Share // read a share of the extracts and leave its part; deliver and record nothing
	Join    string // the folder of the parts of all shares, in the place of reading
	Accept  bool   // figures of the last delivered build may be others now, whatever the plan says
	Digests bool   // work out SHA-256 of files of any size
	// Gaps, if not nil, hears of each cell without a usable value, in the order of
	// the fact table; nothing else is done with repeats or control totals then.
	Gaps func(treat.GapCell)
	// Look, if not nil, gives keepers that look at the fact rows; those of the last reading of the
	// extracts see what is delivered.
	Look func() []pass.Keeper
	// Progress, if not nil, hears how many bytes of the extracts were read.
	Progress func(done, all int64)
}

// build is a build under way.
type build struct {
	ctx        context.Context
	plan       *plan.Plan
	options    Options
	summary    *Summary
	rules      pass.Rules
	inputs     []*pass.Input
	whole      bool                     // all references could be read
	references []string                 // the files of references
	tables     map[string][]table.Table // of the files that extracts are in
	controls   []*control
	out        *outputs // nil where nothing is written
	kept       kept
	within     place.Problem // rows that were added to others of their own extract
}

// kept is what a build keeps of its pass.
type kept struct {
	accounts *keep.Accounts
	names    keep.Names
	changes  *keep.Changes
	notes    keep.Notes
	applied  keep.Applied
	head     keep.Head
	grain    *keep.Grain
	groups   []*keep.Groups // by control
	history  *keep.Groups   // to be compared with the last delivered build; nil for none
	lookups  *keep.Lookups  // nil where no column is looked up
	noSales  *keep.NoSales
	values   *keep.Values
	sections keep.Sections
}

// Build builds. What stands in the way, the summary says; deliveries and record
// are then as they were, but for the record of a build that a rule stopped. The
// error is that of ctx, when it ended the build.
func Build(ctx context.Context, p *plan.Plan, o Options) (*Summary, error) {
	begin := time.Now()
	b := &build{ctx: ctx, plan: p, options: o, summary: &Summary{Plan: p, DryRun: o.DryRun}}
	defer func() {
		b.kept.grain.Close()
		b.out.abandon()
	}()
	b.prepare()
	if s := b.summary; b.whole && (len(s.Problems) == 0 || s.ExitCode() == 3) {
		prepared := slices.Clone(s.Problems)
		switch {
		case o.Share != nil:
			b.readShare(o.Share)
			return s, ctx.Err()
		case o.Join != "":
			b.join(o.Join)
		default:
			b.read()
		}
		if o.Gaps == nil {
			b.repeat(prepared)
		}
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	b.conclude()
	for _, in := range b.inputs {
		if in.Table.Close != nil {
			in.Table.Close()
		}
	}
	b.summary.Seconds = time.Since(begin).Seconds()
	b.publish()
	return b.summary, nil
}

func (b *build) fail(p place.Problem) { b.summary.Problems.Add(p) }

// prepare finds all that the build needs, before any work is done.
func (b *build) prepare() {
	s := b.summary
	lookups, whole := b.readReferences() // which may complete the plan
	b.whole = whole
	found := pass.Find(b.plan)
	b.inputs, b.tables = found.Inputs, found.Tables
	s.Problems.Merge(found.Problems)
	s.addInputs(found.Files...)
	s.Books = b.readBooks()
	b.rules = pass.Rules{Plan: b.plan, Books: s.Books, Lookups: lookups, Corrections: b.readCorrections(), Workers: b.options.Workers,
		Progress: b.options.Progress}
	if b.options.Gaps == nil {
		b.readControls()
	}
	b.begin()
	if b.checkTargets() && !b.options.DryRun && b.options.Share == nil && b.whole {
		b.openOutputs()
	}
}

// begin begins all that is kept.
func (b *build) begin() {
	b.kept.grain.Close()
	b.kept = kept{
		accounts: keep.NewAccounts(b.inputs), changes: keep.NewChanges(), grain: keep.NewGrain(b.plan),
		noSales: keep.NewNoSales(b.plan), values: keep.NewValues(b.plan),
		names: keep.Names{Where: b.options.Where}, head: keep.Head{Columns: b.plan.Kept(), Most: headRows},
	}
	if b.rules.Lookups != nil {
		b.kept.lookups = keep.NewLookups(b.rules.Lookups)
	}
	if b.options.Gaps == nil {
		b.kept.history = b.historyGroups()
	}
	for _, c := range b.controls {
		b.kept.groups = append(b.kept.groups, &keep.Groups{By: c.by, Measures: c.measures})
	}
}

// headRows is how many fact rows a dry run shows.
const headRows = 10

// read reads the extracts for all that is kept.
func (b *build) read() {
	k, s := &b.kept, b.summary
	s.Extracts, s.entries = k.accounts.Extracts, nil
	for _, in := range b.inputs {
		s.entries = append(s.entries, in.Entry)
	}
	b.out.begin(b.plan)
	checks := &keep.Checks{To: b.check}
	keepers := []pass.Keeper{k.accounts, &k.names, k.changes, &k.notes, &k.applied, checks, k.noSales, &k.sections}
	if b.options.DryRun {
		keepers = append(keepers, &k.head)
	}
	if b.options.Gaps != nil {
		keepers = append(keepers, &keep.Gaps{To: b.options.Gaps})
	}
	if k.grain != nil {
		keepers = append(keepers, k.grain)
	}
	if k.lookups != nil {
		keepers = append(keepers, k.lookups)
	}
	for _, g := range k.groups {
		keepers = append(keepers, g)
	}
	if k.history != nil {
		keepers = append(keepers, k.history)
	}
	if b.options.Gaps == nil {
		keepers = append(keepers, k.values)
	}
	if b.options.Look != nil {
		keepers = append(keepers, b.options.Look()...)
	}
	keepers = append(keepers, b.out.keepers()...)
	problems := pass.Run(b.ctx, &b.rules, b.inputs, keepers...)
	problems.Merge(s.Problems)
	s.Problems = problems
	for i, in := range b.inputs {
		if e := &s.Extracts[i]; e.Measures == nil { // it was not read to its end
			e.Measures = in.Measures
		}
	}
}

// conclude checks what only the whole build can tell.
func (b *build) conclude() {
	s := b.summary
	if b.whole {
		b.checkCorrections()
		b.compareControls()
		b.countLookups()
		b.checkAccounts()
	}
	for i := range s.Inputs {
		in := &s.Inputs[i]
		if !b.options.Begin || !slices.ContainsFunc(b.plan.Columns, func(c *plan.Column) bool { return c.Book == in.Name }) {
			b.checkInput(in)
		}
		in.Digest = digestOf(b.plan.At(in.Name), in.Bytes, b.options.Digests)
	}
	if b.options.Gaps == nil && b.whole {
		b.checkCopies()
		b.warnPlaces()
		b.warnSums()
		b.warnNoSales()
		b.warnSections()
		b.warnNameless()
		b.warnVersions()
		b.warnWithin()
		for _, in := range b.inputs {
			b.summary.Warnings.Merge(in.Doubts)
		}
		b.findNotRead()
	}
	s.Names, s.Footnotes, s.FootnoteRows, s.Head = b.kept.names.Tally, b.kept.notes.First, b.kept.notes.Rows, b.kept.head.Rows
	s.countChanges(b.kept.changes)
	s.listUnknown()
	if b.options.Gaps == nil && b.whole && s.ExitCode() != 1 { // else they were not read to their end
		b.compareWithLast()
	}
	for i := range s.Problems {
		s.explain(&s.Problems[i])
	}
	s.sortProblems()
}

// checkAccounts makes sure that every extract ties.
func (b *build) checkAccounts() {
	s := b.summary
	for i := range s.Extracts {
		e := &s.Extracts[i]
		s.FactRows += e.Rows.Fact
		for _, m := range e.Measures {
			t := e.Account(m).Totals()
			if t.Difference.Sign() == 0 && e.Rows.Balanced() {
				continue
			}
			p := place.At(place.Place{File: e.File, Sheet: e.Sheet}, "account",
				"column %s does not tie: read %s + changed %s is not fact %s + held %s + left out %s",
				s.Plan.Columns[m].Name, t.Read, t.Changed, t.Fact, t.Held, t.LeftOut)
			p.Advice = "this is a mistake in the program, not in your extracts; please report it"
			b.fail(p)
		}
	}
}

// tell is what a page is told of the build, whose other deliveries have ended.
func (b *build) tell(others []FileInfo) table.Told {
	s := b.summary
	s.Deliveries = others
	return table.Told{Build: s.Document(b.options.Version, b.options.Command).JSON(), At: time.Now(), Calendar: b.plan.Calendar,
		Plan: b.plan.Shown(), Own: b.plan.Source(), Record: b.out.record.Open}
}

// publish lets the files appear: deliveries if nothing stops the build, the
// record if the extracts could be read.
func (b *build) publish() {
	s, out := b.summary, b.out
	if out == nil || s.ExitCode() == 1 {
		return
	}
	for i := range s.Extracts {
		out.record.Write(record.RowsFile, record.AppendRows(nil, &s.Extracts[i]))
		out.record.Write(record.TiesFile, record.AppendTies(nil, s.Plan, &s.Extracts[i]))
	}
	out.writeNames(s.Plan, &s.Names)
	b.writeSince()
	s.Recorded = true
	if s.ExitCode() == 0 {
		s.Deliveries, s.Remarks = out.end(s.FactRows, b.options.Digests, b.tell)
	}
	out.record.Write(record.BuildFile, s.Document(b.options.Version, b.options.Command).JSON())
	appeared := false
	whole.Appearing(func() { appeared = out.appear(s.ExitCode() == 0) && b.keepLast() })
	if !appeared {
		s.Recorded, s.Deliveries = false, nil
	}
}
