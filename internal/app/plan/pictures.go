package plan

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"path"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
)

// PictureAt is the address of a kept picture.
func PictureAt(id, name string) string { return setting.PicturePath + id + "/" + name }

// KeepPicture keeps a picture under an id made of what it holds, and gives its
// address.
func (a *Floor) KeepPicture(ctx context.Context, tx Tx, p content.Picture) (string, error) {
	sum := sha256.Sum256(p.Data)
	id := hex.EncodeToString(sum[:16])
	ending := strings.ToLower(path.Ext(p.Name))
	p.Name = address.Slug(strings.TrimSuffix(p.Name, path.Ext(p.Name))) + "." + address.Slug(ending)
	return PictureAt(id, p.Name), tx.PutPicture(ctx, Picture{ID: id, Picture: p, At: a.Now()})
}
