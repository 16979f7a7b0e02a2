package app_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

// earlier gives the texts of the earlier states of a page's draft, the newest first.
func (d *desk) earlier(entry string) (out []string) {
	d.t.Helper()
	states, err := d.States(d.t.Context(), d.people["ines"], entry)
	require.NoError(d.t, err)
	for _, s := range states {
		v, err := d.State(d.t.Context(), d.people["ines"], entry, s.ID)
		require.NoError(d.t, err)
		out = append(out, written(v.Content))
	}
	return out
}

func written(p content.Page) string {
	var out []string
	for _, b := range p.Slots["main"] {
		out = append(out, b.Text)
	}
	return strings.Join(out, "|")
}

// What is live when a draft begins is an earlier state of it, though it was never a draft since such states are kept.
func TestADraftBeginsWithWhatIsLive(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.write("ines", ponds, "Frogs.")
	d.publish("marta", "Frogs")
	_, err := d.pool.Exec(t.Context(), `DELETE FROM draft_states`)
	require.NoError(t, err)
	d.write("ines", ponds, "")
	require.Equal(t, []string{"", "Frogs."}, d.earlier(ponds))
	d.now = d.now.Add(time.Second)
	d.write("ines", ponds, "Toads.")
	require.Equal(t, []string{"Toads.", "Frogs."}, d.earlier(ponds), "which goes on")
	d.publish("marta", "Toads")
	d.now = d.now.Add(10 * time.Minute)
	d.write("ines", ponds, "Toads and newts.")
	require.Equal(t, []string{"Toads and newts.", "Toads.", "Frogs."}, d.earlier(ponds), "a state that is live is not kept twice")
}

// Whatever is taken away from a text is in an earlier state: by whom and how soon, at which of two instances, whether it
// was published meanwhile or its edits were discarded.
func TestWhatIsTakenAwayIsInAnEarlierState(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	draw := rand.New(rand.NewPCG(29, 1)) //nolint:gosec // a random text
	var blocks []content.Block
	var lost []string
	last := content.Page{}
	other := d.begunAnew()
	for i := range 60 {
		d.App, other = other, d.App
		switch draw.IntN(12) {
		case 0:
			_, _ = d.tryPublish("marta", "Now")
		case 1:
			window := uuid.NewString()
			_, err := d.OpenPage(t.Context(), d.people["ines"], ponds, window)
			require.NoError(t, err)
			if d.DropDraft(t.Context(), d.people["ines"], ponds, window) == nil && len(blocks) > 0 { // there was one
				lost = append(lost, written(content.Page{Slots: map[string][]content.Block{"main": blocks}}))
			}
			require.NoError(t, d.ClosePage(t.Context(), d.people["ines"], ponds, window))
			v, err := d.Page(t.Context(), d.people["ines"], ponds)
			require.NoError(t, err)
			blocks = v.Content.Slots["main"]
		}
		was := content.Page{Slots: map[string][]content.Block{"main": append([]content.Block{}, blocks...)}}
		switch n := len(blocks); {
		case n == 0 || draw.IntN(3) > 0:
			blocks = append(blocks, content.Block{ID: fmt.Sprint("b", i), Type: content.Text, Text: fmt.Sprintf("Sentence %d has seven words, all told %d.", i, i)})
		case draw.IntN(4) == 0:
			blocks = nil
		case draw.IntN(2) == 0:
			blocks = append([]content.Block{}, blocks[1:]...)
		default:
			blocks = append([]content.Block{}, blocks...)
			blocks[n-1].Text = "Other."
		}
		next := content.Page{Slots: map[string][]content.Block{"main": append([]content.Block{}, blocks...)}}
		if content.TakesAway(was, next) {
			lost = append(lost, written(was))
		}
		d.now = d.now.Add(time.Duration(draw.IntN(15)) * time.Second)
		d.writePage([]string{"ines", "ines", "ines", "anselm"}[draw.IntN(4)], ponds, next)
		last = next
	}
	require.Greater(t, len(lost), 15)
	now := d.earlier(ponds)
	require.Equal(t, written(last), now[0])
	require.Subset(t, now, lost)
}
