package pages_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"mime"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"candlepath/internal/testkit"
)

func painting(t *testing.T, w, h int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, color.NRGBA{uint8(x), uint8(y), uint8(x * y), 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	return b.Bytes()
}

// A picture comes from the computer into the page, asks what it shows, and goes out with the
// edition in several sizes; until then readers have no file.
func TestAPictureIsPutOnAPage(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	file := filepath.Join(t.TempDir(), "Ponds in May.png")
	require.NoError(t, os.WriteFile(file, painting(t, 900, 600), 0o600))

	tab.MustElement("[data-slot=main] > .slot-foot .add-here").MustClick()
	testkit.Press(t, tab, "picture", input.Enter)
	tab.Until("document.querySelector('.part-open .file-field input[type=file]')")
	tab.MustElement(".part-open .file-field input[type=file]").MustSetFiles(file)
	tab.Until("document.querySelector('#sheet .picture img')?.naturalWidth > 0")
	allSaved(tab)
	tab.Until("document.querySelector('.part-open .to-mend')?.innerText.includes('does not say what it shows')")
	tab.MustElement("[data-setting=alt] input").MustInput("Ponds between reeds")
	tab.MustElement("[data-setting=caption] input").MustInput("The ponds in May")
	tab.Until("document.querySelector('#sheet figcaption')?.innerText === 'The ponds in May'")
	allSaved(tab)
	tab.Until("document.querySelector('.part-open .to-mend')?.innerText === ''")
	src := tab.MustEval("() => document.querySelector('#sheet .picture img').getAttribute('src')").Str()
	require.Regexp(t, `^/files/[0-9a-f]{32}/ponds-in-may\.png$`, src)

	reader := testkit.SignIn(t, site, "noor")
	status, _ := reader.Get(src)
	require.Equal(t, 404, status, "nobody reads it yet")
	testkit.PublishOnly(t, site, "A picture", func(aspect string) bool { return aspect == "content" })
	status, _ = reader.Get(src)
	require.Equal(t, 200, status)
	page := testkit.Read(t, reader, borrowed)
	require.Contains(t, page, `alt="Ponds between reeds" width="900" height="600" loading="lazy"`)
	require.Contains(t, page, "320-ponds-in-may.png 320w")
	status, _ = reader.Get(strings.Replace(src, "ponds-", "320-ponds-", 1))
	require.Equal(t, 200, status)
	status, _ = reader.Get(strings.Replace(src, "ponds-", "640-ponds-", 1))
	require.Equal(t, 404, status)

	t.Log("the list says where it stands, and nothing that is shown can be deleted")
	tab.Go("/studio/files")
	tab.Until("document.querySelector('.files-list tbody')?.innerText.includes('Summer rounds')")
	require.Zero(t, tab.MustEval("() => document.querySelectorAll('.files-list .btn-risk').length").Int())
	require.Empty(t, tab.Problems())
}

// What is no picture, too large or dangerous is told, and nothing of it runs here.
func TestFilesAreHandedOutSafely(t *testing.T) {
	site := kit.Site(t, true)
	ines := testkit.SignIn(t, site, "ines")
	for name, data := range map[string][]byte{
		"broken.png": testkit.PNG(t, 40, 40)[:60], "empty.txt": nil, "large.bin": bytes.Repeat([]byte{1}, 26<<20),
	} {
		status, body := ines.AddFile(name, data)
		require.Equal(t, 422, status, name)
		require.Contains(t, body, "error", name)
	}
	for name, data := range map[string]string{
		"drawing.svg": `<svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>`, "page.html": "<script>alert(1)</script>",
	} {
		status, body := ines.AddFile(name, []byte(data))
		require.Equal(t, 200, status, body)
		address := body[strings.Index(body, "/files/"):strings.Index(body, name)] + name
		req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, site.URL+address, nil)
		require.NoError(t, err)
		resp, err := ines.Do(req)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Equal(t, "text/plain", resp.Header.Get("Content-Type"))
		require.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"))
		require.Equal(t, `attachment; filename=`+name, resp.Header.Get("Content-Disposition"))
		require.Contains(t, resp.Header.Get("Content-Security-Policy"), "sandbox")
	}
	_, kept := ines.AddFile("Häcksler “neu”.TXT", []byte("how it is cleaned"))
	req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, site.URL+regexp.MustCompile(`/files/[0-9a-f]{32}/hacksler-neu\.txt`).FindString(kept), nil)
	require.NoError(t, err)
	resp, err := ines.Do(req)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	_, saved, err := mime.ParseMediaType(resp.Header.Get("Content-Disposition"))
	require.NoError(t, err)
	require.Equal(t, "Häcksler “neu”.txt", saved["filename"], "a download is called what the file was called")
	status, body := ines.AddFile("twice.txt", []byte("x"))
	require.Equal(t, 200, status)
	_, again := ines.AddFile("twice.txt", []byte("x"))
	require.Equal(t, body, again, "the same file is kept once")
	id := body[strings.Index(body, "/files/")+7:][:32]
	status, _ = ines.Form("/studio/files/"+id+"/remove", nil)
	require.Equal(t, http.StatusSeeOther, status)
	status, _ = ines.Get("/files/" + id + "/twice.txt")
	require.Equal(t, 404, status)
	status, _ = testkit.SignIn(t, site, "noor").Get("/studio/files")
	require.Equal(t, 403, status)
}

// A table of a .csv file shows its rows, and can be made one that is written on the page; a
// file without rows is told.
func TestATableFromAFile(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	dir := t.TempDir()
	rota, note := filepath.Join(dir, "rota.csv"), filepath.Join(dir, "broken.csv")
	require.NoError(t, os.WriteFile(rota, []byte("Day;Who\nMonday;Gwen | Bram\nTuesday;=1+1\n"), 0o600))
	require.NoError(t, os.WriteFile(note, []byte("a,\"b\nc"), 0o600))

	tab.MustElement("[data-slot=main] > .slot-foot .add-here").MustClick()
	testkit.Press(t, tab, "table", input.Enter)
	tab.Until("document.querySelector('.part-open .file-field input[type=file]')")
	tab.MustElement(".part-open .file-field input[type=file]").MustSetFiles(note)
	tab.Until("document.querySelector('#say').innerText.includes('quote')")
	tab.MustElement(".part-open .file-field input[type=file]").MustSetFiles(rota)
	tab.Until("document.querySelector('#sheet .b-table td')?.innerText === 'Monday'")
	tab.Until("document.querySelector('#sheet .b-table figcaption')?.innerText.includes('rota.csv')")
	allSaved(tab)
	draftHolds(t, site, testkit.EntryID(t, site, borrowed), `| Tuesday | =1+1 |`)

	book := excelize.NewFile()
	require.NoError(t, book.SetSheetRow("Sheet1", "A1", &[]any{"Bed", "Litres"}))
	require.NoError(t, book.SetSheetRow("Sheet1", "A2", &[]any{"North", 3.5}))
	beds := filepath.Join(dir, "Beds.xlsx")
	require.NoError(t, book.SaveAs(beds))
	tab.MustElement(".part-open .file-field input[type=file]").MustSetFiles(beds)
	tab.Until("document.querySelector('#sheet .b-table td')?.innerText === 'North'")
	tab.Until("document.querySelector('#sheet .b-table figcaption')?.innerText.includes('Beds.xlsx')")
	require.Contains(t, tab.MustElement("#sheet .b-table").MustText(), "3.5")

	pressPart(tab, ".part-open button", "Make it a text")
	tab.Until("document.querySelector('#sheet .b-text table') && !document.querySelector('#sheet .b-table')")
	allSaved(tab)
	draftHolds(t, site, testkit.EntryID(t, site, borrowed), `"type": "text"`)
	require.NotContains(t, tab.Problems(), "Uncaught")
}

// A file that is replaced is another one on all pages and templates that show it, once the
// edition is out; its old address leads there, and undone it is as it was.
func TestAFileIsReplaced(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	openPage(t, tab, site, borrowed)
	dir := t.TempDir()
	before, after := filepath.Join(dir, "rota.csv"), filepath.Join(dir, "rota next.csv")
	require.NoError(t, os.WriteFile(before, []byte("Day,Who\nMonday,Gwen\n"), 0o600))
	require.NoError(t, os.WriteFile(after, []byte("Day,Who\nMonday,Bram\n"), 0o600))
	tab.MustElement("[data-slot=main] > .slot-foot .add-here").MustClick()
	testkit.Press(t, tab, "table", input.Enter)
	tab.Until("document.querySelector('.part-open .file-field input[type=file]')")
	tab.MustElement(".part-open .file-field input[type=file]").MustSetFiles(before)
	tab.Until("document.querySelector('#sheet .b-table')?.innerText.includes('Gwen')")
	allSaved(tab)
	testkit.PublishOnly(t, site, "A rota", func(aspect string) bool { return aspect == "content" })
	reader := testkit.SignIn(t, site, "noor")
	old := regexp.MustCompile(`/files/[0-9a-f]{32}/rota\.csv`).FindString(testkit.Read(t, reader, borrowed))
	require.NotEmpty(t, old)

	tab.Go("/studio/files")
	tab.MustElement(".replace summary").MustClick()
	tab.MustElement(".replace input[type=file]").MustSetFiles(before)
	tab.MustElementR(".replace button", "Replace it").MustClick()
	tab.MustElementR("[role=alert]", "This is the same file")
	tab.MustElement(".replace summary").MustClick()
	tab.MustElement(".replace input[type=file]").MustSetFiles(after)
	tab.MustElementR(".replace button", "Replace it").MustClick()
	tab.MustElementR("[role=status]", "Replaced rota.csv on 1 page")
	status, _ := reader.Get(old)
	require.Equal(t, 200, status, "readers have the old one until the edition is out")
	testkit.PublishOnly(t, site, "The next rota", func(aspect string) bool { return aspect == "content" })
	page := testkit.Read(t, reader, borrowed)
	require.Contains(t, page, "Bram")
	require.NotContains(t, page, "Gwen")
	status, text := reader.Get(old)
	require.Equal(t, 200, status)
	require.Contains(t, string(text), "Bram", "its address stays, with the new one")
	t.Log("where the page is not for everybody any more, neither address betrays that there is a file")
	status, _ = testkit.SignIn(t, site, "marta").Act(map[string]any{"do": "fact", "id": testkit.EntryID(t, site, borrowed), "field": "readership", "value": "approver"})
	require.Equal(t, 200, status)
	testkit.PublishOnly(t, site, "Closed", func(aspect string) bool { return aspect == "readership" })
	status, _ = reader.Get(old)
	require.Equal(t, 404, status)
	require.Empty(t, tab.Problems())
}

// A file from the computer, and one from the picker, are dropped to their place: below the
// block there, or into an empty slot that takes them; a slot that takes neither says so.
func TestFilesAreDroppedToTheirPlace(t *testing.T) {
	site := kit.Site(t, true)
	ines := testkit.SignIn(t, site, "ines")
	_, body := ines.AddFile("Fern leaf.png", painting(t, 60, 40))
	kept := regexp.MustCompile(`/files/[0-9a-f]{32}/fern-leaf\.png`).FindString(body)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	drop := func(onto, fill string) {
		tab.MustEval(`(onto, fill) => {
			const dataTransfer = new DataTransfer(), at = document.querySelector(onto);
			at.scrollIntoView({ block: "center" });
			const box = at.getBoundingClientRect();
			new Function("dt", fill)(dataTransfer);
			at.dispatchEvent(new DragEvent("drop", { dataTransfer, clientX: box.left + 30, clientY: box.top + Math.min(box.height / 2, 40), bubbles: true, cancelable: true }));
		}`, onto, fill)
	}
	drop("#sheet .b-text p", `dt.items.add(new File(["Monday,Gwen"], "Who waters.csv", { type: "text/csv" }))`)
	tab.Until("document.querySelector('#sheet .b-files')?.innerText.includes('Who waters.csv')")
	require.True(t, tab.MustEval("() => !!document.querySelector('#sheet .b-text + .b-files')").Bool(), "below the text")
	drop("#sheet .b-text p", `dt.setData("application/x-candle-file", JSON.stringify({ address: "`+kept+`", name: "Fern leaf.png", width: 60 }))`)
	tab.Until("document.querySelector('#sheet .b-text + .b-picture img')")
	allSaved(tab)
	draftHolds(t, site, testkit.EntryID(t, site, borrowed), kept)
	drop("#sheet [data-slot=related] .slot-foot", `dt.setData("application/x-candle-file", JSON.stringify({ address: "`+kept+`", name: "Fern leaf.png", width: 60 }))`)
	tab.Until("document.querySelector('#say').innerText.includes('neither pictures nor files')")

	drop("#parts", `dt.items.add(new File(["x"], "Beside.txt", { type: "text/plain" }))`)
	tab.Until("document.querySelector('#say').innerText.includes('where it is to stand')")

	t.Log("the picker shows what is there; what is dragged out of it makes room")
	tab.MustElement("[data-slot=main] > .slot-foot .add-here").MustClick()
	testkit.Press(t, tab, "picture", input.Enter)
	pressPart(tab, ".part-open .file-field button", "From the site")
	tab.Until("document.querySelector('.file-picker button[draggable=true] img')")
	tab.MustEval(`() => document.querySelector(".file-picker button[draggable=true]").dispatchEvent(new DragEvent("dragstart", { dataTransfer: new DataTransfer(), bubbles: true }))`)
	tab.Until("!document.querySelector('.file-picker')")
	require.Empty(t, tab.Problems())
}
