// Package weblog reads what web servers write about requests, and counts which addresses
// people asked for.
//
// # Lines
//
// The Common Log Format, and the Combined one that adds the referrer and the program that
// asked; before either may stand the name of the host:
//
//	192.0.2.7 - gwen [26/Nov/2026:09:12:00 +0000] "GET /tea/menu HTTP/1.1" 200 5120
//	inside.quillmere.example:443 192.0.2.7 - - […] "GET /tea HTTP/2" 304 0 "-" "Mozilla/5.0"
//
// # What counts
//
// A visit is a GET that was answered (200–399) for something that people read. What a page
// brings along does not count (styles, scripts, pictures, fonts), nor does what programs ask
// for: robots, crawlers and monitors, told by what they call themselves. Where the program is
// not written down, nobody is left out.
package weblog

import (
	"bytes"
	"fmt"
	"slices"
)

// Hit is a request, as parts of the line it was read from.
type Hit struct {
	Host    []byte // empty: the line does not say
	Method  []byte
	Address []byte // path and query, as they were asked for
	Status  int
	Agent   []byte // empty: the line does not say
}

// Parse reads a line; false where it is none of a log.
func Parse(line []byte) (h Hit, ok bool) {
	at := bytes.IndexByte(line, '[')
	if at < 0 {
		return h, false
	}
	first, others, _ := bytes.Cut(line[:at], []byte(" "))
	second, others, _ := bytes.Cut(others, []byte(" "))
	switch {
	case len(first) == 0 || len(others) == 0:
		return h, false
	case isIP(second) && !isIP(first): // the host stands before who asked
		h.Host, _, _ = bytes.Cut(first, []byte(":"))
	}
	end := bytes.IndexByte(line[at:], ']')
	if end < 0 {
		return h, false
	}
	request, rest, ok := quoted(line[at+end+1:])
	if !ok {
		return h, false
	}
	rest = bytes.TrimLeft(rest, " ")
	if len(rest) < 3 || rest[0] < '1' || rest[0] > '5' || !digit(rest[1]) || !digit(rest[2]) {
		return h, false
	}
	h.Status = int(rest[0]-'0')*100 + int(rest[1]-'0')*10 + int(rest[2]-'0')
	if _, after, ok := quoted(rest); ok { // the referrer
		if agent, _, ok := quoted(after); ok {
			h.Agent = agent
		}
	}
	return h, h.request(request)
}

// isIP tells whether a word can be an IP address.
func isIP(s []byte) bool {
	parts := false
	for _, c := range s {
		if c == '.' || c == ':' {
			parts = true
		} else if !digit(c) && (c < 'a' || c > 'f') && (c < 'A' || c > 'F') {
			return false
		}
	}
	return parts
}

func digit(b byte) bool { return b >= '0' && b <= '9' }

// quoted gives what stands between the next quotes, and what follows. A quote inside is
// written with a backslash.
func quoted(s []byte) (in, rest []byte, ok bool) {
	from := bytes.IndexByte(s, '"')
	if from < 0 {
		return nil, nil, false
	}
	s = s[from+1:]
	for at := 0; ; {
		end := bytes.IndexByte(s[at:], '"')
		if end < 0 {
			return nil, nil, false
		}
		if end += at; end > 0 && s[end-1] == '\\' {
			at = end + 1
			continue
		}
		return s[:end], s[end+1:], true
	}
}

// request reads "GET /tea HTTP/1.1"; the address may be a whole URL.
func (h *Hit) request(s []byte) bool {
	method, rest, ok := bytes.Cut(s, []byte(" "))
	if !ok {
		return false
	}
	target, _, _ := bytes.Cut(rest, []byte(" "))
	if i := bytes.Index(target, []byte("://")); i > 0 && i < 6 {
		host, path, _ := bytes.Cut(target[i+3:], []byte("/"))
		h.Host, _, _ = bytes.Cut(host, []byte(":"))
		target = target[i+3+len(host):]
		if len(path) == 0 && len(target) == 0 {
			target = []byte("/")
		}
	}
	if bytes.IndexByte(target, '\\') >= 0 {
		target = unescaped(target)
	}
	h.Method, h.Address = method, target
	return len(target) > 0 && target[0] == '/'
}

// unescaped writes what servers escape in their logs as it stands in an address: \x22, \" and \\
// become escapes of a URL.
func unescaped(s []byte) []byte {
	out := make([]byte, 0, len(s)+8)
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] != '\\' || i+1 == len(s):
			out = append(out, s[i])
		case s[i+1] == 'x' && i+3 < len(s) && isHex(s[i+2]) && isHex(s[i+3]):
			out = append(out, '%', s[i+2], s[i+3])
			i += 3
		default:
			out = fmt.Appendf(out, "%%%02X", s[i+1])
			i++
		}
	}
	return out
}

func isHex(b byte) bool {
	return '0' <= b && b <= '9' || 'a' <= b && b <= 'f' || 'A' <= b && b <= 'F'
}

// assets are the endings of what a page brings along.
var assets = []string{
	".css", ".js", ".mjs", ".map", ".png", ".jpg", ".jpeg", ".gif", ".svg", ".webp", ".avif", ".ico", ".woff", ".woff2", ".ttf", ".otf", ".eot",
	"/robots.txt", "/sitemap.xml",
}

// robots are words by which programs call themselves.
var robots = []string{"bot", "crawl", "spider", "slurp", "monitor", "scanner", "preview"}

// Counts tells whether a hit is a visit.
func (h Hit) Counts() bool { return h.read() && !isRobot(h.Agent) }

func isRobot(agent []byte) bool {
	return slices.ContainsFunc(robots, func(word string) bool { return containsFold(agent, word) })
}

// read tells whether something was read that is no part of a page.
func (h Hit) read() bool {
	if string(h.Method) != "GET" || h.Status < 200 || h.Status > 399 {
		return false
	}
	path := h.Address
	if i := bytes.IndexByte(path, '?'); i >= 0 {
		path = path[:i]
	}
	if bytes.LastIndexByte(path, '.') < bytes.LastIndexByte(path, '/') {
		return true // it has no ending
	}
	return !slices.ContainsFunc(assets, func(end string) bool { return hasSuffixFold(path, end) })
}

func hasSuffixFold(s []byte, end string) bool {
	return len(s) >= len(end) && equalFold(s[len(s)-len(end):], end)
}

// equalFold compares with small letters.
func equalFold(s []byte, small string) bool {
	for i := range small {
		c := s[i]
		if c >= 'A' && c <= 'Z' {
			c += 'a' - 'A'
		}
		if c != small[i] {
			return false
		}
	}
	return true
}

func containsFold(s []byte, small string) bool {
	for i := 0; i+len(small) <= len(s); i++ {
		if c := s[i] | 0x20; c == small[0] && equalFold(s[i:i+len(small)], small) {
			return true
		}
	}
	return false
}
