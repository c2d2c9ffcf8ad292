package draft

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// What columns are called in the usual languages names their source.
func TestWordsOfLanguages(t *testing.T) {
	for _, header := range []string{
		"Territory,Store,Month,Description,Units sold,Net sales", "Sales area,Store name,Sales month,Item description,Volume,Sales value",
		"Vertriebsgebiet,Verkaufsstelle,Monat,Produktname,Stückzahl,Erlöse", "Region,Standort,Monat,Artikelbezeichnung,Absatz,Nettoumsatz",
		"Région,Point de vente,Mois,Désignation,Qté,Chiffre d'affaires", "Secteur,Magasin,Période,Libellé,Quantité,CA",
		"Zona,Delegación,Mes,Artículo,Unidades,Importe", "Zona,Punto de venta,Mes,Descripción,Cantidad,Facturación",
		"Regione,Punto vendita,Mese,Descrizione,Pezzi,Fatturato", "Area,Negozio,Periodo,Articolo,Quantità,Vendite",
		"Região,Loja,Mês,Produto,Quantidade,Valor", "Zona,Agência,Período,Artigo,Qtd,Vendas",
		"Regio,Verkooppunt,Maand,Artikelnaam,Aantal,Omzet", "Gebied,Winkel,Periode,Omschrijving,Stuks,Opbrengst",
	} {
		r, err := drafted(t, "region,branch,month,product,quantity,amount", map[string]string{
			"raw/a.csv": header + "\nLakes,Quay,2024-01,Oar,3,1.5\nLakes,Pier,2024-02,Rope,4,2.5\nHolm,Mole,2024-01,Oar,5,3.5\n"})
		require.NoError(t, err, header)
		require.Zero(t, r.Exit, "%s\n%s", header, r.Text)
		require.Empty(t, r.Missing, header)
		for i, name := range strings.Split("region,branch,month,product,quantity,amount", ",") {
			require.Equal(t, name, r.Columns[i].Name)
			require.Contains(t, r.Columns[i].Source, strings.Split(header, ",")[i], header)
		}
	}
}
