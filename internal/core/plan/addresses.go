package plan

import (
	"fmt"
	"os"
	"regexp"
	"strings"

	"umbau/internal/core/place"
)

// from reads the database that an entry is in, where it is in one; else files is what it
// needs.
func (r *reader) from(e *Entry, m map[string]node, files string) {
	v, ok := m["from"]
	for _, key := range []string{"table", "query"} {
		if n, there := m[key]; there && !ok {
			r.fail(n.pos, "%s goes with from: the address of a database", key)
		}
	}
	if !ok {
		if len(e.Files) == 0 && m != nil {
			r.fail(e.Pos, "the key %s is missing", files)
		}
		return
	}
	e.From, e.Pos = r.text(v, "from"), v.pos
	set(m, "table", r.texts, &e.Tables)
	set(m, "query", r.text, &e.Query)
	switch {
	case len(e.Files) > 0:
		r.fail(v.pos, "an entry has either files or from, a database")
	case !IsAddress(e.From):
		r.fail(v.pos, "from is the address of a database, such as sqlite:raw/till.db or postgres://user@host/db, not %s", v.describe())
	case (len(e.Tables) > 0) == (e.Query != ""):
		r.fail(v.pos, "from needs either table: which tables, or query: a single select")
	}
}

// Source is where an entry of one source is, as a person may see it.
func (e *Entry) Source() string {
	if e.From != "" {
		return Shown(e.From)
	}
	return strings.Join(e.Files, ", ")
}

var variable = regexp.MustCompile(`\$\{([A-Za-z_][A-Za-z0-9_]*)\}`)

// Address is where a delivery goes, or a source comes from, with the variables of the
// environment that it names; one that is not set is a place.List.
func Address(to string) (string, error) {
	var missing []string
	out := variable.ReplaceAllStringFunc(to, func(v string) string {
		name := v[2 : len(v)-1]
		text, ok := os.LookupEnv(name)
		if !ok || text == "" {
			missing = append(missing, name)
		}
		return text
	})
	if len(missing) > 0 {
		p := place.At(place.Place{File: Shown(to)}, "environment", "the environment has no %s", strings.Join(missing, ", "))
		p.Advice = "set it to the address of the database, such as postgres://user@host/sales"
		return "", place.List{p}
	}
	return out, nil
}

// AddressAt is an address whose file, if it is one, is found from the folder of the plan.
func (p *Plan) AddressAt(to string) string {
	if file, ok := FileOf(to); ok && IsAddress(to) {
		return sqlite + p.At(file)
	}
	return to
}

// Shown is an address as a person may see it: without a password.
func Shown(to string) string {
	scheme, rest, ok := strings.Cut(to, "://")
	if !ok || strings.HasPrefix(to, "${") {
		return to
	}
	at := strings.LastIndexByte(rest, '@')
	if at < 0 {
		return maskQuery(to)
	}
	user, _, secret := strings.Cut(rest[:at], ":")
	if secret {
		user += ":…"
	}
	return maskQuery(fmt.Sprintf("%s://%s%s", scheme, user, rest[at:]))
}

// maskQuery hides a password among the settings of an address.
func maskQuery(to string) string {
	before, settings, ok := strings.Cut(to, "?")
	if !ok {
		return to
	}
	parts := strings.Split(settings, "&")
	for i, part := range parts {
		if name, _, ok := strings.Cut(part, "="); ok && strings.Contains(strings.ToLower(name), "pass") {
			parts[i] = name + "=…"
		}
	}
	return before + "?" + strings.Join(parts, "&")
}

// secrets are the addresses of the plan that have a password.
func (p *Plan) secrets() (out []string) {
	add := func(address string) {
		if address != "" && IsAddress(address) && Shown(address) != address {
			out = append(out, address)
		}
	}
	for _, d := range p.Deliveries {
		add(d.To)
	}
	for _, e := range p.Entries {
		add(e.From)
	}
	for _, c := range p.Ties {
		add(c.Entry.From)
	}
	for _, r := range p.References {
		add(r.Entry.From)
	}
	return out
}

// Secret reports whether the plan holds a password, in an address of a database.
func (p *Plan) Secret() bool { return len(p.secrets()) > 0 }

// Shown is the text of the plan as others may see it: addresses without their passwords.
func (p *Plan) Shown() string {
	text := string(p.source)
	for _, address := range p.secrets() {
		if !strings.Contains(text, address) { // it is written otherwise there
			return "# The plan holds a password, and is not shown.\n"
		}
		text = strings.ReplaceAll(text, address, Shown(address))
	}
	return text
}
