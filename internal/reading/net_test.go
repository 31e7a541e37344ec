package reading

import (
	"bufio"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/value"
)

// wordForms are columns in which W stands for a word: only what testdata/words.txt lists below a form may become a date or
// a time there.
func wordForms(t *testing.T) (forms []string, allowed map[string]map[string]bool) {
	file, err := os.Open("testdata/words.txt")
	require.NoError(t, err)
	defer file.Close()
	allowed = map[string]map[string]bool{}
	for lines := bufio.NewScanner(file); lines.Scan(); {
		switch line := lines.Text(); {
		case line == "" || line[0] == '#':
		case strings.Contains(line, "|"):
			forms = append(forms, line)
			allowed[line] = map[string]bool{}
		default:
			for _, w := range strings.Fields(line) {
				allowed[forms[len(forms)-1]][w] = true
			}
		}
	}
	return forms, allowed
}

// shortWordsOf returns all words of up to that many letters of an alphabet, every nth of them.
func shortWordsOf(alphabet string, letters, nth int) (words []string) {
	last := []string{""}
	n := 0
	for range letters {
		var next []string
		for _, w := range last {
			for _, c := range alphabet {
				next = append(next, w+string(c))
			}
		}
		for _, w := range next {
			if n++; n%nth == 0 || utf8.RuneCountInString(w) == 1 {
				words = append(words, w)
			}
		}
		last = next
	}
	return words
}

// Words beside numbers, times and dates are names only where a table says so; and a name is in the table of some language.
// The whole net is a minute's work: JUNVO_WHOLE asks for it, and without it some of the words of three letters are tried.
func TestWordsBecomeNoDates(t *testing.T) {
	nth := nets.Size(19, 2)
	words := map[string]bool{}
	for _, list := range []map[string]*name{theNames.get().names, theNames.get().plain} {
		for key := range list {
			if utf8.RuneCountInString(key) <= 4 {
				words[key] = true
			}
		}
	}
	for i, alphabet := range []string{
		"abcdefghijklmnopqrstuvwxyz", "абвгдежзийклмнопрстуфхцчшщъыьэюяіїјљњћџў", "αβγδεζηθικλμνξοπρστυφχψω",
		"ابتثجحخدذرزسشصضطظعغفقكلمنهوي", "אבגדהוזחטיכלמנסעפצקרשת", "աբգդեզէըթժիլխծկհձղճմյնշոչպջռսվտրցւփքօֆ",
	} {
		for _, w := range shortWordsOf(alphabet, 3, nth*min(i+1, 3)) {
			words[w] = true
		}
	}
	forms, allowed := wordForms(t)
	sorted := slices.Sorted(maps.Keys(words))
	for _, form := range forms {
		var wrong, gone []string
		for _, w := range sorted {
			con, _ := column(strings.Split(strings.ReplaceAll(form, "W", w), "|"), Ask{})
			is := con.Convention.Type == value.Date || con.Convention.Type == value.Time || con.Convention.Type == value.Timestamp
			n, known := nameOf([]byte(w))
			// Names of four letters and of scripts without an alphabet are no codes: that they are names is all that is asked.
			free := known && (!n.alphabetic || utf8.RuneCountInString(w) == 4)
			switch {
			case is && !allowed[form][w] && !free:
				wrong = append(wrong, w)
			case !is && allowed[form][w]:
				gone = append(gone, w)
			}
		}
		assert.Empty(t, wrong, "%s: became dates or times", form)
		assert.Empty(t, gone, "%s: became none", form)
	}
}
