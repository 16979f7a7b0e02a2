package files_test

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/files"
)

func painted(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, color.NRGBA{uint8(x * 7), uint8(y * 3), uint8(x ^ y), 255})
		}
	}
	return img
}

func asJPEG(t *testing.T, img image.Image) []byte {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, nil))
	return b.Bytes()
}

// withEXIF puts a segment as cameras write it behind the beginning of a JPEG: an
// orientation, and words that tell where it was taken.
func withEXIF(data []byte, turned uint16) []byte {
	tiff := []byte("MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01")
	tiff = binary.BigEndian.AppendUint16(tiff, turned)
	tiff = append(tiff, "\x00\x00\x00\x00\x00\x00GPS 52.1 N"...)
	segment := append([]byte("\xff\xe1\x00\x00Exif\x00\x00"), tiff...)
	binary.BigEndian.PutUint16(segment[2:], uint16(len(segment)-2))
	return append(append(append([]byte{}, data[:2]...), segment...), data[2:]...)
}

func TestPicturesArePrepared(t *testing.T) {
	t.Run("smaller sizes, never larger ones", func(t *testing.T) {
		f, err := prepare("Ponds.JPG", asJPEG(t, painted(1200, 600)))
		require.NoError(t, err)
		require.Equal(t, []any{"ponds.jpg", "image/jpeg", 1200, 600}, []any{f.Name, f.Type, f.Width, f.Height})
		var widths []int
		for _, s := range f.Sizes {
			c, _, err := image.DecodeConfig(bytes.NewReader(s.Data))
			require.NoError(t, err)
			require.Equal(t, s.Width, c.Width)
			require.Equal(t, s.Width/2, c.Height)
			widths = append(widths, s.Width)
		}
		require.Equal(t, []int{320, 640, 1000}, widths)
	})
	t.Run("where it was taken is dropped, how it was held is kept", func(t *testing.T) {
		f, err := prepare("a.jpg", withEXIF(asJPEG(t, painted(40, 20)), 1))
		require.NoError(t, err)
		require.NotContains(t, string(holds(t, f)), "GPS")
		require.Equal(t, 40, f.Width)
		for turned := uint16(2); turned <= 8; turned++ {
			f, err = prepare("a.jpg", withEXIF(asJPEG(t, painted(40, 20)), turned))
			require.NoError(t, err)
			require.NotContains(t, string(holds(t, f)), "GPS")
			require.Equal(t, turned >= 5, f.Width == 20, turned)
			c, _, err := image.DecodeConfig(bytes.NewReader(holds(t, f)))
			require.NoError(t, err)
			require.Equal(t, f.Width, c.Width)
		}
	})
	t.Run("texts of a PNG are dropped, also what follows its end", func(t *testing.T) {
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, painted(20, 10)))
		chunk := append([]byte("\x00\x00\x00\x08tEXtsecret!!"), 0, 0, 0, 0)
		data := append(append(append([]byte{}, b.Bytes()[:33]...), chunk...), b.Bytes()[33:]...)
		f, err := prepare("a.png", append(data, "<script>alert(1)</script>"...))
		require.NoError(t, err)
		require.Equal(t, b.Bytes(), holds(t, f))
	})
	t.Run("what moves goes on moving", func(t *testing.T) {
		frame := image.NewPaletted(image.Rect(0, 0, 700, 10), color.Palette{color.Black, color.White})
		var b bytes.Buffer
		require.NoError(t, gif.EncodeAll(&b, &gif.GIF{Image: []*image.Paletted{frame, frame}, Delay: []int{1, 1}}))
		f, err := prepare("a.gif", b.Bytes())
		require.NoError(t, err)
		require.Empty(t, f.Sizes)
		require.Equal(t, 700, f.Width)
	})
}

func prepare(name string, data []byte) (content.PictureFile, error) {
	return files.Prepare(name, bytes.NewReader(data))
}

func holds(t *testing.T, f content.PictureFile) []byte {
	_, err := f.Body.Seek(0, io.SeekStart)
	require.NoError(t, err)
	data, err := io.ReadAll(f.Body)
	require.NoError(t, err)
	require.Len(t, data, int(f.Bytes))
	return data
}

func TestFilesThatAreNotKept(t *testing.T) {
	large := asJPEG(t, painted(16, 16))
	at := bytes.Index(large, []byte{0xFF, 0xC0})
	binary.BigEndian.PutUint16(large[at+5:], 15000)
	binary.BigEndian.PutUint16(large[at+7:], 15000)
	for name, c := range map[string]struct {
		data []byte
		want error
	}{
		"200 million pixels":  {large, files.ErrLargePicture},
		"a picture that ends": {asJPEG(t, painted(400, 400))[:300], files.ErrNoPicture},
		"only a beginning":    {[]byte("\x89PNG\x0D\x0A\x1A\x0Athe rest is missing"), files.ErrNoPicture},
		"nothing":             {nil, files.ErrEmptyFile},
	} {
		_, err := prepare("x.jpg", c.data)
		require.ErrorIs(t, err, c.want, name)
	}
	f, err := prepare("x.png", []byte("<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>"))
	require.NoError(t, err)
	require.Equal(t, "text/plain", f.Type, "a drawing that can run something is a download, whatever its name says")
	require.Zero(t, f.Width)
}

// Pictures that are no pictures are refused, whatever their parts say of their length.
func TestCraftedPictures(t *testing.T) {
	jfif := []byte{0xFF, 0xD8, 0xFF, 0xE0, 0, 16, 'J', 'F', 'I', 'F', 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, 0xFF, 0xC0, 0, 11, 8, 0, 8, 0, 8, 1, 1, 0x11, 0}
	end := []byte{0xFF, 0xDA, 0, 8, 1, 1, 0, 0, 63, 0, 0, 0xFF, 0xD9}
	for name, segment := range map[string][]byte{
		"no length": {0xFF, 0xE1, 0, 0}, "too short": {0xFF, 0xE1, 0, 1}, "no end": {0xFF, 0xE1, 0xFF, 0xFF}, "a comment": {0xFF, 0xFE, 0, 0},
	} {
		_, err := files.Prepare("a.jpg", bytes.NewReader(slices.Concat(jfif, segment, end)))
		require.ErrorIs(t, err, files.ErrNoPicture, name)
	}
}

// Whatever comes in as a picture is kept as something that can be read again, or refused.
func FuzzPrepare(f *testing.F) {
	var out bytes.Buffer
	img := image.NewPaletted(image.Rect(0, 0, 4, 4), color.Palette{color.Black, color.White})
	require.NoError(f, png.Encode(&out, img))
	f.Add(out.Bytes())
	out = bytes.Buffer{}
	require.NoError(f, jpeg.Encode(&out, img, nil))
	f.Add(out.Bytes())
	out = bytes.Buffer{}
	require.NoError(f, gif.EncodeAll(&out, &gif.GIF{Image: []*image.Paletted{img, img}, Delay: []int{0, 0}}))
	f.Add(out.Bytes())
	out = bytes.Buffer{}
	require.NoError(f, jpeg.Encode(&out, img, nil))
	f.Add(withEXIF(out.Bytes(), 6))
	f.Add([]byte("RIFF\x1a\x00\x00\x00WEBPVP8X\x00\x00\x00\x00VP8 \x00\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := files.Prepare("a", bytes.NewReader(data))
		if err != nil || p.Width == 0 {
			return
		}
		kept, err := io.ReadAll(p.Body)
		require.NoError(t, err)
		_, err = files.Prepare("a", bytes.NewReader(kept))
		require.NoError(t, err)
	})
}
