package report

import (
	"fmt"
	"strings"

	"github.com/go-analyze/charts"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/show"
)

// Pictures for documents: the strips of columns, and of those that were opened how their values are spread. A library
// draws them, as SVG or PNG, on white.

// The colours of the readings, in the order of reading.Reading, and of what stands around them.
var (
	readingColors = [reading.NumReadings]charts.Color{
		charts.ColorFromHex("#bfe0ea"), charts.ColorFromHex("#a9c8ee"), charts.ColorFromHex("#dcc7ea"),
		charts.ColorFromHex("#ecd3e4"), charts.ColorFromHex("#c9cdf3"), charts.ColorFromHex("#c4e3c8"),
		charts.ColorFromHex("#f3dfa5"), charts.ColorFromHex("#e3ded3"), charts.ColorFromHex("#f4f2ec"),
	}
	paper = charts.ColorFromHex("#ffffff")
	ink   = charts.ColorFromHex("#1d2327")
	soft  = charts.ColorFromHex("#5a6268")
	rule  = charts.ColorFromHex("#d9d6cc")
)

// The measures of a picture, in pixels.
const (
	pictureWidth  = 880
	margin        = 24
	rowHeight     = 26
	nameWidth     = 220
	typeWidth     = 100
	picturePlaces = 20
	placeWidth    = 18
	binsTall      = 120
)

// picture is one that is being drawn.
type picture struct {
	*charts.Painter
	y int // the top of what comes next
}

// Picture draws the strips of columns, and where bins is set how their values are spread; as PNG, or else as SVG.
func Picture(p *profile.Profile, columns []*profile.ColumnProfile, bins, png bool) ([]byte, error) {
	height := 2*margin + 3*rowHeight + len(columns)*rowHeight + 10
	if bins {
		height += len(columns) * (binsTall + 2*rowHeight)
	}
	format := charts.ChartOutputSVG
	if png {
		format = charts.ChartOutputPNG
	}
	o := charts.PainterOptions{OutputFormat: format, Width: pictureWidth, Height: height}
	d := &picture{charts.NewPainter(o), margin}
	d.FilledRect(0, 0, pictureWidth, height, paper, paper, 0)
	d.text(margin, show.Visible(p.Info.Name), 14, ink)
	d.onRight(pictureWidth-margin, show.Plural(p.Rows, "row"))
	d.y += rowHeight + 10
	for _, c := range columns {
		d.column(c)
		if bins {
			d.bins(p.Details(c), c.Private())
		}
	}
	d.key()
	return d.Bytes()
}

func (d *picture) text(x int, text string, size float64, color charts.Color) {
	d.Text(text, x, d.y+17, 0, charts.FontStyle{FontSize: size, FontColor: color})
}

// wide is how wide a small text is.
func (d *picture) wide(text string) int {
	return d.MeasureText(text, 0, charts.FontStyle{FontSize: 10, Font: charts.GetDefaultFont()}).Width()
}

// onRight draws a small text that ends there.
func (d *picture) onRight(x int, text string) { d.text(x-d.wide(text), text, 10, soft) }

// column draws the line of a column.
func (d *picture) column(c *profile.ColumnProfile) {
	d.text(margin, clip(show.Visible(c.Name), 26), 10, ink)
	d.text(margin+nameWidth, c.Conclusion.Convention.Type.String(), 10, soft)
	x := margin + nameWidth + typeWidth
	for r, n := range show.Shares(c.Conclusion.Reads[:], picturePlaces) {
		for range n {
			d.FilledRect(x, d.y+3, x+placeWidth, d.y+rowHeight-3, readingColors[r], readingColors[r], 0)
			d.text(x+5, string(reading.Reading(r).Letter()), 10, ink)
			x += placeWidth
		}
	}
	if n := c.Conclusion.Fails; n > 0 {
		d.text(margin+nameWidth+typeWidth+picturePlaces*placeWidth+12, fmt.Sprintf("%d fail", n), 10, ink)
	}
	d.y += rowHeight
}

// bins draws how the values of a column are spread.
func (d *picture) bins(details *profile.Details, private bool) {
	var most int64
	if details != nil && !private {
		for _, b := range details.Histogram {
			most = max(most, b.Cells)
		}
	}
	if most == 0 {
		d.text(margin+nameWidth+typeWidth, "no numbers or dates to spread", 10, soft)
		d.y += binsTall + 2*rowHeight
		return
	}
	list := details.Histogram
	left, width := margin+nameWidth+typeWidth, picturePlaces*placeWidth
	for i, b := range list {
		from, to := left+width*i/len(list), left+width*(i+1)/len(list)
		top := d.y + binsTall - int(b.Cells*(binsTall-20)/most)
		if b.Cells > 0 {
			d.FilledRect(from+1, min(top, d.y+binsTall-1), to-1, d.y+binsTall, readingColors[reading.AsDecimal], soft, 0.5)
		} else { // a gap is seen
			d.Circle(1.5, (from+to)/2, d.y+binsTall-4, soft, soft, 0)
		}
	}
	d.FilledRect(left, d.y+binsTall, left+width, d.y+binsTall+1, rule, rule, 0)
	d.text(left+width+12, fmt.Sprintf("at most %d", most), 10, soft)
	d.y += binsTall
	d.text(left, list[0].From, 10, soft)
	d.onRight(left+width, list[len(list)-1].To)
	d.y += 2 * rowHeight
}

// key says what the letters stand for.
func (d *picture) key() {
	d.y += 10
	x := margin
	for r := range reading.NumReadings {
		d.FilledRect(x, d.y+3, x+placeWidth, d.y+rowHeight-3, readingColors[r], readingColors[r], 0)
		d.text(x+5, string(r.Letter()), 10, ink)
		d.text(x+placeWidth+5, r.String(), 10, soft)
		x += placeWidth + 5 + d.wide(r.String()) + 16
	}
}

// clip cuts a text to that many characters.
func clip(text string, most int) string {
	runes := []rune(text)
	if len(runes) <= most {
		return text
	}
	return strings.TrimRight(string(runes[:most-1]), " ") + "…"
}
