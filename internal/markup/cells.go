package markup

import (
	"github.com/yuin/goldmark/ast"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/renderer"
	"github.com/yuin/goldmark/util"
)

// cells writes table cells and the boxes of task lists as readers and screen readers need
// them. CommonMark tables have no header column: where every cell of the first column below
// the head is strong as a whole, the column is one.
type cells struct{}

// RegisterFuncs tells which nodes it writes.
func (cells) RegisterFuncs(reg renderer.NodeRendererFuncRegisterer) {
	reg.Register(east.KindTableCell, writeCell)
	reg.Register(east.KindTaskCheckBox, writeTask)
	reg.Register(ast.KindRawHTML, writeRaised)
}

func writeCell(w util.BufWriter, _ []byte, node ast.Node, entering bool) (ast.WalkStatus, error) {
	n := node.(*east.TableCell)
	tag, scope := "td", ""
	switch {
	case n.Parent().Kind() == east.KindTableHeader:
		tag, scope = "th", ` scope="col"`
	case n.PreviousSibling() == nil && hasHeaderColumn(n.Parent().Parent()):
		tag, scope = "th", ` scope="row"`
	}
	if !entering {
		_, _ = w.WriteString("</" + tag + ">\n")
		return ast.WalkContinue, nil
	}
	class := ""
	switch n.Alignment {
	case east.AlignCenter:
		class = ` class="at-middle"`
	case east.AlignRight:
		class = ` class="at-right"`
	}
	_, _ = w.WriteString("<" + tag + scope + class + ">")
	return ast.WalkContinue, nil
}

func hasHeaderColumn(table ast.Node) bool {
	rows := 0
	for row := table.FirstChild(); row != nil; row = row.NextSibling() {
		if row.Kind() != east.KindTableRow {
			continue
		}
		rows++
		first := row.FirstChild()
		if first == nil || first.ChildCount() != 1 {
			return false
		}
		if strong, ok := first.FirstChild().(*ast.Emphasis); !ok || strong.Level != 2 {
			return false
		}
	}
	return rows > 0
}

func writeTask(w util.BufWriter, _ []byte, node ast.Node, entering bool) (ast.WalkStatus, error) {
	if !entering {
		return ast.WalkContinue, nil
	}
	if node.(*east.TaskCheckBox).IsChecked {
		_, _ = w.WriteString(`<span class="task task-done"><span class="sr-only">done: </span></span> `)
	} else {
		_, _ = w.WriteString(`<span class="task"><span class="sr-only">to do: </span></span> `)
	}
	return ast.WalkContinue, nil
}
