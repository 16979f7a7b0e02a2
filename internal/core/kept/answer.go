package kept

import (
	"net/http"
	"slices"
)

// Place is where a file stands for one reader, on which depends what its address answers.
type Place struct {
	Shown     bool // on a page that the reader gets, or it is the mark of the site
	Hidden    bool // on pages that the reader does not get
	Successor bool // another file took its place, and is shown to the reader
	Before    bool // an edition showed it
}

// Code is what the address of the file answers: the file or the one that took its place, gone,
// or nothing.
func (p Place) Code() int {
	switch {
	case p.Shown:
		return http.StatusOK
	case p.Hidden:
		return http.StatusNotFound
	case p.Successor:
		return http.StatusOK
	case p.Before:
		return http.StatusGone
	}
	return http.StatusNotFound
}

// File is a file as far as its address depends on it.
type File struct {
	ID, Name, ReplacedBy string
	Before               bool // an edition showed it
}

// Answers gives what the addresses of files answer who may read every page, where shown tells
// which of them pages show.
func Answers(files []File, shown func(id string) bool) []int {
	after := make(map[string]string, len(files))
	for _, f := range files {
		if f.ReplacedBy != "" {
			after[f.ID] = f.ReplacedBy
		}
	}
	out := make([]int, len(files))
	for i, f := range files {
		last := Last(f.ID, func(id string) string { return after[id] })
		out[i] = Place{Shown: shown(f.ID), Successor: last != f.ID && shown(last), Before: f.Before}.Code()
	}
	return out
}

// Shown tells which files are shown: always, as the mark of the site is, or on an entry that readers get.
func Shown(on map[string][]string, always func(id string) bool, served func(entry string) bool) func(id string) bool {
	return func(id string) bool { return always(id) || slices.ContainsFunc(on[id], served) }
}

// Stopping gives the names of files whose addresses answer with a file now and will not then, sorted.
// What took the place of another answers for it, so the other is not one of them.
//
//	plan.pdf on "Ponds", which goes            plan.pdf
//	old.pdf, replaced by plan.pdf              both, as the address of old.pdf answered, too
//	plan.pdf on "Ponds" and on "Compost"       none
func Stopping(files []File, now, then func(id string) bool) (names []string) {
	before, after := Answers(files, now), Answers(files, then)
	for i, f := range files {
		if before[i] == http.StatusOK && after[i] != http.StatusOK {
			names = append(names, f.Name)
		}
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// Last gives the file at the end of all replacements of a file, of which after gives the next
// one. Where they go round in a ring it is the file itself.
func Last(id string, after func(id string) string) string {
	met, last := map[string]bool{id: true}, id
	for next := after(last); next != ""; next = after(last) {
		if met[next] {
			return id
		}
		met[next], last = true, next
	}
	return last
}
