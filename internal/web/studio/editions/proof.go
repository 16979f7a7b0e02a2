package editions

import (
	"bytes"
	"net/http"
	"strconv"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

// exportProof gives what every address that ever answered will answer, as .csv.
func (s *Screens) exportProof(r *shell.Request) error {
	var list []editions.Proven
	number, err := strconv.Atoi(part.OrElse(r.Query("edition"), "0"))
	switch {
	case err != nil:
		return plan.ErrNotFound
	case number == 0:
		list, err = s.App.ProofOfNext(r.Ctx(), r.Who)
	default:
		list, err = s.App.ProofOf(r.Ctx(), r.Who, number)
	}
	if err != nil {
		return err
	}
	rows := make([][]string, len(list))
	for i, p := range list {
		rows[i] = []string{redirect.WrittenFrom(p.Address), strconv.Itoa(p.Code), p.Location, string(p.By), redirect.WrittenFrom(p.Rule), string(p.Of)}
	}
	var b bytes.Buffer
	if err := files.WriteCSV(&b, []string{"address", "code", "location", "by", "rule", "of"}, rows); err != nil {
		return err
	}
	r.Header("Content-Disposition", `attachment; filename="proof.csv"`)
	r.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
	return nil
}
