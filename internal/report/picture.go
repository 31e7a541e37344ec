package report

import (
	"fmt"
	"html/template"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/show"
)

// The measures of a picture, in its units.
const (
	pictureWidth = 880
	margin       = 24
	rowHeight    = 26
	nameWidth    = 220
	typeWidth    = 100
	stripLeft    = margin + nameWidth + typeWidth
)

// pictureCSS is what a picture has beside the colours of the page.
const pictureCSS = `text { font: 12px "DejaVu Sans", Verdana, sans-serif; } .bar text { font-family: "DejaVu Sans Mono", Consolas, monospace; }
.bins text { font-size: 8px; } .soft { fill: var(--soft); } .paper { fill: var(--paper); } .end { text-anchor: end; }
`

// picture is a picture for a document, as SVG: the strips of columns, and of those that were opened how their values are
// spread. It is drawn by what draws the pictures of the page, and as bright or dark as what shows it.
type picture struct {
	strings.Builder
	y int // the top of what comes next
}

// Picture draws the strips of columns, and where bins is set how their values are spread.
func Picture(p *profile.Profile, columns []*profile.ColumnProfile, bins bool) []byte {
	d := &picture{y: margin}
	d.text(margin, "", show.Visible(p.Info.Name))
	d.text(pictureWidth-margin, "soft end", show.Plural(p.Rows, "row"))
	d.y += rowHeight + 10
	for _, c := range columns {
		d.column(c)
		if bins {
			d.bins(p.Details(c), c.Private())
		}
	}
	d.key()
	height := d.y + rowHeight + margin
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %[1]d %[2]d" width="%[1]d" height="%[2]d"><style>%[3]s</style>`+
		`<rect class="paper" width="%[1]d" height="%[2]d"/>%[4]s</svg>`+"\n", pictureWidth, height, lean(coloursCSS+pictureCSS), d.String())
}

// text writes a text in a line.
func (d *picture) text(x int, class, text string) {
	fmt.Fprintf(d, `<text class="%s" x="%d" y="%d">%s</text>`, class, x, d.y+17, template.HTMLEscapeString(text))
}

// place puts what is drawn at the place that comes next.
func (d *picture) place(drawn template.HTML, width, height int) {
	fmt.Fprintf(d, `<svg x="%d" y="%d" width="%d" height="%d">%s</svg>`, stripLeft, d.y+4, width, height, drawn)
}

// column draws the line of a column.
func (d *picture) column(c *profile.ColumnProfile) {
	d.text(margin, "", clip(show.Visible(c.Name), 26))
	d.text(margin+nameWidth, "soft", c.Conclusion.Convention.Type.String())
	d.place(strip(c.Conclusion.Reads, ""), places*letterWidth, barHeight)
	if n := c.Conclusion.Fails; n > 0 {
		d.text(stripLeft+places*letterWidth+12, "", fmt.Sprintf("%d fail", n))
	}
	d.y += rowHeight
}

// bins draws how the values of a column are spread.
func (d *picture) bins(details *profile.Details, private bool) {
	drawn := template.HTML("")
	if details != nil && !private {
		drawn = histogram(details.Histogram)
	}
	if drawn == "" {
		d.text(stripLeft, "soft", "no numbers or dates to spread")
		d.y += 2 * rowHeight
		return
	}
	list := details.Histogram
	height := (binsHeight + 16) * places * letterWidth / (binWidth * len(list))
	d.place(drawn, places*letterWidth, height)
	d.y += height
	d.text(stripLeft, "soft", list[0].From)
	d.text(stripLeft+places*letterWidth, "soft end", list[len(list)-1].To)
	d.y += 2 * rowHeight
}

// key says what the letters stand for.
func (d *picture) key() {
	d.y += 10
	x := margin
	for r := range reading.NumReadings {
		fmt.Fprintf(d, `<rect class="r%d" x="%d" y="%d" width="18" height="%d"/>`, r, x, d.y+4, barHeight)
		d.text(x+5, "", string(r.Letter()))
		d.text(x+24, "soft", r.String())
		x += 40 + 7*len(r.String())
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
