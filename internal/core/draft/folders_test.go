package draft

import (
	"archive/zip"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// tree are extracts of three coasts, three months and two branches each, in files called as a path says: %R is the coast, %B the
// branch, %Y, %M and %N the year and the month, by its number and its name. What the path does not say stands in columns, if they are
// among these, or in titles above the tables. Names that end in .zip are archives.
func tree(t *testing.T, path, columns string, titles ...string) map[string]string {
	texts := map[string]string{}
	for r, region := range []string{"Lakes", "Skerries", "Amber Bay"} {
		for m, month := range []string{"01", "02", "03"} {
			for b := range 2 {
				branch := fmt.Sprintf("%s Quay %c", region[:1], 'A'+b)
				says := strings.NewReplacer("%R", region, "%B", branch, "%Y", "2024", "%N", []string{"Jan", "Feb", "Mar"}[m], "%M", month)
				file := says.Replace(path)
				if texts[file] == "" {
					texts[file] = columns + "Product,Amount\n"
					if len(titles) > 0 {
						texts[file] = says.Replace(strings.Join(titles, "\n")) + "\n\n" + texts[file]
					}
				}
				row := strings.NewReplacer("Region", region, "Branch", branch, "Month", "2024-"+month).Replace(columns)
				texts[file] += fmt.Sprintf("%sOar,%d.25\n%[1]sBuoy,%[3]d.5\n", row, 10+7*r+31*m+b, 20+5*r+17*m+3*b)
			}
		}
	}
	files, archives := map[string]string{}, map[string]*strings.Builder{}
	writers := map[string]*zip.Writer{}
	for file, text := range texts {
		archive, member, ok := strings.Cut(file, ".zip/")
		if !ok {
			files["raw/"+file] = text
			continue
		}
		if archives[archive] == nil {
			archives[archive] = &strings.Builder{}
			writers[archive] = zip.NewWriter(archives[archive])
		}
		w, err := writers[archive].Create(member)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	for archive, b := range archives {
		require.NoError(t, writers[archive].Close())
		files["raw/"+archive+".zip"] = b.String()
	}
	return files
}

// Folders and archives around a file say what its name does not: times and labels, whatever other labels there are. What a column
// of the table says, or nobody asks for, is passed over.
func TestFoldersAround(t *testing.T) {
	for _, test := range []struct{ path, columns, want string }{
		{"%Y-%M/%R.csv", "Branch,", "{month}/{region}"},
		{"%Y-%M.zip/%R.csv", "Branch,", "{month}/{region}"},
		{"sales_%Y-%M.zip/%R.csv", "Branch,", "sales_{month}/{region}"},
		{"delivery_%Y%M.zip/%R.csv", "Branch,", "delivery_{month}/{region}"},
		{"%R_%Y-%M.zip/export.csv", "Branch,", "{region}_{month}/*"},
		{"%Y-%M_%R/export.csv", "Branch,", "{month}_{region}/*"},
		{"%Y-%M/%R/export.csv", "Branch,", "{month}/{region}/*"},
		{"%Y-%M.zip/%R/export.csv", "Branch,", "{month}/{region}/*"},
		{"%Y/%M/%R/data.csv", "Branch,", "{year}/{mon:digits}/{region}/*"},
		{"%Y/%M-%N/%R.csv", "Branch,", "{year}/*-{mon:letters}/{region}"},
		{"%R/%Y/report-%M.csv", "Branch,", "{region}/{year}/report-{mon:digits}"},
		{"%Y/sales %M/%R.csv", "Branch,", "{year}/sales {mon:digits}/{region}"},
		{"%Y/%R/export %M.csv", "Branch,Month,", "{region}/*"},
		{"%Y/%R/till %M.csv", "Branch,Month,", "{region}/*"},
		{"%Y/%R_%Y-%M.csv", "Branch,", `"{region}_{month}`},
		{"%Y-%M/%R_%Y.csv", "Branch,", "{month}/{region}_20*"},
		{"%Y/%R/%N.csv", "Branch,", "{year}/{region}/{mon}"},
		{"incoming/%Y/%M/%R/data/export.csv", "Branch,", "{year}/{mon:digits}/{region}/*/*"},
		{"%R/%Y-%M/part-%M.csv", "Branch,", "{region}/{month}/*"},
		{"%R/%B/%Y-%M.csv", "", "{region}/{branch}/{month}"},
		{"%Y-%M/%R/%B.csv", "", "{month}/{region}/{branch}"},
		{"%Y-%M/%R_%B.csv", "", "{month}/{region}_{branch}"},
		{"%Y/%M/%R/%B.csv", "", "{year}/{mon:digits}/{region}/{branch}"},
		{"%R/%B/%Y/%M.csv", "", "{region}/{branch}/{year}/{mon:digits}"},
		{"%R_%Y-%M/%B.csv", "", "{region}_{month}/{branch}"},
		{"%R_%B_%Y_%M/export.csv", "", "{region}_{branch}_{year}_{mon:digits}/*"},
		{"%Y/%R_%B_%N.csv", "", "{year}/{region}_{branch}_{mon}"},
		{"%R/%B/%Y-%M.csv", "Branch,", "{region}/*/{month}"},
		{"%R_%B/%Y-%M.csv", "Branch,", "{region}_*/{month}"},
		{"%R_%B/%Y-%M.csv", "Region,", "*_{branch}/{month}"},
		{"%B_%Y-%M/%R.csv", "Branch,", "*_{month}/{region}"},
		{"%R_%Y-%M/export.csv", "Region,Branch,", "*_{month}/*"},
		{"coast %R/%Y-%M.csv", "Branch,", "coast {region}/{month}"},
		{"%R/%Y-05-%M/sales.csv", "Branch,Month,", "{region}/20*/*"},
		{"%Y/%M/%R.csv", "Region,Branch,Month,", ""},
	} {
		r, err := drafted(t, "region,month,branch,product,amount", tree(t, test.path, test.columns))
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %s", test.path, r.Text)
		require.Contains(t, r.Text, "files: ", test.path)
		require.Equal(t, test.want != "", strings.Contains(r.Text, "path: "), "%s: %s", test.path, r.Text)
		require.Contains(t, r.Text, test.want, "%s: %s", test.path, r.Text)
		require.Equal(t, 1, strings.Count(r.Text, "- files: "), "%s: %s", test.path, r.Text)
	}
}

// Members of archives may lie in folders of their own, at any depth.
func TestFoldersWithinArchives(t *testing.T) {
	files := tree(t, "%Y-%M.zip/%R/export.csv", "Branch,")
	for name, text := range tree(t, "%Y-1%M.zip/%R.csv", "Branch,") {
		files[strings.Replace(name, "-10", "-1", 1)] = text
	}
	for name, text := range tree(t, "2023-%M.zip/a/b/%R.csv", "Branch,") {
		files[name] = text
	}
	r, err := drafted(t, "region,month,branch,product,amount", files)
	require.NoError(t, err)
	require.Contains(t, r.Text, `path: "{month}/{region}/*"`)
	require.Contains(t, r.Text, `path: "{month}/{region}"`)
}

// Of two labels one is asked for: the folder's is passed over, and another time than the file's is, too.
func TestFoldersPassedOver(t *testing.T) {
	for path, want := range map[string]string{
		"from Anna_%Y-%M/%R.csv": "from Anna_{month}/{region}", "office %M/%R_%Y-%M.csv": "{region}_{month}",
		"backup %Y-11-%M/%R_%Y-%M.csv": "{region}_{month}",
	} {
		for _, columns := range []string{"region,month,branch,product,amount", ""} {
			r, err := drafted(t, columns, tree(t, path, "Branch,"))
			require.NoError(t, err)
			require.Zero(t, r.Exit, "%s: %s", path, r.Text)
			require.Contains(t, r.Text, `path: "`+want+`"`, path)
			require.Contains(t, r.Text, "region:  text", path)
		}
	}
}

// Titles that do not say what they are of say the region and the month where nothing else does, whatever stands beside these.
func TestHeadlines(t *testing.T) {
	const columns = "region,month,branch,product,amount"
	number := strings.NewReplacer("Lakes", "1", "Skerries", "2", "Amber Bay", "3")
	for title, want := range map[string]string{
		"Sales of %R":                 "Sales of {region}",
		"%R sales report":             "{region} sales report",
		"%R":                          "{region}",
		"\"Halyard & Moss, %R\"":      "Halyard & Moss, {region}",
		"Halyard & Moss\nSales of %R": "Sales of {region}",
		"Sales of %R in %N %Y":        "Sales of {region} in {month}",
		"Sales %R %N %Y":              "Sales {region} {mon:letters} {year}",
		"\"Sales report %R, %Y-%M\"":  "Sales report {region}, {month}",
		"%R - %N %Y":                  "{region} - {month}",
		"Sales,%R,%N %Y":              "Sales {region} {mon:letters} {year}",
		"Sales of %R\nPrinted on %Y-05-%M by A. Clerk": "Sales of {region}",
		"Sales by branch of %R (%N %Y)":                "Sales by branch of {region} ({month})",
		"%R: sales by branch":                          "{region}: sales by branch",
		"Coast of %R":                                  "Coast of {region}",
		"Monthly sales: %R / %N %Y":                    "Monthly sales: {region} / {month}",
		"Sales (%R)\nAll amounts in EUR":               "Sales ({region})",
		"Sales of %R\nas of %Y-06-%M":                  "Sales of {region}",
	} {
		said := "Month,Branch,"
		if strings.Contains(title, "%N %Y") || strings.Contains(title, "%Y-%M") {
			said = "Branch,"
		}
		files := map[string]string{}
		for name, text := range tree(t, "%R_%M.csv", said, title) { // names that say no region
			files[number.Replace(name)] = text
		}
		for _, asked := range []string{columns, ""} {
			r, err := drafted(t, asked, files)
			require.NoError(t, err)
			require.Zero(t, r.Exit, "%s: %s", title, r.Text)
			region := "region"
			if asked == "" && strings.HasPrefix(title, "Coast") {
				region = "coast"
			}
			require.Contains(t, r.Text, `titles: "`+strings.Replace(want, "region", region, 1)+`"`, "%s: %s", title, r.Text)
			require.Contains(t, r.Text, region+": ", title)
			require.Equal(t, 36, r.Rows, "%s: %s", title, r.Text)
		}
	}
}

// Titles that say who made a table, which figures it has, or no one thing, say no region.
func TestHeadlinesThatSayNone(t *testing.T) {
	const columns = "region,month,branch,product,amount"
	for title, path := range map[string]string{
		"Sales by Anna %R": "%R_%Y-%M.csv", "Report no %M": "%R_%Y-%M.csv", "Team Orr %M\nSales of %B": "%R_%Y-%M.csv",
		"Sales of the office of %R": "%R_%Y-%M.csv", "%R: sales": "%R_%Y-%M.csv",
	} {
		r, err := drafted(t, columns, tree(t, path, "Branch,", title))
		require.NoError(t, err)
		require.Zero(t, r.Exit, "%s: %s", title, r.Text)
		require.Contains(t, r.Text, `path: "{region}_{month}"`, title)
		require.NotContains(t, r.Text, "titles", title)
	}
	files := tree(t, "%R_%Y-%M.csv", "Branch,", "Halyard & Moss\n%R\nSales")
	for name, text := range files {
		delete(files, name)
		files[strings.NewReplacer("Lakes", "1", "Skerries", "2", "Amber Bay", "3").Replace(name)] = text
	}
	r, err := drafted(t, columns, files)
	require.NoError(t, err)
	require.Equal(t, []string{"region"}, r.Missing)
	require.Contains(t, r.Text, "lines above the tables differ (Lakes, Amber Bay), and no pattern takes from them what they say")
}

// A month that all titles say is theirs, too.
func TestHeadlinesOfOneMonth(t *testing.T) {
	files := tree(t, "%R %M.csv", "Branch,", "Sales of %R", "for %N %Y")
	for name := range files {
		if !strings.Contains(name, "02") {
			delete(files, name)
		}
	}
	r, err := drafted(t, "region,month,branch,product,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `titles: "for {month}"`)
}

// Of two labels, wherever they stand, that is the region which the other is in.
func TestNestedLabels(t *testing.T) {
	for path, want := range map[string]string{
		"%B/%R_%Y-%M.csv": `path: "{branch}/{region}_{month}"`, "%B_%R_%Y-%M.csv": `path: "{branch}_{region}_{month}"`,
		"%R_%B_%Y-%M.csv": `path: "{region}_{branch}_{month}"`, "%Y-%M/%B/%R.csv": `path: "{month}/{branch}/{region}"`,
	} {
		for _, columns := range []string{"region,month,branch,product,amount", ""} {
			r, err := drafted(t, columns, tree(t, path, ""))
			require.NoError(t, err)
			require.Zero(t, r.Exit, "%s: %s", path, r.Text)
			require.Contains(t, r.Text, want, path)
		}
	}
	r, err := drafted(t, "region,month,branch,product,amount", tree(t, "%B_%Y-%M.csv", "", "Sales of %R"))
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	require.Contains(t, r.Text, `path: "{branch}_{month}"`)
	require.Contains(t, r.Text, `titles: "Sales of {region}"`)
}

// A title that says that the figures came back is a question, beside others.
func TestTitlesOfReturns(t *testing.T) {
	files := tree(t, "%R_%Y-%M.csv", "Branch,", "Sales figures")
	r, err := drafted(t, "region,month,branch,product,amount", files)
	require.NoError(t, err)
	require.Zero(t, r.Exit, r.Text)
	files["raw/Lakes_2024-02.csv"] = strings.Replace(files["raw/Lakes_2024-02.csv"], "Sales", "Returns", 1)
	r, err = drafted(t, "region,month,branch,product,amount", files)
	require.NoError(t, err)
	require.Equal(t, []string{"amount"}, r.Missing)
	require.Contains(t, r.Text, "raw/Lakes_2024-02.csv counts against what was sold, by its name or title")
}
