package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"path"
	"regexp"
	"strings"

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
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

// BringTexts brings the texts of an older site into drafts of the pages that
// AcceptFile made of it. A page that has a text already keeps it, so that it
// can be begun again after it was stopped anywhere.
func (a *App) BringTexts(ctx context.Context, id string, open OpenOldSite) error {
	b, err := a.bringIn(ctx, id, true)
	if err != nil || b.State != BringTexts {
		return err
	}
	site, err := open(b.Data)
	if err != nil {
		return errors.Join(err, a.setBringIn(ctx, id, BringFailed, 0, 0, "The entries are in the plan; the texts could not be read."))
	}
	w := textWriter{a: a, b: b, site: site, id: map[string]string{}}
	if err := a.store.Note(ctx, func(tx port.Tx, s port.Site) error { return w.load(ctx, tx, s) }); err != nil {
		return err
	}
	for from := 0; from < len(w.pages); from += textBatch {
		if err := ctx.Err(); err != nil {
			return err
		}
		batch := w.pages[from:min(from+textBatch, len(w.pages))]
		if err := a.store.Note(ctx, func(tx port.Tx, s port.Site) error { return w.write(ctx, tx, s, batch, from+len(batch)) }); err != nil {
			return fmt.Errorf("texts of %s: %w", b.FileName, err)
		}
	}
	words := fmt.Sprintf("%s The texts of %d %s came along as drafts.", b.Message, w.written, plural(w.written, "page", "pages"))
	if w.kept > 0 {
		words += fmt.Sprintf(" %d %s had a text and kept it.", w.kept, plural(w.kept, "page", "pages"))
	}
	if w.lost > 0 {
		words += fmt.Sprintf(" On %d %s something could not be kept; the page tells what.", w.lost, plural(w.lost, "page", "pages"))
	}
	return a.setBringIn(ctx, id, BringWritten, b.Total, b.Total, words)
}

type textWriter struct {
	a     *App
	b     port.BringIn
	site  OldSite
	pages []carriedText
	id    map[string]string // entry by file

	has                 map[string]bool // entries that have a text
	templates           []content.Template
	people              map[string]port.Person
	written, kept, lost int
}

// load finds which entries the pages of the file became, and which of them have
// a text.
func (w *textWriter) load(ctx context.Context, tx port.Tx, s port.Site) error {
	sheet, err := sheetOf(w.b)
	if err != nil {
		return err
	}
	known, err := tx.BroughtIDs(ctx)
	if err != nil {
		return err
	}
	trees, err := w.a.treesOf(ctx, tx, s)
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
	heads, err := tx.Heads(ctx)
	if err != nil {
		return err
	}
	w.has = make(map[string]bool, len(heads))
	for _, h := range heads {
		w.has[h.EntryID] = true
	}
	if w.templates, err = tx.Templates(ctx); err != nil {
		return err
	}
	w.people, err = peopleByID(ctx, tx)
	return err
}

func (w *textWriter) write(ctx context.Context, tx port.Tx, s port.Site, pages []carriedText, done int) error {
	if err := may(s, w.people[w.b.PersonID], workflow.Write); err != nil {
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
	return tx.SetBringIn(ctx, w.b.ID, BringTexts, done, len(w.pages), w.b.Message, w.a.now())
}

func (w *textWriter) page(ctx context.Context, tx port.Tx, p carriedText) error {
	body, err := w.site.Body(p.file, p.title, content.OldLinks{
		Page:    func(file string) (string, bool) { id, ok := w.id[file]; return id, ok },
		Picture: func(pic content.Picture) (string, error) { return w.a.keepPicture(ctx, tx, pic) },
	})
	if err != nil {
		body = content.OldBody{Lost: []string{"all of the text: " + err.Error()}}
	}
	if len(body.Lost) > 0 {
		w.lost++
	}
	source := port.PageSource{EntryID: p.entry, File: p.file, HTML: zip(body.Source), Lost: body.Lost, At: w.a.now()}
	if err := tx.PutSource(ctx, source); err != nil {
		return err
	}
	t := templateOf(w.templates, p.template)
	v, err := w.a.rendered(t, content.Clean(content.Filled(t, body.Blocks, body.Summary)), w.people)
	if err != nil {
		return err
	}
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = newID(), p.entry, 1, w.b.PersonID, w.a.now()
	w.written++
	return tx.SaveDraft(ctx, v, 0)
}

// PictureAt is the address of a kept picture.
func PictureAt(id, name string) string { return "/files/" + id + "/" + name }

// keepPicture keeps a picture under an id made of what it holds, and gives its
// address.
func (a *App) keepPicture(ctx context.Context, tx port.Tx, p content.Picture) (string, error) {
	sum := sha256.Sum256(p.Data)
	id := hex.EncodeToString(sum[:16])
	ending := strings.ToLower(path.Ext(p.Name))
	p.Name = address.Slug(strings.TrimSuffix(p.Name, path.Ext(p.Name))) + "." + address.Slug(ending)
	return PictureAt(id, p.Name), tx.PutPicture(ctx, port.Picture{ID: id, Picture: p, At: a.now()})
}

// ShownPicture is a kept picture, with where it stands.
type ShownPicture struct {
	port.Picture
	On   []string // live pages that show it
	Ever bool     // some edition showed it
	Mark bool     // it is the mark of the site
}

var pictureID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// Picture gives a kept picture. Who may have it depends on the pages that show it.
func (a *App) Picture(ctx context.Context, id, name string) (p ShownPicture, err error) {
	if !pictureID.MatchString(id) {
		return p, ErrNotFound
	}
	err = a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if p.Picture, err = tx.Picture(ctx, id); err != nil {
			return err
		}
		if p.Name != name {
			return ErrNotFound
		}
		p.Mark = s.Mark == PictureAt(id, name)
		p.On, p.Ever, err = tx.PictureShown(ctx, id)
		return err
	})
	return p, err
}

// PageSource gives the HTML that a page's text was brought in from.
func (a *App) PageSource(ctx context.Context, who port.Person, entry string) (s port.PageSource, err error) {
	err = a.store.Read(ctx, func(tx port.Tx, site port.Site) error {
		if err := may(site, who, workflow.Write); err != nil {
			return err
		}
		s, err = tx.Source(ctx, entry, true)
		return err
	})
	return s, err
}
