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
// A request is looked up by its path: decoded, folded, without index.html and slashes at the
// end, and escaped again, since the keys of a map hold no blanks. A value is
// code|how|path|query|fragment.
func apacheRules(list []rule, o Options) []File {
	exact, query, spread := map[string]string{}, map[string]string{}, map[string]string{}
	var many []string // expressions of rows whose orders are not written out
	for _, r := range list {
		for _, k := range slices.Concat(r.keys, r.slashed) {
			key := oddly(r.odd) + apacheEscaped(orSlash(k))
			switch {
			case r.many != "":
				query[manyKey(len(many))] = apacheValue(r)
				many = append(many, "^"+regexpOf(key)+`\?`+r.many)
			case r.args != nil:
				for _, q := range r.args {
					query[key+"?"+q] = apacheValue(r)
				}
			case r.spread:
				spread[apacheEscaped(orSlash(k))] = apacheValue(r)
			default:
				exact[key] = apacheValue(r)
			}
		}
	}
	return []File{
		{"redirects-exact.txt", apacheMap(exact)},
		{"redirects-query.txt", apacheMap(query)},
		{"redirects-below.txt", apacheMap(spread)},
		{"redirects-letters.txt", apacheMap(writtenLetters())},
		{"redirects.conf", apacheHost(list, many, o)},
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

// apacheEscaped escapes a path as the map int:escape of Apache does.
func apacheEscaped(path string) string {
	const as = "$-_.+!*'(),:;@&=/~"
	var b strings.Builder
	for i := range len(path) {
		c := path[i]
		switch {
		case 'a' <= c && c <= 'z', 'A' <= c && c <= 'Z', '0' <= c && c <= '9', strings.IndexByte(as, c) >= 0:
			b.WriteByte(c)
		default:
			fmt.Fprintf(&b, "%%%02x", c)
		}
	}
	return b.String()
}

func apacheHost(list []rule, many []string, o Options) []byte {
	at := func(name string) string { return filepath.Join(o.Dir, name) }
	var b bytes.Buffer
	fmt.Fprintf(&b, `# Made by Candle Path: the redirects of an old host. Belongs into its virtual host; needs
# mod_rewrite and mod_headers.
AllowEncodedSlashes NoDecode
Header always set Cache-Control no-cache
RewriteEngine On
RewriteMap cp-low int:tolower
RewriteMap cp-esc int:escape
RewriteMap cp-exact "txt:%s"
RewriteMap cp-query "txt:%s"
RewriteMap cp-below "txt:%s"
RewriteMap cp-letter "txt:%[6]s"
# The path without index.html and slashes at its end.
RewriteCond ${cp-low:%%{REQUEST_URI}} ^(.*?)(?:/+index\.html?)*/*$
RewriteRule ^ - [E=CP_KEY:%%1]
RewriteCond %%{ENV:CP_KEY} ^$
RewriteRule ^ - [E=CP_KEY:/]
# Whether it has escapes that decoding would change the meaning of.
RewriteCond %%{THE_REQUEST} "^\S+\s[^?\s]*%%(?:2[13-9ABCFabcf]|3[ABDFabdf]|40|5[BCDbcd]|[01][0-9A-Fa-f]|7[Ff])"
RewriteRule ^ - [E=CP_ODD:1]
# The query without empty parameters.
RewriteCond %%{QUERY_STRING} ^&*([^&].*?)&*$
RewriteRule ^ - [E=CP_ARGS:%%1]
%[4]s# With the query, by the path alone, then by what is above it, the longest first.
RewriteCond ${cp-query:%%{ENV:CP_ODD}${cp-esc:%%{ENV:CP_KEY}}?%%{ENV:CP_ARGS}} ^(.+)$
RewriteRule ^ - [E=CP_HIT:%%1]
%[5]sRewriteCond %%{ENV:CP_HIT} ^$
RewriteCond ${cp-exact:%%{ENV:CP_ODD}${cp-esc:%%{ENV:CP_KEY}}} ^(.+)$
RewriteRule ^ - [E=CP_HIT:%%1]
`, at("redirects-exact.txt"), at("redirects-query.txt"), at("redirects-below.txt"),
		strings.Repeat("RewriteCond %{ENV:CP_ARGS} ^(.*?)&&+(.*)$\nRewriteRule ^ - [E=CP_ARGS:%1&%2]\n", emptyParams), apacheMany(many), at("redirects-letters.txt"))
	for _, d := range depths(list) {
		key := fmt.Sprintf("^((?:/[^/]+){%d})(/.*)?$", d)
		if d == 0 {
			key = "^(/)(.*)$"
		}
		fmt.Fprintf(&b, `RewriteCond %%{ENV:CP_HIT} ^$
RewriteCond %%{ENV:CP_KEY} %[1]s
RewriteRule ^ - [E=CP_TOP:%%1,E=CP_REST:%%2]
RewriteCond %%{ENV:CP_HIT} ^$
RewriteCond %%{ENV:CP_KEY} %[1]s
RewriteCond ${cp-below:${cp-esc:%%{ENV:CP_TOP}}} ^(.+)$
RewriteRule ^ - [E=CP_HIT:%%1]
`, key)
		if d == 0 {
			b.WriteString("RewriteCond %{ENV:CP_TOP} ^/$\nRewriteCond %{ENV:CP_REST} ^([^/].*)$\nRewriteRule ^ - [E=CP_REST:/%1]\n")
		}
	}
	b.WriteString(`# Its parts, put together.
RewriteCond %{ENV:CP_HIT} ^(\d+)\|(.)\|([^|]*)\|([^|]*)\|([^|]*)$
RewriteRule ^ - [E=CP_CODE:%1,E=CP_HOW:%2,E=CP_PATH:%3,E=CP_QUERY:%4,E=CP_FRAGMENT:%5]
RewriteCond %{ENV:CP_HOW} ^[rs]$
RewriteCond %{ENV:CP_REST} ^(.+)$
RewriteRule ^ - [E=CP_TODO:%1]
`)
	b.WriteString(apacheCarried())
	b.WriteString(`RewriteRule ^ - [E=CP_TAIL:%{ENV:CP_DONE}${cp-esc:%{ENV:CP_TODO}}]
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

// apacheCarried writes the letters of what is carried along, one after the other.
func apacheCarried() string {
	return "RewriteCond %{ENV:CP_TODO} \"![\\x80-\\xff]\"\n" + fmt.Sprintf("RewriteRule ^ - [S=%d]\n", mostLetters) +
		strings.Repeat("RewriteCond %{ENV:CP_TODO} \""+letterBytes+"\"\nRewriteRule ^ - [E=CP_DONE:%{ENV:CP_DONE}${cp-esc:%1}${cp-letter:%2|${cp-esc:%2}},E=CP_TODO:%3]\n", mostLetters)
}

// apacheMany finds rows by an expression of their query. Backslashes in its quotes stay as they are.
func apacheMany(many []string) string {
	var b strings.Builder
	for i, expression := range many {
		fmt.Fprintf(&b, "RewriteCond %%{ENV:CP_HIT} ^$\nRewriteCond %%{ENV:CP_ODD}${cp-esc:%%{ENV:CP_KEY}}?%%{ENV:CP_ARGS} \"%s\"\nRewriteCond ${cp-query:%s} ^(.+)$\nRewriteRule ^ - [E=CP_HIT:%%1]\n",
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
