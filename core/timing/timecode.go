package timing

import (
	"fmt"
	"strconv"
	"strings"
)

// Timecode writes a frame number as HH:MM:SS:FF, or HH:MM:SS;FF in drop-frame
// counting, as SMPTE ST 12-1 defines it: at 30000/1001 the first two frame
// numbers of every minute are skipped but in each tenth minute (four at
// 60000/1001). No frame is dropped, only numbers. Negative frames get a minus
// sign. Drop is ignored at rates that do not define it.
func (r Rate) Timecode(frame int, drop bool) string {
	sign := ""
	if frame < 0 {
		sign, frame = "-", -frame
	}
	sep := ":"
	if drop && r.CanDrop() {
		sep = ";"
		frame += r.skipped(frame)
	}
	n := r.Nominal()
	s := frame / n
	return fmt.Sprintf("%s%02d:%02d:%02d%s%02d", sign, s/3600, s/60%60, s%60, sep, frame%n)
}

// skipped returns how many numbers drop-frame counting has left out before the
// given frame.
func (r Rate) skipped(frame int) int {
	perMinute := r.Nominal() / 15 // 2 at 30, 4 at 60
	minute := r.Nominal()*60 - perMinute
	ten := minute*10 + perMinute
	tens, rest := frame/ten, frame%ten
	n := perMinute * 9 * tens
	if rest >= minute+perMinute {
		n += perMinute * ((rest - perMinute) / minute)
	}
	return n
}

// ParseTimecode reads HH:MM:SS:FF or HH:MM:SS;FF (drop) at rate r and returns
// the frame number. Numbers that drop-frame counting skips are refused.
func (r Rate) ParseTimecode(s string) (int, error) {
	fail := func(why string) (int, error) {
		return 0, fmt.Errorf("timecode %q: %s; write HH:MM:SS:FF, with ; before the frames for drop-frame", clip(s), why)
	}
	t, negative := strings.CutPrefix(strings.TrimSpace(s), "-")
	drop := strings.Contains(t, ";")
	if drop && !r.CanDrop() {
		return fail("drop-frame counting does not exist at " + r.String() + " frames per second")
	}
	parts := strings.Split(strings.ReplaceAll(t, ";", ":"), ":")
	if len(parts) != 4 {
		return fail("four numbers are needed")
	}
	var v [4]int
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || n < 0 || n > 999 {
			return fail("‘" + clip(p) + "’ is not a number in range")
		}
		v[i] = n
	}
	n := r.Nominal()
	if v[1] > 59 || v[2] > 59 || v[3] >= n {
		return fail("minutes and seconds end at 59, frames at " + strconv.Itoa(n-1))
	}
	frame := ((v[0]*60+v[1])*60+v[2])*n + v[3]
	if drop {
		var ok bool
		if frame, ok = r.counted(frame); !ok {
			return fail("this number is skipped in drop-frame counting")
		}
	}
	if negative {
		frame = -frame
	}
	return frame, nil
}

// counted returns the frame that drop-frame counting gives a number of frames as
// timecode writes it; of a number that is skipped, the next that is not, and false.
func (r Rate) counted(number int) (frame int, ok bool) {
	n := r.Nominal()
	perMinute, minutes := n/15, number/n/60
	ok = true
	if rest := number % (n * 60); rest < perMinute && minutes%10 != 0 {
		number += perMinute - rest
		ok = false
	}
	return number - perMinute*(minutes-minutes/10), ok
}

// Recount returns the frame at the rate to whose timecode reads as that of a frame
// at r does, with the count inside the second in proportion. Both may be counted
// in drop-frame. The frame is not negative.
func (r Rate) Recount(frame int, drop bool, to Rate, toDrop bool) int {
	if drop && r.CanDrop() {
		frame += r.skipped(frame)
	}
	n, m := r.Nominal(), to.Nominal()
	frame = frame/n*m + min(m-1, (frame%n*m+n/2)/n)
	if toDrop && to.CanDrop() {
		frame, _ = to.counted(frame)
	}
	return frame
}
