// Command csvcopy is a baseline: the standard library's reader and writer copy a
// file record by record.
package main

import (
	"bufio"
	"encoding/csv"
	"errors"
	"io"
	"log"
	"os"
)

func main() {
	in, err := os.Open(os.Args[1])
	if err != nil {
		log.Fatal(err)
	}
	defer in.Close()
	out, err := os.Create(os.Args[2])
	if err != nil {
		log.Fatal(err)
	}
	r := csv.NewReader(bufio.NewReaderSize(in, 1<<20))
	r.ReuseRecord = true
	buffered := bufio.NewWriterSize(out, 1<<20)
	w := csv.NewWriter(buffered)
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err == nil {
			err = w.Write(record)
		}
		if err != nil {
			log.Fatal(err)
		}
	}
	w.Flush()
	// The file is brought to the disk, as Junvo's outputs are.
	if err := errors.Join(w.Error(), buffered.Flush(), out.Sync(), out.Close()); err != nil {
		log.Fatal(err)
	}
}
