package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
)

// The benchmark's file: 12 columns of a harbour's landings, 118 bytes a row, two of
// the columns in quotes.
const header = "landing_no,vessel,landed_on,species,net_weight,price,boxes,temperature,inspected,buyer_no,skipper,remarks\n"

var (
	vessels  = []string{"Marlies", "Seestern", "Alte Liebe", "Nordlicht", "Moewe II", "Grete K.", "Fruehlingswind", "Oersted 4"}
	species  = []string{"COD", "HER", "PLE", "SOL", "MAC", "TUR"}
	skippers = []string{"Petersen, Anke", "Hansen, Ole", "Jensen, Silke", "Luehrs, Tomma", "Okafor, Joerg"}
)

// generate writes so many rows to path, always the same ones.
func generate(path string, rows int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(12, 470))
	w.WriteString(header)
	line := make([]byte, 0, 256)
	for i := range rows {
		line = fmt.Appendf(line[:0], "%07d,%s,%d-%02d-%02d,%s,%d.%d,%d.%02d,%d,-%d.%d,%s,%05d,\"%s\",\"lot %d, crate %d, %s\"\n",
			i, vessels[r.IntN(8)], 2021+r.IntN(3), 1+r.IntN(12), 1+r.IntN(28), species[r.IntN(6)], r.IntN(20000), r.IntN(10),
			r.IntN(20), r.IntN(100), r.IntN(90), r.IntN(5), r.IntN(10), []string{"yes", "no"}[r.IntN(2)], r.IntN(60000),
			skippers[r.IntN(5)], r.IntN(100000), r.IntN(100), []string{"iced", "fresh from the quay", "second landing"}[r.IntN(3)])
		w.Write(line)
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Close()
}
