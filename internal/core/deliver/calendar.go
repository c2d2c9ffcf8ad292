package deliver

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"umbau/internal/core/table"
	"umbau/internal/core/value"
)

// calendarHeader is that of the table of months, or of days, its id aside.
func calendarHeader(days bool, own value.Calendar) []table.SinkColumn {
	out := []table.SinkColumn{{Name: "month", Is: "month", Decimals: -1}}
	if days {
		out = append(out, table.SinkColumn{Name: "day", Is: "date", Decimals: -1})
	}
	out = append(out, table.SinkColumn{Name: "quarter", Is: "quarter", Decimals: -1}, table.SinkColumn{Name: "year", Is: "year", Decimals: -1})
	if own.Starts > 0 {
		out = append(out, table.SinkColumn{Name: "fiscal_quarter", Is: "quarter", Decimals: -1},
			table.SinkColumn{Name: "fiscal_year", Is: "year", Decimals: -1})
	}
	return out
}

// calendarID is the id of a month or a day: 202407, 20240731.
func calendarID(text string) int {
	id, _ := strconv.Atoi(strings.ReplaceAll(text, "-", "")) // a date as it is delivered
	return id
}

// writeCalendar gives every month, or day, from the first to the last.
func (d *dimension) writeCalendar(own value.Calendar, line func(id int, values []string) error) error {
	if len(d.order) == 0 {
		return nil
	}
	form := "2006-01"
	if d.days {
		form = time.DateOnly
	}
	var all []string
	for _, m := range d.order {
		all = append(all, m.values[0])
	}
	first, err := time.Parse(form, slices.Min(all))
	last, err2 := time.Parse(form, slices.Max(all))
	if err != nil || err2 != nil {
		return fmt.Errorf("%s to %s are no dates", slices.Min(all), slices.Max(all))
	}
	for at := first; !at.After(last); {
		date := value.Date{Year: at.Year(), Month: int(at.Month()), Day: at.Day()}
		values := []string{at.Format("2006-01")}
		if d.days {
			values = append(values, at.Format(form))
		}
		values = append(values, quarterOf(value.Calendar{}, date), fmt.Sprintf("%04d", date.Year))
		if own.Starts > 0 {
			values = append(values, quarterOf(own, date), fmt.Sprintf("%04d", own.Year(date)))
		}
		if err := line(calendarID(at.Format(form)), values); err != nil {
			return err
		}
		if d.days {
			at = at.AddDate(0, 0, 1)
		} else {
			at = at.AddDate(0, 1, 0)
		}
	}
	return nil
}

func quarterOf(c value.Calendar, d value.Date) string {
	return fmt.Sprintf("%04d-Q%d", c.Year(d), c.Quarter(d))
}
