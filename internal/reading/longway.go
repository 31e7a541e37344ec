//go:build longway

package reading

// LongWay says that there are no short ways.
const LongWay = true
