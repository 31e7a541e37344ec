package wholefile_test

import (
	"fmt"
	"os"
	"path/filepath"

	"junvo/internal/table/wholefile"
)

func ExampleSet() {
	dir, err := os.MkdirTemp("", "example")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	there := func() (names []string) {
		all, _ := filepath.Glob(filepath.Join(dir, "clean*")) // in the making they have other names
		for _, path := range all {
			names = append(names, filepath.Base(path))
		}
		return names
	}
	var set wholefile.Set
	defer set.Abort()
	for _, name := range []string{"clean.csv", "clean.plan.yaml"} {
		if err := set.Write(filepath.Join(dir, name), []byte("text\n")); err != nil {
			panic(err)
		}
	}
	fmt.Println(there())
	err = wholefile.Committing(set.Commit)
	fmt.Println(there(), err)
	// Output:
	// []
	// [clean.csv clean.plan.yaml] <nil>
}
