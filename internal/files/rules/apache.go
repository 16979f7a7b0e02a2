package rules

import (
	"bytes"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
)

// apacheRules writes the rules for Apache httpd: maps as text, what belongs into the virtual
// host, and a whole configuration of them.
//
// A request is looked up by its path in normal form, without a slash at the end but that of the root. A value is
// code|how|path|query|fragment.
//
// The path is written anew by going through the rules again and again (the flag N): piece by piece between the escapes that stay,
// and each piece character by character.
func apacheRules(list []rule, o Options) []File {
	exact, query, spread := map[string]string{}, map[string]string{}, map[string]string{}
	var many []string // expressions of rows whose orders are not written out
	for _, r := range list {
		key := orSlash(r.key)
		switch {
		case r.many != "":
			query[manyKey(len(many))] = apacheValue(r)
			many = append(many, "^"+regexpOf(key)+`\?`+r.many)
		case r.args != nil:
			for _, q := range r.args {
				query[key+"?"+q] = apacheValue(r)
			}
		case r.spread:
			spread[key] = apacheValue(r)
		default:
			exact[key] = apacheValue(r)
		}
	}
	table := letters()
	return []File{
		{"redirects-exact.txt", apacheMap(exact)},
		{"redirects-query.txt", apacheMap(query)},
		{"redirects-below.txt", apacheMap(spread)},
		{"redirects-letters.txt", apacheMap(table)},
		{"redirects.conf", apacheHost(list, many, anyOfBytes(marks(table)), o)},
		{"apache.conf", apacheWhole(o)},
	}
}

func orSlash(key string) string {
	if key == "" {
		return "/"
	}
	return key
}

func apacheMap(of map[string]string) []byte {
	keys := make([]string, 0, len(of))
	for k := range of {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	var b bytes.Buffer
	b.WriteString("# Made by Candle Path: the redirects of an old host.\n")
	for _, k := range keys {
		b.WriteString(k + " " + of[k] + "\n")
	}
	return b.Bytes()
}

// apacheValue is what a map gives for a rule. How is "-" where the query stays behind, "q" where
// it goes along, "r" where the rest of the path does, too, and "s" where that is at least a slash.
func apacheValue(r rule) string {
	if r.code == 410 {
		return "410|-|||"
	}
	how, path := "q", r.path
	cut, slash := strings.CutSuffix(path, "/")
	switch {
	case r.asked():
		how = "-"
	case r.carry && slash:
		how, path = "s", cut
	case r.carry:
		how = "r"
	}
	query, fragment := "", ""
	if r.query != "" {
		query = "?" + r.query
	}
	if r.fragment != "" {
		fragment = "#" + r.fragment
	}
	return fmt.Sprintf("%d|%s|%s|%s|%s", r.code, how, path, query, fragment)
}

// manyKey is where the value of a row stands that is found by an expression.
func manyKey(i int) string { return fmt.Sprintf("?%d", i) }

func apacheHost(list []rule, many []string, mark string, o Options) []byte {
	at := func(name string) string { return filepath.Join(o.Dir, name) }
	var b bytes.Buffer
	fmt.Fprintf(&b, `# Made by Candle Path: the redirects of an old host. Belongs into its virtual host; needs
# mod_rewrite and mod_headers.
AllowEncodedSlashes NoDecode
Header always set Cache-Control no-cache
RewriteEngine On
RewriteMap cp-low int:tolower
RewriteMap cp-up int:toupper
RewriteMap cp-esc int:escape
RewriteMap cp-unesc int:unescape
RewriteMap cp-exact "txt:%s"
RewriteMap cp-query "txt:%s"
RewriteMap cp-below "txt:%s"
RewriteMap cp-letter "txt:%s"
`, at("redirects-exact.txt"), at("redirects-query.txt"), at("redirects-below.txt"), at("redirects-letters.txt"))
	b.WriteString(apacheNormal(mark))
	fmt.Fprintf(&b, `# The query without empty parameters.
RewriteCond %%{QUERY_STRING} ^&*([^&].*?)&*$
RewriteRule ^ - [E=CP_ARGS:%%1]
%s# With the query, by the path alone, then by what is above it, the longest first.
RewriteCond ${cp-query:%%{ENV:CP_KEY}?%%{ENV:CP_ARGS}} ^(.+)$
RewriteRule ^ - [E=CP_HIT:%%1]
%sRewriteCond %%{ENV:CP_HIT} ^$
RewriteCond ${cp-exact:%%{ENV:CP_KEY}} ^(.+)$
RewriteRule ^ - [E=CP_HIT:%%1]
`, strings.Repeat("RewriteCond %{ENV:CP_ARGS} ^(.*?)&&+(.*)$\nRewriteRule ^ - [E=CP_ARGS:%1&%2]\n", emptyParams), apacheMany(many))
	for _, d := range depths(list) {
		key, top, rest := fmt.Sprintf("^((?:/[^/]+){%d})(/.*)?$", d), "%1", "%2"
		if d == 0 {
			key, top, rest = "^(/[^/].*)?/?$", "/", "%1"
		}
		fmt.Fprintf(&b, `RewriteCond %%{ENV:CP_HIT} ^$
RewriteCond %%{ENV:CP_KEY} %s
RewriteCond "%s ${cp-below:%s}" "^(\S*) (.+)$"
RewriteRule ^ - [E=CP_REST:%%1,E=CP_HIT:%%2]
`, key, rest, top)
	}
	b.WriteString(`# Its parts, put together.
RewriteCond %{ENV:CP_HIT} ^(\d+)\|(.)\|([^|]*)\|([^|]*)\|([^|]*)$
RewriteRule ^ - [E=CP_CODE:%1,E=CP_HOW:%2,E=CP_PATH:%3,E=CP_QUERY:%4,E=CP_FRAGMENT:%5]
RewriteCond %{ENV:CP_HOW} ^[rs]$
RewriteRule ^ - [E=CP_TAIL:%{ENV:CP_REST}]
RewriteCond %{ENV:CP_HOW}%{ENV:CP_TAIL} ^s$
RewriteRule ^ - [E=CP_TAIL:/]
RewriteCond %{ENV:CP_HOW} ^[qrs]$
RewriteCond %{QUERY_STRING} ^(.+)$
RewriteCond %{ENV:CP_QUERY}|%{QUERY_STRING} ^(\?[^|]*)\|(.*)$
RewriteRule ^ - [E=CP_QUERY:%1&%2,S=1]
RewriteCond %{ENV:CP_HOW} ^[qrs]$
RewriteCond %{QUERY_STRING} ^(.+)$
RewriteRule ^ - [E=CP_QUERY:?%1]
`)
	for _, of := range []struct{ version, flag string }{{">= 2.4.60", "UnsafeAllow3F,"}, {"< 2.4.60", ""}} {
		fmt.Fprintf(&b, "<IfVersion %s>\n", of.version)
		for _, code := range []int{301, 302, 307, 308} {
			fmt.Fprintf(&b, "RewriteCond %%{ENV:CP_CODE} =%d\nRewriteRule ^ %%{ENV:CP_PATH}%%{ENV:CP_TAIL}%%{ENV:CP_QUERY}%%{ENV:CP_FRAGMENT} [R=%d,NE,QSD,%sL]\n", code, code, of.flag)
		}
		b.WriteString("</IfVersion>\n")
	}
	b.WriteString("RewriteCond %{ENV:CP_CODE} =410\nRewriteRule ^ - [R=410,L]\nRewriteRule ^ - [R=404,L]\n")
	return b.Bytes()
}

// apacheNormal writes the path of a request in normal form. What is no text has no address.
func apacheNormal(mark string) string {
	return strings.NewReplacer("MARK", "(?:"+mark+")", "CHAR", charBytes, "PLAIN", plainClass, "COARSE", coarseClass, "KEPT", keptEscape, "BAD", badEscape).Replace(
		`# The path as it was asked for.
RewriteCond %{ENV:CP_ASKED} ^$
RewriteCond %{THE_REQUEST} "^\S+\s+(?:[A-Za-z][A-Za-z0-9+.\-]*://[^/?\s]*)?([^?#\s]*)"
RewriteRule ^ - [E=CP_ASKED:1,E=CP_RAW:%1]
# A character of a piece, as the table of letters has it with all its marks, with the first one, or alone.
RewriteCond %{ENV:CP_TODO} "^((?:[PLAIN](?!MARK))*+)(?|([PLAIN])()(?=MARK)|()([COARSE]|CHAR))(MARK?)(MARK*+)(.*)$"
RewriteRule ^ - [E=CP_DONE:%{ENV:CP_DONE}%1${cp-letter:%2%3%4%5|${cp-letter:%2%3%4|%2${cp-letter:%3|${cp-up:${cp-esc:%3}}}${cp-letter:%4|${cp-up:${cp-esc:%4}}}}${cp-up:${cp-esc:%5}}},E=CP_TODO:%6,N]
RewriteCond %{ENV:CP_TODO} "!^[PLAIN]*$"
RewriteRule ^ - [R=404,L]
# The next piece, decoded, with the escapes behind it that stay.
RewriteCond %{ENV:CP_RAW} "^(?=[^%]|%(?!BAD))((?:[^%]|%(?!KEPT|BAD)..)*+)((?:%(?:KEPT))*+)(.*)$"
RewriteRule ^ - [E=CP_DONE:%{ENV:CP_DONE}%{ENV:CP_TODO}%{ENV:CP_STAYS},E=CP_TODO:${cp-low:${cp-unesc:%1}},E=CP_STAYS:${cp-up:%2},E=CP_RAW:%3,N]
RewriteCond %{ENV:CP_RAW} .
RewriteRule ^ - [R=404,L]
RewriteRule ^ - [E=CP_DONE:%{ENV:CP_DONE}%{ENV:CP_TODO}%{ENV:CP_STAYS},E=CP_TODO:,E=CP_STAYS:]
# Without doubled slashes, dot segments, and index.html and slashes at its end.
RewriteCond %{ENV:CP_DONE} "^(.*?)//+(.*)$"
RewriteRule ^ - [E=CP_DONE:%1/%2,N]
RewriteCond %{ENV:CP_DONE} "^(.*?)/\.(/.*)?$"
RewriteRule ^ - [E=CP_DONE:%1%2,N]
RewriteCond %{ENV:CP_DONE} "^((?:/[^/]+)*?)(?:/[^/]+)?/\.\.(/.*)?$"
RewriteRule ^ - [E=CP_DONE:%1%2,N]
RewriteCond %{ENV:CP_DONE} ^(.*?)(?:/+index\.html?)*/*$
RewriteRule ^ - [E=CP_KEY:%1]
RewriteCond %{ENV:CP_KEY} ^$
RewriteRule ^ - [E=CP_KEY:/]
`)
}

// apacheMany finds rows by an expression of their query. Backslashes in its quotes stay as they are.
func apacheMany(many []string) string {
	var b strings.Builder
	for i, expression := range many {
		fmt.Fprintf(&b, "RewriteCond %%{ENV:CP_HIT} ^$\nRewriteCond %%{ENV:CP_KEY}?%%{ENV:CP_ARGS} \"%s\"\nRewriteCond ${cp-query:%s} ^(.+)$\nRewriteRule ^ - [E=CP_HIT:%%1]\n",
			expression, manyKey(i))
	}
	return b.String()
}

func apacheWhole(o Options) []byte {
	const modules = "/usr/lib/apache2/modules"
	var b bytes.Buffer
	if o.Dir == "" {
		b.WriteString("# Made by Candle Path. Run it with: apache2 -d FOLDER -f apache.conf -k start\nServerName localhost\n")
	} else {
		fmt.Fprintf(&b, "# Made by Candle Path. Run it with: apache2 -f %s -k start\nServerName localhost\nServerRoot \"%s\"\n", filepath.Join(o.Dir, "apache.conf"), o.Dir)
	}
	fmt.Fprintf(&b, "DefaultRuntimeDir \"%s\"\nPidFile \"%s\"\nErrorLog \"%s\"\n", filepath.Join(o.Dir, "."), filepath.Join(o.Dir, "apache.pid"), filepath.Join(o.Dir, "apache-error.log"))
	for _, m := range []string{"mpm_event", "authz_core", "headers", "rewrite"} {
		fmt.Fprintf(&b, "LoadModule %s_module %s/mod_%s.so\n", m, modules, m)
	}
	fmt.Fprintf(&b, `User www-data
Group www-data
ServerTokens Prod
TraceEnable Off
DocumentRoot "%s"
Listen %s
<VirtualHost *>
Include "%s"
</VirtualHost>
`, filepath.Join(o.Dir, "empty"), o.Listen, filepath.Join(o.Dir, "redirects.conf"))
	return b.Bytes()
}
