// Package turns keeps what is worked on at once within the memory that there is for
// it: whoever needs much waits until others are done.
package turns

import (
	"context"
	"errors"
	"time"

	"golang.org/x/sync/semaphore"
)

// Room is how many bytes all work may need together.
const Room = 400 << 20

// patience is how long a turn is waited for.
const patience = 2 * time.Minute

// ErrBusy says that others did not finish in time.
var ErrBusy = errors.New("the server is busy with other large files; do it again in a moment")

var room = semaphore.NewWeighted(Room)

// Take waits for room for work that needs so many bytes; what needs more than there
// is gets all of it. The caller calls done when the work is done. Errors are ErrBusy
// or those of ctx.
func Take(ctx context.Context, bytes int64) (done func(), err error) {
	bytes = max(0, min(bytes, Room))
	waiting, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	if err := room.Acquire(waiting, bytes); err != nil {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		return nil, ErrBusy
	}
	return func() { room.Release(bytes) }, nil
}
