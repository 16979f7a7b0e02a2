package shell

import (
	"errors"
)

var ErrLinkEnded = errors.New("this link was used already, or its time is over; ask a site manager for a new one")
