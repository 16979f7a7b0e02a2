package addresses

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files"
	"candlepath/internal/files/rules"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// rulesView is the form for the rules of an old host.
type rulesView struct {
	shell.Frame
	Self, Back, File, Base, Problem string
	Hosts                           []part.Option
	Kinds, Tables                   []part.Option
	Compact                         bool
	Combined                        string // what combining rules does
}

// rules asks which rules are wanted.
func (s *Screens) rules(r *shell.Request) error { return s.rulesPage(r, http.StatusOK, "") }

func (s *Screens) rulesPage(r *shell.Request, status int, problem string) error {
	f, _, err := s.FrameFor(r, "Rules for an old host")
	if err != nil {
		return err
	}
	hosts, err := s.App.RuleHosts(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := rulesView{
		Frame: f, Self: urls.Rules, Back: urls.Redirects, File: urls.RulesFile, Base: r.Query("base"), Problem: problem, Compact: r.Query("compact") != "",
		Kinds: part.Choose([]part.Option{
			{Value: "nginx", Label: "nginx: maps and a server block"},
			{Value: "apache", Label: "Apache httpd: maps and a virtual host"},
			{Value: "csv", Label: "A table (.csv), as candlepath redirects serve reads it"},
		}, part.OrElse(r.Query("for"), "nginx")),
		Tables: part.Choose([]part.Option{{Value: "live", Label: "Live"}, {Value: "next", Label: "Next, with all that is planned"}}, part.OrElse(r.Query("table"), "live")),
	}
	if v.Base == "" && problem == "" {
		v.Base = shell.BaseOf(r)
	}
	if v.Combined, err = s.combined(r); err != nil {
		return err
	}
	if len(hosts) > 0 {
		v.Hosts = []part.Option{{Label: "any"}}
		for _, h := range hosts {
			v.Hosts = append(v.Hosts, part.Option{Value: h, Label: h, Chosen: h == r.Query("host")})
		}
	}
	return s.Show(r, status, "rules", v)
}

// combined says how many rules combining leaves, and how many of them answer addresses that never existed.
func (s *Screens) combined(r *shell.Request) (string, error) {
	rows, err := s.App.RulesTable(r.Ctx(), r.Who, addresses.RulesAsk{Live: r.Query("table") != "next", Host: r.Query("host")})
	if err != nil {
		return "", nil // downloading them says why
	}
	compact, err := redirect.Compact(rows)
	if err != nil {
		return "", nil // as above
	}
	more, err := redirect.Spreads(rows, compact)
	return combinedWords(len(rows), len(compact), more), err
}

func combinedWords(rows, compact, more int) string {
	words := part.Count(compact, "rule", "rules") + " instead of " + part.Thousands(rows) + "."
	if more > 0 {
		words += " " + part.Thousands(more) + part.Verb(more, " of them also redirects addresses below its own that never existed.", " of them also redirect addresses below their own that never existed.")
	}
	return words
}

// rulesFile gives them as a file.
func (s *Screens) rulesFile(r *shell.Request) error {
	base := r.Query("base")
	if base != "" && !address.IsURL(base) {
		return s.rulesPage(r, http.StatusUnprocessableEntity, fmt.Sprintf("%q is no URL. Write it with https://.", base))
	}
	rows, err := s.App.RulesTable(r.Ctx(), r.Who, addresses.RulesAsk{Live: r.Query("table") != "next", Host: r.Query("host"), Base: base != "" && r.Query("for") != "csv"})
	if err != nil {
		return err
	}
	body, name, kind, err := rulesOf(rows, r.Query("for"), base, r.Query("compact") != "")
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.rulesPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	r.Data(http.StatusOK, kind, body)
	return nil
}

// rulesOf writes rules for a server, packed, or as a table.
func rulesOf(rows []redirect.Row, of, base string, compact bool) (body []byte, name, kind string, err error) {
	var b bytes.Buffer
	switch server := rules.Server(of); server {
	case rules.Nginx, rules.Apache:
		set, err := rules.Write(server, rows, compact, rules.Options{Base: base})
		if err != nil {
			return nil, "", "", plan.Refuse("", part.Sentence(err))
		}
		return zipped(set, of)
	}
	if compact {
		if rows, err = redirect.Compact(rows); err != nil {
			return nil, "", "", plan.Refuse("", part.Sentence(err))
		}
	}
	columns, lines := files.RedirectTable(rows, nil)
	err = files.WriteCSV(&b, columns, lines)
	return b.Bytes(), "redirects.csv", "text/csv; charset=utf-8", err
}

func zipped(set rules.Set, of string) (body []byte, name, kind string, err error) {
	var b bytes.Buffer
	err = set.Zip(&b)
	return b.Bytes(), "redirects-" + of + ".zip", "application/zip", err
}
