package sitemap

import (
	"context"
	"errors"
	"fmt"
	"path"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
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

// ImportTexts brings the texts of an older site into drafts of the pages that
// AcceptFile made of it. A page that has a text already keeps it, so that it
// can be begun again after it was stopped anywhere.
func (a *Sitemap) ImportTexts(ctx context.Context, id string, open OpenOldSite) error {
	b, err := a.loadImport(ctx, id, true)
	if err != nil || b.State != ImportTexts {
		return err
	}
	site, err := open(b.Data)
	if err != nil {
		return errors.Join(err, a.setImport(ctx, id, ImportFailed, 0, 0, "The entries are in the plan; the texts could not be read."))
	}
	w := textWriter{a: a, b: b, site: site, id: map[string]string{}}
	if err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error { return w.load(ctx, tx, s) }); err != nil {
		return err
	}
	for from := 0; from < len(w.pages); from += textBatch {
		if err := ctx.Err(); err != nil {
			return err
		}
		batch := w.pages[from:min(from+textBatch, len(w.pages))]
		if err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error { return w.write(ctx, tx, s, batch, from+len(batch)) }); err != nil {
			return fmt.Errorf("texts of %s: %w", b.FileName, err)
		}
	}
	words := fmt.Sprintf("%s The texts of %d %s were imported as drafts.", b.Message, w.written, plan.Plural(w.written, "page", "pages"))
	if w.kept > 0 {
		words += fmt.Sprintf(" %d %s had a text and kept it.", w.kept, plan.Plural(w.kept, "page", "pages"))
	}
	if w.lost > 0 {
		words += fmt.Sprintf(" On %d %s something could not be kept; the page tells what.", w.lost, plan.Plural(w.lost, "page", "pages"))
	}
	return a.setImport(ctx, id, ImportWritten, b.Total, b.Total, words)
}

type textWriter struct {
	a     *Sitemap
	b     Import
	site  OldSite
	pages []carriedText
	id    map[string]string // entry by file

	has                 map[string]bool // entries that have a text
	templates           []content.Template
	people              map[string]plan.Person
	written, kept, lost int
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
	summaries, err := tx.Summaries(ctx)
	if err != nil {
		return err
	}
	w.has = make(map[string]bool, len(summaries))
	for _, h := range summaries {
		w.has[h.EntryID] = true
	}
	if w.templates, err = tx.Templates(ctx); err != nil {
		return err
	}
	w.people, err = plan.PeopleByID(ctx, tx)
	return err
}

func (w *textWriter) write(ctx context.Context, tx Tx, s plan.Site, pages []carriedText, done int) error {
	if err := plan.May(s, w.people[w.b.PersonID], workflow.Write); err != nil {
		return err
	}
	for _, p := range pages {
		if w.has[p.entry] {
			w.kept++
			continue
		}
		if err := w.page(ctx, tx, p); err != nil {
			return err
		}
	}
	return tx.SetImport(ctx, w.b.ID, ImportTexts, done, len(w.pages), w.b.Message, w.a.Now())
}

func (w *textWriter) page(ctx context.Context, tx Tx, p carriedText) error {
	body, err := w.site.Body(p.file, p.title, content.OldLinks{
		Page:    func(file string) (string, bool) { id, ok := w.id[file]; return id, ok },
		Picture: func(pic content.Picture) (string, error) { return w.a.KeepPicture(ctx, tx, pic) },
	})
	if err != nil {
		body = content.OldBody{Lost: []string{"all of the text: " + err.Error()}}
	}
	if len(body.Lost) > 0 {
		w.lost++
	}
	source := plan.PageSource{EntryID: p.entry, File: p.file, HTML: plan.Zip(body.Source), Lost: body.Lost, At: w.a.Now()}
	if err := tx.PutSource(ctx, source); err != nil {
		return err
	}
	t := plan.TemplateOf(w.templates, p.template)
	v, err := w.a.Rendered(t, content.Clean(content.Filled(t, body.Blocks, body.Summary)), w.people)
	if err != nil {
		return err
	}
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = plan.NewID(), p.entry, 1, w.b.PersonID, w.a.Now()
	w.written++
	return tx.SaveDraft(ctx, v, 0)
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
