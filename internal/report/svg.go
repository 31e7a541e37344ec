package report

import (
	"fmt"
	"html/template"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/show"
)

// The pictures of the page, and those for documents, are drawn here and not by a library: those that draw charts put
// their colours into style attributes, which the page's policy forbids, and which know of no dark page.

// part is a part of a bar: so many of something, with the letter that stands for it.
type part struct {
	Class  string
	Letter string
	Name   string
	N      int64
}

// places is into how many places a bar is divided, each a letter wide.
const places = 40

// letterWidth and barHeight are the size of a place, in the units of the picture.
const (
	letterWidth = 9
	barHeight   = 18
)

// bar draws parts of a whole, each with its letters; every part that there is has one place at least. What it shows
// is said in words, too. With an id, it can be drawn again.
func bar(parts []part, id string) template.HTML {
	counts := make([]int64, len(parts))
	var said []string
	for i, p := range parts {
		if counts[i] = p.N; p.N > 0 {
			said = append(said, fmt.Sprintf("%s %d", p.Name, p.N))
		}
	}
	if len(said) == 0 {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="bar" viewBox="0 0 %d %d" role="img" aria-label="%s">`, places*letterWidth, barHeight,
		template.HTMLEscapeString(strings.Join(said, ", ")))
	if id != "" {
		fmt.Fprintf(&b, `<g id="%sg">`, id)
	}
	at := 0
	letters := ""
	for i, n := range show.Shares(counts, places) {
		if n > 0 {
			fmt.Fprintf(&b, `<rect class="%s" x="%d" width="%d" height="%d"/>`,
				parts[i].Class, at*letterWidth, n*letterWidth, barHeight)
			letters += strings.Repeat(parts[i].Letter, n)
			at += n
		}
	}
	fmt.Fprintf(&b, `<text x="1" y="13" textLength="%d">%s</text>`,
		places*letterWidth-2, template.HTMLEscapeString(letters))
	if id != "" {
		b.WriteString("</g>")
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// again draws the bar once more that was drawn with this id.
func again(id string) template.HTML {
	return template.HTML(fmt.Sprintf(`<svg class="bar" viewBox="0 0 %d %d" aria-hidden="true"><use href="#%sg"/></svg>`,
		places*letterWidth, barHeight, id))
}

// strip draws what the cells of a column read as.
func strip(reads [reading.NumReadings]int64, id string) template.HTML {
	parts := make([]part, len(reads))
	for r, n := range reads {
		k := reading.Reading(r)
		parts[r] = part{"r" + fmt.Sprint(r), string(k.Letter()), k.String(), n}
	}
	return bar(parts, id)
}

// The size of a histogram.
const (
	binWidth   = 24
	binsHeight = 90
)

// histogram draws how many values lie in ranges of the same width; what is empty has a dot on the line. The numbers
// are said in words, too.
func histogram(bins []profile.Bin) template.HTML {
	var most int64
	for _, x := range bins {
		most = max(most, x.Cells)
	}
	if len(bins) < 2 || most == 0 {
		return ""
	}
	var bars, dots, said strings.Builder
	top := 0 // the first of the highest
	for i, x := range bins {
		fmt.Fprintf(&said, ", from %s: %d", x.From, x.Cells)
		if x.Cells == 0 {
			fmt.Fprintf(&dots, "M%d %dh0", i*binWidth+binWidth/2, binsHeight+11)
			continue
		}
		height := max(1, int(x.Cells*(binsHeight-2)/most))
		fmt.Fprintf(&bars, "M%d %dv-%dh%dv%dz", i*binWidth+1, binsHeight+14, height, binWidth-2, height)
		if x.Cells == most && bins[top].Cells < most {
			top = i
		}
	}
	width := len(bins) * binWidth
	say := template.HTMLEscapeString("values to " + bins[len(bins)-1].To + said.String())
	return template.HTML(fmt.Sprintf(`<svg class="bins" viewBox="0 0 %d %d" role="img" aria-label="%s">`+
		`<path d="%s"/><path class="gaps" d="%s"/><path class="line" d="M0 %d.5H%d"/>`+
		`<text x="%d" y="11" text-anchor="middle">%d</text></svg>`, width, binsHeight+16, say,
		bars.String(), dots.String(), binsHeight+14, width, top*binWidth+binWidth/2, most))
}
