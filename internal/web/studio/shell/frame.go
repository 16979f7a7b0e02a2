package shell

import (
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

// frame is what every studio screen shows around its work.
type Frame struct {
	Title    string
	Site     string
	Person   string
	Role     string
	Initials string
	PersonID string
	Stops    []stop
	Tabs     []tab
	Shelf    shelfView
	SignOut  string
	FindURL  string

	SettingsURL, PeopleURL string // for those who may set them
	Swapped                bool   // stops and shelf come with a piece of a page, and go to their places
}

// frameFor builds the frame of a screen, and hands over what it is about.
func (s *Shell) FrameFor(r *Request, stopName, tabName, title string) (Frame, editions.Overview, error) {
	o, err := s.App.Overview(r.Ctx(), r.Who)
	if err != nil {
		return Frame{}, o, err
	}
	return NewFrame(r.Who, o, stopName, tabName, title), o, nil
}

// newFrame builds the frame. What the next edition holds follows by itself where it
// is not known yet.
func NewFrame(who plan.Person, o editions.Overview, stopName, tabName, title string) Frame {
	f := Frame{
		Title: title, Site: o.Site.Name, Person: who.Name, Role: string(who.Role), Initials: initials(who.Name),
		PersonID: who.ID, Shelf: shelfView{Number: o.Site.Edition + 1, Look: urls.Edition, Later: true}, SignOut: urls.SignOut, FindURL: urls.Find,
	}
	if o.Site.Rights.May(who.Role, workflow.Govern) {
		f.SettingsURL, f.PeopleURL = urls.Settings, urls.People
	}
	waiting := map[string]waits{}
	if o.Next != nil {
		f.Shelf, waiting = newShelf(*o.Next), waitingAt(*o.Next)
	}
	f.Shelf.Again = urls.ShelfOf(stopName)
	for _, name := range stopNames {
		f.Stops = append(f.Stops, stop{Name: name, URL: stopTabs[name][0].URL, Here: name == stopName, Waiting: waiting[name].n, Says: waiting[name].says})
	}
	for _, t := range stopTabs[stopName] {
		t.Here = t.Name == tabName
		f.Tabs = append(f.Tabs, t)
	}
	return f
}

func initials(name string) string {
	out := ""
	for _, part := range strings.Fields(name) {
		out += string([]rune(part)[:1])
		if len(out) == 2 {
			break
		}
	}
	return strings.ToUpper(out)
}
