package sitemap

import (
	"bytes"
	"fmt"
	"mime"
	"net/http"

	"candlepath/internal/app/plan"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/shell"
)

type exportView struct{ Format, About, Next, Live string }

func (s *Screens) export(r *shell.Request) error {
	format := r.Query("format")
	types := map[string]string{
		"json": "application/json", "opml": "text/x-opml; charset=utf-8", "csv": "text/csv; charset=utf-8", "xml": "application/xml; charset=utf-8",
		"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	}
	if types[format] == "" {
		return plan.ErrNotFound
	}
	live := r.Query("of") == "live"
	t, site, err := s.App.Export(r.Ctx(), r.Who, live)
	if err != nil {
		return err
	}
	name := "sitemap-next." + format
	if live {
		name = fmt.Sprintf("sitemap-edition-%d.%s", site.Edition, format)
	}
	base := "http://" + r.Request.Host
	if len(site.Hosts) > 0 {
		base = "https://" + site.Hosts[0]
	}
	var b bytes.Buffer
	if err := files.WriteSitemap(name, &b, t, base); err != nil {
		return err
	}
	r.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	r.Data(http.StatusOK, types[format], b.Bytes())
	return nil
}
