package rules

import (
	"bytes"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"

	"candlepath/internal/core/address"
)

// nginxRules writes the rules for nginx: maps, which belong into http, what belongs into the
// server, and a whole configuration of the two.
//
// A request is looked up by $cp_key, its path in normal form without a slash at the end. The
// strings of a map are compared without case. Rows that spread are looked up by as many segments
// as they have, the deepest first.
//
// nginx has no loops. So the path, $cp_todo, is written anew in so many steps: each takes what
// stays as it is and one character that does not, and adds both to $cp_done. A backslash is its
// end, after which the other steps are left out in blocks.
func nginxRules(list []rule, o Options) []File {
	return []File{
		{"redirects-maps.conf", nginxMaps(list)},
		{"redirects-server.conf", nginxServer(list)},
		{"nginx.conf", nginxWhole(o)},
	}
}

// Limits of what nginx writes anew in one path: characters, capitals of each letter of ASCII, and doubled slashes and dot
// segments beside escapes that stay.
const (
	mostSteps = 256
	mostSmall = 32
	mostDots  = 12
)

// needsLetters tells whether the rows need paths in normal form: they lead what is below them on, or have characters that a
// request may spell otherwise.
func needsLetters(list []rule) bool {
	return slices.ContainsFunc(list, func(r rule) bool { return r.spread || strings.Contains(r.key, "%") })
}

const nginxKeys = `# Made by Candle Path: the redirects of an old host. Belongs into the http part.
# It answers about twice as fast with "pcre_jit on;" in the main part.
geo $cp_dollar { default "$"; }
# The path as it was asked for. What nginx decodes and tidies is taken as that gives it, but where an escape must stay one.
map $request_uri $cp_asked { default $uri; "~^(?<cp_path>/[^?#]*)" $cp_path; }
map $cp_asked $cp_odd { default ""; "~%(?:` + keptEscape + `|` + badEscape + `)" "1"; }
map $cp_asked $cp_untidy { default ""; "~//|/\.|%[0-7]" "1"; }
map "$cp_odd-$cp_untidy" $cp_raw { default $cp_asked; "-1" $uri; }
map $args $cp_ask { "" ""; default "?$args"; }
map $args $cp_and { "" ""; default "&$args"; }
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

// nginxSmall writes maps that make capitals small, but the digits of escapes: for each letter 32,
// 16, 8, 4, 2 and 1 of them, so 63 at most. None is asked where there is no capital. A variable
// may lead over at most 100 others, so the server asks for the two halves one after the other.
func nginxSmall() []byte {
	var b bytes.Buffer
	from := "$cp_raw"
	for letter := 'A'; letter <= 'Z'; letter++ {
		for n := mostSmall; n > 0; n /= 2 {
			var find, give strings.Builder
			for i := range n {
				fmt.Fprintf(&find, "(?<cp_s%d>(?:[^%%%c]++|%%..)*+)%[2]c", i, letter)
				fmt.Fprintf(&give, "${cp_s%d}%c", i, letter+'a'-'A')
			}
			to := fmt.Sprintf("$cp_small_%c%d", letter+'a'-'A', n)
			fmt.Fprintf(&b, "map %s %s { default %[1]s; \"~(?s)^%[3]s(?<cp_s>.*)$\" \"%[4]s${cp_s}\"; }\n", from, to, find.String(), give.String())
			from = to
		}
		if letter == 'M' {
			fmt.Fprintf(&b, "map $cp_raw $cp_half { default \"\"; \"~[A-Z]\" %s; }\n", from)
		}
	}
	fmt.Fprintf(&b, "map $cp_raw $cp_low { default $cp_raw; \"~[A-Z]\" %s; }\n", from)
	return b.Bytes()
}

// nginxCharacters writes the maps of a step: what it takes, how the table of letters has a character with all its marks, with
// the first one, or alone, and how any other is written, byte by byte. Marks that were not taken are left to the next steps.
func nginxCharacters() []byte {
	table := letters()
	var b bytes.Buffer
	mark := "(?:" + anyOfBytes(marks(table)) + "|(?i:" + anyOfEscaped(marks(table)) + "))"
	stays := "%(?=" + keptEscape + ")[0-7][0-9A-F]|" + untouched(table)
	fmt.Fprintf(&b, `# The next step: what stays, a character with its marks, and the rest; else all that stays.
map $cp_todo $cp_step {
    volatile;
    "~(?s)^(?(DEFINE)(?<cp_mark>%[1]s))(?<cp_stays>(?:[%[3]sA-Z]+(?=[%[3]sA-Z])|(?:[%[3]sA-Z]|%[2]s)(?!%[8]s(?&cp_mark)))*+)(?<cp_char>%%(?!%[7]s)[0-7].|(?<cp_plain>[%[3]s](?=(?&cp_mark)))|[%[4]s]|`+
		`(?=(?:%[5]s|%[6]s)(?!%%[89ABab]|[\x80-\xbf]))(?<cp_1>%%..|[\x80-\xff])(?<cp_2>%%..|[\x80-\xff])(?<cp_3>%%[89ABab].|[\x80-\xbf])?(?<cp_4>%%[89ABab].|[\x80-\xbf])?)`+
		`(?<cp_first>(?&cp_mark)?)(?<cp_marks>(?&cp_mark)*+)(?<cp_rest>.*)$" 1;
    "~(?s)^(?<cp_stays>(?:[%[3]sA-Z]++|%[2]s)*+)(?<cp_char>)(?<cp_plain>)(?<cp_1>)(?<cp_2>)(?<cp_3>)(?<cp_4>)(?<cp_first>)(?<cp_marks>)(?<cp_rest>\x5c)$" 1;
    "~(?s)^(?<cp_stays>)(?<cp_char>)(?<cp_plain>)(?<cp_1>)(?<cp_2>)(?<cp_3>)(?<cp_4>)(?<cp_first>)(?<cp_marks>)(?<cp_rest>.*)$" "";
}
`, mark, stays, plainClass, coarseClass, charEscaped, charBytes, badEscape, markBegins(marks(table)))
	var lines [3]bytes.Buffer // for one character, two and more
	for _, from := range slices.Sorted(maps.Keys(table)) {
		of := &lines[min(utf8.RuneCountInString(from), 3)-1]
		fmt.Fprintf(of, "    %s %s;\n    %s %[2]s;\n", quoted(from), quoted(table[from]), quoted(escapedBytes(from)))
	}
	fmt.Fprintf(&b, "map $cp_char$cp_first$cp_marks $cp_whole {\n    volatile;\n    default \"\";\n%s}\n", lines[2].Bytes())
	fmt.Fprintf(&b, "map $cp_char$cp_first $cp_pair {\n    volatile;\n    default \"\";\n%s}\n", lines[1].Bytes())
	fmt.Fprintf(&b, "map $cp_char $cp_single {\n    volatile;\n    default \"\";\n%s%s}\n", lines[0].Bytes(), nginxASCII())
	for i, from := range []int{0xc2, 0x80, 0x80, 0x80} {
		to := 0xbf
		if i == 0 {
			to = 0xf4
		}
		fmt.Fprintf(&b, "map $cp_%d $cp_byte%[1]d {\n    volatile;\n    default \"\";\n", i+1)
		for c := from; c <= to; c++ {
			fmt.Fprintf(&b, "    \"%%%02X\" \"%%%02[1]X\"; %[2]s \"%%%02[1]X\";\n", c, quoted(string([]byte{byte(c)})))
		}
		b.WriteString("}\n")
	}
	b.WriteString(`map $cp_single $cp_alone { volatile; default $cp_single; "" "$cp_plain$cp_byte1$cp_byte2$cp_byte3$cp_byte4"; }
map $cp_pair $cp_paired { volatile; default $cp_pair; "" $cp_alone; }
map $cp_whole $cp_written { volatile; default $cp_whole; "" $cp_paired; }
map $cp_pair $cp_behind { volatile; default "$cp_marks$cp_rest"; "" "$cp_first$cp_marks$cp_rest"; }
map $cp_whole $cp_next { volatile; default $cp_rest; "" $cp_behind; }
# Whether what the steps left is text.
`)
	fmt.Fprintf(&b, "map $cp_todo $cp_text { volatile; default \"\"; \"~(?s)^(?<cp_left>(?:[%sA-Z]|%%(?!%s).|%s)*+)\\x5c$\" 1; }\n", plainClass, "(?:"+badEscape+"|[89A-Fa-f])", charEscaped+"|"+charBytes)
	b.Write(nginxDots())
	return b.Bytes()
}

// nginxASCII tells how escapes of ASCII are written, and its characters that want escaping.
func nginxASCII() []byte {
	var b bytes.Buffer
	for c := 1; c < utf8.RuneSelf; c++ {
		escape := fmt.Sprintf("%%%02X", c)
		normal, err := address.Normal("/" + escape + "x")
		if err != nil {
			continue
		}
		written := strings.TrimSuffix(strings.TrimPrefix(address.Written(normal), "/"), "x")
		fmt.Fprintf(&b, "    \"%s\" %s;\n", escape, quoted(written))
		if strings.HasPrefix(written, "%") && !strings.HasPrefix(normal, "/%") {
			fmt.Fprintf(&b, "    %s %s;\n", quoted(string(rune(c))), quoted(written))
		}
	}
	return b.Bytes()
}

// markBegins is a regular expression that looks whether a mark may follow, which is much faster than whether one does.
func markBegins(marks []rune) string {
	var bytes []byte
	for _, r := range marks {
		bytes = append(bytes, string(r)[0])
	}
	slices.Sort(bytes)
	bytes = slices.Compact(bytes)
	var b strings.Builder
	for _, c := range bytes {
		fmt.Fprintf(&b, `\x%02x`, c)
	}
	return "(?=[" + b.String() + "]|(?i:" + escapedSet(bytes) + "))"
}

// nginxDots writes maps that take doubled slashes and dot segments out, one each.
func nginxDots() []byte {
	var b bytes.Buffer
	from := "$cp_done"
	for i := range mostDots {
		to := fmt.Sprintf("$cp_dots%d", i+1)
		fmt.Fprintf(&b, "map %s %s { default %[1]s; \"~^(?<cp_a>.*?)//+(?<cp_b>.*)$\" $cp_a/$cp_b; \"~^(?<cp_a>.*?)/\\.(?<cp_b>/.*)?$\" $cp_a$cp_b; "+
			"\"~^(?<cp_a>(?:/[^/]+)*?)(?:/[^/]+)?/\\.\\.(?<cp_b>/.*)?$\" $cp_a$cp_b; }\n", from, to)
		from = to
	}
	fmt.Fprintf(&b, "map $cp_done $cp_tidied { default $cp_done; \"~//|/\\.\" %s; }\n", from)
	return b.Bytes()
}

// nginxSteps writes a path in normal form.
func nginxSteps() string {
	var b strings.Builder
	b.WriteString("set $cp_see $cp_half;\nset $cp_todo \"$cp_low\\\\\";\nset $cp_done \"\";\n")
	for done, n := 0, 1; done < mostSteps; done, n = done+n, done+n {
		b.WriteString("if ($cp_todo ~ \"^[^\\x5c]\") {\n")
		b.WriteString(strings.Repeat("set $cp_see $cp_step; set $cp_done \"$cp_done$cp_stays$cp_written\"; set $cp_todo $cp_next;\n", n))
		b.WriteString("}\n")
	}
	b.WriteString("if ($cp_text = \"\") { return 404; }\nset $cp_done \"$cp_done$cp_left\";\n")
	return b.String()
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
			cased[strings.ToLower(r.key+"?"+q)]++
		}
	}
	for _, r := range list {
		switch {
		case r.many != "":
			at := "~^(?i:" + regexpOf(r.key) + `)\?` + r.many
			put(&query, at, nginxValue(r, ""))
			put(&is, at, `"$cp_args"`)
		case r.args != nil:
			for _, q := range r.args {
				at := r.key + "?" + q
				if cased[strings.ToLower(at)] > 1 {
					at = "~^(?i:" + regexpOf(r.key) + `)\?` + regexpOf(q) + "$"
				}
				put(&query, at, nginxValue(r, ""))
				put(&is, at, quoted(q))
			}
		case !r.spread:
			put(&exact, r.key, nginxValue(r, ""))
		default:
			if spread[r.depth] == nil {
				spread[r.depth] = &bytes.Buffer{}
			}
			put(spread[r.depth], r.key, nginxValue(r, fmt.Sprint(r.depth)))
		}
	}
	var b, characters bytes.Buffer
	tidied := "$cp_raw"
	if needsLetters(list) {
		tidied = "$cp_tidied"
		characters.Write(nginxSmall())
		characters.Write(nginxCharacters())
		rows += bytes.Count(characters.Bytes(), []byte("\n"))
	}
	fmt.Fprintf(&b, "map_hash_max_size %d;\nmap_hash_bucket_size %d;\n", powerOf2(max(2048, 2*rows)), powerOf2(max(128, 2*longest+64)))
	b.WriteString(nginxKeys)
	b.Write(characters.Bytes())
	fmt.Fprintf(&b, "# The path in normal form, without index.html and slashes at its end.\nmap %s $cp_key { \"~*(?s)^(?<cp_k>.*?)(?:/+index\\.html?)*/*$\" $cp_k; }\n", tidied)
	b.Write(nginxTidied())
	fmt.Fprintf(&b, "map $cp_key $cp_exact {\n    default \"\";\n%s}\n", exact.Bytes())
	fmt.Fprintf(&b, "map \"$cp_key?$cp_args\" $cp_query {\n    default \"\";\n%s}\n", query.Bytes())
	fmt.Fprintf(&b, "# Queries are compared with their case.\nmap \"$cp_key?$cp_args\" $cp_query_is {\n    default \" \";\n%s}\n", is.Bytes())
	last, levels := `""`, depths(list)
	for i := len(levels) - 1; i >= 0; i-- { // the shallowest first, for those below to fall back on
		d := levels[i]
		fmt.Fprintf(&b, `# Rows of %[1]d segments, for all that is below them.
map $cp_key $cp_top%[1]d { default "-"; "~^(?<cp_t%[1]d>(?:/[^/]+){%[1]d})(?:/|$)" $cp_t%[1]d; }
map $cp_key $cp_rest%[1]d { default ""; "~^(?:/[^/]+){%[1]d}(?<cp_r%[1]d>/.*)$" $cp_r%[1]d; }
map $cp_rest%[1]d $cp_tail%[1]d { "" "/"; default $cp_rest%[1]d; }
map $cp_top%[1]d $cp_spread%[1]d {
    default "";
%[2]s}
map $cp_spread%[1]d $cp_from%[1]d { "" %[3]s; default $cp_spread%[1]d; }
`, d, spread[d].Bytes(), last)
		last = fmt.Sprintf("$cp_from%d", d)
	}
	fmt.Fprintf(&b, "map $cp_exact $cp_plainly { \"\" %s; default $cp_exact; }\n", last)
	return b.Bytes()
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
	if needsLetters(list) {
		b.WriteString(nginxSteps())
	}
	b.WriteString(`set $cp_hit $cp_plainly;
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
pcre_jit on;
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
