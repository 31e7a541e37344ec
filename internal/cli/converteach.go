package cli

import (
	"cmp"
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/report"
	"junvo/internal/show"
	"junvo/internal/table/input"
	"junvo/internal/table/postgres"
	"junvo/internal/table/wholefile"
)

// A conversion into a folder makes one output of each source, under the source's name, and
// one ledger of them all. No output appears before all sources have been converted.

// isFolder reports whether an output names a folder.
func isFolder(path string) bool {
	if postgres.Is(path) {
		return false
	}
	if strings.HasSuffix(path, "/") || strings.HasSuffix(path, string(filepath.Separator)) {
		return true
	}
	info, err := os.Stat(path)
	return err == nil && info.IsDir()
}

func (a *app) convertEach(ctx context.Context, paths []string, c *conversion) error {
	if c.plan == "" {
		return usage("a conversion into a folder runs one plan over each source: name it with --plan; `junvo draft %s` "+
			"makes one", paths[0])
	}
	files, err := input.Paths(paths)
	if err != nil {
		return err
	}
	uses, err := c.files(paths)
	if err == nil {
		err = checkFiles(uses)
	}
	if err != nil {
		return err
	}
	limit, err := c.limit()
	if err != nil {
		return err
	}
	fixes, err := readFixes(c.fixes, len(paths))
	if err != nil {
		return err
	}
	if err := os.MkdirAll(c.output, 0o777); err != nil {
		return outputError(err)
	}
	var outs []*output
	var all wholefile.Set // none appears before all are complete
	defer all.Abort()
	total := &convert.Ledger{}
	rows := make([]*convert.Ledger, len(files))
	var pages []*report.Source
	taken := map[string]string{}
	for i, file := range files {
		one := *c
		one.output = filepath.Join(c.output, c.outputName(file))
		if other := taken[one.output]; other != "" {
			return usage("%s and %s would both become %s", other, file, one.output)
		}
		taken[one.output] = file
		if err := one.mayReplace(); err != nil {
			return err
		}
		out, ledger, err := a.convertOne(ctx, []string{file}, &one, fixes)
		if out != nil {
			outs = append(outs, out)
			all.Add(out)
		}
		if err != nil {
			return err
		}
		// What is complete needs no descriptor and no buffer: there may be many sources.
		if err := out.complete(ledger); err != nil {
			return err
		}
		rows[i] = ledger
		if out.page != nil {
			out.page.Written = out.written()
			pages = append(pages, out.page)
		}
		total.Merge(ledger)
	}
	if err := limit.check(total); err != nil {
		return err
	}
	sum := show.Written{Output: c.output, Guarded: c.guard, Report: c.report.path}
	for _, out := range outs {
		sum.Formulas += out.written().Formulas
	}
	if err := outs[0].keepLedger(c.ledger, total, sum); err != nil {
		return err
	}
	if err := a.keepReport(outs[0], c, pages...); err != nil {
		return err
	}
	if ctx.Err() != nil { // the last moment for it
		return ctx.Err()
	}
	if err := wholefile.Committing(all.Commit); err != nil {
		return outputError(err)
	}
	var list strings.Builder
	for i, out := range outs {
		list.WriteString(show.WrittenList(out.written(), rows[i]))
	}
	a.reportUnused(fixes.of(), func(column string) bool {
		return slices.ContainsFunc(outs, func(o *output) bool { return o.private(column) })
	})
	return a.printLedger(a.out, total, sum, list.String())
}

// folderFormats are the formats that the outputs in a folder can have.
func folderFormats() (names []string) {
	for _, f := range outputFormats {
		names = append(names, f.endings[0][1:])
	}
	return names
}

// outputName is the name of the output of a source: its own, without the endings that say
// how it is written, and with that of its format.
func (c *conversion) outputName(file string) string {
	path, part := input.Part(file)
	name := filepath.Base(path)
	if postgres.Is(path) {
		name = strings.Map(fileCharacter, filepath.Base(postgres.Shown(path)))
	}
	for _, ending := range []string{".gz", ".zst", ".bz2", ".xz"} {
		name = strings.TrimSuffix(name, ending)
	}
	name = strings.TrimSuffix(name, filepath.Ext(name))
	if part != "" {
		if formatOf(part) != nil {
			part = strings.TrimSuffix(part, filepath.Ext(part))
		}
		name += "-" + strings.Map(fileCharacter, part)
	}
	// In the name of an output a # comes before that of a table.
	return strings.ReplaceAll(name, "#", "-") + "." + cmp.Or(c.outputFormat, "csv")
}
