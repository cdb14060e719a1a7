package server

// list is an answer of rows that are never null.
type list[T any] []T

// listed makes a use case's rows an answer.
func listed[T any](rows []T, err error) (list[T], error) {
	if rows == nil {
		rows = []T{}
	}
	return rows, err
}
