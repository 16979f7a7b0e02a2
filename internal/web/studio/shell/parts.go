package shell

import (
	"net/http"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
)

// partsView shows every part of which screens are made, in all its states.
type partsView struct {
	Frame
	Kinds   []part.Option
	States  []stateView
	Marks   []string
	Filters []part.CountView
	Rows    []partsRow
	Pager   part.Pager
	Choices []part.Option
	Long    string
}

type stateView struct{ Icon, Words string }

type partsRow struct{ Title, Address, State, Icon, Number string }

// parts is shown in the demo only.
func (s *Shell) parts(r *Request) error {
	if !s.Demo {
		return plan.ErrNotFound
	}
	f, _, err := s.FrameFor(r, "Parts of the screens")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "parts", newPartsView(f))
}

func newPartsView(f Frame) partsView {
	v := partsView{
		Frame: f, Long: "A title that goes on and on, as titles of meetings and of their minutes do when several teams agree on them",
		Filters: []part.CountView{{Words: "All", N: "163", Here: true, URL: "#"}, {Words: "Changed", N: "34", URL: "#"}, {Words: "No owner", N: "0", URL: "#"}},
		Pager:   part.Pager{Prev: "#", Next: "#", Range: "101–200 of 1,234"},
		Rows: []partsRow{
			{"Opening hours", "/visitors/opening-hours", "live", "live", "1,840"},
			{"Drying room", "/science/seed-vault/processing/drying-room", "live, planned", "half", "49"},
			{"Bog garden", "/grounds/bog-garden", "planned", "never", "0"},
		},
		Choices: []part.Option{{Value: "a", Label: "listed", Chosen: true}, {Value: "b", Label: "not listed"}},
	}
	v.Rows = append(v.Rows, partsRow{v.Long, "/working-here/minutes/of-the-meeting-of-several-teams-that-agreed-on-a-title", "withdrawn", "bar", "7"})
	for _, k := range sitemap.Kinds() {
		v.Kinds = append(v.Kinds, part.Option{Value: string(k), Label: k.Label()})
	}
	for _, st := range workflow.PageStates() {
		v.States = append(v.States, stateView{string(st.Icon()), string(st)})
	}
	for _, a := range change.Aspects() {
		v.Marks = append(v.Marks, a.Label())
	}
	return v
}
