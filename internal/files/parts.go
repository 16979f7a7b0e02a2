package files

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"
)

// A workbook is an archive of XML parts, of which a few kilobytes can hold hundreds of megabytes. They are
// looked through once as they are unpacked, before a library that builds whole values in memory gets them.
const (
	longestValue = 1 << 20  // bytes of one value or tag: a cell holds up to 32,767 characters
	largestPart  = 32 << 20 // of a part that is read whole: styles, names, settings
	mostInRow    = 16_384   // cells, as the format allows
	mostCells    = 4_000_000
)

// streamed tells which parts are read row by row, and may be as large as a file may.
func streamed(name string) bool {
	return strings.HasPrefix(name, "xl/worksheets/sheet") || name == "xl/sharedStrings.xml"
}

// checkParts refuses an archive with a part or a value that would not fit into memory, and tells whether
// any worksheet has merged cells.
func checkParts(z *zip.Reader, o Options) (merged bool, err error) {
	for _, f := range z.File {
		if !strings.HasSuffix(f.Name, ".xml") && !strings.HasSuffix(f.Name, ".rels") && !strings.HasSuffix(f.Name, ".vml") {
			continue // pictures and the like are not read
		}
		if !streamed(f.Name) && f.UncompressedSize64 > largestPart {
			return false, refuse(0, fmt.Sprintf("the part %s of the workbook holds more than %d MB", f.Name, largestPart>>20), "save the sheet as .csv")
		}
		m, err := checkPart(f, o)
		if err != nil {
			return false, err
		}
		merged = merged || m && strings.HasPrefix(f.Name, "xl/worksheets/")
	}
	return merged, nil
}

// checkPart looks through one part without keeping it: from each tag to the next.
func checkPart(f *zip.File, o Options) (merged bool, err error) {
	r, err := f.Open()
	if err != nil {
		return false, refuse(0, "the workbook is damaged", "save it again")
	}
	defer r.Close()
	in := bufio.NewReaderSize(r, 64<<10)
	value, inRow, cells, strings := 0, 0, 0, 0
	for begins := true; ; {
		some, err := in.ReadSlice('<')
		if begins {
			value = 0
			switch {
			case tagIs(some, "c"):
				inRow++
				cells++
			case tagIs(some, "row"):
				inRow = 0
			case tagIs(some, "si"):
				strings++
			case tagIs(some, "mergeCell"):
				merged = true
			}
			if err := o.ended(); err != nil {
				return false, err
			}
		}
		value += len(some)
		begins = err == nil
		switch {
		case value > longestValue:
			return false, refuse(0, fmt.Sprintf("a cell of the workbook holds more than %d MB", longestValue>>20), "look for the cell and shorten it, or save the sheet as .csv")
		case inRow > mostInRow, cells > mostCells, strings > mostCells:
			return false, refuse(0, fmt.Sprintf("a sheet of the workbook has more than %d cells, or more than %d in a row", mostCells, mostInRow), "delete empty rows and columns, or split the sheet")
		case err == nil, errors.Is(err, bufio.ErrBufferFull):
		case errors.Is(err, io.EOF):
			return merged, nil
		default:
			return false, refuse(0, "the workbook is damaged", "save it again")
		}
	}
}

// tagIs tells whether what follows a "<" is a tag of a name.
func tagIs(b []byte, name string) bool {
	return len(b) > len(name) && string(b[:len(name)]) == name && (b[len(name)] == ' ' || b[len(name)] == '>' || b[len(name)] == '/')
}
