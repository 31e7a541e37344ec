// Package profile collects what the cells of every column show and concludes
// what the columns hold.
//
// What is collected does not depend on the order of the rows, so parts of a table
// can be collected by themselves and merged: each worker has a part, and the
// profile of the whole is the merged parts concluded.
//
//	p, err := profile.Run(ctx, source, profile.Options{Workers: 2})
//	p.Columns[0].Conclusion.Convention.Type // integer
package profile
