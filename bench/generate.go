package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
)

// file is a kind of file that people have, made from a seed so that it is always the same.
type file struct {
	name    string
	say     string
	columns int
	share   int // of the rows that are asked for, one in this many
	header  string
	row     func(line []byte, r *rand.Rand, i int) []byte
}

// files are the files of the benchmark.
var files = []file{
	{"clean", "plain numbers, ISO days, codes, two columns of text in quotes", 12, 1, header, cleanRow},
	{"dirty", "amounts in quotes with marks, some of them misplaced, currencies, units, days first, timestamps, yes " +
		"and no, four kinds of blank", 12, 1, dirtyHeader, dirtyRow},
	{"odd", "the clean file, in which every tenth cell is odd", 12, 1, header, oddRow},
	{"codes", "short codes of letters and digits", 8, 1, names("code", 8), codesRow},
	{"texts", "sentences of 60 to 200 characters with numbers in them", 4, 4, names("text", 4), textsRow},
	{"sparse", "the clean file, in which seven cells of ten are empty", 12, 1, header, sparseRow},
	{"world", "identifiers, addresses, long and scientific numbers, moments with offsets, text in several scripts", 16, 2, worldHeader, worldRow},
	{"wide", "400 columns of numbers, amounts and days", 400, 40, names("c", 400), wideRow},
}

func names(stem string, n int) string {
	list := make([]string, n)
	for i := range list {
		list[i] = fmt.Sprintf("%s_%d", stem, i)
	}
	return strings.Join(list, ",") + "\n"
}

// generate writes that many rows to path, always the same ones.
func (k *file) generate(path string, rows int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(12, 470))
	w.WriteString(k.header)
	line := make([]byte, 0, 1<<14)
	for i := range rows {
		w.Write(k.row(line[:0], r, i))
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Close()
}

// The clean file: 12 columns of a harbour's landings, 118 bytes a row, two of the columns in quotes.
const header = "landing_no,vessel,landed_on,species,net_weight,price,boxes,temperature,inspected,buyer_no,skipper,remarks\n"

var (
	vessels = []string{
		"Marlies", "Seestern", "Alte Liebe", "Nordlicht", "Moewe II", "Grete K.", "Fruehlingswind",
		"Oersted 4",
	}
	species  = []string{"COD", "HER", "PLE", "SOL", "MAC", "TUR"}
	skippers = []string{"Petersen, Anke", "Hansen, Ole", "Jensen, Silke", "Luehrs, Tomma", "Okafor, Joerg"}
)

func cleanRow(line []byte, r *rand.Rand, i int) []byte {
	return fmt.Appendf(line, "%07d,%s,%d-%02d-%02d,%s,%d.%d,%d.%02d,%d,-%d.%d,%s,%05d,\"%s\",\"lot %d, crate %d, %s\"\n",
		i, vessels[r.IntN(8)], 2021+r.IntN(3), 1+r.IntN(12), 1+r.IntN(28), species[r.IntN(6)], r.IntN(20000), r.IntN(10),
		r.IntN(20), r.IntN(100), r.IntN(90), r.IntN(5), r.IntN(10), []string{"yes", "no"}[r.IntN(2)], r.IntN(60000),
		skippers[r.IntN(5)], r.IntN(100000), r.IntN(100), []string{
			"iced", "fresh from the quay",
			"second landing",
		}[r.IntN(3)])
}

const dirtyHeader = "no,amount,price,day,stamp,ok,note,port,kg,blank,code,word\n"

func dirtyRow(line []byte, r *rand.Rand, i int) []byte {
	line = fmt.Appendf(line, "%d,", i)
	switch euros, cents := 1000+r.IntN(9_000_000), r.IntN(100); {
	case r.IntN(8) == 0:
		line = fmt.Appendf(line, "\"%d,%03d.%02d\",", euros, r.IntN(1000), cents)
	default:
		line = fmt.Appendf(line, "\"%d,%03d.%02d\",", euros/1000, euros%1000, cents)
	}
	line = fmt.Appendf(line, "\"\u20ac %d,%02d\",%02d/%02d/%d,%d-%02d-%02dT%02d:%02d:%02dZ,%s,\"a note, with comma "+
		"%d\",\"%s\",\"%d,%d kg\",", 1+r.IntN(9999), r.IntN(100),
		1+r.IntN(28), 1+r.IntN(12), 1995+r.IntN(30), 2015+r.IntN(10), 1+r.IntN(12), 1+r.IntN(28), r.IntN(24), r.IntN(60),
		r.IntN(60),
		[]string{"yes", "no"}[r.IntN(2)], r.IntN(1000), []string{
			"North Quay", "South Quay", "Old Harbour",
			"Basin, East",
		}[r.IntN(4)], 1+r.IntN(9000), r.IntN(10))
	if r.IntN(3) == 0 {
		line = fmt.Appendf(line, "x%d", r.IntN(100))
	} else {
		line = append(line, []string{"", " ", "n/a", "-"}[r.IntN(4)]...)
	}
	return fmt.Appendf(line, ",%06d,crate %x\n", r.IntN(1_000_000), r.Uint64()>>24)
}

// oddRow is a row of the clean file in which a cell is another now and then.
func oddRow(line []byte, r *rand.Rand, i int) []byte {
	odd := []string{
		"n/a", "see log", "12,5 kg", " 7", "3.1.21", "1.234,5", "\u00a04", "?", "#N/A", "O7", "\u20ac 12.50",
		"31/02/2021", "(5)", "1e5", "6:05",
	}
	cell := func(format string, args ...any) {
		if r.IntN(10) == 0 {
			line = fmt.Appendf(line, "\"%s\",", odd[r.IntN(len(odd))])
			return
		}
		line = fmt.Appendf(line, format+",", args...)
	}
	cell("%07d", i)
	cell("%s", vessels[r.IntN(8)])
	cell("%d-%02d-%02d", 2021+r.IntN(3), 1+r.IntN(12), 1+r.IntN(28))
	cell("%s", species[r.IntN(6)])
	cell("%d.%d", r.IntN(20000), r.IntN(10))
	cell("%d.%02d", r.IntN(20), r.IntN(100))
	cell("%d", r.IntN(90))
	cell("-%d.%d", r.IntN(5), r.IntN(10))
	cell("%s", []string{"yes", "no"}[r.IntN(2)])
	cell("%05d", r.IntN(60000))
	cell("\"%s\"", skippers[r.IntN(5)])
	cell("\"lot %d, crate %d\"", r.IntN(100000), r.IntN(100))
	line[len(line)-1] = '\n'
	return line
}

// sparseRow is a row of the clean file without the cells after the first that chance takes.
func sparseRow(line []byte, r *rand.Rand, i int) []byte {
	full := cleanRow(nil, r, i)
	quoted := false
	for start, at, c := 0, 0, 0; at < len(full); at++ {
		if quoted = quoted != (full[at] == '"'); quoted || full[at] != ',' && full[at] != '\n' {
			continue
		}
		if c == 0 || r.IntN(10) < 3 {
			line = append(line, full[start:at]...)
		}
		line = append(line, full[at])
		start, c = at+1, c+1
	}
	return line
}

func codesRow(line []byte, r *rand.Rand, _ int) []byte {
	return fmt.Appendf(line, "%c%d,%c%c-%03d,%x,%04d-%c,%s%d,%d/%d,%c,%d%c%d\n", 'A'+r.IntN(6), r.IntN(99),
		'A'+r.IntN(26), 'A'+r.IntN(26), r.IntN(1000),
		r.Uint32(), r.IntN(10000), 'A'+r.IntN(26), species[r.IntN(6)], r.IntN(30), r.IntN(90), 10+r.IntN(10), 'A'+r.IntN(26),
		r.IntN(9), 'a'+r.IntN(26), r.IntN(999))
}

func textsRow(line []byte, r *rand.Rand, _ int) []byte {
	for c := range 4 {
		if c > 0 {
			line = append(line, ',')
		}
		for n := range 9 + r.IntN(24) {
			if n > 0 {
				line = append(line, ' ')
			}
			if r.IntN(6) == 0 {
				line = fmt.Appendf(line, "%d", r.IntN(2000))
			} else {
				line = append(line, []string{
					"the", "crates", "stood", "at", "quay", "until", "noon", "were", "weighed", "twice",
					"and", "landed", "by", "vessel", "iced",
				}[r.IntN(15)]...)
			}
		}
	}
	return append(line, '\n')
}

func wideRow(line []byte, r *rand.Rand, _ int) []byte {
	for c := range 400 {
		switch c % 4 {
		case 0:
			line = fmt.Appendf(line, "%d,", r.IntN(1_000_000))
		case 1:
			line = fmt.Appendf(line, "\"%d.%03d,%02d\",", 1+r.IntN(90), r.IntN(1000), r.IntN(100))
		case 2:
			line = fmt.Appendf(line, "%02d.%02d.%d,", 1+r.IntN(28), 1+r.IntN(12), 2000+r.IntN(25))
		default:
			line = fmt.Appendf(line, "%d.%d,", r.IntN(9000), r.IntN(10))
		}
	}
	line[len(line)-1] = '\n'
	return line
}

const worldHeader = "uuid,hex,article,email,phone,ip,iban,float,science,long,moment,day,amount,name,cyrillic,japanese\n"

// word returns a made-up word of that many letters.
func word(r *rand.Rand, letters int) string {
	b := make([]byte, letters)
	for i := range b {
		b[i] = "etaoinshrdlu"[r.IntN(12)]
	}
	return string(b)
}

// worldRow is a row of what programs and people of many countries write.
func worldRow(line []byte, r *rand.Rand, _ int) []byte {
	line = fmt.Appendf(line, "%08x-%04x-%04x-%04x-%012x,%08x,%c%c-%03d,", r.Uint32(), r.IntN(1<<16), r.IntN(1<<16), r.IntN(1<<16),
		r.Uint64()>>16, r.Uint32(), 'A'+r.IntN(26), 'A'+r.IntN(26), r.IntN(1000))
	line = fmt.Appendf(line, "%s.%s%d@example.org,+49 %d %d,%d.%d.%d.%d,DE%02d %04d %04d %04d %04d %02d,", word(r, 5), word(r, 7), r.IntN(100),
		100+r.IntN(900), r.IntN(1e7), r.IntN(256), r.IntN(256), r.IntN(256), r.IntN(256), r.IntN(100), r.IntN(1e4), r.IntN(1e4), r.IntN(1e4),
		r.IntN(1e4), r.IntN(100))
	line = fmt.Appendf(line, "%v,%.3E,%d%09d,", r.Float64()*1000, r.Float64()*1e6, 1e9+r.Int64N(1e9), r.IntN(1e9))
	line = fmt.Appendf(line, "%d-%02d-%02dT%02d:%02d:%02d.%03d+%02d:00,%02d.%02d.%02d,\"%d.%03d,%02d \u20ac\",", 2000+r.IntN(25), 1+r.IntN(12), 1+r.IntN(28),
		r.IntN(24), r.IntN(60), r.IntN(60), r.IntN(1000), r.IntN(3), 1+r.IntN(28), 1+r.IntN(12), r.IntN(100), 1+r.IntN(900), r.IntN(1000), r.IntN(100))
	return fmt.Appendf(line, "M\u00fc%s %s,\u043f\u043e\u0440\u0442 %s %d,\u6771\u4eac\u90fd%d\u756a%d\u53f7\n", word(r, 6), word(r, 5),
		[]string{"\u0441\u0435\u0432\u0435\u0440", "\u044e\u0433"}[r.IntN(2)], r.IntN(1e5), r.IntN(1000), r.IntN(100))
}
