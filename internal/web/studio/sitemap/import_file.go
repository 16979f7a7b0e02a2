package sitemap

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type importFileView struct {
	shell.Frame
	Name                             string
	Reading, Ready, Written, Refused bool
	Message                          string
	Done                             string
	Self, Accept, Again, Outline     string
	Modes                            []part.Option
	Place, PlaceTitle                string
	NeedsPlace                       bool
	Places                           []part.Option
	Problem                          string
	Counts                           []part.CountView
	Lines                            []lineView
	More                             string
	Show                             string
	NothingToDo                      bool
	Removes                          int
	Older                            bool // the pages of an older site
	Follow, Texts                    bool
}

type lineView struct{ Line, Outcome, Title, Where, Why string }

const linesShown = 400

func (s *Screens) importFile(r *shell.Request) error {
	id := r.Param("id")
	f, next, err := s.FrameFor(r, "Import")
	if err != nil {
		return err
	}
	b, err := s.App.ImportState(r.Ctx(), r.Who, id)
	if err != nil {
		return err
	}
	v := importFileView{Frame: f, Name: b.FileName, Message: b.Message, Self: urls.File(id), Accept: urls.AcceptFile(id), Again: urls.Import, Outline: urls.Outline}
	switch b.State {
	case appsitemap.ImportReading, appsitemap.ImportWriting, appsitemap.ImportTexts:
		v.Reading = true
		v.Done = importProgress(b)
	case appsitemap.ImportWritten:
		v.Written = true
	case appsitemap.ImportRefused, appsitemap.ImportFailed:
		v.Refused = true
	default:
		choice := appsitemap.ImportChoice{Mode: sheet.ImportMode(r.Query("way")), Place: r.Query("place"), Follow: r.Query("addresses") == "follow", Texts: r.Query("texts") != "no"}
		p, err := s.App.PreviewFile(r.Ctx(), r.Who, id, choice)
		if err != nil {
			return err
		}
		v.preview(p, r.Query("show"), next.Trees.Next)
	}
	return s.Show(r, http.StatusOK, "import-file", v)
}

func importProgress(b appsitemap.Import) string {
	switch {
	case b.State == appsitemap.ImportWriting:
		return "Writing " + part.Count(b.Total, "entry", "entries")
	case b.State == appsitemap.ImportTexts:
		return fmt.Sprintf("Importing texts, %s of %s", part.Thousands(b.Done), part.Thousands(b.Total))
	case appsitemap.IsOldSite(b.FileName):
		return part.Count(b.Done, "page read", "pages read")
	}
	return part.Count(b.Done, "row read", "rows read")
}

// placesShown bounds the list of places: a page of options nobody scrolls
// through helps nobody, and a file can be moved once it is imported.
const placesShown = 2000

// places lists where a file can be put: the top, the entries of the upper
// levels that can hold others, as many levels as fit, and always the chosen one.
func places(t *sitemap.Tree, chosen string) []part.Option {
	holds := func(i int) bool { return i != t.Home() && t.Ref(i).Kind.HoldsChildren() }
	var on [4]int
	for i := range t.Len() {
		if l := t.Level(i); holds(i) && l < len(on) {
			on[l]++
		}
	}
	deepest, n := 0, 0
	for l := 1; l < len(on) && n+on[l] <= placesShown; l++ {
		deepest, n = l, n+on[l]
	}
	out := []part.Option{{Value: "", Label: "the top of the sitemap", Chosen: chosen == ""}}
	for i := range t.Len() {
		e := t.Ref(i)
		if !holds(i) || t.Level(i) > deepest && e.ID != chosen {
			continue
		}
		out = append(out, part.Option{Value: e.ID, Label: strings.Repeat("\u2003", t.Level(i)-1) + e.Title, Chosen: e.ID == chosen})
	}
	return out
}

func (s *Screens) acceptFile(r *shell.Request) error {
	id := r.Param("id")
	_, err := s.App.AcceptFile(r.Ctx(), r.Who, id)
	if err != nil && !errors.Is(err, plan.ErrDone) {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.File(id))
	return nil
}

func (v *importFileView) preview(p appsitemap.ImportPreview, show string, next *sitemap.Tree) {
	v.Ready, v.Problem, v.Place = true, p.Problem, p.File.Place
	v.Older, v.Follow, v.Texts = p.Older, p.File.Follow, p.File.Texts
	mode := sheet.ImportMode(p.File.Mode)
	for _, o := range []part.Option{
		{Value: string(sheet.Below), Label: "Add below an entry: adds what is not there yet, changes nothing"},
		{Value: string(sheet.Update), Label: "Update what is listed: changes and adds, removes nothing"},
		{Value: string(sheet.Replace), Label: "Replace a branch: afterwards it holds what is listed, and nothing else"},
	} {
		o.Chosen = o.Value == string(mode)
		v.Modes = append(v.Modes, o)
	}
	v.NeedsPlace = mode != sheet.Update
	v.Places = places(next, v.Place)
	if p.ImportResult == nil {
		return
	}
	if show == "" {
		show = "changes"
	}
	v.Show = show
	counts := p.ImportResult.Count
	v.Removes = counts[sheet.IsRemoved]
	v.NothingToDo = counts[sheet.IsAdded]+counts[sheet.IsChanged]+counts[sheet.IsRemoved] == 0
	for _, c := range []struct {
		name, words string
		n           int
	}{
		{"changes", "what happens", counts[sheet.IsAdded] + counts[sheet.IsChanged] + counts[sheet.IsRemoved] + counts[sheet.IsRefused]},
		{"added", "added", counts[sheet.IsAdded]},
		{"changed", "changed", counts[sheet.IsChanged]},
		{"removed", "removed", counts[sheet.IsRemoved]},
		{"refused", "refused", counts[sheet.IsRefused]},
		{"note", "to look at", counts[sheet.IsAnnotate]},
		{"same", "stay the same", counts[sheet.Same]},
	} {
		v.Counts = append(v.Counts, part.CountView{
			Name: c.name, Words: c.words, N: part.Thousands(c.n), Here: c.name == show,
			URL: v.Self + "?show=" + c.name,
		})
	}
	v.listLines(p.ImportResult.Lines, show)
}

func (v *importFileView) listLines(lines []sheet.ImportLine, show string) {
	total := 0
	for _, l := range lines {
		if show == "changes" && (l.ImportOutcome == sheet.Same || l.ImportOutcome == sheet.IsAnnotate) || show != "changes" && string(l.ImportOutcome) != show {
			continue
		}
		total++
		if total > linesShown {
			continue
		}
		line := ""
		if l.Line > 0 {
			line = fmt.Sprint(l.Line)
		}
		v.Lines = append(v.Lines, lineView{line, string(l.ImportOutcome), l.Title, l.Where, l.Why})
	}
	if total > linesShown {
		v.More = fmt.Sprintf("%s more are not shown here.", part.Thousands(total-linesShown))
	}
}
