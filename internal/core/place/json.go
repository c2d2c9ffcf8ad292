package place

// DocHead is how every document of JSON begins.
type DocHead struct {
	Umbau    string `json:"umbau"` // the version
	Command  string `json:"command"`
	Exit     int    `json:"exit"`
	Problems []Doc  `json:"problems"`
}

// Doc is a problem as JSON prints it.
type Doc struct {
	What    string  `json:"what"`
	Message string  `json:"message"`
	Count   int     `json:"count"`
	File    *string `json:"file"`
	Sheet   *string `json:"sheet"`
	Row     *int    `json:"row"`
	Header  *string `json:"header"`
	Column  *string `json:"column"`
	Plan    *Pos    `json:"plan"`
	Add     *string `json:"add"`
	Advice  *string `json:"advice"`
	Places  []atDoc `json:"places"`
}

type atDoc struct {
	File   *string `json:"file"`
	Sheet  *string `json:"sheet"`
	Row    *int    `json:"row"`
	Header *string `json:"header"`
	Text   *string `json:"text"`
	Note   *string `json:"note,omitempty"`
}

// OrNull is a pointer to a value, nil for the zero value.
func OrNull[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

// Docs are the problems as JSON prints them.
func (l List) Docs() []Doc {
	docs := []Doc{}
	for _, p := range l {
		d := Doc{What: p.What, Message: p.Message, Count: p.Count, Column: OrNull(p.Column), Plan: OrNull(p.Plan),
			Add: OrNull(p.Add), Advice: OrNull(p.Advice), File: OrNull(p.File), Places: []atDoc{}}
		for i, at := range p.Places {
			pd := atDoc{OrNull(at.File), OrNull(at.Sheet), OrNull(at.Row), OrNull(at.Header), nil, nil}
			if i < len(p.Notes) {
				pd.Note = &p.Notes[i]
			}
			if i < len(p.Texts) {
				pd.Text = &p.Texts[i]
			}
			if i == 0 {
				d.File, d.Sheet, d.Row, d.Header = pd.File, pd.Sheet, pd.Row, pd.Header
			}
			d.Places = append(d.Places, pd)
		}
		docs = append(docs, d)
	}
	return docs
}
