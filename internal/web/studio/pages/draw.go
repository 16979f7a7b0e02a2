package pages

import (
	"net/http"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

// shown is rendered text as the editor shows it.
func shown(html string, t *sitemap.Tree) string { return string(part.DraftHTML(html, t)) }

// drawBlocks gives blocks as readers get them.
func (s *Screens) drawBlocks(r *shell.Request) error {
	var f struct {
		Blocks []content.Block `json:"blocks"`
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	drawn, trees, err := s.App.DrawBlocks(r.Ctx(), r.Who, r.Param("id"), f.Blocks)
	if err != nil {
		return err
	}
	out := make([]string, len(drawn))
	for i, html := range drawn {
		out[i] = shown(html, trees.Next)
	}
	r.JSON(http.StatusOK, map[string]any{"html": out})
	return nil
}

type stateLine struct {
	ID string `json:"id"`
	At string `json:"at"`
	By string `json:"by"`
}

// states lists the earlier states of a draft.
func (s *Screens) states(r *shell.Request) error {
	found, err := s.App.States(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	out := make([]stateLine, len(found))
	for i, st := range found {
		out[i] = stateLine{st.ID, st.At.UTC().Format(time.RFC3339), st.By}
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}

// state gives one of them, beside what stands there now.
func (s *Screens) state(r *shell.Request) error {
	v, err := s.App.State(r.Ctx(), r.Who, r.Param("id"), r.Param("state"))
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{
		"content": v.Content, "html": shown(v.HTML, v.Trees.Next), "changes": append([]content.BlockChange{}, v.Changes...),
	})
	return nil
}

type plainForm struct {
	Text    string       `json:"text"`
	Content content.Page `json:"content"`
}

// plainText writes a page as plain text.
func (s *Screens) plainText(r *shell.Request) error {
	var f plainForm
	if err := r.Json(&f); err != nil {
		return err
	}
	text, err := s.App.PlainText(r.Ctx(), r.Who, r.Param("id"), f.Content)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]string{"text": text})
	return nil
}

// readPlain reads plain text back.
func (s *Screens) readPlain(r *shell.Request) error {
	var f plainForm
	if err := r.Json(&f); err != nil {
		return err
	}
	p, problems, err := s.App.ReadPlain(r.Ctx(), r.Who, r.Param("id"), f.Text, f.Content)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"content": p, "problems": append([]content.PlainProblem{}, problems...)})
	return nil
}

// copyBlock adds a copy of a block to another page.
func (s *Screens) copyBlock(r *shell.Request) error {
	var f struct {
		Key   string        `json:"key"`
		To    string        `json:"to"`
		Block content.Block `json:"block"`
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	if _, err := s.App.CopyBlock(r.Ctx(), r.Who, part.OrElse(f.Key, part.NewKey()), f.To, f.Block); err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]string{})
	return nil
}
