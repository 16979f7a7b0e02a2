package sitemap

import (
	"context"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// OldSite is the folder of an older site; files provides it.
type OldSite interface {
	Body(file, title string, links content.OldLinks) (content.OldBody, error)
}

// OpenOldSite opens the archive of an older site.
type OpenOldSite func(data []byte) (OldSite, error)

// IsOldSite tells by the name of a file whether it holds the pages of an older
// site.
func IsOldSite(name string) bool { return strings.EqualFold(path.Ext(name), ".zip") }

// textBatch is how many texts are written at a time.
const textBatch = 20

// carriedText is a page whose text comes along.
type carriedText struct{ entry, file, title, template string }

// ImportTexts brings texts of an older site into drafts of the pages that AcceptFile
// made of it, for as long as a slice of time lasts, and tells whether all of them are
// there. A page that has a text already keeps it, so that it can be begun again after
// it was stopped anywhere.
func (a *Sitemap) ImportTexts(ctx context.Context, id string, open OpenOldSite, slice time.Duration) (done bool, err error) {
	ends := time.Now().Add(slice)
	b, err := a.loadImport(ctx, id, true)
	if err != nil || b.State != ImportTexts {
		return true, err
	}
	site, err := open(b.Data)
	if err != nil {
		_, told := a.setImport(ctx, id, ImportTexts, ImportStep{State: ImportFailed, Message: "The entries are in the plan; the texts could not be read."})
		return true, errors.Join(plan.ErrGivenUp, err, told)
	}
	w := textWriter{a: a, b: b, site: site, id: map[string]string{}}
	if err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error { return w.load(ctx, tx, s) }); err != nil {
		return false, err
	}
	missing := slices.DeleteFunc(slices.Clone(w.pages), func(p carriedText) bool { return w.has[p.entry] })
	for batch := range slices.Chunk(missing, textBatch) {
		if err := ctx.Err(); err != nil {
			return false, err
		}
		if time.Now().After(ends) {
			return false, nil
		}
		if err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error { return w.write(ctx, tx, s, batch) }); err != nil {
			return false, fmt.Errorf("texts of %s: %w", b.FileName, err)
		}
	}
	return true, a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return w.finish(ctx, tx) })
}

type textWriter struct {
	a     *Sitemap
	b     Import
	site  OldSite
	pages []carriedText
	id    map[string]string // entry by file

	has       map[string]bool // entries that have a text
	templates []content.Template
	people    map[string]plan.Person
	around    markup.Around // of the transaction in which texts are written
}

// load finds which entries the pages of the file became, and which of them have
// a text.
func (w *textWriter) load(ctx context.Context, tx Tx, s plan.Site) error {
	sheet, err := sheetOf(w.b)
	if err != nil {
		return err
	}
	known, err := tx.ImportedIDs(ctx)
	if err != nil {
		return err
	}
	trees, err := w.a.TreesOf(ctx, tx, s)
	if err != nil {
		return err
	}
	for i := range sheet.Tree.Len() {
		row := sheet.Tree.Ref(i)
		k := trees.Next.Find(known[row.ID])
		if i == sheet.Tree.Home() && k == sitemap.None {
			k = trees.Next.Home()
		}
		if k == sitemap.None || row.Source == "" || !trees.Next.Ref(k).Kind.IsPage() {
			continue
		}
		e := trees.Next.Ref(k)
		w.pages = append(w.pages, carriedText{e.ID, row.Source, row.Title, e.Template})
		w.id[row.Source] = e.ID
	}
	summaries, err := w.a.Summaries(ctx, tx, s)
	if err != nil {
		return err
	}
	w.has = make(map[string]bool, summaries.Len())
	for h := range summaries.All() {
		w.has[h.EntryID] = true
	}
	if w.templates, err = tx.Templates(ctx); err != nil {
		return err
	}
	w.people, err = plan.PeopleByID(ctx, tx)
	return err
}

func (w *textWriter) write(ctx context.Context, tx Tx, s plan.Site, pages []carriedText) error {
	if err := plan.May(s, w.people[w.b.PersonID], workflow.Write); err != nil {
		return errors.Join(plan.ErrGivenUp, err)
	}
	var err error
	if w.around, err = w.a.Around(ctx, tx); err != nil {
		return err
	}
	for _, p := range pages {
		if err := w.page(ctx, tx, p); err != nil {
			return err
		}
		w.has[p.entry] = true
	}
	done := 0
	for _, p := range w.pages {
		if w.has[p.entry] {
			done++
		}
	}
	_, err = tx.SetImport(ctx, w.b.ID, ImportTexts, ImportStep{ImportTexts, done, len(w.pages), w.b.Message, w.a.Now()})
	return err
}

// finish tells what became of all texts, of those too that were written before a stop.
func (w *textWriter) finish(ctx context.Context, tx Tx) error {
	came, err := tx.SourcesOf(ctx, w.b.ID)
	if err != nil {
		return err
	}
	lost := 0
	for _, n := range came {
		if n > 0 {
			lost++
		}
	}
	words := fmt.Sprintf("%s The texts of %d %s were imported as drafts.", w.b.Message, len(came), plan.Plural(len(came), "page", "pages"))
	if kept := len(w.pages) - len(came); kept > 0 {
		words += fmt.Sprintf(" %d %s had a text and kept it.", kept, plan.Plural(kept, "page", "pages"))
	}
	if lost > 0 {
		words += fmt.Sprintf(" On %d %s something could not be kept; the page tells what.", lost, plan.Plural(lost, "page", "pages"))
	}
	_, err = tx.SetImport(ctx, w.b.ID, ImportTexts, ImportStep{ImportWritten, w.b.Total, w.b.Total, words, w.a.Now()})
	return err
}

func (w *textWriter) page(ctx context.Context, tx Tx, p carriedText) error {
	body, err := w.site.Body(p.file, p.title, content.OldLinks{
		Page: func(file string) (string, bool) { id, ok := w.id[file]; return id, ok },
		Picture: func(pic content.PictureFile) (string, error) {
			f, err := w.a.StoreFile(ctx, tx, w.b.PersonID, pic)
			return f.Address(), err
		},
	})
	if err != nil {
		body = content.OldBody{Lost: []string{"all of the text: " + err.Error()}}
	}
	source := plan.PageSource{EntryID: p.entry, File: p.file, HTML: w.a.Markup.Zip(body.Source), Lost: body.Lost, At: w.a.Now(), ImportID: w.b.ID}
	if err := tx.PutSource(ctx, source); err != nil {
		return err
	}
	t := content.TemplateOf(w.templates, p.template)
	v, err := w.a.Rendered(t, content.Clean(content.Filled(t, body.Blocks, body.Summary)), w.around)
	if err != nil {
		return err
	}
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = plan.NewID(), p.entry, 1, w.b.PersonID, w.a.Now()
	if err := tx.SaveDraft(ctx, v, 0); err != nil {
		return err
	}
	title := func(string) string { return p.title }
	return w.a.Author(ctx, tx, w.people[w.b.PersonID], title, []plan.Authored{{ID: p.entry, Aspects: []change.Aspect{change.Content}}})
}

// PageSource gives the HTML that a page's text was imported from.
func (a *Sitemap) PageSource(ctx context.Context, who plan.Person, entry string) (s plan.PageSource, err error) {
	err = a.Store.Read(ctx, func(tx Tx, site plan.Site) error {
		if err := plan.May(site, who, workflow.Write); err != nil {
			return err
		}
		s, err = tx.Source(ctx, entry, true)
		return err
	})
	return s, err
}
