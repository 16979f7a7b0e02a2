package rules

import (
	"bytes"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"
)

// nginxRules writes the rules for nginx: maps, which belong into http, what belongs into the
// server, and a whole configuration of the two.
//
// A request is looked up by $cp_key, its decoded path without index.html and slashes at the end.
// The strings of a map are compared without case. Rows that spread are looked up by as many
// segments as they have, the deepest first.
func nginxRules(list []rule, o Options) []File {
	return []File{
		{"redirects-maps.conf", nginxMaps(list)},
		{"redirects-server.conf", nginxServer(list)},
		{"nginx.conf", nginxWhole(o)},
	}
}

const nginxKeys = `# Made by Candle Path: the redirects of an old host. Belongs into the http part.
geo $cp_dollar { default "$"; }
# The path without index.html and slashes at its end.
map $uri $cp_key { "~*(?s)^(?<cp_k>.*?)(?:/+index\.html?)*/*$" $cp_k; }
# Whether it has escapes that decoding would change the meaning of.
map $request_uri $cp_odd {
    default "";
    "~^[^?#]*%(?:2[13-9ABCFabcf]|3[ABDFabdf]|40|5[BCDbcd]|[01][0-9A-Fa-f]|7[Ff])" "1";
}
map $args $cp_ask { "" ""; default "?$args"; }
map $args $cp_and { "" ""; default "&$args"; }
# The path as it was asked for, to carry its rest along.
map $request_uri $cp_raw {
    default $cp_key;
    "~^[^?]*(?://|/\.)" $cp_key;
    "~*^[^?#%]*(?:%(?:2[DE]|3[0-9]|4[1-9A-F]|5[0-9AF]|6[1-9A-F]|7[0-9AE])[^?#%]*)+(?:[?#]|$)" $cp_key;
    "~*^(?<cp_w>/[^?#]*?)(?:/+index\.html?)*/*(?:[?#]|$)" $cp_w;
}
# The query without empty parameters.
map $args $cp_args0 { default ""; "~^&*(?<cp_q>[^&].*?)&*$" $cp_q; }
`

// nginxTidied writes maps that take the empty parameters out of the middle of a query, one each.
func nginxTidied() []byte {
	var b bytes.Buffer
	for i := range emptyParams {
		fmt.Fprintf(&b, "map $cp_args%[1]d $cp_args%[2]d { default $cp_args%[1]d; \"~^(?<cp_qa>.*?)&&+(?<cp_qb>.*)$\" \"${cp_qa}&${cp_qb}\"; }\n", i, i+1)
	}
	fmt.Fprintf(&b, "map $cp_args%d $cp_args { default $cp_args%[1]d; }\n", emptyParams)
	return b.Bytes()
}

// nginxSmall writes maps that make the capitals of what is carried along small: for each letter
// 16, 8, 4, 2 and 1 of them, so 31 at most. None is asked where there is no capital. A variable
// may lead over at most 100 others, so the server asks for the two halves one after the other.
func nginxSmall() []byte {
	var b bytes.Buffer
	from := "$cp_raw"
	for letter := 'A'; letter <= 'Z'; letter++ {
		for _, n := range []int{16, 8, 4, 2, 1} {
			var find, give strings.Builder
			for i := range n {
				fmt.Fprintf(&find, "(?<cp_s%d>[^%c]*)%[2]c", i, letter)
				fmt.Fprintf(&give, "${cp_s%d}%c", i, letter+'a'-'A')
			}
			to := fmt.Sprintf("$cp_small_%c%d", letter+'a'-'A', n)
			fmt.Fprintf(&b, "map %s %s { default %[1]s; \"~^%[3]s(?<cp_s>.*)$\" \"%[4]s${cp_s}\"; }\n", from, to, find.String(), give.String())
			from = to
		}
		if letter == 'M' {
			fmt.Fprintf(&b, "map $cp_raw $cp_half { default \"\"; \"~[A-Z]\" %s; }\n", from)
		}
	}
	fmt.Fprintf(&b, "map $cp_raw $cp_low { default $cp_raw; \"~[A-Z]\" %s; }\n", from)
	return b.Bytes()
}

// nginxLetters writes the table of letters. It is asked again for each letter of an address.
func nginxLetters(written map[string]string) []byte {
	var b bytes.Buffer
	b.WriteString("map $cp_letter $cp_written {\n    volatile;\n    default $cp_letter;\n")
	for _, from := range slices.Sorted(maps.Keys(written)) {
		fmt.Fprintf(&b, "    %s %s;\n", quoted(from), quoted(written[from]))
	}
	b.WriteString("}\n")
	return b.Bytes()
}

// nginxCarried writes the letters of what is carried along, one after the other.
func nginxCarried() string {
	return "set $cp_first $cp_half;\nset $cp_todo $cp_low;\nset $cp_carried \"\";\nset $cp_letter \"\";\n" +
		strings.Repeat("if ($cp_todo ~* \"(?s)"+letterEscaped+"\") { set $cp_letter $cp_l; set $cp_carried \"$cp_carried$cp_before$cp_written\"; set $cp_todo $cp_after; }\n", mostLetters) +
		"set $cp_carried \"$cp_carried$cp_todo\";\n"
}

func nginxMaps(list []rule) []byte {
	var exact, query, is bytes.Buffer
	spread := map[int]*bytes.Buffer{}
	rows, longest := 0, 0
	put := func(b *bytes.Buffer, key, value string) {
		rows, longest = rows+1, max(longest, len(key))
		fmt.Fprintf(b, "    %s %s;\n", quoted(key), value)
	}
	cased := map[string]int{} // queries that differ in case only
	for _, r := range list {
		for _, q := range r.args {
			for _, k := range r.keys {
				cased[strings.ToLower(k+"?"+q)]++
			}
		}
	}
	for _, r := range list {
		for _, k := range r.keys {
			key := oddly(r.odd) + k
			switch {
			case r.many != "":
				at := "~^(?i:" + regexpOf(key) + `)\?` + r.many
				put(&query, at, nginxValue(r, ""))
				put(&is, at, `"$cp_args"`)
			case r.args != nil:
				for _, q := range r.args {
					at := key + "?" + q
					if cased[strings.ToLower(k+"?"+q)] > 1 {
						at = "~^(?i:" + regexpOf(key) + `)\?` + regexpOf(q) + "$"
					}
					put(&query, at, nginxValue(r, ""))
					put(&is, at, quoted(q))
				}
			case !r.spread:
				put(&exact, key, nginxValue(r, ""))
			default:
				if spread[r.depth] == nil {
					spread[r.depth] = &bytes.Buffer{}
				}
				put(spread[r.depth], k, nginxValue(r, fmt.Sprint(r.depth)))
			}
		}
	}
	var b bytes.Buffer
	written, levels := map[string]string{}, depths(list)
	if len(levels) > 0 {
		written = escapedLetters()
	}
	fmt.Fprintf(&b, "map_hash_max_size %d;\nmap_hash_bucket_size %d;\n", powerOf2(max(2048, 2*rows, 2*len(written))), powerOf2(max(128, 2*longest+64)))
	b.WriteString(nginxKeys)
	b.Write(nginxTidied())
	fmt.Fprintf(&b, "map \"$cp_odd$cp_key\" $cp_exact {\n    default \"\";\n%s}\n", exact.Bytes())
	fmt.Fprintf(&b, "map \"$cp_odd$cp_key?$cp_args\" $cp_query {\n    default \"\";\n%s}\n", query.Bytes())
	fmt.Fprintf(&b, "# Queries are compared with their case.\nmap \"$cp_odd$cp_key?$cp_args\" $cp_query_is {\n    default \" \";\n%s}\n", is.Bytes())
	last := `""`
	if len(levels) > 0 {
		b.Write(nginxSmall())
		b.Write(nginxLetters(written))
	}
	for i := len(levels) - 1; i >= 0; i-- { // the shallowest first, for those below to fall back on
		d := levels[i]
		fmt.Fprintf(&b, `# Rows of %[1]d segments, for all that is below them.
map $cp_key $cp_top%[1]d { default "-"; "~(?s)^(?<cp_t%[1]d>(?:/[^/]+){%[1]d})(?:/|$)" $cp_t%[1]d; }
map $cp_carried $cp_rest%[1]d { default ""; "~(?s)^(?:/[^/]+){%[1]d}(?<cp_r%[1]d>/.*)$" $cp_r%[1]d; }
map $cp_rest%[1]d $cp_tail%[1]d { "" "/"; default $cp_rest%[1]d; }
map $cp_top%[1]d $cp_spread%[1]d {
    default "";
%[2]s}
map $cp_spread%[1]d $cp_from%[1]d { "" %[3]s; default $cp_spread%[1]d; }
`, d, spread[d].Bytes(), last)
		last = fmt.Sprintf("$cp_from%d", d)
	}
	fmt.Fprintf(&b, "map $cp_exact $cp_plain { \"\" %s; default $cp_exact; }\n", last)
	return b.Bytes()
}

func oddly(odd bool) string {
	if odd {
		return "1"
	}
	return ""
}

// nginxValue is what a map gives for a rule: the code and the location. rest names the variable
// that holds the rest of the path.
func nginxValue(r rule, depth string) string {
	if r.code == 410 {
		return `"410"`
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%d ", r.code)
	path := strings.ReplaceAll(r.path, "$", "${cp_dollar}")
	switch cut, slash := strings.CutSuffix(path, "/"); {
	case r.carry && slash:
		b.WriteString(cut + "${cp_tail" + depth + "}")
	case r.carry:
		b.WriteString(path + "${cp_rest" + depth + "}")
	default:
		b.WriteString(path)
	}
	if r.query != "" {
		b.WriteString("?" + strings.ReplaceAll(r.query, "$", "${cp_dollar}"))
	}
	switch {
	case r.asked():
	case r.query != "":
		b.WriteString("${cp_and}")
	default:
		b.WriteString("${cp_ask}")
	}
	if r.fragment != "" {
		b.WriteString("#" + strings.ReplaceAll(r.fragment, "$", "${cp_dollar}"))
	}
	return `"` + b.String() + `"`
}

func nginxServer(list []rule) []byte {
	var b bytes.Buffer
	b.WriteString(`# Made by Candle Path: the redirects of an old host. Belongs into its server.
absolute_redirect off;
add_header Cache-Control no-cache always;
`)
	if len(depths(list)) > 0 {
		b.WriteString(nginxCarried())
	}
	b.WriteString(`set $cp_hit $cp_plain;
if ($cp_query_is = $cp_args) { set $cp_hit $cp_query; }
`)
	codes := map[int]bool{}
	for _, r := range list {
		codes[r.code] = true
	}
	for _, code := range []int{301, 302, 307, 308} {
		if codes[code] {
			fmt.Fprintf(&b, "if ($cp_hit ~ \"(?s)^%d (.*)$\") { return %d $1; }\n", code, code)
		}
	}
	b.WriteString("if ($cp_hit = \"410\") { return 410; }\nreturn 404;\n")
	return b.Bytes()
}

func nginxWhole(o Options) []byte {
	at := func(name string) string { return quoted(filepath.Join(o.Dir, name)) }
	run := "-c " + at("nginx.conf")
	if o.Dir == "" {
		run = "-p FOLDER -c nginx.conf"
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, `# Made by Candle Path. Run it with: nginx %s
worker_processes auto;
pid %s;
error_log stderr warn;
events { worker_connections 1024; }
http {
    access_log off;
    server_tokens off;
    variables_hash_max_size 4096;
`, run, at("nginx.pid"))
	for _, temp := range []string{"client_body", "proxy", "fastcgi", "uwsgi", "scgi"} {
		fmt.Fprintf(&b, "    %s_temp_path %s;\n", temp, at("tmp"))
	}
	fmt.Fprintf(&b, `    include %s;
    server {
        listen %s;
        include %s;
    }
}
`, at("redirects-maps.conf"), o.Listen, at("redirects-server.conf"))
	return b.Bytes()
}

// quoted writes a string of an nginx configuration.
func quoted(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"`
}

// regexpOf takes every sign of a text literally.
func regexpOf(s string) string {
	var b strings.Builder
	for i := range len(s) {
		c := s[i]
		plain := 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || c == '/' || c == '_' || c == '-' || c >= 0x80
		if !plain {
			b.WriteByte('\\')
		}
		b.WriteByte(c)
	}
	return b.String()
}

func powerOf2(n int) int {
	p := 64
	for p < n {
		p *= 2
	}
	return p
}
