package plan

import (
	"time"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// EntryStatus tells where the entries of Next stand.
type EntryStatus struct {
	Marks   map[string][]string // planned changes of the sitemap, by entry
	Drafts  map[string]bool     // pages with a text that is not out
	Written map[string]time.Time
	o       Outline
}

// Status works out where the entries stand.
func (o Outline) Status() EntryStatus {
	s := EntryStatus{Marks: map[string][]string{}, Drafts: map[string]bool{}, Written: o.Summaries.LastWritten(), o: o}
	for _, c := range o.Trees.Changes() {
		s.Marks[c.ID] = append(s.Marks[c.ID], c.Mark())
	}
	for i := range o.Summaries.Drafts {
		s.Drafts[o.Summaries.Drafts[i].EntryID] = true
	}
	return s
}

// LastChange tells when the text of an entry or its place in the plan was last
// changed.
func (s EntryStatus) LastChange(id string) time.Time {
	at := s.Written[id]
	if p, ok := s.o.Trees.Planned[id]; ok && p.At.After(at) {
		return p.At
	}
	return at
}

// Facts gives what the state of the entry at an index of Next follows from.
func (s EntryStatus) Facts(i int) workflow.PageFacts {
	e := s.o.Trees.Next.Ref(i)
	_, written := s.Written[e.ID]
	return workflow.PageFacts{
		Live: s.o.Trees.Live.Find(e.ID) != sitemap.None, Draft: s.Drafts[e.ID], Planned: len(s.Marks[e.ID]) > 0,
		Withdrawn: e.Withdrawn, Carried: e.Kind == sitemap.Carried, Written: written, Owned: e.Owner != "",
	}
}

// State gives where the entry at an index of Next stands.
func (s EntryStatus) State(i int) workflow.PageState { return s.Facts(i).State() }

// AllMarks gives the planned changes of an entry, an edited text with them.
func (s EntryStatus) AllMarks(i int) []string {
	id := s.o.Trees.Next.Ref(i).ID
	marks := s.Marks[id]
	if s.Drafts[id] && s.State(i).Icon() != workflow.Unlit {
		return append(marks[:len(marks):len(marks)], "edited")
	}
	return marks
}
