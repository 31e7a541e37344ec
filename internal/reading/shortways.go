//go:build !longway

package reading

// LongWay says that there are no short ways: every cell is read by what is written for all cells. The program is built
// so, with the tag longway, to be held against the one that people have.
const LongWay = false
