package terms

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What the figures below a header are, beside what was sold.
func TestNotSold(t *testing.T) {
	for _, h := range []string{"Average amount", "Sales YTD", "Umsatz kumuliert", "Cost of sales", "Net margin", "Amount LY",
		"Umsatz je Kunde", "Durchschnittsumsatz", "Open amount", "Planned sales", "Sales per head", "Balance", "Quote value", "Returned amount"} {
		require.True(t, NotSold(h), h)
	}
	for _, h := range []string{"Amount", "Net amount", "Sales excl. VAT", "Amount VAT incl.", "Umsatz ohne MwSt", "Amount net of tax", "Qtd",
		"Per", "Sales before discount", "Value", "Invoice amount", "Pro shop sales"} {
		require.False(t, NotSold(h), h)
	}
}

// What texts say of figures that have one name: in which money, by the thousand, net, of what.
func TestSenses(t *testing.T) {
	for want, texts := range map[string]string{
		"EUR": "Amount (EUR);Betrag €;Sales in euros", "GBP": "Amount £;GBP", "SEK": "Amount SEK", "": "Amount;All branches;Sales by Ron;Cup",
	} {
		for _, text := range strings.Split(texts, ";") {
			require.Equal(t, want, Money(text), text)
		}
	}
	for want, texts := range map[string]string{
		"thousands": "k€;in T€;in 1,000 EUR;EUR 1000;Amount '000;in TEUR;Angaben in Tausend;x 1000;1.000 EUR",
		"millions":  "in Mio. EUR", "cents": "Amount in pence", Ones: "Amount;Depot 1000;T-shirts;Order 1,000;Top 1000",
	} {
		for _, text := range strings.Split(texts, ";") {
			require.Equal(t, want, Scale(text), text)
		}
	}
	for want, texts := range map[string]string{
		"net": "Net sales;Amount ex VAT;Umsatz netto;ohne MwSt", "gross": "Amount incl. VAT;Brutto", "": "Amount;VAT;Ex works",
	} {
		for _, text := range strings.Split(texts, ";") {
			require.Equal(t, want, Tax(text), text)
		}
	}
	require.True(t, SaysTax("Prices excl. VAT") && SaysUnit("Quantity in dozens"))
	require.False(t, SaysTax("Sales of nets") || SaysTax("Incl. Quay 4") || SaysUnit("Boxes and bags"))
	require.True(t, SaysNet("Lakes net") && SaysThousands("Lakes TEUR") && SaysMoney("Lakes EUR") && SaysYear("Sales LY"))
	require.False(t, SaysThousands("Thousand Islands") || SaysNet("Lakes incl. Quay 4") || SaysYear("This year and last year"))
	require.NotEqual(t, Unit("Qty in boxes"), Unit("Qty (pcs)"))
	require.Equal(t, Pieces, Unit("Units"))
}

// Labels of which one has the figures of the other once more.
func TestAgain(t *testing.T) {
	for labels, want := range map[string]bool{
		"MTD,YTD": true, "Month,Cumulative": true, "TY,LY": true, "LC,GC": true, "Local currency,Group currency": true, "Sell-in,Sell-out": true,
		"Branch,Region": true, "Retail,Trade": false, "Local,Group": false, "Till,Web": false, "Branch,Web": false, "Branch,Outlet": false,
		"MTD,Month": false, "Lakes,Skerries": false, "": false,
	} {
		require.Equal(t, want, Again(strings.Split(labels, ",")), labels)
	}
	require.True(t, Taxes([]string{"excl. VAT", "incl. VAT"}) && SaysVersion("Budget version") && SaysSnapshot("As of"))
	require.False(t, Taxes([]string{"Net", "VAT"}) || SaysVersion("Aversion") || SaysSnapshot("Date"))
}

// What headers name, by all of them, their last word or their first.
func TestOf(t *testing.T) {
	for class, headers := range map[Class]string{
		Region:   "Sales area,Vertriebsgebiet,Zona de ventas,Gebied",
		Branch:   "Store name,Verkaufsstelle,Point of sale,Agência",
		Product:  "Item description,Artikelbezeichnung,Désignation,What",
		Day:      "Rechnungsdatum,Fecha,Sales day",
		Month:    "Sales month,Période,Maand",
		Year:     "Año,Jahr",
		Quantity: "Units sold,Stückzahl,Qté,Absatz,Bestellmenge",
		Amount:   "Net sales,Nettoumsatz,Chiffre d'affaires,Amount | Amount,Amount | EUR",
		Price:    "Unit price,Einzelpreis,Prix",
		Aside:    "Entered by,Amount remark",
		None:     "Client,,2024 | Holm",
	} {
		for _, h := range strings.Split(headers, ",") {
			require.Equal(t, class, Of(h), h)
		}
	}
}

// A header of figures alone names a measure or a price, and their unit.
func TestFiguresAlone(t *testing.T) {
	for header, want := range map[string]bool{"Amount": true, "Amount in EUR": true, "Betrag €": true, "Unit price": true,
		"Umsatzbetrag": true, "Amount Oar": false, "Oar": false, "Sales office": false} {
		require.Equal(t, want, FiguresAlone(header), header)
	}
}

func TestCounts(t *testing.T) {
	for header, want := range map[string]bool{"Month": true, "#": true, "Staff": true, "Last year": true, "% of total": true, "Ø": true,
		"Margin %": true, "Amount": false, "Oar": false, "Jan 2024": false, "YTD": false} {
		require.Equal(t, want, Counts(header), header)
	}
	require.True(t, SaysBeside("Amount YTD"))
	require.False(t, SaysBeside("Amount"))
	for k, want := range map[string]bool{"sku": true, "product code": true, "artikelnummer": true, "code": false, "no": false, "note": false} {
		require.Equal(t, want, SaysCode(k), k)
	}
}

func TestSaysNothing(t *testing.T) {
	for text, want := range map[string]bool{"SAP export 2024": true, "Kassenbericht": true, "old": true, "": true, "2024": true,
		"coast book": true, "head office": true, "Area 2": false, "Old Slip": false, "Alarm System": false, "Tern Head": false} {
		require.Equal(t, want, SaysNothing(text), text)
	}
}

// Times, and the example that reads them where the plan's default does not.
func TestTimesOf(t *testing.T) {
	for texts, want := range map[string]string{"2024": "year ", "2024-03": "month ", "Mar 2024,April 2024": "month ", "2024-Q1": "quarter ",
		"2024-03-31": "day ", "31/03/2024": "day 31/12/2024", "Dec-24": "month Dec-24", "2024,2024-03": " ", "Lakes": " ", "1899": " ", "": " "} {
		c, form := TimesOf(strings.Split(texts, ","))
		require.Equal(t, want, string(c)+" "+form, texts)
	}
	for texts, want := range map[string]Class{"Jan,März": Month, "Q1,q 2": Quarter, "Jan,Q1": None, "Jan 2024": None, "Holm": None} {
		require.Equal(t, want, BareTimes(strings.Split(texts, ",")), texts)
	}
	for text, want := range map[string]bool{"Jan": true, "JAN24": true, "Q1": true, "H2": true, "KW12": true, "week 7": true, "Lakes": false,
		"2024": false, "Dock12": false} {
		require.Equal(t, want, IsPeriod(text), text)
	}
	for texts, want := range map[string]bool{"W01,W2": true, "KW 53": true, "Week 5 2024": true, "2024-W05,2024W06": true, "KW05/24": true,
		"semaine 3": true, "W54": false, "W0": false, "W01,Oar": false, "Watt 5": false, "W100": false, "": false, "2024-05": false} {
		require.Equal(t, want, Weeks(strings.Split(texts, ",")), texts)
	}
	require.True(t, MonthNumbers([]string{"1", "12"}))
	require.False(t, MonthNumbers([]string{"1", "13"}))
	require.False(t, MonthNumbers(nil))
}

func TestSaysMaking(t *testing.T) {
	for title, want := range map[string]bool{"Printed on 2024-05-01": true, "Sales by Anna Bell": true, "Sales by branch": false, "by": true,
		"Page 1 of 3": true, "Sales of Lakes": false, "valid from May 2024": true, "Turnover by product, Lakes": false} {
		require.Equal(t, want, SaysMaking(title), title)
	}
	for text, want := range map[string]bool{"sales ": true, "": true, "till ": false, "monthly report": true} {
		require.Equal(t, want, ComesMonthly(text), text)
	}
}

// Periods are numbered from 1 on, or have a year; sizes and codes do not.
func TestPeriods(t *testing.T) {
	for texts, want := range map[string]string{
		"P1,P2,P3": "false true", "P01,P02,P01": "false true", "P2,P3": "false false", "M6,M8,M10": "false false", "P1,P3": "false false",
		"FY24 P3": "true true", "FY24-Q1,FY24-Q2": "true true", "FY24,FY25": "true true", "2024 P07": "true true", "P1 FY2024": "true true",
		"P1,FY24 P2": "false true", "24-Jan,24-Feb": "true true", "24-Oar": "false false", "Oar": "false false", "P17 FY24": "false false",
		"Period 1,Period 2": "false true", "Q1": "false false", "PX": "false false", "2024": "false false", "": "false false",
	} {
		dated, ok := Periods(strings.Split(texts, ","))
		require.Equal(t, want, fmt.Sprint(dated && ok, ok), texts)
	}
	require.True(t, MonthsAtM([]string{"M1", "M12"}))
	require.False(t, MonthsAtM([]string{"M1", "M13"}) || MonthsAtM([]string{"M"}) || MonthsAtM(nil) || MonthsAtM([]string{"M001"}))
}
