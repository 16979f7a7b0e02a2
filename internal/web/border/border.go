// Package border is where requests come in: what arrives is made text that can be
// kept, and who sent it is told apart from whoever passed it on. Nothing behind
// the border has to think of NUL bytes, broken UTF-8, or headers that anybody can
// write.
package border

import (
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"reflect"
	"strconv"
	"strings"
	"sync/atomic"
	"unicode/utf8"
)

// Text gives a text without what cannot be kept: control characters but for tabs
// and ends of lines, and bytes that are no UTF-8. A lone surrogate arrives from
// JSON as U+FFFD, which is text.
func Text(s string) string {
	if isText(s) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		r, n := utf8.DecodeRuneInString(s[i:])
		if (r != utf8.RuneError || n != 1) && !control(r) {
			b.WriteString(s[i : i+n])
		}
		i += n
	}
	return b.String()
}

func control(r rune) bool {
	return r < 0x20 && r != '\t' && r != '\n' && r != '\r' || r >= 0x7f && r < 0xa0
}

func isText(s string) bool {
	for i := range len(s) {
		c := s[i]
		if c < 0x20 && c != '\t' && c != '\n' && c != '\r' || c >= 0x7f {
			return utf8.ValidString(s) && strings.IndexFunc(s, control) < 0
		}
	}
	return true
}

// Texts is Text for a list.
func Texts(list []string) []string {
	for i := range list {
		list[i] = Text(list[i])
	}
	return list
}

// Deep makes every text in what v points to Text: what was decoded from a body.
func Deep(v any) { deep(reflect.ValueOf(v)) }

func deep(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			deep(v.Elem())
		}
	case reflect.Interface:
		if !v.IsNil() && v.CanSet() {
			in := reflect.New(v.Elem().Type()).Elem()
			in.Set(v.Elem())
			deep(in)
			v.Set(in)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Type().Field(i); f.IsExported() || f.Anonymous {
				deep(v.Field(i))
			}
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			deep(v.Index(i))
		}
	case reflect.Map:
		deepMap(v)
	case reflect.String:
		if v.CanSet() {
			v.SetString(Text(v.String()))
		}
	}
}

// deepMap writes a map anew, since what it holds cannot be set in place.
func deepMap(v reflect.Value) {
	for _, key := range v.MapKeys() {
		value := reflect.New(v.Type().Elem()).Elem()
		value.Set(v.MapIndex(key))
		deep(value)
		clean := reflect.New(v.Type().Key()).Elem()
		clean.Set(key)
		deep(clean)
		v.SetMapIndex(key, reflect.Value{})
		v.SetMapIndex(clean, value)
	}
}

// Numbers gives answers the number by which they are found in the log. It begins
// anywhere, so that those of two instances differ.
type Numbers struct{ last atomic.Uint64 }

// NewNumbers makes a Numbers.
func NewNumbers() *Numbers {
	n := &Numbers{}
	n.last.Store(rand.Uint64() >> 16)
	return n
}

// Begin numbers an answer.
func (n *Numbers) Begin(w http.ResponseWriter) {
	w.Header()["X-Request-Id"] = []string{strconv.FormatUint(n.last.Add(1), 36)}
}

// ID is the number of an answer.
func ID(w http.ResponseWriter) string { return w.Header().Get("X-Request-Id") }

// Path tells whether the path of a request is text that an address can hold.
func Path(r *http.Request) bool {
	return isText(r.URL.Path) && !strings.ContainsAny(r.URL.Path, "\t\n\r")
}

// Query makes the query of a request Text.
func Query(r *http.Request) {
	q := r.URL.RawQuery
	if q == "" || !strings.Contains(q, "%") && isText(q) {
		return
	}
	values, _ := url.ParseQuery(q)
	dirty := false
	for _, list := range values {
		for i, v := range list {
			clean := Text(v)
			dirty = dirty || clean != v
			list[i] = clean
		}
	}
	if dirty {
		r.URL.RawQuery = values.Encode()
	}
}

// Proxies are the servers that may say for whom they pass a request on.
type Proxies []netip.Prefix

// ParseProxies reads addresses and networks with commas between them.
func ParseProxies(s string) (Proxies, error) {
	var out Proxies
	for part := range strings.FieldsFuncSeq(s, func(r rune) bool { return r == ',' || r == ' ' }) {
		if a, err := netip.ParseAddr(part); err == nil {
			out = append(out, netip.PrefixFrom(a, a.BitLen()))
			continue
		}
		p, err := netip.ParsePrefix(part)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

func (p Proxies) trusts(addr netip.Addr) bool {
	for _, prefix := range p {
		if prefix.Contains(addr.Unmap()) {
			return true
		}
	}
	return false
}

// Untrusted gives the address of who passes a request on and says for whom, without being trusted to.
func (p Proxies) Untrusted(r *http.Request) (netip.Addr, bool) {
	if r.Header["X-Forwarded-For"] == nil && r.Header["X-Forwarded-Proto"] == nil {
		return netip.Addr{}, false
	}
	at, err := netip.ParseAddrPort(r.RemoteAddr)
	return at.Addr().Unmap(), err == nil && !p.trusts(at.Addr())
}

// Trusts tells whether an address is that of a trusted proxy.
func (p Proxies) Trusts(address string) bool {
	a, err := netip.ParseAddr(address)
	return err == nil && p.trusts(a)
}

// Client makes RemoteAddr the address of whoever sent the request: the last that
// a trusted proxy passed on, or whoever is connected. What others say about that,
// and about the scheme, is dropped.
func (p Proxies) Client(r *http.Request) {
	_, said := r.Header["X-Forwarded-For"]
	_, proto := r.Header["X-Forwarded-Proto"]
	if !said && !proto {
		return
	}
	at, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil || !p.trusts(at.Addr()) {
		delete(r.Header, "X-Forwarded-For")
		delete(r.Header, "X-Forwarded-Proto")
		return
	}
	list := strings.Split(strings.Join(r.Header["X-Forwarded-For"], ","), ",")
	for i := len(list) - 1; i >= 0; i-- {
		a, err := netip.ParseAddr(strings.TrimSpace(list[i]))
		if err != nil {
			break
		}
		r.RemoteAddr = net.JoinHostPort(a.Unmap().String(), "0")
		if !p.trusts(a) {
			break
		}
	}
	if list := r.Header["X-Forwarded-Proto"]; len(list) > 1 {
		r.Header["X-Forwarded-Proto"] = list[len(list)-1:]
	}
}

// Host is the address of the client of a request.
func Host(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return host
}
