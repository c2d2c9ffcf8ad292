package since

import (
	"fmt"
	"strings"
)

// The sentences in which terminal and page tell what is new. Texts come as they are to be shown; at is a file and its sheet.

// SaysText tells that a line above a table or a name says something of all figures, or that none does any more; without a
// file, that cells do.
func SaysText(at, before, now string) string {
	switch {
	case at == "" && now != "":
		return fmt.Sprintf("cells say %s; none did then", now)
	case at == "":
		return fmt.Sprintf("no cell says %s any more", before)
	case now != "":
		return fmt.Sprintf("%s says %q of its figures; nothing said so then", at, now)
	}
	return fmt.Sprintf("nothing says %q of its figures any more, as %s did", before, at)
}

// SizeText tells that a measure has far more or less in a fact row of an extract than it had.
func SizeText(at, measure, mean, least, most string) string {
	return fmt.Sprintf("%s: %s is %s a fact row, was %s to %s in each extract then: is it in other units?", at, measure, mean, least, most)
}

// BehindText tells that a group has nothing in the last month of the others.
func BehindText(group, now string) string {
	return fmt.Sprintf("%s has nothing in %s, as others do: is its delivery missing?", group, now)
}

// ValueText is a text of a column, and the one that it is like, if any, in whichever column.
func ValueText(text, column, like, likeColumn string) string {
	switch text += " of " + column; {
	case like == "":
		return text
	case likeColumn != column:
		return text + " (of " + likeColumn + " before)"
	default:
		return text + " (like " + like + ")"
	}
}

// SpanText is the first and the last of a column of time, and what they were.
func SpanText(before, now string) string {
	told := func(span string) string {
		first, last, _ := strings.Cut(span, "/")
		if first == last {
			return first
		}
		return first + " to " + last
	}
	switch {
	case before == "":
		return told(now)
	case now == "":
		return "none, was " + told(before)
	}
	return told(now) + ", was " + told(before)
}
