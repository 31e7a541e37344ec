package table

// Discard is a sink that keeps nothing.
type Discard struct{}

// Encode implements [Sink].
func (Discard) Encode(dst []byte, _ *Rows) []byte { return dst }

// Write implements [Sink].
func (Discard) Write([]byte, *Rows) error { return nil }

// Finish implements [Sink].
func (Discard) Finish() error { return nil }

// Commit implements [Sink].
func (Discard) Commit() error { return nil }

// Abort implements [Sink].
func (Discard) Abort() {}
