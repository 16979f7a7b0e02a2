package testkit

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/cdp"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
	"github.com/ysmood/gson"

	"candlepath/internal/demo"
)

// Browser is one headless Chromium for the tests of a package.
type Browser struct {
	once sync.Once
	rod  *rod.Browser
	l    *launcher.Launcher
}

// Close ends the browser.
func (b *Browser) Close() {
	if b.rod != nil {
		_ = b.rod.Close()
		b.l.Cleanup()
	}
}

func (b *Browser) start(t testing.TB) {
	b.once.Do(func() {
		b.l = launcher.New().Bin("/usr/bin/chromium").HeadlessNew(true).NoSandbox(os.Geteuid() == 0).
			Set("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1").Set("no-proxy-server").
			Set("disable-component-update").Set("disable-background-networking").Set("disable-sync").
			Set("force-device-scale-factor", "1").Set("window-size", "1280,800")
		u, err := b.l.Launch()
		require.NoError(t, err)
		b.rod = rod.New().ControlURL(u)
		require.NoError(t, b.rod.Connect())
	})
}

// Tab is a page in the browser that remembers what must not happen.
type Tab struct {
	*rod.Page
	t        testing.TB
	base     string
	mu       sync.Mutex
	problems []string
}

// Open gives a fresh page in a profile of its own.
func (b *Browser) Open(t testing.TB, base string) *Tab {
	t.Helper()
	b.start(t)
	profile, err := b.rod.Incognito()
	require.NoError(t, err)
	return openTab(t, profile, base)
}

// Another opens a second window of the same person.
func (tab *Tab) Another() *Tab { return openTab(tab.t, tab.Browser(), tab.base) }

func openTab(t testing.TB, profile *rod.Browser, base string) *Tab {
	t.Helper()
	page, err := profile.Page(proto.TargetCreateTarget{})
	require.NoError(t, err)
	page = page.Timeout(4 * time.Minute)
	require.NoError(t, page.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}))
	tab := &Tab{Page: page, t: t, base: base}
	tab.watch()
	t.Cleanup(func() {
		if t.Failed() {
			tab.Shot(filepath.Join(os.TempDir(), strings.ReplaceAll(t.Name(), "/", "-")+".png"))
		}
		_ = page.Close()
	})
	return tab
}

// watch notes console errors and requests to other hosts.
func (tab *Tab) watch() {
	note := func(s string) {
		tab.mu.Lock()
		tab.problems = append(tab.problems, s)
		tab.mu.Unlock()
	}
	go tab.EachEvent(func(e *proto.RuntimeConsoleAPICalled) {
		words := ""
		if len(e.Args) > 0 {
			words = e.Args[0].Description + e.Args[0].Value.String()
		}
		// A request that is given up because its page is left, or the next one is made, is told by two lines.
		if e.Type == proto.RuntimeConsoleAPICalledTypeError && !strings.HasPrefix(words, "htmx:sendAbort") && !strings.HasPrefix(words, "htmx:afterRequest") {
			note("console: " + words)
		}
	}, func(e *proto.RuntimeExceptionThrown) {
		note("exception: " + e.ExceptionDetails.Text + " " + e.ExceptionDetails.Exception.Description)
	}, func(e *proto.LogEntryAdded) {
		if e.Entry.Level == proto.LogLogEntryLevelError && !strings.Contains(e.Entry.Text, "status of 4") {
			note("log: " + e.Entry.Text + " " + e.Entry.URL)
		}
	}, func(e *proto.NetworkRequestWillBeSent) {
		if u := e.Request.URL; !strings.HasPrefix(u, tab.base) && !strings.HasPrefix(u, "data:") && !strings.HasPrefix(u, "about:") && !strings.HasPrefix(u, "blob:") {
			note("request to another host: " + u)
		}
	})()
	_ = proto.LogEnable{}.Call(tab)
	_ = proto.NetworkEnable{}.Call(tab)
}

// Problems lists what must not have happened.
func (tab *Tab) Problems() []string {
	tab.mu.Lock()
	defer tab.mu.Unlock()
	return append([]string{}, tab.problems...)
}

// Go opens an address of the site.
func (tab *Tab) Go(path string) {
	tab.t.Helper()
	require.NoError(tab.t, tab.Navigate(tab.base+path))
	require.NoError(tab.t, tab.WaitLoad())
}

// GoPlain opens an address in a page whose scripts are off. WaitLoad asks a script,
// which never answers there when the page is still loading.
func (tab *Tab) GoPlain(path string) {
	tab.t.Helper()
	loaded := tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	require.NoError(tab.t, tab.Navigate(tab.base+path))
	loaded()
	require.NoError(tab.t, tab.GetContext().Err())
}

// SignIn signs in to the studio.
func (tab *Tab) SignIn(login string) {
	tab.t.Helper()
	tab.Go("/studio/sign-in")
	tab.MustElement("#name").MustInput(login)
	tab.MustElement("#password").MustInput(demo.Password)
	wait := tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	tab.MustElement("button[type=submit]").MustClick()
	wait()
}

// MustElement waits for an element. A page that is left meanwhile does not end the
// wait: the element is looked for in the next one.
func (tab *Tab) MustElement(selector string) *rod.Element {
	tab.t.Helper()
	return tab.element(func() (*rod.Element, error) { return tab.Element(selector) })
}

// MustElementR waits for an element whose text fits a pattern, like MustElement.
func (tab *Tab) MustElementR(selector, pattern string) *rod.Element {
	tab.t.Helper()
	return tab.element(func() (*rod.Element, error) { return tab.ElementR(selector, pattern) })
}

func (tab *Tab) element(look func() (*rod.Element, error)) *rod.Element {
	tab.t.Helper()
	for {
		el, err := look()
		if err != nil && tab.GetContext().Err() == nil && left(err) {
			continue
		}
		require.NoError(tab.t, err)
		return el
	}
}

// MustEval evaluates a function in the page; where the page is left before it
// answers, in the next one.
func (tab *Tab) MustEval(js string, args ...any) gson.JSON {
	tab.t.Helper()
	for {
		got, err := tab.Eval(js, args...)
		if err != nil && tab.GetContext().Err() == nil && left(err) {
			continue
		}
		require.NoError(tab.t, err)
		return got.Value
	}
}

// left tells whether something failed because the page was left meanwhile.
func left(err error) bool {
	var cdpErr *cdp.Error
	if !errors.As(err, &cdpErr) {
		return false
	}
	for _, part := range []string{"navigated or closed", "context was destroyed", "Cannot find context", "Could not find node", "does not belong to the document"} {
		if strings.Contains(cdpErr.Message, part) {
			return true
		}
	}
	return false
}

// Until waits for a JavaScript expression to be true. One that cannot be computed
// yet, because the page is on its way, is tried again like one that is false.
func (tab *Tab) Until(js string) {
	tab.t.Helper()
	last := error(nil)
	for end := time.Now().Add(waitFor); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		ok, err := tab.Timeout(5 * time.Second).Eval("() => { try { return !!(" + js + ") } catch { return false } }")
		if last = err; err == nil && ok.Value.Bool() {
			return
		}
	}
	require.Fail(tab.t, "waited in vain", "for: %s (%v)", js, last)
}

// waitFor is how long a test waits for what is to be seen.
const waitFor = 30 * time.Second

// Shot writes a picture of what is in sight.
func (tab *Tab) Shot(path string) {
	tab.t.Helper()
	b, err := tab.Screenshot(false, nil)
	if err == nil {
		err = os.WriteFile(path, b, 0o644)
	}
	if err != nil {
		tab.t.Log("no picture:", err)
	}
}
