package cli

import (
	"context"

	"junvo/internal/draft"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table/input"
)

// profileEach profiles sources one by one.
func (a *app) profileEach(ctx context.Context, paths []string, w *columnFlags, sel *selection, page *reporting) error {
	files, err := input.Paths(paths)
	if err != nil {
		return err
	}
	f := show.Format(a.format)
	w.open = sel.opens(f == show.JSON)
	if page.wanted() {
		w.open = everyColumn
	}
	var all []*profile.Profile
	for i, path := range files {
		p, err := a.profileOf(ctx, []string{path}, w)
		if err != nil {
			return err
		}
		all = append(all, p)
		if f != show.Table {
			continue
		}
		if i > 0 {
			if err := a.print("\n"); err != nil {
				return err
			}
		}
		if err := a.printProfile(p, sel); err != nil {
			return err
		}
	}
	if err := a.reportProfiles(page, all...); err != nil {
		return err
	}
	switch f {
	case show.JSON:
		doc, err := show.EachJSON(all)
		if err != nil {
			return err
		}
		return a.print(string(doc))
	case show.Table:
		return a.print("\n" + show.EachTable(all, f, a.page()))
	}
	return a.print(show.EachTable(all, f, a.page()))
}

// printChanges says in what a profile differs from an earlier one.
func (a *app) printChanges(p *profile.Profile, earlier string) error {
	before, err := readText(earlier)
	if err != nil {
		return &input.Error{Name: earlier, Err: bare(err)}
	}
	was, err := show.SeenIn(before)
	if err != nil {
		return &input.Error{Name: earlier, Err: err}
	}
	text, err := show.Changes(draft.Changes(was, show.Seen(p)), earlier, show.Format(a.format), a.page())
	if err != nil {
		return err
	}
	return a.print(text)
}
