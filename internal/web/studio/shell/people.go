package shell

import (
	"candlepath/internal/web/urls"
)

// baseOf is what links to this site begin with, as it is reached here.
func BaseOf(r *Request) string { return urls.Base(r.Request, r.Site.Hosts) }
