package site_test

import (
	"bytes"
	"image"
	pngs "image/png"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// The manager names the site, gives it a colour that can be read, a mark and a
// foot; readers see it at once, and others may not.
func TestSiteSettings(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.MustElement(".person summary").MustClick()
	tab.MustElementR(".person a", "Site settings").MustClick()
	tab.MustElement("#s-accent").MustSelectAllText().MustInput("#7FB58C")
	tab.MustElement("#s-name").MustSelectAllText().MustInput("Quillmere <Inside>")
	tab.MustElement("#s-foot").MustInput("Gate house: 4711")
	tab.MustElement("[value=leaf]").MustClick()
	tab.MustElementR("main button", "^Save$").MustClick()
	tab.Until("document.querySelector('[role=alert]')?.innerText.includes('to 1 on white; text needs 4.5')")
	tab.Until("document.querySelector('#s-name').value === 'Quillmere <Inside>' && document.querySelector('[value=leaf]').checked")
	tab.MustElement("#s-accent").MustSelectAllText().MustInput("#7A2E5A")
	tab.MustElementR("main button", "^Save$").MustClick()
	tab.Until("document.querySelector('[role=status]')?.innerText.startsWith('Saved')")

	tab.Go("/grounds")
	tab.Until("document.querySelector('.site-name').innerText === 'Quillmere <Inside>'")
	tab.Until("document.querySelector('.site-foot').innerText.includes('Gate house: 4711')")
	tab.Until("getComputedStyle(document.querySelector('.site-name')).color === 'rgb(122, 46, 90)'")
	require.Equal(t, "/assets/symbols.svg#leaf", tab.MustEval("() => document.querySelector('.site-name use').getAttribute('href')").Str())

	// Only what was changed in a form is saved, so that two managers keep each other's choices.
	marta := testkit.SignIn(t, site, "marta")
	status, _ := marta.Form("/studio/settings", url.Values{"was.foot": {""}, "foot": {""}, "was.clicks": {"3"}, "clicks": {"4"}, "was.own-work": {""}, "own-work": {"on"}})
	require.Equal(t, 303, status)
	tab.Go("/studio/settings")
	require.Equal(t, []any{"Gate house: 4711", "4", true, false}, tab.MustEval("() => [document.querySelector('#s-foot').value, document.querySelector('#s-clicks').value, document.querySelector('#s-own-work').checked, document.querySelector('#s-editors-publish').checked]").Val())

	status, _ = testkit.SignIn(t, site, "anselm").Form("/studio/settings", url.Values{"name": {"Mine"}, "accent": {"#000000"}, "mark": {"leaf"}})
	require.Equal(t, 403, status)
	for field, bad := range map[string]string{"name": "", "accent": "javascript:", "mark": "../x", "foot": string(make([]byte, 400)), "clicks": "0"} {
		v := url.Values{"name": {"Site"}, "accent": {"#000000"}, "mark": {"leaf"}, "foot": {""}}
		v.Set(field, bad)
		if field == "foot" {
			v.Set(field, url.QueryEscape(bad))
		}
		status, _ := marta.Form("/studio/settings", v)
		require.Equal(t, 422, status, field)
	}

	// A picture of one's own stands before the name; what is none is refused.
	var png bytes.Buffer
	require.NoError(t, pngs.Encode(&png, image.NewGray(image.Rect(0, 0, 48, 24))))
	dir := t.TempDir()
	for name, data := range map[string][]byte{"mark.png": png.Bytes(), "not.png": []byte("<svg onload=alert(1)>")} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), data, 0o600))
	}
	tab.Go("/studio/settings")
	tab.MustElement("#s-picture").MustSetFiles(filepath.Join(dir, "not.png"))
	tab.MustElementR("main button", "^Save$").MustClick()
	tab.Until("document.querySelector('[role=alert]')?.innerText.includes('.png, .jpg or .gif')")
	tab.MustElement("#s-picture").MustSetFiles(filepath.Join(dir, "mark.png"))
	tab.MustElementR("main button", "^Save$").MustClick()
	tab.Until("document.querySelector('[role=status]')?.innerText.startsWith('Saved') && document.querySelector('[name=mark]:checked')?.value.startsWith('/files/')")
	tab.Go("/grounds")
	tab.Until("document.querySelector('.site-name img')?.naturalWidth === 48")
	require.Empty(t, tab.Problems())
}
