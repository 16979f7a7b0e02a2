package shell

import (
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

// Frame is what every studio screen shows around its work.
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

	InboxURL string
	Unread   int // notices that wait there

	SettingsURL, PeopleURL string // for those who may set them
	Swapped                bool   // stops and shelf come with a piece of a page, and go to their places
}

// FrameFor builds the frame of a screen, and hands over what it is about.
func (s *Shell) FrameFor(r *Request, title string) (Frame, editions.Overview, error) {
	o, err := s.App.Overview(r.Ctx(), r.Who)
	if err != nil {
		return Frame{}, o, err
	}
	return r.Frame(o, title), o, nil
}

// Frame is the frame of the view that the route of a request is of.
func (r *Request) Frame(o editions.Overview, title string) Frame {
	return newFrame(r.Who, o, stopOf(r.Route.View), r.Route.View, title)
}

// In is the frame with another view lit, for a screen that belongs to several.
func (f Frame) In(view string) Frame {
	f.Tabs = tabs(stopOf(view), view)
	return f
}

// newFrame builds a frame. What the next edition holds follows by itself where it
// is not known yet.
func newFrame(who plan.Person, o editions.Overview, stop, view, title string) Frame {
	f := Frame{
		Title: title, Site: o.Site.Name(), Person: who.Name, Role: string(who.Role), Initials: initials(who.Name),
		PersonID: who.ID, Shelf: shelfView{Number: o.Site.Edition + 1, Look: urls.Edition, Later: true}, SignOut: urls.SignOut, FindURL: urls.Find,
		InboxURL: urls.Inbox, Unread: who.Unread,
		Stops: path(stop, o.Next), Tabs: tabs(stop, view),
	}
	if o.Site.Rights().May(who.Role, workflow.Govern) {
		f.SettingsURL, f.PeopleURL = urls.Settings, urls.People
	}
	if o.Next != nil {
		f.Shelf = newShelf(*o.Next)
		f.Shelf.asked(*o.Next, who)
	}
	f.Shelf.Again = urls.ShelfOf(stop)
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
