package account

import (
	"context"
	"errors"
	"fmt"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
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
