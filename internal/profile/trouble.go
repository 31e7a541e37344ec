package profile

import "junvo/internal/table"

// places counts rows and keeps the first few as numbers in the file.
type places struct {
	count int64
	rows  []int64
}

// maxRows is how many rows a finding names.
const maxRows = 5

func (p *places) add(t table.Tally, before int64) {
	p.count += t.Count
	for _, r := range t.Rows {
		if len(p.rows) < maxRows {
			p.rows = append(p.rows, before+int64(r)+1)
		}
	}
}

// The sorts of structural damage that a source counts.
const (
	shortRows = iota
	longRows
	strayQuotes
	openQuotes
	nuls
	badBytes
	tooLong
	numTroubles
)

func collectTrouble(all *[numTroubles]places, b *table.Block, before int64) {
	t := &b.Trouble
	for i, tally := range [numTroubles]table.Tally{t.Short, t.Long, t.StrayQuotes, t.OpenQuotes, t.NULs, t.BadBytes, t.TooLong} {
		all[i].add(tally, before)
	}
}
