package files_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/files"
)

func TestRewritingPages(t *testing.T) {
	rw := files.Rewriter{
		Link: func(at string) string { return "/there" + at }, Within: func(at string) string {
			if at == "/new" {
				return "<i>new</i>"
			}
			return ""
		},
		Top: "<p>top</p>", Symbol: func(id string) string { return "<svg>" + id + "</svg>" },
	}
	for was, is := range map[string]string{
		`<body class="x"><a href="/a?b=1&amp;c">A</a>`:                         `<body class="x"><p>top</p><a href="/there/a?b=1&amp;c">A</a>`,
		`<a class="b" href="/new"><b>N</b></a> <a href="#x">`:                  `<a class="b" href="/there/new"><b>N</b><i>new</i></a> <a href="#x">`,
		`<a href="https://x.example/a">`:                                       `<a href="https://x.example/a">`,
		`<a href="//x.example/a">`:                                             `<a href="//x.example/a">`,
		`<a title="1 > 0 href=&quot;/no" href="/yes">`:                         `<a title="1 > 0 href=&quot;/no" href="/there/yes">`,
		`<a data-href="/no" href="/yes">`:                                      `<a data-href="/no" href="/there/yes">`,
		"<img\n  src=\"/p.png\" srcset=\"/p-1.png 1x, /p-2.png 2x\" alt=\"\">": "<img\n  src=\"/there/p.png\" srcset=\"/there/p-1.png 1x, /there/p-2.png 2x\" alt=\"\">",
		`<svg><use href="/assets/symbols.svg#leaf"></use></svg>`:               `<svg><svg>leaf</svg><use></use></svg>`,
		`<!-- <a href="/no"> --><link rel="x" href="/s.css"><abbr>`:            `<!-- <a href="/no"> --><link rel="x" href="/there/s.css"><abbr>`,
		`<form action="/f"><script src="/s.js" defer></script>`:                `<form action="/there/f"><script src="/there/s.js" defer></script>`,
		`1 < 2 and <`:  `1 < 2 and <`,
		`<a href="/x`:  `<a href="/x`,
		`<!-- no end`:  `<!-- no end`,
		`plain`:        `plain`,
		``:             ``,
		`</a></a> <a>`: `</a></a> <a>`,
	} {
		require.Equal(t, is, string(rw.Page([]byte(was))), was)
	}
	same := files.Rewriter{Link: func(at string) string { return at }}
	page := strings.Repeat(`<p>Text & <a class="x" href="/a&amp;b">more</a> <img src="/x" alt="a > b"></p>`, 50)
	require.Equal(t, page, string(same.Page([]byte(page))), "what changes nothing leaves every byte")
}

func FuzzRewriting(f *testing.F) {
	f.Add(`<a href="/x">y</a>`)
	f.Fuzz(func(t *testing.T, page string) {
		same := files.Rewriter{Link: func(at string) string { return at }}
		require.Equal(t, page, string(same.Page([]byte(page))))
	})
}
