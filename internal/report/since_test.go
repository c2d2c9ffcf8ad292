package report

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What is new comes from the record: alarms first, restated figures with their differences, the rest in a line a kind.
func TestNews(t *testing.T) {
	read := func(text string) *news {
		var a account
		require.NoError(t, json.Unmarshal([]byte(`{"since": `+text+`}`), &a))
		return a.news()
	}
	require.Nil(t, read("null"))
	require.Nil(t, read(`{"first": true, "extracts": []}`))
	require.Nil(t, read(`{"first": false, "extracts": [], "rows": []}`), "nothing is new")
	n := read(`{"first": false,
		"extracts": [{"what": "extract", "file": "raw/Lakes.xlsx", "sheet": "2024", "column": null, "name": null, "group": null, "measure": null,
			"before": null, "now": "785a356ab81b"}],
		"names": [{"what": "name", "file": null, "column": "product", "name": "Rope", "before": 3, "now": null}],
		"rows": [], "amounts": [], "headers": [],
		"groups": [{"group": "Lakes | 2024-01", "measure": "amount", "before": "1000.50", "now": "999.25"},
			{"group": "Holm", "measure": "amount", "before": "-5", "now": null}]}, "noticed": {
		"values": [{"column": "branch", "value": "Pire", "new": true, "like": "Pier", "like_column": "branch"},
			{"column": "branch", "value": "Mole", "new": false, "like": null, "like_column": null}],
		"spans": [{"column": "day", "before": "2024-01-01/2024-01-31", "now": null}],
		"says": [{"file": "raw/Lakes.xlsx", "sheet": "2024", "text": "in <b>USD</b>", "new": true}, {"file": null, "sheet": null,
			"text": "amount in EUR", "new": false}],
		"sizes": [{"file": "a.csv", "sheet": null, "measure": "amount", "mean": "2.3333333333333333", "least": "1000", "most": "1200.5"}],
		"behind": [{"group": "Skerries", "then": "2024-01", "now": "2024-02"}]}`)
	require.Equal(t, []string{`raw/Lakes.xlsx, sheet 2024 says "in <b>USD</b>" of its figures; nothing said so then`,
		"no cell says amount in EUR any more", "a.csv: amount is 2.33 a fact row, was 1,000.00 to 1,200.50 in each extract then: " +
			"is it in other units?",
		"Skerries has nothing in 2024-02, as others do: is its delivery missing?"}, n.Alarms)
	require.Equal(t, []restated{{"Lakes | 2024-01", "amount", "1,000.50", "999.25", "-1.25"}, {"Holm", "amount", "-5", "", "+5"}}, n.Restated)
	require.Equal(t, []string{"1 extract new: raw/Lakes.xlsx, sheet 2024", "1 name gone: Rope of product",
		"1 value new: Pire of branch (like Pier)", "1 value gone: Mole of branch", "day: none, was 2024-01-01 to 2024-01-31"}, n.Rest)

	var many strings.Builder
	for i := range 25 {
		many.WriteString(strings.Repeat(",", min(i, 1)) + `{"group": "g", "measure": "m", "before": "1", "now": "2"}`)
	}
	n = read(`{"first": false, "groups": [` + many.String() + `]}, "noticed": {"behind": [` + many.String() + `]}`)
	require.Len(t, n.Alarms, 11)
	require.Equal(t, "and 15 more such", n.Alarms[10])
	require.Len(t, n.Restated, 20)
	require.Equal(t, 5, n.More)
}
