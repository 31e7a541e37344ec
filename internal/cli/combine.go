package cli

import (
	"bytes"
	"cmp"
	"errors"
	"os"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table/input"
)

func (a *app) combine() *cobra.Command {
	var w columnFlags
	var sel selection
	cmd := &cobra.Command{
		Use:   "combine SAVED...",
		Short: "Make one profile of saved profiles of the parts of a table",
		Long: `Combine reads what "junvo profile --save" has written of the parts of a table, in the
order of the parts, and shows the profile of the whole: the same as if the parts had
been profiled together. The parts need the same columns in the same order.

Of ledgers, which "junvo convert --ledger" has written of parts that were converted by one
plan, it makes the ledger of the whole.`,
		Example: `  junvo profile january.csv --save january.profile
  junvo profile february.csv --save february.profile
  junvo combine january.profile february.profile
  junvo combine *.profile --format json
  junvo convert part-17.csv --plan p.yaml --first-row 1600001 -o part-17.parquet --ledger part-17.json
  junvo combine part-*.json`,
		Args: func(cmd *cobra.Command, args []string) error {
			if len(args) == 0 {
				return usage("which saved profiles? `junvo profile SOURCE --save FILE` makes them")
			}
			return nil
		},
		RunE: func(_ *cobra.Command, args []string) error {
			if err := sel.check(); err != nil {
				return err
			}
			if ledgers, err := isLedger(args[0]); ledgers || err != nil {
				return cmp.Or(err, a.combineLedgers(args))
			}
			all, err := joined(args)
			if err != nil {
				return err
			}
			d, _ := w.edits.derive(all.Names()) // there are no edits
			ask, err := w.asker(d, all.Names())
			if err != nil {
				return err
			}
			return a.printProfile(all.Conclude(profile.Options{Ask: ask, Alone: w.alone}), &sel)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	sel.flags(cmd)
	w.typeFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// isLedger reports whether a file is JSON, as ledgers are, and no saved profile.
func isLedger(path string) (bool, error) {
	f, err := os.Open(path)
	if err != nil {
		return false, &input.Error{Name: path, Err: bare(err)}
	}
	defer f.Close()
	head := make([]byte, 1)
	n, _ := f.Read(head) // what can't be read is no ledger
	return n == 1 && head[0] == '{', nil
}

// combineLedgers prints the ledger of all parts.
func (a *app) combineLedgers(paths []string) error {
	all := &convert.Ledger{}
	var w show.Written
	for i, path := range paths {
		text, err := readText(path)
		if err != nil {
			return &input.Error{Name: path, Err: bare(err)}
		}
		l, written, err := show.ReadLedger(text)
		if err != nil {
			return &input.Error{Name: path, Err: err}
		}
		if err := show.SamePlan(all, l); err != nil {
			return usage("%s: %w", path, err)
		}
		all.Merge(l)
		w.Formulas += written.Formulas
		w.Guarded = written.Guarded && (i == 0 || w.Guarded)
		if w.Output != "" {
			w.Output += ", "
		}
		w.Output += written.Output
	}
	return a.printLedger(a.out, all, w, "")
}

// joined loads saved profiles and joins them.
func joined(paths []string) (*profile.Collected, error) {
	var all *profile.Collected
	for _, path := range paths {
		f, err := os.Open(path)
		if err != nil {
			return nil, &input.Error{Name: path, Err: bare(err)}
		}
		c, err := profile.Load(f)
		f.Close()
		switch {
		case err != nil:
			return nil, &input.Error{Name: path, Err: err}
		case all == nil:
			all = c
		default:
			if err := all.Append(c); err != nil {
				return nil, usage("%s: %w", path, err)
			}
		}
	}
	return all, nil
}

// bare returns what is wrong, without the path, which stands in the message already.
func bare(err error) error {
	var e *os.PathError
	if errors.As(err, &e) {
		return e.Err
	}
	return err
}

// save writes what was collected to a file that appears whole.
func save(c *profile.Collected, path string) error {
	var b bytes.Buffer
	if err := c.Save(&b); err != nil {
		return err
	}
	return writeWhole(path, b.Bytes())
}
