package messy

// What the deliveries are made of.
var (
	regions  = []string{"Skerries", "Amber Bay", "Long Sound", "Lakes", "North Holm", "Wick Sands", "Old Tarn"}
	branches = []string{"Gannet Quay", "Ferry Point", "Marram", "Upper Lock", "Saltby", "Quarry Head", "Lakeside", "Sound End", "Millbridge",
		"Harbour Street", "Boatyard", "Pier Head"}
	products = []string{"Marine Rope", "Brass Cleat", "Deck Brush", "Bilge Pump", "Oilskin Jacket", "Signal Flag", "Dock Line", "Anchor Chain",
		"Hand Flare", "Life Vest"}
	people = []string{"Ines", "Tom", "Maud", "Odo"}
)

// language is how an office calls things.
type language struct {
	region, branch, product, month, quantity, amount, person, total, source, title, coast string
}

var languages = []language{
	{"Region", "Branch", "Product", "Month", "Quantity", "Amount", "Entered by", "Total", "Source: the branch ledgers", "Sales as reported",
		"Region: "},
	{"Coast", "Store", "Article", "Period", "Qty", "Revenue", "Remark", "Grand total", "Source: tills", "Reported sales, in EUR", "Coast: "},
	{"Area", "Outlet", "Item", "Month", "Units", "Sales", "Note", "Total", "Figures are not audited", "Turnover", "Area: "},
	{"Gebiet", "Filiale", "Artikel", "Monat", "Menge", "Umsatz", "Bemerkung", "Summe", "Quelle: Filialbücher", "Gemeldete Umsätze in EUR",
		"Gebiet: "},
	{"Région", "Agence", "Produit", "Mois", "Quantité", "Ventes", "Remarque", "Total", "Source : livres des agences", "Ventes déclarées",
		"Région: "},
}

var monthNames = []string{"Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}
