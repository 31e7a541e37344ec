package teach

// Costs of what a rule says, in bits more or less: what people say more often costs less.
const (
	costTake     = 1.5 // a run, a word
	costNth      = 0.7 // for each after the first
	costLast     = 0.6
	costMark     = 1.8 // before or after a mark
	costWord     = 3.2 // before or after a word
	costKeeps    = 0.5 // that a text stays as it is where a mark is not there
	costFold     = 0.4 // that upper and lower case are the same
	costClass    = 2.4 // before or after a class
	costBetween  = 2.2
	costEnds     = 3.0 // so many characters at an end
	costMiddle   = 5.0 // characters by their positions
	costKeep     = 1.6
	costDrop     = 2.0
	costForm     = 4.0 // of a form
	costLengths  = 6.8 // of a form with lengths
	costMend     = 2.5
	costCase     = 1.2
	costPad      = 1.5
	costReplace  = 2.2
	costLayOut   = 1.8
	costMonth    = 1.5
	costPiece    = 1.2 // for each piece after the first
	costColumn   = 0.4 // for each column after the first
	costStep     = 0.3 // for each step after the first
	costRead     = 0.9 // a cell as it is read
	costMark1    = 0.6 // a constant: for each mark or space
	costLetter   = 1.8 // for each letter of it
	costDigit    = 3.5 // for each digit of it
	costSeen     = 4.0 // for a word or number of it that stands in the cells
	costTwice    = 3.0 // for two pieces side by side that begin with the same step
	costNone     = 3.0 // for a rule that has no answer for any cell
	costFails    = 5.0 // for a share of cells that it fails in
	costOtherway = 9.0 // for a share of its results that are of another make than those of the examples
)
