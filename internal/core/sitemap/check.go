package sitemap

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
)

// Check looks for what is wrong with a tree by itself, without a Live to
// compare it with. line gives the line of an entry in a file, or is nil.
func Check(t *Tree, line []int) []Finding {
	c := checker{t: t, line: line}
	for _, clash := range t.Clashes() {
		c.find(clash.Second, Error, "address-clash", fmt.Sprintf("%q has the address %s, which %q has already. Change the slug of one of them.",
			t.entries[clash.Second].Title, clash.Address, t.entries[clash.First].Title))
	}
	for i := range t.entries {
		c.entry(i)
		c.siblings(i)
	}
	if t.home == None && t.Len() > 0 {
		c.out = append(c.out, Finding{Severity: Warning, Rule: "no-home", Message: "No entry has the address /, so there is no home page."})
	}
	return c.out
}

type checker struct {
	t    *Tree
	line []int
	out  []Finding
}

func (c *checker) find(i int, s Severity, rule, message string) {
	f := Finding{Severity: s, Rule: rule, ID: c.t.entries[i].ID, From: address.Written(c.t.Address(i)), Message: message}
	if c.line != nil {
		f.Line = c.line[i]
	}
	c.out = append(c.out, f)
}

func (c *checker) entry(i int) {
	t, e := c.t, &c.t.entries[i]
	if a := t.Address(i); a != "" && address.Reserved(a) {
		c.find(i, Error, "reserved-address", fmt.Sprintf("%q cannot have the address %s: the program itself answers below /%s. Choose another slug.",
			e.Title, a, strings.Split(a, "/")[1]))
	}
	if t.HasChildren(i) && !e.Kind.HoldsChildren() {
		c.find(i, Error, "cannot-hold", fmt.Sprintf("%q is a %s and cannot have entries below it. Move them or change its kind.", e.Title, e.Kind.Label()))
	}
	switch {
	case e.Kind == Reference && t.Find(e.Target) == None:
		c.find(i, Error, "reference-to-nothing", fmt.Sprintf("%q refers to an entry that is not in the sitemap. Choose another.", e.Title))
	case e.Kind == Reference && t.Referred(i) == None:
		c.find(i, Error, "reference-ring", fmt.Sprintf("%q refers to itself by way of others. Point one of them to a page.", e.Title))
	case e.Kind == Outside && !address.IsURL(e.Target):
		c.find(i, Error, "no-target", fmt.Sprintf("%q is an outside link without a URL. Give it one that begins with https://.", e.Title))
	case e.Kind == Carried && e.Source == "":
		c.find(i, Error, "no-source", fmt.Sprintf("%q is a carried page without a source. Say which old page its content comes from.", e.Title))
	}
}

func (c *checker) siblings(i int) {
	seen := map[string]int{}
	for child := range c.t.Children(i) {
		title := strings.ToLower(c.t.entries[child].Title)
		if _, twice := seen[title]; twice {
			c.find(child, Warning, "same-title", fmt.Sprintf("Another entry beside %q has the same title.", c.t.entries[child].Title))
		}
		seen[title] = child
	}
}
