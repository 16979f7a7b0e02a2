package files

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"net/http"
	"slices"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // pictures of this kind are read

	"candlepath/internal/core/content"
	"candlepath/internal/core/kept"
)

// Faults of files that a site does not keep.
var (
	ErrLargePicture = fmt.Errorf("the picture has more than %d million pixels; make it smaller first", kept.MostPixels/1_000_000)
	ErrNoPicture    = errors.New("the file says that it is a picture, but it cannot be read as one")
	ErrEmptyFile    = errors.New("the file is empty")
)

// Prepare makes of a file what the site keeps of it: its kind, told by what it holds, a
// clean name, and of a picture its measures and smaller sizes. What a camera wrote beside
// the picture, such as where it was taken, is dropped.
//
// Only a picture is read whole; of other files what they hold stays where it is.
func Prepare(name string, body io.ReadSeeker) (content.PictureFile, error) {
	length, err := body.Seek(0, io.SeekEnd)
	if err != nil || length == 0 {
		return content.PictureFile{}, errors.Join(ErrEmptyFile, err)
	}
	head := make([]byte, 512)
	n, err := readAgain(body, head)
	if err != nil {
		return content.PictureFile{}, err
	}
	kind := kept.KindOf(http.DetectContentType(head[:n]))
	f := content.PictureFile{Name: kind.Name(name), Given: kind.Given(name), Type: kind.Type, Body: body, Bytes: length}
	if !kind.Picture {
		return f, nil
	}
	data := make([]byte, length)
	if _, err := io.ReadFull(body, data); err != nil {
		return f, err
	}
	return picture(f, kind, data)
}

// readAgain fills a buffer with the beginning of a file, and goes back to it.
func readAgain(body io.ReadSeeker, into []byte) (int, error) {
	if _, err := body.Seek(0, io.SeekStart); err != nil {
		return 0, err
	}
	n, err := io.ReadFull(body, into)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return n, err
	}
	_, err = body.Seek(0, io.SeekStart)
	return n, err
}

// picture reads a picture: its measures and, where we can make them, its smaller sizes. What trips a
// reader up cannot be read.
func picture(f content.PictureFile, kind kept.Kind, data []byte) (out content.PictureFile, err error) {
	defer func() {
		if recover() != nil {
			err = ErrNoPicture
		}
	}()
	c, _, err := image.DecodeConfig(bytes.NewReader(data))
	switch {
	case err != nil:
		return f, ErrNoPicture
	case c.Width*c.Height > kept.MostPixels:
		return f, ErrLargePicture
	}
	turned := orientation(data)
	if data, err = bare(kind.Type, data); err != nil {
		return f, ErrNoPicture
	}
	f = holding(f, data)
	f.Width, f.Height = c.Width, c.Height
	if kind.Type == "image/webp" || animated(kind.Type, data) || turned == 1 && len(kept.Widths(c.Width)) == 0 {
		return f, nil // nothing is made of what we cannot write, or that moves
	}
	return sized(f, data, turned)
}

func holding(f content.PictureFile, data []byte) content.PictureFile {
	f.Body, f.Bytes = bytes.NewReader(data), int64(len(data))
	return f
}

// sized turns a picture as its camera was held, and adds its smaller sizes.
func sized(f content.PictureFile, data []byte, turned int) (content.PictureFile, error) {
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return f, ErrNoPicture
	}
	if turned != 1 {
		img = upright(img, turned)
		f.Width, f.Height = img.Bounds().Dx(), img.Bounds().Dy()
		if data, err = encode(f.Type, img); err != nil {
			return f, err
		}
		f = holding(f, data)
	}
	for _, w := range slices.Backward(kept.Widths(f.Width)) { // each from the one above it
		small := emptyPicture(f.Type, image.Rect(0, 0, w, max(1, f.Height*w/f.Width)))
		draw.ApproxBiLinear.Scale(small, small.Bounds(), img, img.Bounds(), draw.Src, nil)
		img = small
		smaller, err := encode(f.Type, small)
		if err != nil {
			return f, err
		}
		if len(smaller) < len(data) {
			f.Sizes = append(f.Sizes, content.PictureSize{Width: w, Data: smaller})
		}
	}
	slices.Reverse(f.Sizes)
	return f, nil
}

// emptyPicture is a picture to draw on, of the kind that is written fastest as a type.
func emptyPicture(kind string, r image.Rectangle) draw.Image {
	if kind == "image/jpeg" {
		return image.NewRGBA(r)
	}
	return image.NewNRGBA(r)
}

func encode(kind string, img image.Image) ([]byte, error) {
	var out bytes.Buffer
	var err error
	switch kind {
	case "image/png":
		err = png.Encode(&out, img)
	case "image/gif":
		err = gif.Encode(&out, img, nil)
	default:
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 84})
	}
	if err != nil {
		return nil, fmt.Errorf("write picture: %w", err)
	}
	return out.Bytes(), nil
}

// animated tells whether a picture moves; no still sizes are made of one.
func animated(kind string, data []byte) bool {
	switch kind {
	case "image/gif":
		return gifFrames(data) != 1
	case "image/png":
		return bytes.Contains(data[:min(len(data), 4096)], []byte("acTL"))
	}
	return false
}

// gifFrames counts the frames of a GIF, up to two, without unpacking them: each may be as large as memory.
// It gives 0 where the file is damaged.
func gifFrames(data []byte) (frames int) {
	table := func(flags byte) int { // bytes of a table of colours
		if flags&0x80 == 0 {
			return 0
		}
		return 3 << (flags&7 + 1)
	}
	if len(data) < 13 {
		return 0
	}
	blocks := func(at int) int { // where sub-blocks end
		for at < len(data) && data[at] != 0 {
			at += 1 + int(data[at])
		}
		return at + 1
	}
	for at := 13 + table(data[10]); at < len(data) && frames < 2; {
		switch data[at] {
		case 0x21: // an extension
			at = blocks(at + 2)
		case 0x2C: // a frame
			if at+10 >= len(data) {
				return 0
			}
			frames++
			at = blocks(at + 10 + table(data[at+9]) + 1)
		default:
			return frames
		}
	}
	return frames
}

// upright turns a picture by its EXIF orientation, 2 to 8.
func upright(in image.Image, turned int) image.Image {
	w, h := in.Bounds().Dx(), in.Bounds().Dy()
	img, out := image.NewRGBA(image.Rect(0, 0, w, h)), image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(img, img.Bounds(), in, in.Bounds().Min, draw.Src)
	if turned >= 5 { // height and width change places
		out = image.NewRGBA(image.Rect(0, 0, h, w))
	}
	for y := range h {
		for x := range w {
			tx, ty := x, y
			switch turned {
			case 2:
				tx = w - 1 - x
			case 3:
				tx, ty = w-1-x, h-1-y
			case 4:
				ty = h - 1 - y
			case 5:
				tx, ty = y, x
			case 6:
				tx, ty = h-1-y, x
			case 7:
				tx, ty = h-1-y, w-1-x
			case 8:
				tx, ty = y, w-1-x
			}
			copy(out.Pix[out.PixOffset(tx, ty):][:4], img.Pix[img.PixOffset(x, y):][:4])
		}
	}
	return out
}

// bare gives a picture without what was written beside it: EXIF, XMP, comments and texts.
func bare(kind string, data []byte) ([]byte, error) {
	switch kind {
	case "image/jpeg":
		return bareJPEG(data)
	case "image/png":
		return barePNG(data)
	case "image/webp":
		return bareWebP(data)
	}
	return data, nil
}

// jpegSegments visits the segments before the picture itself: their marker, and where they
// begin and end. It gives where the picture begins.
func jpegSegments(data []byte, visit func(marker byte, from, to int)) (int, error) {
	at := 2
	for at+4 <= len(data) {
		if data[at] != 0xFF {
			return 0, ErrNoPicture
		}
		marker := data[at+1]
		if marker == 0xDA {
			return at, nil
		}
		if marker == 0xFF { // filling
			at++
			continue
		}
		length := int(binary.BigEndian.Uint16(data[at+2:])) // of itself, too
		to := at + 2 + length
		if length < 2 || to > len(data) {
			return 0, ErrNoPicture
		}
		visit(marker, at, to)
		at = to
	}
	return 0, ErrNoPicture
}

func bareJPEG(data []byte) ([]byte, error) {
	out := append(make([]byte, 0, len(data)), data[:2]...)
	scan, err := jpegSegments(data, func(marker byte, from, to int) {
		profile := marker == 0xE2 && bytes.HasPrefix(data[from+4:to], []byte("ICC_PROFILE"))
		adobe := marker == 0xEE // tells how colours are kept
		if marker == 0xFE || marker >= 0xE1 && marker <= 0xEF && !profile && !adobe {
			return
		}
		out = append(out, data[from:to]...)
	})
	if err != nil {
		return nil, err
	}
	end := bytes.LastIndex(data, []byte{0xFF, 0xD9}) // what follows the end is no part of it
	if end < scan {
		end = len(data) - 2
	}
	return append(out, data[scan:end+2]...), nil
}

// pngKept are the chunks of PNG that a picture needs.
var pngKept = map[string]bool{
	"IHDR": true, "PLTE": true, "IDAT": true, "IEND": true, "tRNS": true, "gAMA": true, "cHRM": true, "sRGB": true, "iCCP": true,
	"sBIT": true, "bKGD": true, "pHYs": true, "acTL": true, "fcTL": true, "fdAT": true,
}

func barePNG(data []byte) ([]byte, error) {
	out := append(make([]byte, 0, len(data)), data[:8]...)
	for at := 8; at+12 <= len(data); {
		to := at + 12 + int(binary.BigEndian.Uint32(data[at:]))
		if to > len(data) || to < at {
			return nil, ErrNoPicture
		}
		name := string(data[at+4 : at+8])
		if pngKept[name] {
			out = append(out, data[at:to]...)
		}
		if at = to; name == "IEND" {
			return out, nil
		}
	}
	return nil, ErrNoPicture
}

func bareWebP(data []byte) ([]byte, error) {
	out := append(make([]byte, 0, len(data)), data[:12]...)
	for at := 12; at+8 <= len(data); {
		size := int(binary.LittleEndian.Uint32(data[at+4:]))
		to := at + 8 + size + size%2
		if to > len(data) || to < at {
			return nil, ErrNoPicture
		}
		switch string(data[at : at+4]) {
		case "EXIF", "XMP ":
		case "VP8X":
			if size < 1 {
				return nil, ErrNoPicture
			}
			chunk := bytes.Clone(data[at:to])
			chunk[8] &^= 0x0C // neither EXIF nor XMP follows
			out = append(out, chunk...)
		default:
			out = append(out, data[at:to]...)
		}
		at = to
	}
	binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8)) //nolint:gosec // no longer than what came
	return out, nil
}

// orientation reads how the camera was held, 1 to 8; 1 where it does not say.
func orientation(data []byte) int {
	out := 1
	if !bytes.HasPrefix(data, []byte{0xFF, 0xD8}) {
		return out
	}
	_, _ = jpegSegments(data, func(marker byte, from, to int) {
		if tiff, ok := bytes.CutPrefix(data[from+4:to], []byte("Exif\x00\x00")); marker == 0xE1 && ok && out == 1 {
			out = tiffOrientation(tiff)
		}
	})
	return out
}

func tiffOrientation(tiff []byte) int {
	if len(tiff) < 8 {
		return 1
	}
	order := binary.ByteOrder(binary.BigEndian)
	if tiff[0] == 'I' {
		order = binary.LittleEndian
	}
	at := int(order.Uint32(tiff[4:]))
	if at < 8 || at+2 > len(tiff) {
		return 1
	}
	for i := range int(order.Uint16(tiff[at:])) {
		entry := at + 2 + 12*i
		if entry+12 > len(tiff) {
			break
		}
		if order.Uint16(tiff[entry:]) == 0x0112 {
			if v := int(order.Uint16(tiff[entry+8:])); v >= 1 && v <= 8 {
				return v
			}
		}
	}
	return 1
}
