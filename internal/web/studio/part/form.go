package part

import (
	"encoding/json"

	"github.com/google/uuid"
)

func NewKey() string { return uuid.NewString() }

// JSON writes data for a script into an attribute.
func JSON(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // views are made of plain values
	}
	return string(b)
}
