// Package colour tells whether colours can be read on each other, as the Web
// Content Accessibility Guidelines 2.2 measure it.
package colour

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Colour is red, green and blue, from 0 to 255.
type Colour [3]uint8

// White is the ground of pages.
var White = Colour{255, 255, 255}

// Readable is the least contrast of text of usual size (success criterion 1.4.3).
const Readable = 4.5

// Parse reads #rrggbb or #rgb.
func Parse(s string) (Colour, bool) {
	s = strings.TrimPrefix(strings.TrimSpace(s), "#")
	if len(s) == 3 {
		s = string([]byte{s[0], s[0], s[1], s[1], s[2], s[2]})
	}
	n, err := strconv.ParseUint(s, 16, 32)
	if err != nil || len(s) != 6 {
		return Colour{}, false
	}
	return Colour{uint8(n >> 16), uint8(n >> 8), uint8(n)}, true
}

func (c Colour) String() string { return fmt.Sprintf("#%02X%02X%02X", c[0], c[1], c[2]) }

// luminance is the relative luminance of sRGB.
func (c Colour) luminance() float64 {
	sum := 0.0
	for i, weight := range []float64{0.2126, 0.7152, 0.0722} {
		v := float64(c[i]) / 255
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		sum += weight * v
	}
	return sum
}

// Contrast is the ratio of two colours, from 1 to 21.
func Contrast(a, b Colour) float64 {
	x, y := a.luminance(), b.luminance()
	if x < y {
		x, y = y, x
	}
	return (x + 0.05) / (y + 0.05)
}

// Darkened gives the colour, as much darker as it takes to be read on all
// grounds.
func Darkened(c Colour, grounds ...Colour) Colour {
	for part := 100; ; part-- {
		d := Colour{}
		for i := range c {
			d[i] = uint8(int(c[i]) * part / 100)
		}
		if part == 0 || readable(d, grounds) {
			return d
		}
	}
}

func readable(c Colour, grounds []Colour) bool {
	for _, g := range grounds {
		if Contrast(c, g) < Readable {
			return false
		}
	}
	return true
}
