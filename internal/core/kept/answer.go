package kept

import "net/http"

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
