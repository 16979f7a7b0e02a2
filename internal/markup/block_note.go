package markup

import (
	"html/template"

	"candlepath/internal/core/content"
)

var noteTemplate = template.Must(template.New("note").Parse(`<div class="note note-{{.Tone}}" role="note">
{{.Text}}</div>
`))

func writeNote(r *articleWriter, b content.Block) error {
	text, err := r.m.HTML(b.Text, &r.headings)
	if err != nil {
		return err
	}
	return noteTemplate.Execute(&r.b, struct {
		Tone string
		Text template.HTML
	}{b.Tone, template.HTML(text)}) //nolint:gosec // it was sanitised
}
