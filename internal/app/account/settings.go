package account

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/colour"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
)

const (
	maxSiteName = 60
	maxFoot     = 300
)

// grounds are what the accent colour is read on.
var grounds = []colour.Colour{colour.White, {0xF2, 0xF5, 0xF0}}

// Marks are the symbols that can stand before the name of the site.
func Marks() []string {
	return slices.DeleteFunc(content.Symbols(), func(s string) bool { return s == "" })
}

// MaxMark is how large a picture can be that stands before the name of the site.
const MaxMark = 200 << 10

// MarkIsPicture tells whether the mark of a site is a picture, at its address, and
// not one of our symbols.
func MarkIsPicture(mark string) bool { return strings.HasPrefix(mark, "/files/") }

// SaveSettings keeps how the site is called and looks. A colour that cannot be
// read is refused, with one that can. A picture, if there is one, becomes the
// mark.
func (a *Account) SaveSettings(ctx context.Context, who plan.Person, look Branding, picture *content.Picture) error {
	look.Name, look.Foot = strings.Join(strings.Fields(look.Name), " "), strings.Join(strings.Fields(look.Foot), " ")
	accent, ok := colour.Parse(look.Accent)
	switch {
	case look.Name == "" || len([]rune(look.Name)) > maxSiteName:
		return plan.Refuse("name", fmt.Sprintf("The site needs a name of at most %d characters.", maxSiteName))
	case len([]rune(look.Foot)) > maxFoot:
		return plan.Refuse("foot", fmt.Sprintf("The foot has at most %d characters.", maxFoot))
	case picture != nil && len(picture.Data) > MaxMark:
		return plan.Refuse("picture", fmt.Sprintf("A mark has at most %d KB.", MaxMark>>10))
	case picture != nil && picture.Type != "image/png" && picture.Type != "image/jpeg" && picture.Type != "image/gif":
		return plan.Refuse("picture", "A mark is a .png, .jpg or .gif picture.")
	case look.MostClicks < 1 || look.MostClicks > 20:
		return plan.Refuse("clicks", "Enter a number of clicks from 1 to 20.")
	case !ok:
		return plan.Refuse("accent", "Enter a colour like #2E5A3E.")
	}
	if d := colour.Darkened(accent, grounds...); d != accent {
		return plan.Refuse("accent", fmt.Sprintf("%s has a contrast of %.1f to 1 on white; text needs %.1f. %s would do.", accent, colour.Contrast(accent, colour.White), colour.Readable, d))
	}
	look.Accent = accent.String()
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		if picture != nil {
			var err error
			if look.Mark, err = a.KeepPicture(ctx, tx, *picture); err != nil {
				return err
			}
		} else if look.Mark != s.Mark && !slices.Contains(Marks(), look.Mark) {
			return plan.Refuse("mark", "This mark is not known.")
		}
		return tx.SetBranding(ctx, look)
	})
}

// Branding is how the site is called and looks, and how far its pages may be.
type Branding struct {
	Name, Accent, Mark, Foot string
	MostClicks               int
}
