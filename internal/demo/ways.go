package demo

import (
	"context"
	"fmt"
	"strings"

	"github.com/google/uuid"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// at gives a part of a step, or "".
func at(parts []string, i int) string {
	if i < len(parts) {
		return strings.TrimSpace(parts[i])
	}
	return ""
}

func (l *loader) menuStep(ctx context.Context, who plan.Person, word string, parts []string) error {
	t, _, err := l.app.Export(ctx, who, false)
	if err != nil {
		return err
	}
	name, what, _ := strings.Cut(at(parts, 0), " ")
	entry := func(address string) (string, error) {
		i := t.ClaimedBy(address)
		if i == sitemap.None {
			return "", fmt.Errorf("nothing is at %s", address)
		}
		return t.Ref(i).ID, nil
	}
	act := appnavigation.MenuAct{Key: uuid.NewString(), Menu: name, After: menu.Last}
	if branch, ok := strings.CutPrefix(name, "side:"); ok {
		id, err := entry(branch)
		if err != nil {
			return err
		}
		act.Menu = menu.Side(id)
	}
	switch word {
	case "item":
		act.Do = "add"
		act.Override, err = said(what, parts, entry)
		act.Parent = l.labels[act.Menu+at(parts, 3)]
	case "words":
		act.Do, act.Override = "say", menu.ItemOverride{Title: at(parts, 1), Symbol: at(parts, 2)}
		act.Item, err = entry(what)
	case "first":
		act.Do, act.After = "move", ""
		act.Item, err = entry(what)
	case "leave":
		act.Do = "out"
		act.Item, err = entry(what)
	}
	if err != nil {
		return err
	}
	res, err := l.app.PlanMenu(ctx, who, act)
	if act.Override.Kind == menu.Label {
		l.labels[act.Menu+act.Override.Title] = res.ID
	}
	return err
}

// said is the item that a step adds.
func said(kind string, parts []string, entry func(string) (string, error)) (menu.ItemOverride, error) {
	switch kind {
	case "label":
		return menu.ItemOverride{Kind: menu.Label, Title: at(parts, 1)}, nil
	case "link":
		return menu.ItemOverride{Kind: menu.Link, URL: at(parts, 1), Title: at(parts, 2)}, nil
	case "page":
		id, err := entry(at(parts, 1))
		return menu.ItemOverride{Kind: menu.AnEntry, Entry: id, Title: at(parts, 2)}, err
	}
	return menu.ItemOverride{}, fmt.Errorf("there is no item %q", kind)
}

func (l *loader) trail(ctx context.Context, who plan.Person, parts []string) error {
	t, _, err := l.app.Export(ctx, who, false)
	if err != nil {
		return err
	}
	tr := shape.Trail{Title: at(parts, 0), About: at(parts, 1)}
	for _, a := range strings.Fields(at(parts, 2)) {
		i := t.PageAt(a)
		if i == sitemap.None {
			return fmt.Errorf("no page is at %s", a)
		}
		tr.Pages = append(tr.Pages, t.Ref(i).ID)
	}
	_, err = l.app.PlanTrail(ctx, who, appnavigation.TrailAct{Key: uuid.NewString(), Trail: tr, Confirmed: true})
	return err
}
