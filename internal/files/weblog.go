package files

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"

	"candlepath/internal/core/weblog"
)

// ReadLog counts the visits of a log of a web server, which may be packed by gzip. It reads
// line by line, so a log of any size does; lines longer than 64 KB are none of a log.
func ReadLog(r io.Reader, into *weblog.Counter) error {
	in, err := unpacked(r)
	if err != nil {
		return err
	}
	lines, broken := into.Lines, into.Broken
	for {
		line, err := in.ReadSlice('\n')
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			into.Line(line)
			for errors.Is(err, bufio.ErrBufferFull) {
				_, err = in.ReadSlice('\n')
			}
		case len(line) > 0:
			into.Line(line)
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return refuse(into.Lines-lines, fmt.Sprintf("it cannot be read to its end: %v", err), "fetch it again")
		}
	}
	if n := into.Lines - lines; n > 0 && into.Broken-broken == n {
		return refuse(0, "no line of it is one of a log", "give a log in the Common or the Combined Log Format")
	}
	return nil
}

// unpacked reads what may be packed by gzip.
func unpacked(r io.Reader) (*bufio.Reader, error) {
	in := bufio.NewReaderSize(r, 256<<10)
	if head, _ := in.Peek(2); !bytes.Equal(head, []byte{0x1F, 0x8B}) {
		return in, nil
	}
	packed, err := gzip.NewReader(in)
	if err != nil {
		return nil, refuse(0, "it begins like a gzip file and is none", "unpack it, or fetch it again")
	}
	return bufio.NewReaderSize(packed, 256<<10), nil
}
