package plan

import (
	"context"
	"strings"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
)

// TemplateDraft is what somebody is making of a template, before the change is planned.
type TemplateDraft struct {
	Key      string // of the template; one that begins with NewTemplate is not there yet
	PersonID string
	Page     content.Page // that stands for it
	Base     string       // the form of the template it was made from; empty: of none
	Version  int          // counts saves
	At       time.Time
}

// NewTemplate is what the key of a template begins with that is only a draft.
const NewTemplate = "new-"

// IsNew tells whether the draft is of a template that is not there yet.
func (d TemplateDraft) IsNew() bool { return strings.HasPrefix(d.Key, NewTemplate) }

// BaseOf names what a template is, all of it.
func BaseOf(t *content.Template) string {
	if t == nil {
		return ""
	}
	return t.Form() + " " + t.Name + " " + t.For
}

// turnTemplateDraft makes what an act did to a template a draft again where the act is taken
// back, so that no work on it is lost, and takes this draft away where it is done again.
func (a *Floor) turnTemplateDraft(ctx context.Context, tx Tx, who Person, p shape.Patch, again bool) error {
	if p.After == nil || p.After.Template == nil {
		return nil
	}
	d := TemplateDraft{Key: p.After.Template.Key, PersonID: who.ID, Page: p.After.Template.AsPage(), Version: 1, At: a.Now()}
	if p.Before == nil {
		d.Key = NewTemplate + d.Key
	} else {
		d.Base = BaseOf(p.Before.Template)
	}
	if again {
		return tx.ForgetTemplateDraft(ctx, d)
	}
	return tx.KeepTemplateDraft(ctx, d)
}
