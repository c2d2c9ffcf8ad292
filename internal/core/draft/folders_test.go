package draft

import (
	"archive/zip"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// tree are extracts of three coasts, three months and two branches each, in files called as a path says: R is the coast, B the
// branch, Y, M and Mon the year and the month. What the path does not say stands in columns, if they are among these. Names that end in
// .zip are archives.
func tree(t *testing.T, path, columns string) map[string]string {
	texts := map[string]string{}
	for r, region := range []string{"Lakes", "Skerries", "Amber Bay"} {
		for m, month := range []string{"01", "02", "03"} {
			for b := range 2 {
				branch := fmt.Sprintf("%s Quay %c", region[:1], 'A'+b)
				says := strings.NewReplacer("R", region, "B", branch, "Y", "2024", "Mon", []string{"Jan", "Feb", "Mar"}[m], "M", month)
				file := says.Replace(path)
				if texts[file] == "" {
					texts[file] = columns + "Product,Amount\n"
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
		{"Y-M/R.csv", "Branch,", "{month}/{region}"},
		{"Y-M.zip/R.csv", "Branch,", "{month}/{region}"},
		{"sales_Y-M.zip/R.csv", "Branch,", "sales_{month}/{region}"},
		{"delivery_YM.zip/R.csv", "Branch,", "delivery_{month}/{region}"},
		{"R_Y-M.zip/export.csv", "Branch,", "{region}_{month}/*"},
		{"Y-M_R/export.csv", "Branch,", "{month}_{region}/*"},
		{"Y-M/R/export.csv", "Branch,", "{month}/{region}/*"},
		{"Y-M.zip/R/export.csv", "Branch,", "{month}/{region}/*"},
		{"Y/M/R/data.csv", "Branch,", "{year}/{mon:digits}/{region}/*"},
		{"Y/M-Mon/R.csv", "Branch,", "{year}/*-{mon:letters}/{region}"},
		{"R/Y/export-M.csv", "Branch,", "{region}/{year}/export-{mon:digits}"},
		{"Y/data M/R.csv", "Branch,", "{year}/data {mon:digits}/{region}"},
		{"Y/R/Mon.csv", "Branch,", "{year}/{region}/{mon}"},
		{"incoming/Y/M/R/data/export.csv", "Branch,", "{year}/{mon:digits}/{region}/*/*"},
		{"R/Y-M/part-M.csv", "Branch,", "{region}/{month}/*"},
		{"R/B/Y-M.csv", "", "{region}/{branch}/{month}"},
		{"Y-M/R/B.csv", "", "{month}/{region}/{branch}"},
		{"Y-M/R_B.csv", "", "{month}/{region}_{branch}"},
		{"Y/M/R/B.csv", "", "{year}/{mon:digits}/{region}/{branch}"},
		{"R/B/Y/M.csv", "", "{region}/{branch}/{year}/{mon:digits}"},
		{"R_Y-M/B.csv", "", "{region}_{month}/{branch}"},
		{"R_B_Y_M/export.csv", "", "{region}_{branch}_{year}_{mon:digits}/*"},
		{"Y/R_B_Mon.csv", "", "{year}/{region}_{branch}_{mon}"},
		{"R/B/Y-M.csv", "Branch,", "{region}/*/{month}"},
		{"R_B/Y-M.csv", "Branch,", "{region}_*/{month}"},
		{"R_B/Y-M.csv", "Region,", "*_{branch}/{month}"},
		{"B_Y-M/R.csv", "Branch,", "*_{month}/{region}"},
		{"R_Y-M/export.csv", "Region,Branch,", "*_{month}/*"},
		{"coast R/Y-M.csv", "Branch,", "coast {region}/{month}"},
		{"R/Y-05-M/sales.csv", "Branch,Month,", "{region}/20*/*"},
		{"Y/M/R.csv", "Region,Branch,Month,", ""},
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

// Of two labels one is asked for: the folder's is passed over, and another time than the file's is, too.
func TestFoldersPassedOver(t *testing.T) {
	for path, want := range map[string]string{
		"from Anna_Y-M/R.csv": "from Anna_{month}/{region}", "office M/R_Y-M.csv": "{region}_{month}",
		"backup Y-11-M/R_Y-M.csv": "{region}_{month}",
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
