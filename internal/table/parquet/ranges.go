package parquet

import "fmt"

// Range is a part of a file: whole groups of rows. The footer tells how many rows each has, so that it is known without
// reading them.
type Range struct {
	From, To int   // groups of rows
	Row      int64 // how many rows stand before it
}

// Ranges cuts the file into ranges of at least that many bytes each, but for the last, before compression, and counts
// the rows, as the footer tells them.
func (s *Source) Ranges(each int64) (ranges []Range, rows int64) {
	next, held := Range{}, int64(0)
	for i, g := range s.file.Metadata().RowGroups {
		rows += g.NumRows
		held += max(0, g.TotalByteSize)
		next.To = i + 1
		if held >= each || held < 0 {
			ranges, held = append(ranges, next), 0
			next = Range{From: i + 1, Row: rows}
		}
	}
	if next.To > next.From {
		ranges = append(ranges, next)
	}
	return ranges, rows
}

// Narrow makes the source read a range only, before anything was read.
func (s *Source) Narrow(r Range) error {
	if r.From < 0 || r.From > r.To || r.To > len(s.groups) {
		return fmt.Errorf("%w: it has %d groups of rows, and the range ends with group %d", ErrDamaged, len(s.groups), r.To)
	}
	s.info.More = r.To < len(s.groups)
	s.group, s.end = r.From, r.To
	s.row = r.Row + 1
	s.info.Files[0].FirstLine = s.row
	s.info.Continues = r.From > 0
	if s.info.Continues {
		s.info.Notes = nil
	}
	return nil
}
