package testkit

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"candlepath/internal/demo"
)

// AskFor asks without following redirects.
func AskFor(t *testing.T, method, at string, head map[string]string) (*http.Response, string) {
	t.Helper()
	r, err := http.NewRequest(method, at, nil)
	require.NoError(t, err)
	for k, v := range head {
		if r.Header.Set(k, v); k == "Host" {
			r.Host = v
		}
	}
	c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := c.Do(r)
	require.NoError(t, err)
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return resp, string(body)
}

// PublishChosen publishes the planned changes of the keys that choose wants.
func PublishChosen(t testing.TB, c *Client, choose func(key string) bool) {
	v := c.PublishForm("a step of the history", choose)
	status, page := c.Form("/studio/edition/publish", v)
	require.Equal(t, 303, status, string(page))
	require.Eventually(t, func() bool { // a large edition follows; of others nothing is known there
		status, _ := c.Get("/studio/edition/publish/" + v.Get("key"))
		return status != 200
	}, time.Minute, 50*time.Millisecond)
}

// Between gives what stands between two pieces of a text.
func Between(s, from, to string) string {
	_, s, _ = strings.Cut(s, from)
	s, _, _ = strings.Cut(s, to)
	return s
}

// Client is somebody at the studio, without a browser.
type Client struct {
	*http.Client
	T    testing.TB
	Base string
	Pool *pgxpool.Pool
}

// SignIn signs somebody in; nobody for an empty login. Redirects are not followed.
func SignIn(t testing.TB, site *Site, login string) *Client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &Client{&http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}, t, site.URL, site.Pool}
	if login != "" {
		status, _ := c.Form("/studio/sign-in", url.Values{"name": {login}, "password": {demo.Password}})
		require.Equal(t, 303, status)
	}
	return c
}

// Send sends a request, and gives its status and body.
func (c *Client) Send(r *http.Request) (int, []byte) {
	c.T.Helper()
	resp, err := c.Do(r)
	require.NoError(c.T, err)
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	require.NoError(c.T, err)
	return resp.StatusCode, body
}

// Form sends a form.
func (c *Client) Form(path string, v url.Values) (int, []byte) {
	r, err := http.NewRequest("POST", c.Base+path, strings.NewReader(v.Encode()))
	require.NoError(c.T, err)
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return c.Send(r)
}

// JSON sends a value as JSON, and reads the answer into another.
func (c *Client) JSON(path string, v any, into any) int {
	b, err := json.Marshal(v)
	require.NoError(c.T, err)
	r, err := http.NewRequest("POST", c.Base+path, bytes.NewReader(b))
	require.NoError(c.T, err)
	r.Header.Set("Accept", "application/json")
	status, body := c.Send(r)
	if into != nil {
		require.NoError(c.T, json.Unmarshal(body, into), string(body))
	}
	return status
}

// Get gets a page.
func (c *Client) Get(path string) (int, []byte) {
	r, err := http.NewRequest("GET", c.Base+path, nil)
	require.NoError(c.T, err)
	return c.Send(r)
}

// PublishForm is the form of the next edition as a browser would send it, with
// the changes ticked that choose wants, named like "title ID". What has no box
// goes as well if choose wants "rest".
func (c *Client) PublishForm(why string, choose func(key string) bool) url.Values {
	c.T.Helper()
	_, body := c.Get("/studio/edition")
	doc, err := html.Parse(bytes.NewReader(body))
	require.NoError(c.T, err)
	v := url.Values{"do": {"publish"}, "why": {why}}
	for n := range doc.Descendants() {
		if n.DataAtom != atom.Input || !inForm(n, "publish") {
			continue
		}
		name, value := attr(n, "name"), attr(n, "value")
		switch {
		case attr(n, "type") == "hidden":
			v.Add(name, value)
		case name == "in" && choose(value), name == "rest" && choose("rest"):
			v.Add(name, value)
		}
	}
	return v
}

func inForm(n *html.Node, id string) bool {
	for p := range n.Ancestors() {
		if p.DataAtom == atom.Form && attr(p, "id") == id {
			return true
		}
	}
	return false
}

func attr(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// Everything chooses all changes.
func Everything(string) bool { return true }

// Answer is what the server says of an act on the plan.
type Answer struct {
	Version int64
	Select  string
	Error   string
	Confirm string
	Holder  string
	Kept    string
}

// Act does one act on the plan, under a key of its own unless it names one.
func (c *Client) Act(m map[string]any) (int, Answer) {
	if m["key"] == nil {
		m["key"] = uuid.NewString()
	}
	var a Answer
	return c.JSON("/studio/sitemap/act", m, &a), a
}

// Upload imports a file, as its form does.
func (c *Client) Upload(name, text string) string {
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	w, err := m.CreateFormFile("file", name)
	require.NoError(c.T, err)
	_, err = w.Write([]byte(text))
	require.NoError(c.T, err)
	require.NoError(c.T, m.Close())
	r, err := http.NewRequest("POST", c.Base+"/studio/sitemap/import", &b)
	require.NoError(c.T, err)
	r.Header.Set("Content-Type", m.FormDataContentType())
	resp, err := c.Do(r)
	require.NoError(c.T, err)
	defer resp.Body.Close()
	require.Equal(c.T, 303, resp.StatusCode)
	return resp.Header.Get("Location")
}

// Until gets a page again and again, until it says something.
func (c *Client) Until(path, says string) string {
	var body []byte
	require.Eventually(c.T, func() bool {
		_, body = c.Get(path)
		return strings.Contains(string(body), says)
	}, 60*time.Second, 100*time.Millisecond, says)
	return string(body)
}

// Read gets a page that is there.
func Read(t testing.TB, c *Client, path string) string {
	t.Helper()
	status, body := c.Get(path)
	require.Equal(t, http.StatusOK, status, path)
	return string(body)
}

// AddFile uploads a picture or a file as the page editor does, and gives the answer.
func (c *Client) AddFile(name string, data []byte) (int, string) {
	c.T.Helper()
	return c.sendFile("/studio/files", name, data, "application/json")
}

// AddOlder imports the list of an older site.
func (c *Client) AddOlder(name, text string) (int, string) {
	c.T.Helper()
	return c.sendFile("/studio/addresses/older/import", name, []byte(text), "text/html")
}

func (c *Client) sendFile(path, name string, data []byte, accept string) (int, string) {
	c.T.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	part, err := w.CreateFormFile("file", name)
	require.NoError(c.T, err)
	_, err = part.Write(data)
	require.NoError(c.T, err)
	require.NoError(c.T, w.Close())
	r, err := http.NewRequest("POST", c.Base+path, &b)
	require.NoError(c.T, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	r.Header.Set("Accept", accept)
	status, body := c.Send(r)
	return status, string(body)
}

// PNG is a picture of one colour.
func PNG(t testing.TB, w, h int) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewNRGBA(image.Rect(0, 0, w, h))))
	return b.Bytes()
}
