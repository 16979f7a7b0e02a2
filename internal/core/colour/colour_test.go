package colour_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/colour"
)

func TestContrast(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"#000000", "#FFFFFF", 21}, {"#fff", "#fff", 1}, {"#777777", "#ffffff", 4.48}, {"#767676", "#fff", 4.54}, {"#0000FF", "#FFF", 8.59}, {"#FF0000", "#FFF", 4.0}} {
		a, ok := colour.Parse(c.a)
		require.True(t, ok)
		b, ok := colour.Parse(c.b)
		require.True(t, ok)
		require.InDelta(t, c.want, colour.Contrast(a, b), 0.01, "%s on %s", c.a, c.b)
	}
	for _, bad := range []string{"", "#12", "#1234567", "red", "#gggggg", "-1ffff"} {
		_, ok := colour.Parse(bad)
		require.False(t, ok, bad)
	}
}

func TestDarkenedCanBeRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := colour.Colour{rapid.Uint8().Draw(t, "r"), rapid.Uint8().Draw(t, "g"), rapid.Uint8().Draw(t, "b")}
		d := colour.Darkened(c, colour.White)
		require.GreaterOrEqual(t, colour.Contrast(d, colour.White), colour.Readable)
		if colour.Contrast(c, colour.White) >= colour.Readable {
			require.Equal(t, c, d)
		}
		again, ok := colour.Parse(d.String())
		require.True(t, ok)
		require.Equal(t, d, again)
	})
}
