package account

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// MaxMark is how large a picture can be that stands before the name of the site.
const MaxMark = 200 << 10

// SaveSettings keeps what was chosen; settings without a new value stay. A picture,
// if there is one, becomes the mark.
func (a *Account) SaveSettings(ctx context.Context, who plan.Person, given setting.Values, picture *content.PictureFile) error {
	chosen, err := parseSettings(given)
	if err != nil {
		return err
	}
	if err := checkMark(picture); err != nil {
		return err
	}
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		if mark, given := chosen[setting.Mark]; given && setting.IsPicture(mark) && mark != s.Settings.Text(setting.Mark) {
			return plan.Refuse(string(setting.Mark), "This picture is not known. Choose it again.")
		}
		if err := keepsHosts(ctx, tx, s, chosen); err != nil {
			return err
		}
		if picture != nil {
			var err error
			mark, err := a.StoreFile(ctx, tx, who.ID, *picture)
			chosen[setting.Mark] = mark.Address()
			if err != nil {
				return err
			}
		}
		return tx.SetSettings(ctx, chosen)
	})
}

// keepsHosts refuses to let go of an old host name that redirects are for: they would stop, which is
// for releasing them, where the proof of the edition sees it.
func keepsHosts(ctx context.Context, tx Tx, s plan.Site, chosen setting.Values) error {
	given, ok := chosen[setting.OldHosts]
	if !ok {
		return nil
	}
	kept := strings.Fields(given)
	rows, err := tx.HostRows(ctx)
	if err != nil {
		return err
	}
	for _, h := range rows {
		if !slices.Contains(s.OldHosts(), h.Host) || slices.Contains(kept, h.Host) {
			continue
		}
		ends := redirect.WrittenFrom(h.Addresses[0])
		if n := len(h.Addresses); n > 1 {
			ends = fmt.Sprintf("%s and %d more", ends, n-1)
		}
		return plan.Refuse(string(setting.OldHosts), fmt.Sprintf("Redirects are for %s alone and would stop: %s. Release https://%s under Redirects first, and publish; then take out the name.", h.Host, ends, h.Host))
	}
	return nil
}

func parseSettings(given setting.Values) (setting.Values, error) {
	chosen, err := setting.Parse(given)
	if refusal := (*setting.Refusal)(nil); errors.As(err, &refusal) {
		return nil, plan.Refuse(string(refusal.Key), refusal.Message)
	}
	return chosen, err
}

// checkMark refuses a picture that cannot be the mark of a site.
func checkMark(p *content.PictureFile) error {
	switch {
	case p == nil:
		return nil
	case p.Bytes > MaxMark:
		return plan.Refuse("picture", fmt.Sprintf("A mark has at most %d KB.", MaxMark>>10))
	case p.Type != "image/png" && p.Type != "image/jpeg" && p.Type != "image/gif":
		return plan.Refuse("picture", "A mark is a .png, .jpg or .gif picture.")
	}
	return nil
}
