package deliver

import (
	"context"

	"umbau/internal/core/finished"
	"umbau/internal/core/table"
)

// Again gives the rows of finished tables, one after another, to a sink, which begins with the
// columns of the first; the others have the same. The error is a place.List where a table cannot
// be read, else that of the sink.
func Again(ctx context.Context, tables []*finished.Table, to table.Sink) error {
	for i, t := range tables {
		view := t.View()
		var columns []table.SinkColumn
		for _, c := range t.Columns {
			index, err := view.Column(c.Name)
			if err != nil {
				return err
			}
			columns = append(columns, table.SinkColumn{Index: index, Name: c.Name, Is: c.Kind.String(), Decimals: c.Decimals, Add: c.Add})
		}
		if i == 0 {
			if err := to.Begin(columns); err != nil {
				return err
			}
		}
		var failed error
		problems := view.Run(ctx, &Keeper{Sink: to, Failed: func(err error) { failed = err }})
		if failed != nil {
			return failed
		}
		if len(problems) > 0 {
			return problems
		}
	}
	return ctx.Err()
}
