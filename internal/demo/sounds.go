package demo

import (
	"encoding/binary"
	"math"
	"math/rand/v2"

	"proscen/core/scene"
)

// soundRate is the sample rate of the sounds made here, in Hz.
const soundRate = 24_000

// Sounds makes the sounds of the scene and puts them on tracks: the wind and the
// hum of the cable, tied to the story, and the station's bell, tied to the first
// cut. Keep stores a WAV file and returns its name and length.
func Sounds(doc *scene.Document, keep func(wav []byte) (blob string, seconds float64, err error)) error {
	tracks := []struct {
		id   string
		t    scene.Track
		make func() []float64
		list []scene.Sound
	}{
		{"wind", scene.Track{Name: "wind", Clock: scene.StoryClock, Gain: -8}, wind, []scene.Sound{{In: 0, FadeIn: 48, FadeOut: 48}}},
		{"cable", scene.Track{Name: "cable", Clock: scene.StoryClock, Gain: -12}, hum, []scene.Sound{
			{In: 0, Out: docks + 10, FadeIn: 60, FadeOut: 24}, {In: leaves, Out: ends, From: 2, FadeIn: 24, FadeOut: 60},
		}},
		{"bell", scene.Track{Name: "bell", Clock: scene.ScreenClock, Assembly: "first-cut", Gain: -6}, bell, []scene.Sound{{In: 260, FadeOut: 24}}},
	}
	for i, x := range tracks {
		blob, seconds, err := keep(wav(x.make()))
		if err != nil {
			return err
		}
		x.t.Order = i + 1
		doc.Tracks[x.id] = x.t
		for k, s := range x.list {
			s.Track, s.Name, s.Blob, s.Seconds = x.id, x.t.Name, blob, seconds
			if s.Out == 0 {
				s.Out = s.In + int(doc.Settings.Rate.Frames(seconds))
			}
			doc.Sounds[x.id+"-"+string(rune('1'+k))] = s
		}
	}
	return nil
}

// wind is noise through two low passes that open and close slowly, 50 seconds.
func wind() []float64 {
	r := rand.New(rand.NewPCG(7, 2026))
	out := make([]float64, 50*soundRate)
	var a, b float64
	for i := range out {
		t := float64(i) / soundRate
		gust := 0.5 + 0.28*math.Sin(t*0.37) + 0.17*math.Sin(t*0.91+1.3) + 0.05*math.Sin(t*2.3)
		open := 0.012 + 0.03*gust*gust
		a += open * (r.NormFloat64() - a)
		b += open * (a - b)
		out[i] = 5.5 * b * gust
	}
	return out
}

// hum is a motor through a long cable: a low tone with its partials, each
// beating with itself, 16 seconds.
func hum() []float64 {
	out := make([]float64, 16*soundRate)
	for i := range out {
		t := float64(i) / soundRate
		v := 0.0
		for k := 1.0; k <= 7; k++ {
			v += (math.Sin(2*math.Pi*54*k*t) + math.Sin(2*math.Pi*(54*k+0.4*k)*t+k)) / (k * k)
		}
		out[i] = 0.22 * v * (0.9 + 0.1*math.Sin(2*math.Pi*3.1*t))
	}
	return out
}

// bell is three strokes of a small bell; its partials are those of a minor-third
// bell and die away, the higher the sooner.
func bell() []float64 {
	out := make([]float64, 4*soundRate)
	for stroke := range 3 {
		from := int(float64(stroke) * 0.62 * soundRate)
		for i := from; i < len(out); i++ {
			t := float64(i-from) / soundRate
			v := 0.0
			for k, p := range []float64{0.5, 1, 1.2, 1.5, 2, 2.67, 4.1} {
				v += math.Sin(2*math.Pi*880*p*t) * math.Exp(-t*(1.1+0.9*float64(k))) / (1 + 0.4*float64(k))
			}
			out[i] += 0.22 * v
		}
	}
	return out
}

// wav writes mono samples from −1 to 1 as 16-bit PCM.
func wav(samples []float64) []byte {
	n := len(samples) * 2
	b := make([]byte, 0, 44+n)
	b = append(b, "RIFF"...)
	b = binary.LittleEndian.AppendUint32(b, uint32(36+n))
	b = append(b, "WAVEfmt "...)
	b = binary.LittleEndian.AppendUint32(b, 16)
	b = binary.LittleEndian.AppendUint16(b, 1) // PCM
	b = binary.LittleEndian.AppendUint16(b, 1) // channels
	b = binary.LittleEndian.AppendUint32(b, soundRate)
	b = binary.LittleEndian.AppendUint32(b, soundRate*2)
	b = binary.LittleEndian.AppendUint16(b, 2)
	b = binary.LittleEndian.AppendUint16(b, 16)
	b = append(b, "data"...)
	b = binary.LittleEndian.AppendUint32(b, uint32(n))
	for _, v := range samples {
		b = binary.LittleEndian.AppendUint16(b, uint16(int16(max(-1, min(1, v))*32767)))
	}
	return b
}
