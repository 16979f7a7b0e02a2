// Package demo loads the demo organisation through the same use cases that a
// user has: its files are imported, written, decided and published.
package demo

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/app"
	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/files"
)

// Password of everybody in the demo.
const Password = "candle path demo"

type person struct {
	Login, Name string
	Role        workflow.Role
}

type loader struct {
	app    *app.App // by the clock of the history
	now    *app.App // by the clock of today
	files  fs.FS
	people map[string]plan.Person // by login
	pages  map[string]written
	labels map[string]string // keys of labels, by menu and words
	tell   func(string)
	today  time.Time
	at     time.Time // of what is told
}

// Load fills an empty database from the demo's files. A database that has a
// site already is left alone.
func Load(ctx context.Context, a *app.App, dir fs.FS, tell func(string)) error {
	site, err := a.SiteNow(ctx)
	if err != nil || site.ID != "" {
		return err
	}
	l := &loader{today: a.Now(), files: dir, people: map[string]plan.Person{}, labels: map[string]string{}, tell: tell}
	l.at = l.today
	l.now = a
	l.app = a.WithClock(func() time.Time { return l.at })
	tell("Loading the demo of Quillmere Gardens")
	if err := l.found(ctx); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	if err := l.history(ctx); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	return nil
}

func (l *loader) read(name string, into any) error {
	b, err := fs.ReadFile(l.files, name)
	if err != nil {
		return err
	}
	if err := json.Unmarshal(b, into); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}

func (l *loader) found(ctx context.Context) error {
	var people []person
	var templates []content.Template
	if err := errors.Join(l.read("people.json", &people), l.read("templates.json", &templates)); err != nil {
		return err
	}
	hash, err := account.HashPassword(Password)
	if err != nil {
		return err
	}
	f := account.NewSite{Site: plan.Site{Settings: setting.Values{setting.SiteName: "Quillmere Inside"}, Hosts: []string{"inside.quillmere.example"}}, Templates: templates}
	for _, p := range people {
		f.People = append(f.People, plan.Person{Login: p.Login, Name: p.Name, Role: p.Role, PasswordHash: hash})
	}
	if _, err := l.app.CreateSite(ctx, f); err != nil {
		return err
	}
	everyone, err := l.app.Everyone(ctx)
	for _, p := range everyone {
		l.people[p.Login] = p
	}
	return err
}

// history plays history.txt: one step a line, the first word says what.
//
//	as LOGIN
//	before DAYS (today is 0): when what follows happened
//	bring FILE
//	write all | write ADDRESS …
//	add PARENT-ADDRESS | TITLE
//	move ADDRESS | PARENT-ADDRESS
//	title ADDRESS | TITLE
//	remove ADDRESS | WHERE-VISITORS-GO
//	redirect FROM | TO | HOW | MATCH | NOTE
//	older FILE, settle BELOW: the list of the older site, and what is clear of it
//	send PAGE | TO | MESSAGE, remark PAGE | WORDS: what is planned of a page goes for review, and is remarked on
//	used FROM | N: how often a redirect answered in the last weeks
//	publish WHY
//	back NUMBER | WHY
//
// MENU is top, foot, or side:ADDRESS of a branch; in it, items are named by their
// words or their page's address:
//
//	item MENU page|label|link | WHERE-TO or WORDS | WORDS | BELOW-WHICH-ITEM
//	words MENU ADDRESS | WORDS | SYMBOL
//	first MENU ADDRESS
//	leave MENU ADDRESS
//	trail TITLE | ABOUT | ADDRESS …
//	visits FILE
func (l *loader) history(ctx context.Context) error {
	b, err := fs.ReadFile(l.files, "history.txt")
	if err != nil {
		return err
	}
	addresses, err := l.addFiles(ctx)
	if err != nil {
		return err
	}
	if l.pages, err = readPages(l.files, l.people, addresses); err != nil {
		return err
	}
	var who plan.Person
	for n, line := range strings.Split(string(b), "\n") {
		if line = strings.TrimSpace(line); line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		word, rest, _ := strings.Cut(line, " ")
		if word == "before" {
			if err := l.goTo(rest); err != nil {
				return fmt.Errorf("history.txt:%d: %w", n+1, err)
			}
			continue
		}
		l.at = l.at.Add(pace)
		if word == "as" {
			var ok bool
			if who, ok = l.people[rest]; !ok {
				return fmt.Errorf("history.txt:%d: nobody is called %s", n+1, rest)
			}
			continue
		}
		if err := l.step(ctx, who, word, rest); err != nil {
			return fmt.Errorf("history.txt:%d: %s: %w", n+1, line, err)
		}
	}
	return nil
}

// addFiles brings what stands in the folder files, and gives the address of each.
func (l *loader) addFiles(ctx context.Context) (map[string]string, error) {
	l.at = l.today.AddDate(-1, 0, 0)
	names, err := fs.Glob(l.files, "files/*")
	out := map[string]string{}
	for _, name := range names {
		data, err := fs.ReadFile(l.files, name)
		if err != nil {
			return nil, err
		}
		f, err := files.Prepare(path.Base(name), bytes.NewReader(data))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		kept, err := l.app.AddFile(ctx, l.people["ines"], f)
		if err != nil {
			return nil, err
		}
		out[path.Base(name)] = kept.Address()
	}
	return out, err
}

// pace is how long each step of the history takes.
const pace = 2 * time.Minute

// goTo goes to the morning of a day before today.
func (l *loader) goTo(days string) error {
	n, err := strconv.Atoi(days)
	if err != nil || n < 0 {
		return fmt.Errorf("%q is not a number of days", days)
	}
	day := l.today.AddDate(0, 0, -n)
	at := time.Date(day.Year(), day.Month(), day.Day(), 9, 12, 0, 0, time.UTC)
	if n == 0 {
		at = l.today
	}
	if at.Before(l.at) && l.at != l.today {
		return fmt.Errorf("%s days before today is before what was told last", days)
	}
	l.at = at
	return nil
}

func (l *loader) step(ctx context.Context, who plan.Person, word, rest string) error {
	first, second, _ := strings.Cut(rest, " | ")
	switch word {
	case "bring":
		return l.bring(ctx, who, rest)
	case "write":
		return l.write(ctx, who, strings.Fields(rest))
	case "redirect":
		to := strings.Split(second, " | ")
		_, err := l.app.PlanRedirects(ctx, who, uuid.NewString(), []redirect.Wish{{From: first, To: at(to, 0), Code: at(to, 1), Match: at(to, 2), Note: at(to, 3)}})
		return err
	case "publish":
		e, err := l.app.Publish(ctx, who, editions.PublishAsk{Key: uuid.NewString(), Why: rest})
		var notReady *editions.NotReady
		if errors.As(err, &notReady) {
			for _, f := range notReady.Findings {
				if f.Severity == check.Error {
					err = errors.Join(err, errors.New(f.Message))
				}
			}
		}
		if err == nil {
			l.tell(fmt.Sprintf("  edition %d: %s", e.Number, rest))
		}
		return err
	case "back":
		var to int
		if _, err := fmt.Sscan(first, &to); err != nil {
			return err
		}
		_, err := l.app.Rollback(ctx, who, uuid.NewString(), to, second)
		return err
	case "item", "words", "first", "leave":
		return l.menuStep(ctx, who, word, strings.Split(rest, "|"))
	case "used":
		return l.used(ctx, first, second)
	case "older":
		return l.older(ctx, who, rest)
	case "settle":
		return l.settle(ctx, who, rest)
	case "send", "remark":
		return l.review(ctx, who, word, first, second)
	case "visits":
		return l.visits(ctx, who, rest)
	case "trail":
		return l.trail(ctx, who, strings.Split(rest, "|"))
	}
	return l.planStep(ctx, who, word, first, second)
}

func (l *loader) planStep(ctx context.Context, who plan.Person, word, first, second string) error {
	t, _, err := l.app.Export(ctx, who, false)
	if err != nil {
		return err
	}
	i := t.ClaimedBy(first)
	if i == sitemap.None {
		return fmt.Errorf("nothing is at %s", first)
	}
	act := appsitemap.PlanAct{Key: uuid.NewString(), ID: t.At(i).ID, Confirmed: true}
	switch word {
	case "add":
		act.Do, act.Parent, act.Value = "add", parentID(t, i), second
		act.After = t.Last(act.Parent).After
	case "move":
		p := t.ClaimedBy(second)
		if p == sitemap.None {
			return fmt.Errorf("nothing is at %s", second)
		}
		act.Do, act.Parent = "move", parentID(t, p)
		act.After = t.Last(act.Parent).After
	case "title":
		act.Do, act.Value = "retitle", second
	case "slug":
		act.Do, act.Field, act.Value = "fact", "slug", second
	case "remove":
		act.Do = "remove"
	default:
		return fmt.Errorf("unknown step %q", word)
	}
	if _, err := l.app.Plan(ctx, who, act); err != nil || word != "remove" || second == "" {
		return err
	}
	return l.decideBranch(ctx, who, act.ID, second)
}

// decideBranch decides for all pages of a removed branch.
func (l *loader) decideBranch(ctx context.Context, who plan.Person, id, to string) error {
	live, _, err := l.app.Export(ctx, who, true)
	if err != nil {
		return err
	}
	top := live.Find(id)
	for i := top; i != sitemap.None && i < live.End(top); i++ {
		if live.Served(i) == "" {
			continue
		}
		if err := l.app.Decide(ctx, who, live.At(i).ID, to, false, ""); err != nil {
			return err
		}
	}
	return nil
}

func parentID(t *sitemap.Tree, i int) string {
	if i == t.Home() {
		return ""
	}
	return t.At(i).ID
}

func (l *loader) bring(ctx context.Context, who plan.Person, name string) error {
	data, err := fs.ReadFile(l.files, name)
	if err != nil {
		return err
	}
	// By the clock of today: a file that waits since a year would be cleaned up meanwhile.
	id, err := l.now.KeepFile(ctx, who, name, data)
	if err != nil {
		return err
	}
	if err := l.now.ReadFile(ctx, id, readSheet); err != nil {
		return err
	}
	p, err := l.now.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Mode: sheet.Update})
	if err != nil {
		return err
	}
	if p.Problem != "" || p.ImportResult == nil {
		return fmt.Errorf("%s: %s%s", name, p.Problem, p.File.Message)
	}
	_, err = l.app.AcceptFile(ctx, who, id)
	return err
}

// visits counts the visits of a file as those of today.
func (l *loader) visits(ctx context.Context, who plan.Person, name string) error {
	data, err := fs.ReadFile(l.files, name)
	if err != nil {
		return err
	}
	counts, err := files.ReadVisits(name, bytes.NewReader(data))
	if err != nil {
		return err
	}
	today, err := time.Parse(time.DateOnly, l.app.Today())
	if err != nil {
		return err
	}
	_, _, err = l.app.BringVisits(ctx, who, today, counts)
	return err
}

// write saves the prepared text of pages: of all that Next has, or of some.
func (l *loader) write(ctx context.Context, who plan.Person, addresses []string) error {
	t, _, err := l.app.Export(ctx, who, false)
	if err != nil {
		return err
	}
	window := uuid.NewString()
	if addresses[0] == "all" {
		addresses = addresses[:0]
		for a := range l.pages {
			if t.PageAt(a) != sitemap.None {
				addresses = append(addresses, a)
			}
		}
		slices.Sort(addresses)
	}
	for _, a := range addresses {
		text, ok := l.pages[a]
		i := t.PageAt(strings.TrimSuffix(a, "#2"))
		if !ok || i == sitemap.None {
			return fmt.Errorf("no page or no text at %s", a)
		}
		id := t.At(i).ID
		open, err := l.app.OpenPage(ctx, who, id, window)
		if err != nil {
			return err
		}
		page, err := text.content(open.Template, t, open.Entry.Owner, l.people)
		if err != nil {
			return fmt.Errorf("text of %s: %w", open.Address, err)
		}
		if _, err := l.app.SavePage(ctx, who, id, window, page, open.Base); err != nil {
			return err
		}
		if err := l.app.ClosePage(ctx, who, id, window); err != nil {
			return err
		}
	}
	return nil
}
