package part

import (
	"github.com/google/uuid"
)

func NewKey() string { return uuid.NewString() }
