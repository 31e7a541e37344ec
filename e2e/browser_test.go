package e2e

import (
	"context"
	"encoding/csv"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// What a report does in a browser is tried in one, without a screen. The variable JUNVO_AXE says where
// the checks of what people need who do not see the page are.

// browser is a page in a browser, with what went wrong in it.
type browser struct {
	t     *testing.T
	ctx   context.Context
	mutex sync.Mutex
	wrong []string // errors, and requests to anywhere but the file
}

// browse opens a page of the folder in a browser; the test is skipped where there is none.
func (f *folder) browse(name string, width, height int) *browser {
	f.t.Helper()
	path := nets.Program(f.t, "chromium", "chromium-browser", "google-chrome")
	options := append(slices.Clone(chromedp.DefaultExecAllocatorOptions[:]), chromedp.ExecPath(path), chromedp.NoSandbox,
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-gpu", true),
		chromedp.WindowSize(width, height), chromedp.UserDataDir(f.t.TempDir()))
	allocated, stop := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, cancel := chromedp.NewContext(allocated)
	ctx, late := context.WithTimeout(ctx, 3*time.Minute)
	b := &browser{t: f.t, ctx: ctx}
	f.t.Cleanup(func() {
		_ = chromedp.Cancel(ctx)
		late()
		cancel()
		stop()
	})
	require.NoError(f.t, chromedp.Listen(ctx, func(event any) {
		b.mutex.Lock()
		defer b.mutex.Unlock()
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			b.wrong = append(b.wrong, e.ExceptionDetails.Text)
		case *runtime.EventConsoleAPICalled:
			b.wrong = append(b.wrong, "console: "+string(e.Type))
		case *network.EventRequestWillBeSent:
			if !strings.HasPrefix(e.Request.URL, "file://"+f.dir) {
				b.wrong = append(b.wrong, e.Request.URL)
			}
		}
	}))
	call(b, network.Enable, network.EnableParams{})
	b.do(chromedp.EmulateViewport(int64(width), int64(height)), chromedp.Navigate("file://"+f.path(name)), chromedp.WaitReady("body"))
	return b
}

// call sends a command to the browser.
func call[P, R any](b *browser, command cdp.Command[P, R], params P) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, command, params)
	require.NoError(b.t, err)
}

func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	require.NoError(b.t, chromedp.Do(b.ctx, steps...))
}

// eval computes an expression in the page.
func eval[T any](b *browser, script string) T {
	b.t.Helper()
	out, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](script, chromedp.EvalAwaitPromise))
	require.NoError(b.t, err)
	return out
}

// fine says that nothing went wrong in the page.
func (b *browser) fine() {
	b.t.Helper()
	b.mutex.Lock()
	defer b.mutex.Unlock()
	assert.Empty(b.t, b.wrong)
}

// choose sets a control of the list of failures, named by its label.
func (b *browser) choose(label, value string) {
	b.t.Helper()
	ok := eval[bool](b, fmt.Sprintf(`(() => {
		const label = [...document.querySelectorAll(".failures .controls label")].find((l) => l.firstChild.textContent === %q || l.textContent === %[1]q);
		const control = label.querySelector("select, input");
		if (control.type === "checkbox") control.click();
		else {
			control.value = %q;
			control.dispatchEvent(new Event(control.tagName === "SELECT" ? "change" : "input", {bubbles: true}));
		}
		return control.type === "checkbox" || control.value === %[2]q;
	})()`, label, value))
	require.True(b.t, ok, "%s %s", label, value)
}

// shown returns the failures that the list shows: row, column, value, reason.
func (b *browser) shown() (rows [][]string) {
	b.t.Helper()
	return eval[[][]string](b, `[...document.querySelectorAll(".failures tbody tr")].map((r) => [...r.cells].slice(1).map((c) => c.textContent)).map((c) => [c[1], c[0], c[3], c[4]])`)
}

func TestPageInABrowser(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.run("demo", "d")
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "clean.csv", "--report", "clean.html").code)
	b := f.browse("clean.html", 1280, 800)
	var list [][]string
	for _, x := range f.records("clean.failures.csv")[1:] {
		list = append(list, []string{x[0], x[2], x[3], x[5]})
	}
	where := func(keep func(x []string) bool) (rows [][]string) {
		for _, x := range list {
			if keep(x) {
				rows = append(rows, x)
			}
		}
		return rows
	}
	assert.Len(t, b.shown(), len(list))
	b.choose("column", "Net weight")
	assert.Equal(t, where(func(x []string) bool { return x[1] == "Net weight" }), b.shown())
	b.choose("reason", "unit-unexpected")
	assert.Equal(t, where(func(x []string) bool { return x[1] == "Net weight" && x[3] == "unit-unexpected" }), b.shown())
	b.choose("column", "")
	b.choose("reason", "")
	b.choose("find text", "LOG book")
	assert.Equal(t, where(func(x []string) bool { return x[2] == "see log book" }), b.shown())
	assert.Equal(t, "2 of 41 cells", eval[string](b, `document.querySelector("[role=status]").textContent`))
	b.choose("find text", "")
	b.choose("in the order of", "row")
	assert.Equal(t, list, b.shown(), "the list of failures is in the order of rows")
	b.choose("equal texts once", "")
	assert.Less(t, len(b.shown()), len(list))
	assert.EqualValues(t, len(list), eval[int](b, `[...document.querySelectorAll(".failures tbody tr")].reduce((n, r) => n + Number(r.cells[0].textContent), 0)`))
	b.choose("equal texts once", "")

	// What is copied can be read as CSV.
	eval[any](b, `Object.defineProperty(navigator, "clipboard", {value: {writeText: async (t) => { window.copied = t; }}}); [...document.querySelectorAll(".failures button")].find((x) => x.textContent === "copy as CSV").click(); null`)
	copied, err := csv.NewReader(strings.NewReader(eval[string](b, "window.copied"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, copied, len(list)+1)
	for i, x := range list {
		assert.Equal(t, x, []string{copied[i+1][0], copied[i+1][2], copied[i+1][3], copied[i+1][4]})
	}

	// A link to a column opens it, and so does the keyboard.
	assert.False(t, eval[bool](b, `document.getElementById("s0c5").closest("details").open`))
	b.do(chromedp.Click(`a[href="#s0c5"]`), chromedp.Sleep(100*time.Millisecond))
	assert.True(t, eval[bool](b, `document.getElementById("s0c5").closest("details").open`))
	reached := map[string]bool{}
	for range 200 {
		b.do(chromedp.KeyEvent(kb.Tab))
		reached[eval[string](b, `document.activeElement.tagName + (document.activeElement.type ? " " + document.activeElement.type : "")`)] = true
	}
	for _, want := range []string{"A", "SUMMARY", "DIV", "SELECT select-one", "INPUT search", "INPUT checkbox", "BUTTON button", "PRE"} {
		assert.True(t, reached[want], "the keyboard does not reach %s: %v", want, reached)
	}
	b.accessible("light")
	call(b, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}})
	assert.Equal(t, "rgb(21, 25, 28)", eval[string](b, `getComputedStyle(document.body).backgroundColor`))
	b.accessible("dark")

	// On paper, every column is open, and nothing sticks out.
	call(b, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: "print"})
	b.do(chromedp.EmulateViewport(718, 1000))
	eval[bool](b, `dispatchEvent(new Event("beforeprint"))`)
	assert.Equal(t, "", eval[string](b, sticksOut))
	assert.Empty(t, eval[[]string](b, `[...document.querySelectorAll("details:not([open])")].map((d) => d.textContent)`))
	pdf, err := chromedp.Run(b.ctx, chromedp.PrintToPDF())
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(pdf[:4]))
	b.fine()
}

// sticksOut names the elements whose text is cut, or that reach beyond the page and can't be scrolled to.
const sticksOut = `(() => {
	const width = document.documentElement.clientWidth;
	const out = [];
	if (document.documentElement.scrollWidth > width) out.push("the page: " + document.documentElement.scrollWidth);
	for (const e of document.querySelectorAll("body *")) {
		const box = e.getBoundingClientRect();
		if (!box.width || !box.height || e.closest("svg") && e.tagName !== "svg") continue;
		let scrolls = false;
		for (let p = e; p; p = p.parentElement) scrolls ||= ["auto", "scroll"].includes(getComputedStyle(p).overflowX);
		if (!scrolls && box.right > width + 1) out.push(e.tagName + " " + e.className + " " + Math.round(box.right) + " " + e.textContent.slice(0, 40));
	}
	return out.slice(0, 8).join("\n");
})()`

// accessible runs the checks of axe, where it is there.
func (b *browser) accessible(what string) {
	b.t.Helper()
	path := os.Getenv("JUNVO_AXE")
	if path == "" {
		b.t.Log("JUNVO_AXE is not set: the page is not checked for what people need who do not see it")
		return
	}
	script, err := os.ReadFile(path)
	require.NoError(b.t, err)
	eval[int](b, string(script)+";0")
	violations := eval[[]string](b, `axe.run(document, {resultTypes: ["violations"]}).then((r) => r.violations.map((v) => v.id + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 120) + " " + n.failureSummary).join(" | ")))`)
	assert.Empty(b.t, violations, what)
}

// The page can be read on a telephone, and on a wall.
func TestPageInAnyWidth(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", hostileTable+strings.Repeat("W", 400)+","+strings.Repeat("long words ", 60)+",x,y\n")
	require.Equal(t, 0, f.run("report", "a.csv", "-o", "a.html", "--as", "n=integer").code)
	for _, width := range []int{360, 768, 3840} {
		b := f.browse("a.html", width, 800)
		assert.Equal(t, "", eval[string](b, sticksOut), width)
		eval[bool](b, `[...document.querySelectorAll("details")].every((d) => d.open = true)`)
		assert.Equal(t, "", eval[string](b, sticksOut), width)
		assert.False(t, eval[bool](b, `document.title !== "a.csv – Junvo" || document.querySelectorAll("b2, img").length > 0`))
		b.fine()
	}
}

// Many failures and many columns stay usable.
func TestPageOfMany(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("n,t\n")
	failures := nets.Size(10_000, 25_000)
	for i := range failures {
		fmt.Fprintf(&b, "x%d,%d\n", i, i)
	}
	f.file("a.csv", b.String())
	require.Equal(t, 0, f.run("report", "a.csv", "-o", "a.html", "--as", "n=integer", "--report-failures", "60000").code)
	page := f.browse("a.html", 1280, 800)
	assert.Equal(t, 200, len(page.shown()))
	for _, want := range []string{"x4999", "x", "9999"} {
		page.choose("find text", want)
		count := 0
		for i := range failures {
			if strings.Contains(fmt.Sprint("x", i), want) || strings.Contains(fmt.Sprint(i+1), want) {
				count++
			}
		}
		if count < failures {
			assert.Equal(t, fmt.Sprintf("%d of %d cells", count, failures), eval[string](page, `document.querySelector("[role=status]").textContent`))
		}
		took := eval[float64](page, `(() => { const c = document.querySelector(".failures input[type=search]"); const at = performance.now(); c.dispatchEvent(new Event("input")); return performance.now() - at; })()`)
		t.Logf("to find %s among %d failures took %.0f ms", want, failures, took)
	}
	page.choose("find text", "")
	eval[any](page, `document.querySelector(".more").click(); null`)
	assert.Len(t, page.shown(), 1200)
	page.fine()

	var wide strings.Builder
	columns := nets.Size(500, 2000)
	for c := range columns {
		fmt.Fprintf(&wide, ",column %d", c)
	}
	wide.WriteString("\n")
	for r := range 20 {
		for c := range columns {
			fmt.Fprintf(&wide, ",%d", r*c)
		}
		wide.WriteString("\n")
	}
	f.file("w.csv", wide.String()[1:])
	require.Equal(t, 0, f.run("report", "w.csv", "-o", "w.html").code)
	page = f.browse("w.html", 1280, 800)
	assert.GreaterOrEqual(t, eval[int](page, `document.querySelectorAll("details").length`), columns)
	eval[bool](page, `const c = document.querySelector(".columns").previousSibling.querySelector("input"); c.value = "column 499"; c.dispatchEvent(new Event("input"))`)
	assert.Equal(t, 1, eval[int](page, `[...document.querySelectorAll(".columns > details")].filter((d) => !d.hidden).length`))
	page.fine()
}

// What a page says, it says without its script, too.
func TestPageWithoutScript(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n,t\n1,x\n2,y\nx,z\n")
	require.Equal(t, 0, f.run("report", "a.csv", "-o", "a.html", "--as", "n=integer").code)
	b := f.browse("a.html", 1280, 800)
	call(b, emulation.SetScriptExecutionDisabled, emulation.SetScriptExecutionDisabledParams{Value: true})
	b.do(chromedp.Reload())
	text, err := chromedp.Run(b.ctx, chromedp.TextContent("main"))
	require.NoError(t, err)
	for _, want := range []string{"1 cell that could not become", "not-a-number", "3 in = 3 out + 0 set aside"} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "copy as CSV")
	b.fine()
}
