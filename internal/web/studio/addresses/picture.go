package addresses

import (
	"errors"
	"fmt"
	"net/http"
	"slices"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/flow"
	"candlepath/internal/files/drawings"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// pictureView draws where a family of addresses leads.
type pictureView struct {
	shell.Frame
	Self, Back, Below, Problem, SVG, Says, Box string
	Hosts                                      []part.Option
	Left, Right                                []pictureNode
	Bands                                      []pictureBand
}

type pictureNode struct {
	Label, Full, Y, H, TextY, URL string
}

type pictureBand struct {
	Path, Words string
	Gone        bool
}

// mostNodes is how many folders a side of the picture has at most.
const mostNodes = 24

func (s *Screens) flows(r *shell.Request) ([]flow.Lead, error) {
	return s.App.Flows(r.Ctx(), r.Who, addresses.FlowAsk{Host: r.Query("host"), Below: r.Query("below")})
}

// picture shows it.
func (s *Screens) picture(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Where addresses lead")
	if err != nil {
		return err
	}
	hosts, err := s.App.OlderHosts(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	host, below := r.Query("host"), r.Query("below")
	v := pictureView{Frame: f, Self: urls.Flows, Back: urls.Redirects, Below: below, SVG: urls.FlowsSVG(host, below), Hosts: []part.Option{{Label: "all redirects"}}}
	for _, h := range hosts {
		v.Hosts = append(v.Hosts, part.Option{Value: h.Host, Label: h.Host, Chosen: h.Host == host})
	}
	leads, err := s.flows(r)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		v.Problem = invalid.Message
		return s.Show(r, http.StatusUnprocessableEntity, "picture", v)
	}
	if err != nil {
		return err
	}
	v.draw(flow.Draw(leads, mostNodes), host)
	as := "as their visits"
	if !slices.ContainsFunc(leads, func(l flow.Lead) bool { return l.Visits > 0 }) {
		as = "as the number of their addresses, none of which was visited"
	}
	v.Says = part.Count(len(leads), "address", "addresses") + ". Bands are as wide " + as + ". Choose a folder on the left to see what is in it."
	return s.Show(r, http.StatusOK, "picture", v)
}

func (v *pictureView) draw(p flow.Picture, host string) {
	v.Box = fmt.Sprintf("0 -4 1000 %.0f", p.Height+8)
	for _, n := range p.Left {
		v.Left = append(v.Left, newPictureNode(n, urls.FlowsOf(host, n.Base)))
	}
	for _, n := range p.Right {
		v.Right = append(v.Right, newPictureNode(n, ""))
	}
	for _, b := range p.Bands {
		v.Bands = append(v.Bands, pictureBand{
			drawings.BandPath(b, 330, 670),
			fmt.Sprintf("%s to %s: %s, %s", p.Left[b.Left].Label, p.Right[b.Right].Label, part.Count(b.Leads, "address", "addresses"), part.Count(b.Total, "visit", "visits")),
			p.Right[b.Right].Label == "gone" || p.Right[b.Right].Label == "not answered",
		})
	}
}

func newPictureNode(n flow.Node, url string) pictureNode {
	v := pictureNode{Label: drawings.NodeLabel(n), Full: n.Label, Y: fmt.Sprintf("%.1f", n.Y), H: fmt.Sprintf("%.1f", n.H), TextY: fmt.Sprintf("%.1f", n.Y+n.H/2+4)}
	if n.Leads > 1 && n.Label != flow.Others {
		v.URL = url
	}
	return v
}

// pictureSVG gives the picture as a file.
func (s *Screens) pictureSVG(r *shell.Request) error {
	leads, err := s.flows(r)
	if err != nil {
		return err
	}
	title := "Where " + part.OrElse(r.Query("host"), "redirects") + r.Query("below") + " leads"
	r.Header("Content-Disposition", `attachment; filename="addresses.svg"`)
	r.Data(http.StatusOK, "image/svg+xml", drawings.FlowSVG(flow.Draw(leads, mostNodes), title))
	return nil
}
