// Package timing holds the clock arithmetic of pictures: rational frame
// rates, half-open frame ranges and timecode.
package timing

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Rate is a rational number of frames per second, for example 24/1 or
// 24000/1001. The zero value is not a usable rate; see Valid.
type Rate struct {
	Num, Den int
}

// Common delivery rates.
var (
	Film24   = Rate{24, 1}
	Film2397 = Rate{24000, 1001}
	Video25  = Rate{25, 1}
	Video30  = Rate{30, 1}
	Video299 = Rate{30000, 1001}
)

// Usual lists the rates that are offered; any other valid one can be typed.
var Usual = []Rate{{12, 1}, Film2397, Film24, Video25, Video299, Video30, {48, 1}, {50, 1}, {60000, 1001}, {60, 1}}

// maxRate bounds numerator and denominator, so that products of a rate and any
// frame number that the document allows stay inside 64 bits.
const maxRate = 1_000_000

// Valid reports whether r is inside the accepted bounds: 1 to 1,000,000 for both
// numbers, from 1 to 1000 frames per second. Timecode needs at least one.
func (r Rate) Valid() bool {
	return r.Num > 0 && r.Den > 0 && r.Num <= maxRate && r.Den <= maxRate && r.Num >= r.Den && r.Num <= 1000*r.Den
}

// PerSecond returns the rate in frames per second.
func (r Rate) PerSecond() float64 { return float64(r.Num) / float64(r.Den) }

// Seconds returns the time in seconds at the beginning of a frame.
func (r Rate) Seconds(frame float64) float64 { return frame * float64(r.Den) / float64(r.Num) }

// Frames returns the number of frames in a duration in seconds, unrounded.
func (r Rate) Frames(seconds float64) float64 { return seconds * float64(r.Num) / float64(r.Den) }

// Nominal returns the whole number of frames that timecode counts in a second:
// 24 for 24000/1001, 30 for 30000/1001.
func (r Rate) Nominal() int { return (r.Num + r.Den/2) / r.Den }

// CanDrop reports whether drop-frame timecode is defined for the rate: the
// NTSC rates 30000/1001 and 60000/1001 (SMPTE ST 12-1).
func (r Rate) CanDrop() bool { return r.Den == 1001 && (r.Num == 30000 || r.Num == 60000) }

// String writes "24" or "24000/1001".
func (r Rate) String() string {
	if r.Den == 1 {
		return strconv.Itoa(r.Num)
	}
	return strconv.Itoa(r.Num) + "/" + strconv.Itoa(r.Den)
}

// ParseRate reads "24" or "24000/1001". It refuses rates that are not Valid.
func ParseRate(s string) (Rate, error) {
	num, den, fraction := strings.Cut(strings.TrimSpace(s), "/")
	r := Rate{Den: 1}
	var err error
	if r.Num, err = strconv.Atoi(num); err == nil && fraction {
		r.Den, err = strconv.Atoi(den)
	}
	if err != nil || !r.Valid() {
		return Rate{}, fmt.Errorf("rate %q is not a frame rate: write frames per second from 1 to 1000, such as 24 or 24000/1001", clip(s))
	}
	return r, nil
}

// ReadRate reads a rate as people write it: as ParseRate does, or one of the usual
// ones with decimals (23.976, 29.97), with or without f/s behind it.
func ReadRate(s string) (Rate, error) {
	t := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(s), "f/s"))
	if v, err := strconv.ParseFloat(t, 64); err == nil && strings.Contains(t, ".") {
		for _, r := range Usual {
			if math.Abs(r.PerSecond()-v) < 0.005 {
				return r, nil
			}
		}
	}
	return ParseRate(t)
}

// MarshalJSON writes the rate as its string form.
func (r Rate) MarshalJSON() ([]byte, error) { return json.Marshal(r.String()) }

// UnmarshalJSON reads the string form.
func (r *Rate) UnmarshalJSON(b []byte) error {
	var s string
	if err := json.Unmarshal(b, &s); err != nil {
		return fmt.Errorf("a rate is text such as \"24\" or \"24000/1001\"")
	}
	parsed, err := ParseRate(s)
	if err != nil {
		return err
	}
	*r = parsed
	return nil
}

func clip(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}
