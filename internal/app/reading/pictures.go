package reading

import (
	"context"
	"regexp"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/setting"
)

// ShownPicture is a kept picture, with where it stands.
type ShownPicture struct {
	plan.Picture
	On   []string // live pages that show it
	Ever bool     // some edition showed it
	Mark bool     // it is the mark of the site
}

var pictureID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// Picture gives a kept picture. Who may have it depends on the pages that show it.
func (a *Reading) Picture(ctx context.Context, id, name string) (p ShownPicture, err error) {
	if !pictureID.MatchString(id) {
		return p, plan.ErrNotFound
	}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if p.Picture, err = tx.Picture(ctx, id); err != nil {
			return err
		}
		if p.Name != name {
			return plan.ErrNotFound
		}
		p.Mark = s.Settings.Text(setting.Mark) == plan.PictureAt(id, name)
		p.On, p.Ever, err = tx.PictureShown(ctx, id)
		return err
	})
	return p, err
}
