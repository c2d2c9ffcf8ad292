package filenames

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"umbau/internal/core/terms"
)

// What varies in the names of files, wherever in them it stands.
func TestPieces(t *testing.T) {
	for _, test := range []struct{ names, want string }{
		{"Lakes_2023,Lakes_2024", "<Lakes>_<year>"},
		{"Lakes,Amber Bay", "<Lakes>"},
		{"Lakes sales,Amber Bay sales", "<Lakes> sales"},
		{"sales_Lakes_2024-03,sales_Amber Bay_2024-04", "sales_<Lakes>_<month>"},
		{"2023_Lakes,2023_Amber Bay", "<year>_<Lakes>"},
		{"2024-03 Lakes,2024-04 Amber Bay", "<month> <Lakes>"},
		{"report Mar-24 Lakes,report Apr-24 Amber Bay", "report <month> <Lakes>"},
		{"Lakes-2024-03-export,Amber Bay-2024-04-export", "<Lakes>-<month>-export"},
		{"Lakes (2023),Amber Bay (2024)", "<Lakes> (<year>)"},
		{"Sales Lakes Mar 2024,Sales Amber Bay Apr 2024", "Sales <Lakes> <letters> <year>"},
		{"Lakes Mar 2024,Skerries Apr 2024", "<Lakes> <month>"},
		{"book 1_2023,book 2_2023", "book <1>_<year>"},
		{"export (1),export (2)", ""},
		{"Lakes_2023,Amber Bay", "<Lakes>[_]<2023>"},
		{"Lakes_2023-01,Amber Bay", ""},
		{"Lakes_2023,Amber Bay by branch", "<Lakes>[ by branch][_]<2023>"},
		{"Lakes_2023,Amber Bay by branch,Holm sales", ""},
		{"Lakes Jan,Lakes Feb", "<Lakes> <Jan>"},
		{"01 Lakes,02 Amber Bay", "<01> <Lakes>"},
		{"LAKES_JAN24,HOLM_FEB24", "<LAKES>_<JAN24>"},
		{"Lakes Jan-24,Lakes Feb-24", "<Lakes> <month>"},
		{"Lakes 12.2023,Lakes 01.2024", "<Lakes> <month>"},
		{"Lakes_2024.01,Lakes_2024.02", "<Lakes>_<month>"},
		{"Lakes (Ines),Amber Bay (Maren)", "<Lakes> (<Ines>)"},
		{"sales (Lakes),sales (Holm)", "sales (<Lakes>)"},
		{"Lakes,Copy of Holm", "[Copy of ]<Lakes>"},
		{"Lakes - Copy,Holm", "<Lakes>[ - Copy]"},
		{"Lakes by branch,Old Slip", "<Lakes>[ by branch]"},
		{"Lakes_Q1,Holm_Q1", "<Lakes>_<Q1>"},
		{"Lakes week 12,Lakes week 13", "<Lakes> week <12>"},
		{"Lakes KW12,Holm KW12", "<Lakes> KW<12>"},
		{"Lakes 2024 März,Holm 2024 April", "<Lakes> <month>"},
		{"Lakes sales_Jan,Holm sales_Feb", "<Lakes> sales_<Jan>"},
		{"Jan,Feb", "<Jan>"},
		{"sales Jan,sales Feb", "sales <Jan>"},
		{"2 Rivers,3 Bridges", "<2 Rivers>"},
		{"1. Lakes,2. Holm", "<1>. <Lakes>"},
		{"Lakes_2024_Jan,Lakes_2024_Feb", "<Lakes>_<year>_<Jan>"},
		{"Lakes_export_20240412,Amber Bay_export_20240413", "<Lakes>_export_<day>"},
		{"Lakes 20240412", "<Lakes> <day>"},
		{"Lakes sales,Amber Bay,Old Slip sales", "<Lakes>[ sales]"},
		{"Dock Line 15 m,Fender", "<Dock Line 15 m>"},
		{"Lakes sales,Lakes,Old Slip sales", "<Lakes sales>"},
		{"Lakes sales,Amber Bay report", "<Lakes>[ sales][ report]"},
		{"2023,2024", "<year>"},
		{"Tern Head sales", "<Tern Head> sales"},
		{"New Quay_2024", "<New Quay>_<year>"},
		{"sales_2024_01,sales_2024_02", "<sales>_<year>_<01>"},
		{"Lakes head office", "<Lakes> head office"},
		{"head office Lakes 2024-03", "head office <Lakes> <month>"},
	} {
		require.Equal(t, test.want, shown(Pieces(strings.Split(test.names, ","))), test.names)
	}
}

// Words that somebody put beside some labels may be there or not; those that tell names apart, and parts of names of things, are labels.
func TestWordsThatSomeNamesHave(t *testing.T) {
	for _, test := range []struct{ names, want string }{
		{"Lakes final 2024,Amber Bay 2024", "<Lakes>[ final] <year>"},
		{"Lakes_v2_2024,Amber Bay_2024", "<Lakes>[_v2]_<year>"},
		{"final Lakes 2024,Amber Bay 2024", "[final ]<Lakes> <year>"},
		{"Lakes 2024 corrected,Amber Bay 2024", "<Lakes> <year>[ corrected]"},
		{"Lakes_2024-01,Lakes_2024-02_final", "<Lakes>_<month>[_final]"},
		{"Lakes signed off,Amber Bay,Old Slip (2)", "<Lakes>[ signed off][ (2)]"},
		{"Lakes Jan to Apr,Amber Bay", "<Lakes>[ Jan to Apr]"},
		{"Lakes 2024,Lakes final 2024", "<Lakes> <year>"},
		{"Lakes v1 2024,Lakes v2 2024", "Lakes <v1> <year>"},
		{"Lakes Jan-Apr,Amber Bay", "<Lakes>[ Jan-Apr]"},
		{"Lakes-final,Amber Bay", "<Lakes>[-final]"},
		{"Cape May,Amber Bay", "<Cape May>"},
		{"Mar Road 2024,Holm 2024", "<Mar Road> <year>"},
		{"Lakes 2023,Lakes orders 2024", "<Lakes> <year>"},
		{"Holm invoices 2024,Lakes 2024", "<Holm invoices> <year>"},
		{"Holm draft 2024,Lakes bookings 2024", "<Holm draft> <year>"},
		{"Chart Table 2024,Oar 2024", "<Chart Table> <year>"},
		{"Lakes corrected 2024", "<Lakes>[ corrected] <year>"},
	} {
		require.Equal(t, test.want, shown(Pieces(strings.Split(test.names, ","))), test.names)
	}
}

// Words that several names have in common are part of them, where names of places are made so.
func TestNamesOfPlaces(t *testing.T) {
	for _, test := range []struct{ names, want string }{
		{"New Quay,New Harbour", "<New Quay>"},
		{"Amber Bay,Long Bay", "<Amber Bay>"},
		{"Sales North Lakes 2024,Sales North Holm 2024", "Sales <North Lakes> <year>"},
		{"Amber Bay sales,Long Bay sales", "<Amber Bay> sales"},
		{"Halyard Lakes,Halyard Holm", "Halyard <Lakes>"},
		{"Halyard North,Halyard South", "Halyard <North>"},
		{"Upper Lock sales,Lower Lock sales", "<Upper Lock> sales"},
		{"sales Stone Ness,sales Stone Head", "sales <Stone Ness>"},
		{"Bay of Ann,Bay of Bo", "<Bay of Ann>"},
		{"Quay 4,Quay 7", "<Quay 4>"},
	} {
		require.Equal(t, test.want, shown(Pieces(strings.Split(test.names, ","))), test.names)
	}
}

// A month and a year are found wherever they stand in names, whatever parts them.
func TestMonthsWithinNames(t *testing.T) {
	for _, test := range []struct{ names, want string }{
		{"Lakes_Nov2023,Holm_Dec2023", "<Lakes>_<letters><year>"},
		{"Nov_2023,Dec_2023", "<letters>_<year>"},
		{"Nov_2023 report,Dec_2023 report", "<letters>_<year> report"},
		{"2023_11_Lakes,2023_12_Amber Bay", "<year>_<11>_<Lakes>"},
		{"report_2023-11_Lakes,report_2023-12_Lakes", "report_<year>-<11>_<Lakes>"},
		{"till 202311 Lakes export,till 202312 Holm export", "till <month> <Lakes> export"},
		{"Lakes (11.2023),Holm (12.2023)", "<Lakes> (<month>)"},
		{"2023 Nov Lakes,2023 Dec Lakes", "<month> <Lakes>"},
		{"Lakes 2023-11 sales till,Holm 2023-12 sales till", "<Lakes> <year>-<11> sales till"},
		{"Nov 2023 Lakes,Dec 2023 Holm", "<letters> <year> <Lakes>"},
		{"Lakes_2023-11-15_x,Holm_2023-11-16_x", "<Lakes>_<day>_x"},
		{"Old 2023_11 New,Pier 2023_12 Quay", "<Old 2023_11 New>"},
		{"Lakes.2023-11,Holm.2023-12", "<Lakes>.<month>"},
		{"Lakes Dec-23,Lakes Jan-24", "<Lakes> <month>"},
		{"Lakes Nov-05,Holm Nov-12", "<Lakes> <Nov-05>"}, // days, perhaps: years that far from each other are not guessed
		{"Lakes Nov-26,Lakes Dec-03,Lakes Dec-10", "<Lakes> <Nov-26>"},
	} {
		require.Equal(t, test.want, shown(Pieces(strings.Split(test.names, ","))), test.names)
	}
}

// Names of sheets, and of tables of a database, have words that say nothing, and months of figures.
func TestOfSheets(t *testing.T) {
	for names, want := range map[string]string{"Sales Lakes,Sales Holm": "Sales <Lakes>", "Lakes,Holm": "<Lakes>",
		"sales_2024_01,sales_2024_02": "sales_<year>_<01>", "New Quay,New Harbour": "<New Quay>",
		"Sales 2023,Sales 2024": "Sales <year>", "01 Lakes,02 Holm": "<01> <Lakes>",
		"2024-01 Lakes,2024-02 Holm": "<month> <Lakes>", "Tide Table": "<Tide Table>",
		"Dock Line 15 m,Tide Table,Fender": "<Dock Line 15 m>", "Sales Lakes": "Sales <Lakes>",
		"Nov Lakes,Dec Holm": "<letters> <Lakes>", "Old Slip (Nov),New Slip (Dec)": "<Old Slip> (<Nov>)", "May,Jun": "<May>",
		"Old Slip Nov 2023,New Slip Dec 2023": "<Old Slip> <letters> <year>", "Lakes (2023-11),Lakes (2023-12)": "Lakes (<month>)",
		"Mar Road,Holm": "<Mar Road>"} {
		require.Equal(t, want, shown(OfSheets(strings.Split(names, ","))), names)
	}
}

// Times are parted where all of them are made alike.
func TestWordsThatSomeSheetsHave(t *testing.T) {
	for names, want := range map[string]string{
		"Lakes final,Amber Bay": "<Lakes>[ final]", "final Lakes,Amber Bay": "[final ]<Lakes>",
		"Lakes final 2024,Amber Bay 2024":   "<Lakes>[ final] <year>",
		"Lakes final,Amber Bay,Lakes final": "<Lakes>[ final]", "Lakes,Lakes final": "<Lakes>", "Lakes final": "<Lakes final>",
	} {
		require.Equal(t, want, shown(OfSheets(strings.Split(names, ","))), names)
	}
}

// So it is with titles.
func TestWordsThatSomeTitlesHave(t *testing.T) {
	for titles, want := range map[string]string{
		"Region: Lakes (final)|Region: Holm":     "Region: <Lakes>[ (final)]",
		"Region: Lakes - corrected|Region: Holm": "Region: <Lakes>[ - corrected]",
		"Region: Lakes in EUR|Region: Holm":      "Region: <Lakes>[ in EUR]", "Region: Lakes|Region: Holm": "Region: <Lakes>",
	} {
		require.Equal(t, want, shown(OfTitles("Region: ", strings.Split(titles, "|"))), titles)
	}
	texts := []string{"Sales report Lakes final", "Sales report Holm"}
	require.Equal(t, "Sales report <Lakes>[ final]", shown(OfHeadlines(texts, false)))
	require.NotPanics(t, func() { Pieces([]string{"sales Oar sales", "sales sales"}) })
}

func TestTimePartsOf(t *testing.T) {
	for times, want := range map[string]string{
		"Nov-23,Dec-23": "mon-part", "2023-11-15,2024-01-02": "year-part-part", "15.11.2023,2.1.2024": "part.part.year",
		"Nov-23,Dec 23": "", "Nov-23,2023-12": "", "2023": "", "(Nov-23": "", "2023-11,2023-12-01": "", "Nov–23": "", "": ""} {
		parts := TimePartsOf(strings.Split(times, ","))
		require.Equal(t, want, strings.Join(parts.Names, parts.Sign), times)
	}
}

// Of a name the words that say nothing of what it is of go, if they do not belong to it.
func TestGeneralEnds(t *testing.T) {
	for text, want := range map[string]string{"Lakes sales": "Lakes", "Sales New Quay": "New Quay", "Old Slip export": "Old Slip",
		"Alarm System": "Alarm System", "export Alarm System": "Alarm System", "New Quay": "New Quay", "Lakes head office": "Lakes",
		"SAP export": "SAP export", "Kassenbericht": "Kassenbericht", "Lakes archive": "Lakes",
		"Daten neu": "Daten neu", "new": "new", "New Quay data new": "New Quay", "- (": "- ("} {
		before, after := GeneralEnds(text)
		require.Equal(t, want, strings.TrimSpace(text[len(before):len(text)-len(after)]), text)
	}
	pieces := strings.Fields("new old sales system data Lakes 2024 -- __ - ( ) é Ω # head office a1 Q1 Jan 2024-03 20240331 v2 final")
	r := rand.New(rand.NewPCG(1, 2))
	for range 20_000 {
		text := ""
		for range 1 + r.IntN(7) {
			text += pieces[r.IntN(len(pieces))]
		}
		before, after := GeneralEnds(text)
		require.Less(t, len(before)+len(after), len(text), text)
		require.True(t, strings.HasPrefix(text, before) && strings.HasSuffix(text, after), text)
	}
}

// shown are pieces as a text.
func shown(pieces []Piece) (out string) {
	for _, p := range pieces {
		if p.Absent {
			out += "[" + p.Before + "]"
		} else {
			out += p.Before
		}
		switch {
		case p.Letters:
			out += "<letters>"
		case p.Time != terms.None:
			out += "<" + string(p.Time) + ">"
		case len(p.Values) > 0:
			out += "<" + p.Values[0] + ">"
		}
	}
	return out
}

// What differs in titles, and a time that all have; of the parts of times each has a piece where the whole has none.
func TestOfHeadlines(t *testing.T) {
	for texts, want := range map[string]string{
		"Sales of Lakes|Sales of Long Sound":                           "Sales of <Lakes>",
		"Lakes: sales by branch|Amber Bay: sales by branch":            "<Lakes>: sales by branch",
		"Sales (Lakes)|Sales (Holm)":                                   "Sales (<Lakes>)",
		"Sales of Lakes, Jan 2024|Sales of Holm, Feb 2024":             "Sales of <Lakes>, <month>",
		"Sales of Lakes (2024-01)|Sales of Holm (2024-01)":             "Sales of <Lakes> (<month>)",
		"Q1 2024: Lakes|Q2 2024: Holm":                                 "<quarter>: <Lakes>",
		"for January 2024|for January 2024":                            "for <month>",
		"Halyard & Moss|Halyard & Moss":                                "",
		"Lakes as of 2024-05-01|Holm as of 2024-05-01":                 "",
		"Jan 2024 to Mar 2024|Apr 2024 to Jun 2024":                    "",
		"Lakes, Jan 2024|Holm":                                         "",
		"Lakes in Jan 2024 by Anna|Holm in Feb 2024 by Ben":            "",
		"Sales Lakes 2024-01|Sales Long Sound 2024-02":                 "Sales <Lakes> <month>",
		"apart: Sales Lakes 2024-01|apart: Sales Long Sound 2024-02":   "apart: Sales <Lakes> <year>-<01>",
		"apart: Sales Lakes Jan 2024|apart: Sales Long Sound Feb 2024": "apart: Sales <Lakes> <letters> <year>",
	} {
		require.Equal(t, want, shown(OfHeadlines(strings.Split(texts, "|"), strings.HasPrefix(texts, "apart"))), texts)
	}
}

// Folders are called by times, by labels, or by both; months of a year have numbers.
func TestOfFolders(t *testing.T) {
	for names, want := range map[string]string{
		"2024-01,2024-02": "<month>", "sales_2024-01,sales_2024-02": "<sales>_<month>", "Lakes_2024-01,Holm_2024-02": "<Lakes>_<month>",
		"02-February,03-March": "<02>-<letters>", "Lakes,Amber Bay": "<Lakes>", "01,02": "<01>", "coast Lakes,coast Holm": "coast <Lakes>",
	} {
		require.Equal(t, want, shown(OfFolders(strings.Split(names, ","))), names)
	}
	for names, want := range map[string]string{
		"sales 01,sales 02": "sales <01>", "03_report,12_report": "<03>_report", "export 01,export 02": "", "till 01,till 02": "",
		"Lakes 01,Lakes 02": "", "sales 13": "",
	} {
		require.Equal(t, want, shown(MonthsOfYear(strings.Split(names, ","))), names)
	}
	require.Equal(t, "delivery_<month>", shown(Unvaried(OfFolders([]string{"delivery_202401", "delivery_202402"}))))
}

// Whatever a name is, its ends are parts of it that do not overlap.
func TestAnyEnds(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	words := strings.Split("new|old|sales|data|Lakes|2024|--|__|-|(|)|é|Ω|#|head office|a1|Q1|Jan|01|of|Region:|[x]|{y}|*|by| ", "|")
	for range 50_000 {
		name := ""
		for range 1 + r.IntN(4) {
			name += words[r.IntN(len(words))] + []string{"", " ", "_", "-"}[r.IntN(4)]
		}
		before, after := GeneralEnds(name)
		require.True(t, strings.HasPrefix(name, before) && strings.HasSuffix(name[len(before):], after), "%q: %q %q", name, before, after)
	}
}

// From when to when a month is, in names of files; a label that may end there is none, and other spans are of no time.
func TestSpansInNames(t *testing.T) {
	for _, test := range []struct{ names, want string }{
		{"Lakes_20240101-20240131,Holm_20240201-20240229", "<Lakes>_<day>-<month>"},
		{"Lakes 01.01.2024-31.01.2024,Holm 01.02.2024-29.02.2024", "<Lakes> 01.<day>-<month>"},
		{"Lakes 02.01.2024-31.01.2024,Holm 01.02.2024-29.02.2024", "<Lakes> <day>-<month>"},
		{"Old Slip 01.01.2024-31.01.2024,Holm 01.02.2024-29.02.2024", "<Old Slip> 01.<day>-<month>"},
		{"Old Slip (2024-01-01 to 2024-01-31)", "<Old Slip> (<day> to <month>)"},
		{"Old Slip 2024-01-01 to 2024-01-31", ""},
		{"20240101-20240131 Old Slip,20240201-20240229 Holm", "<day>-<month> <Old Slip>"},
		{"Lakes_20240101-20240331,Lakes_20240401-20240630", "<Lakes>_<day>-<day>"},
		{"sales_2024-01_20240205,sales_2024-02_20240304", "sales_2024-<01>_<day>"},
	} {
		require.Equal(t, test.want, shown(Pieces(strings.Split(test.names, ","))), test.names)
	}
}

// What lines above tables say of a month from when to when; others, and what can be read in two ways, are none.
func TestOfSpans(t *testing.T) {
	for _, test := range []struct{ texts, want string }{
		{"Period: 01.01.2024 - 31.01.2024|Period: 01.02.2024 - 29.02.2024", "Period: <day> - <month>"},
		{"Sales from 1 Jan 2024 to 31 Jan 2024 (net)", "Sales from <day> to <month> (net)"},
		{"01/02/2024 bis 10/02/2024", "<day> bis <month>"},
		{"02/01/2024 - 02/10/2024", ""}, // February, or none
		{"01/01/2024 - 01/01/2024", "<day> - <month>"},
		{"Period: 01.01.2024 - 31.03.2024", ""},
		{"Period: 31.01.2024 - 01.01.2024", ""},
		{"Period: 01.01.2024 - 31.01.2024|Zeitraum: 01.02.2024 - 29.02.2024", ""},
		{"Tables 12 - 14", ""},
		{"Period: January", ""},
	} {
		require.Equal(t, test.want, shown(OfSpans(strings.Split(test.texts, "|"))), test.texts)
	}
}
