package scene

import (
	"maps"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/timing"
)

// Vec is a position in metres, or pan, tilt and roll in degrees.
type Vec [3]float64

// Settings holds what a scene has once: its names, its clock and its light.
type Settings struct {
	Production string       `json:"production"`
	Title      string       `json:"title"`
	Rate       timing.Rate  `json:"rate"`
	Story      timing.Range `json:"story"`  // the stretch of story time that is worked on
	Format     string       `json:"format"` // the format that is worked in, an id in formats
	Sun        Sun          `json:"sun"`
	Sky        Sky          `json:"sky"`
	Haze       Haze         `json:"haze"`
	Blur       bool         `json:"blur,omitempty"`     // pictures show the blur of lenses
	Exposure   float64      `json:"exposure,omitempty"` // stops by which all pictures are brighter
	Tint       string       `json:"tint,omitempty"`     // colour of a filter before all lenses; none if it is left out
	Shutter    float64      `json:"shutter,omitempty"`  // degrees for which it is open in fine pictures, of 360 for a frame; 0 for no blur of motion

	Follow      bool `json:"follow,omitempty"`      // the story range ends with the action
	StoryStart  int  `json:"storyStart,omitempty"`  // frames that the timecode of story time counts from
	ScreenStart int  `json:"screenStart,omitempty"` // frames that the timecode of screen time counts from
	Drop        bool `json:"drop,omitempty"`        // timecode is counted in drop-frame, where the rate has it

	Lengths Lengths `json:"lengths,omitempty" jsonschema:"enum=feet"` // how lengths are shown; metres if it is left out
}

// Lengths is a unit in which lengths are shown. The document has metres.
type Lengths string

// The units of lengths.
const (
	Metres Lengths = ""
	Feet   Lengths = "feet"
)

// start returns the frames that a clock's timecode counts from.
func (s *Settings) start(c Clock) int {
	if c == ScreenClock {
		return s.ScreenStart
	}
	return s.StoryStart
}

// Timecode writes a frame of a clock as its timecode.
func (s *Settings) Timecode(c Clock, frame int) string {
	return s.Rate.Timecode(s.start(c)+frame, s.Drop)
}

// ParseTimecode reads the timecode of a clock and returns the frame.
func (s *Settings) ParseTimecode(c Clock, text string) (int, error) {
	f, err := s.Rate.ParseTimecode(text)
	return f - s.start(c), err
}

// Sun is the distant light. Heading is where it stands: 0 is −Z, 90 is +X;
// height is degrees above the horizon.
type Sun struct {
	Heading  float64   `json:"heading"`
	Height   float64   `json:"height"`
	Strength float64   `json:"strength"`
	Color    string    `json:"color"`
	Clock    *SunClock `json:"clock,omitempty"`
}

// SunClock says where on Earth and when the scene plays; the sun's heading and
// height follow from it, with north at −Z. With Light, the colours of sun and
// sky follow from the sun's height too, and their strengths multiply them.
type SunClock struct {
	Latitude float64 `json:"latitude"` // degrees north
	Day      int     `json:"day"`      // of the year, from 1
	Hour     float64 `json:"hour"`     // solar time, 12 when the sun stands highest
	Light    bool    `json:"light,omitempty"`
}

// Sky gives the light from all around and the background.
type Sky struct {
	Zenith   string  `json:"zenith"`
	Horizon  string  `json:"horizon"`
	Ground   string  `json:"ground"`
	Strength float64 `json:"strength"`
}

// Haze fades things into the horizon: at Distance metres 63 % of a thing's own
// colour is gone. 0 means clear air. With Rise it lies on the ground: every Rise
// metres above Base it has 37 % of its density.
type Haze struct {
	Distance float64 `json:"distance"`
	Rise     float64 `json:"rise,omitempty"`
	Base     float64 `json:"base,omitempty"`
}

// Board is a storyboard panel of a shot. Its picture is among the files, named
// by the SHA-256 of its bytes. A shot may have several in a row: each is held
// from its own place on until the next one's.
type Board struct {
	Shot   string `json:"shot"`
	Name   string `json:"name"`
	Blob   string `json:"blob"`
	Width  int    `json:"width"` // pixels
	Height int    `json:"height"`
	At     int    `json:"at,omitempty"` // screen frames after the shot's first
}

// Card is a still used as a shot: a title, or a picture among the files.
type Card struct {
	Name   string `json:"name"`
	Title  string `json:"title,omitempty"`
	Text   string `json:"text,omitempty"` // smaller, under the title
	Color  string `json:"color"`          // of the ground
	Ink    string `json:"ink"`            // of the letters
	Blob   string `json:"blob,omitempty"` // a picture over the ground
	Width  int    `json:"width,omitempty"`
	Height int    `json:"height,omitempty"`
}

// Footage is a video among the files that stands as a shot. The file has the rate
// that the scene had when it was brought in.
type Footage struct {
	Name   string  `json:"name"`
	Blob   string  `json:"blob"`
	Width  int     `json:"width"`
	Height int     `json:"height"`
	Frames int     `json:"frames"`         // at the scene's rate
	Pace   float64 `json:"pace,omitempty"` // frames of the file for each frame of the scene, 0 stands for 1

	Rate timing.Rate `json:"rate,omitzero"` // of the file, when it is not the scene's
}

// FileFrame returns the frame of the file at a frame of the footage, between
// frames too.
func (f Footage) FileFrame(frame float64) float64 {
	if f.Pace != 0 {
		frame *= f.Pace
	}
	return frame
}

// Track holds sounds that are tied to one of the clocks; on the screen clock it
// belongs to an assembly. When a track is solo, only those that are are heard.
type Track struct {
	Name     string  `json:"name"`
	Clock    Clock   `json:"clock" jsonschema:"enum=story,enum=screen"`
	Assembly string  `json:"assembly,omitempty"`
	Gain     float64 `json:"gain"` // dB
	Mute     bool    `json:"mute,omitempty"`
	Solo     bool    `json:"solo,omitempty"`
	Order    int     `json:"order,omitempty"`
}

// Sound plays a piece of a sound file over [In, Out) of its track's clock,
// beginning From seconds into the file.
type Sound struct {
	Track   string  `json:"track"`
	Name    string  `json:"name"`
	Blob    string  `json:"blob"`
	Seconds float64 `json:"seconds"` // length of the file
	In      int     `json:"in"`
	Out     int     `json:"out"`
	From    float64 `json:"from,omitempty"`
	Gain    float64 `json:"gain"`              // dB
	FadeIn  int     `json:"fadeIn,omitempty"`  // frames
	FadeOut int     `json:"fadeOut,omitempty"` // frames
}

// Kind says what a node is.
type Kind string

// The kinds of nodes.
const (
	KindSet     Kind = "set"
	KindProp    Kind = "prop"
	KindVehicle Kind = "vehicle"
	KindCast    Kind = "cast"
	KindCamera  Kind = "camera"
	KindLamp    Kind = "lamp"
	KindAim     Kind = "aim"
	KindGroup   Kind = "group"
)

// Kinds lists all kinds.
var Kinds = []Kind{KindSet, KindProp, KindVehicle, KindCast, KindCamera, KindLamp, KindAim, KindGroup}

// Node is anything that stands or moves in the scene. Position and Turn are
// relative to Parent when there is one. A node with a Path is carried along it:
// its travel channel runs from 0 (start of the path) to 1 (end), and Position
// becomes an offset from the path.
type Node struct {
	Kind     Kind      `json:"kind" jsonschema:"enum=set,enum=prop,enum=vehicle,enum=cast,enum=camera,enum=lamp,enum=aim,enum=group"`
	Name     string    `json:"name"`
	Parent   string    `json:"parent,omitempty"`
	Joint    string    `json:"joint,omitempty"` // the joint of a cast member that it hangs on
	Position Vec       `json:"position"`
	Turn     Vec       `json:"turn"`
	Scale    float64   `json:"scale,omitempty"` // 0 stands for 1
	Path     string    `json:"path,omitempty"`
	AlongYaw bool      `json:"alongPath,omitempty"` // turns with the path's heading
	Hidden   bool      `json:"hidden,omitempty"`
	Locked   bool      `json:"locked,omitempty"`
	Tint     string    `json:"tint,omitempty"` // colour of its mark in lists and on the plan
	Shooting *Shooting `json:"shooting,omitempty"`
	Model    string    `json:"model,omitempty"` // an imported model that stands for it, an id in models
	Piece    *Piece    `json:"piece,omitempty"`
	Screen   *Screen   `json:"screen,omitempty"` // what a picture plane shows
	Cast     *Cast     `json:"cast,omitempty"`
	Camera   *Camera   `json:"camera,omitempty"`
	Lamp     *Lamp     `json:"lamp,omitempty"`
}

// Shooting limits where a node is seen through cameras. Scout, plan and
// elevation always show it.
type Shooting struct {
	Hidden bool     `json:"hidden,omitempty"` // no camera sees it
	Only   []string `json:"only,omitempty"`   // only these shots see it
}

// Piece names a stand-in of the stock and its build parameters (metres,
// counts, degrees); parameters that are absent have the stock's defaults.
type Piece struct {
	Stock  string             `json:"stock"`
	Params map[string]float64 `json:"params,omitempty"`
	Color  string             `json:"color,omitempty"`
	Along  string             `json:"along,omitempty"` // path that a cable, fence or road follows
}

// Screen is what a picture plane shows: a picture among the files, or a video that plays
// in story time.
type Screen struct {
	Name   string   `json:"name,omitempty"`
	Blob   string   `json:"blob,omitempty"`
	Width  int      `json:"width,omitempty"` // pixels
	Height int      `json:"height,omitempty"`
	Film   *Footage `json:"film,omitempty"` // instead of a picture
	From   int      `json:"from,omitempty"` // the story frame at which the video begins
	Loop   bool     `json:"loop,omitempty"` // it begins again at its end; else its first and last frame are held
	Glow   bool     `json:"glow,omitempty"` // it shines; else it is lit as what stands beside it
}

// Aspect returns the width of what is shown divided by its height.
func (s *Screen) Aspect() float64 {
	if s.Film != nil {
		return float64(s.Film.Width) / float64(s.Film.Height)
	}
	return float64(s.Width) / float64(s.Height)
}

// FileFrame returns the frame of its video's file that is shown at a frame of story time.
func (s *Screen) FileFrame(story float64) float64 {
	at, last := story-float64(s.From), float64(s.Film.Frames)
	if s.Loop {
		at = math.Mod(at, last)
		if at < 0 {
			at += last
		}
	}
	return s.Film.FileFrame(max(0, min(at, last-1)))
}

// Model is an imported model. Its meshes are a bundle among the files, named by
// the SHA-256 of its bytes.
type Model struct {
	Name      string `json:"name"`
	Blob      string `json:"blob"`
	Size      Vec    `json:"size"` // metres
	Triangles int    `json:"triangles"`
	Clips     []Clip `json:"clips,omitempty"`
}

// Clip is an animation of an imported model that actions can play.
type Clip struct {
	Name    string  `json:"name"`
	Seconds float64 `json:"seconds"`
}

// Cast describes a mannequin.
type Cast struct {
	Height    float64 `json:"height"` // metres
	Coat      string  `json:"coat"`   // colour of the upper body
	Legs      string  `json:"legs"`   // colour of the legs
	Build     string  `json:"build,omitempty" jsonschema:"enum=average,enum=slim,enum=broad,enum=child,enum=elder"`
	Hair      string  `json:"hair,omitempty"`
	HairStyle string  `json:"hairStyle,omitempty" jsonschema:"enum=short,enum=long,enum=tied,enum=bald"`
	Skin      string  `json:"skin,omitempty"`
}

// Support says how a camera is carried.
type Support string

// The supports.
const (
	Sticks   Support = "sticks"
	Dolly    Support = "dolly"
	Handheld Support = "handheld"
	Mounted  Support = "mounted"
)

// Aim says what turns a camera.
type Aim string

// The aims.
const (
	AimFree  Aim = "free"
	AimAlong Aim = "along"
	AimAt    Aim = "at"
)

// Camera is the optical part of a camera node.
type Camera struct {
	Number   int            `json:"number"`
	Color    string         `json:"color"`
	Archived bool           `json:"archived,omitempty"` // kept for the shots that use it, and offered to no others
	Folder   string         `json:"folder,omitempty"`   // of the wall, by its name
	Order    int            `json:"order,omitempty"`    // its place on the wall, counted from 1; 0 for by number
	Support  Support        `json:"support" jsonschema:"enum=sticks,enum=dolly,enum=handheld,enum=mounted"`
	Unrest   *Unrest        `json:"unrest,omitempty"` // of a handheld camera
	Aim      Aim            `json:"aim" jsonschema:"enum=free,enum=along,enum=at"`
	AimAt    string         `json:"aimAt,omitempty"`
	Framing  [2]float64     `json:"framing"`         // where the subject sits: −1..1 of half the picture, right and up
	Lag      float64        `json:"lag,omitempty"`   // seconds by which the operator follows the subject late
	Level    bool           `json:"level,omitempty"` // the horizon stays level, whatever carries the camera
	Sensor   [2]float64     `json:"sensor"`          // width, height in mm
	Kit      string         `json:"kit,omitempty"`   // the lens kit that its focal lengths come from, an id in kits; "" when they are free
	Focal    float64        `json:"focal"`           // mm
	Squeeze  float64        `json:"squeeze,omitempty"`
	Shift    [2]float64     `json:"shift,omitzero"` // mm on the sensor by which the picture sees further right and up
	Stop     float64        `json:"stop"`
	Focus    float64        `json:"focus"` // metres
	FocusOn  string         `json:"focusOn,omitempty"`
	Left     []LeftPosition `json:"left,omitempty"` // positions left while roaming; a smooth move runs through them

	Formats map[string]Reframe `json:"formats,omitempty"` // how it makes its picture in a format, by the format's id

	Match *Match `json:"match,omitempty"` // the picture that it is matched to
}

// Match is a picture among the files that a camera is matched to, and points of the set
// where it shows them.
type Match struct {
	Blob   string       `json:"blob"`
	Width  int          `json:"width"` // pixels
	Height int          `json:"height"`
	Free   bool         `json:"free,omitempty"` // the focal length is found too
	Points []MatchPoint `json:"points,omitempty"`
}

// MatchPoint is a point of the set in metres, and where a picture shows it: from −1 to 1
// of the picture's half width and height, to the right and up.
type MatchPoint struct {
	At Vec        `json:"at"`
	In [2]float64 `json:"in"`
}

// Fitted returns by how much a place in the picture is multiplied to be one in a frame of
// an aspect, in the middle of which the whole picture lies as large as it can be.
func (m *Match) Fitted(aspect float64) [2]float64 {
	own := float64(m.Width) / float64(m.Height)
	if own > aspect {
		return [2]float64{1, aspect / own}
	}
	return [2]float64{own / aspect, 1}
}

// Reframe is how a camera makes its picture in one format: taken from another part of
// the sensor, through another lens, from another place. The zero value changes nothing.
type Reframe struct {
	Shift [2]float64 `json:"shift,omitzero"`  // shares of the picture's width and height by which it sees further right and up
	Scale float64    `json:"scale,omitempty"` // how much of what fits on the sensor is seen: 0.5 for half the width and height; 0 for all
	Focal float64    `json:"focal,omitempty"` // mm of another lens; where the camera's own is keyed, in proportion
	Move  Vec        `json:"move,omitzero"`   // metres to the right, up and back, in the camera's own directions
}

// ShotFrame is how a shot is seen in one format, instead of as its camera makes that
// format for all shots.
type ShotFrame struct {
	Camera string `json:"camera,omitempty"` // another one; "" for the shot's
	Reframe
}

// Unrest is how a handheld camera moves by itself: the same for the same seed
// on every machine, and none at the frame From.
type Unrest struct {
	Amount float64 `json:"amount"` // 1 is a calm operator
	Rate   float64 `json:"rate"`   // of the slowest part, in Hz
	Seed   int     `json:"seed"`
	From   float64 `json:"from,omitempty"`
}

// LeftPosition is a place, a direction and a focal length that a camera has at
// a frame of a move.
type LeftPosition struct {
	Frame    float64 `json:"frame"`
	Position Vec     `json:"position"`
	Turn     Vec     `json:"turn"`
	Focal    float64 `json:"focal"`
}

// Kit is a set of lenses: primes by their focal length in mm, zooms by their
// shortest and longest.
type Kit struct {
	Name    string       `json:"name"`
	Primes  []float64    `json:"primes,omitempty"`
	Zooms   [][2]float64 `json:"zooms,omitempty"`
	Squeeze float64      `json:"squeeze,omitempty"` // of all its lenses, 0 stands for 1
	Shared  bool         `json:"shared,omitempty"`  // it is the production's kit of the same id, and changes with it
}

// Nearest returns the focal length in mm of the kit that is nearest to another,
// compared by their ratio; of an empty kit, the other itself.
func (k Kit) Nearest(focal float64) float64 {
	best, off := focal, math.Inf(1)
	try := func(f float64) {
		if o := math.Abs(math.Log(f / focal)); o < off {
			best, off = f, o
		}
	}
	for _, f := range k.Primes {
		try(f)
	}
	for _, z := range k.Zooms {
		try(max(z[0], min(z[1], focal)))
	}
	return best
}

// Lamp is a light at a point. With Spot it shines only inside a cone about its
// −Z axis.
type Lamp struct {
	Color    string  `json:"color"`
	Strength float64 `json:"strength"`         // 1 lights a white surface fully at one metre
	Reach    float64 `json:"reach"`            // metres
	Spot     float64 `json:"spot,omitempty"`   // whole angle of the cone in degrees, 0 for all around
	Soft     float64 `json:"soft,omitempty"`   // share of the cone over which its edge fades
	Shadow   bool    `json:"shadow,omitempty"` // what stands in its light casts a shadow
}

// Stretch returns which part of its path a walk or run goes along, in metres from the
// path's start: backwards, from is the greater one.
func (a Action) Stretch(length float64) (from, to float64) {
	from, to = min(a.Start, length), length
	if a.End > 0 {
		to = min(a.End, length)
	}
	if a.Reverse {
		from, to = to, from
	}
	return from, to
}

// Path is a line in space, in metres.
type Path struct {
	Name   string     `json:"name"`
	Form   curve.Form `json:"form" jsonschema:"enum=straight,enum=arc,enum=curve,enum=rise"`
	Points []Vec      `json:"points"`
	Closed bool       `json:"closed,omitempty"`
}

// Curve is one animated channel in story time, of a node or, with Node
// SettingsID, of the scene's light.
type Curve struct {
	Node    string      `json:"node"`
	Channel Channel     `json:"channel"`
	Keys    []curve.Key `json:"keys"`
}

// Channel names an animated value of a node.
type Channel string

// The channels. Positions are metres, turns degrees, travel the fraction of the
// path's length, focal length mm, focus metres.
const (
	PositionX Channel = "position.x"
	PositionY Channel = "position.y"
	PositionZ Channel = "position.z"
	Pan       Channel = "turn.pan"
	Tilt      Channel = "turn.tilt"
	Roll      Channel = "turn.roll"
	Travel    Channel = "travel"
	Focal     Channel = "lens.focal"
	Stop      Channel = "lens.stop"
	Focus     Channel = "lens.focus"
	Strength  Channel = "lamp.strength"
	Red       Channel = "color.red" // of a lamp or the sun, linear, 0 to 1
	Green     Channel = "color.green"
	Blue      Channel = "color.blue"
	SunPower  Channel = "sun.strength"
	SunHour   Channel = "sun.hour"
	SkyPower  Channel = "sky.strength"
	HazeReach Channel = "haze.distance"
	Restless  Channel = "unrest.amount"
	ShiftX    Channel = "lens.shiftX"
	ShiftY    Channel = "lens.shiftY"
	FramingX  Channel = "framing.x"
	FramingY  Channel = "framing.y"
	Swing     Channel = "piece.swing" // how far a door or lid is open: degrees, or metres where it slides
)

// Channels lists all channels in display order.
var Channels = []Channel{PositionX, PositionY, PositionZ, Pan, Tilt, Roll, Travel, Focal, Stop, Focus, Strength, Red, Green, Blue, SunPower, SunHour, SkyPower, HazeReach, Restless, ShiftX, ShiftY, FramingX, FramingY, Swing}

// Action is a block of what a subject does over [In, Out) of story time. Deeds
// of the whole body follow one another: between and after them, a cast member
// stays as the last one left it; before the first it is where its node is.
// Gestures are laid over them. Ride with On carries any kind of node.
type Action struct {
	Cast    string      `json:"cast"` // who or what does it
	Do      Deed        `json:"do" jsonschema:"enum=stand,enum=walk,enum=run,enum=ride,enum=sit,enum=crouch,enum=turn,enum=idle,enum=clip,enum=talk,enum=look,enum=point,enum=reach,enum=wave,enum=take,enum=give,enum=put"`
	In      int         `json:"in"`
	Out     int         `json:"out"`
	Path    string      `json:"path,omitempty"`  // walk, run: the way
	Start   float64     `json:"start,omitempty"` // walk, run: metres along the path where it begins
	End     float64     `json:"end,omitempty"`   // walk, run: metres along the path where it ends; 0 for its end
	Reverse bool        `json:"reverse,omitempty"`
	Ease    *[2]float64 `json:"ease,omitempty"`  // walk, run: frames of setting off and stopping
	Face    string      `json:"face,omitempty"`  // the node that the body and face turn to, or that is pointed at
	On      string      `json:"on,omitempty"`    // ride: what carries it; take, give, put: the thing
	Joint   string      `json:"joint,omitempty"` // ride: the joint that it hangs on
	With    string      `json:"with,omitempty"`  // give: to whom; take: from whom
	At      *Vec        `json:"at,omitempty"`    // put, reach: a place in the world
	Hand    string      `json:"hand,omitempty" jsonschema:"enum=left,enum=right"`
	Seat    float64     `json:"seat,omitempty"` // sit: height of the seat in metres
	Turn    float64     `json:"turn,omitempty"` // turn: the heading at its end, as pan in degrees
	Clip    string      `json:"clip,omitempty"` // clip: the name of the model's animation
}

// Deed is what an action does.
type Deed string

// The deeds of the whole body: stand in place; walk and run along a path; ride
// where the node's own path, keys or parent, or another node carry it; sit on a
// seat behind; crouch; turn to a heading; idle; play a clip of an imported
// model.
const (
	Stand    Deed = "stand"
	Walk     Deed = "walk"
	Run      Deed = "run"
	Ride     Deed = "ride"
	Sit      Deed = "sit"
	Crouch   Deed = "crouch"
	Turn     Deed = "turn"
	Idle     Deed = "idle"
	PlayClip Deed = "clip"
)

// The gestures: talk with the hands, look at, point at, reach for, wave; take a
// thing, give it to somebody, put it down.
const (
	Talk  Deed = "talk"
	Look  Deed = "look"
	Point Deed = "point"
	Reach Deed = "reach"
	Wave  Deed = "wave"
	Take  Deed = "take"
	Give  Deed = "give"
	Put   Deed = "put"
)

// Deeds lists all deeds, those of the whole body first.
var Deeds = []Deed{Stand, Walk, Run, Sit, Crouch, Turn, Idle, Ride, PlayClip, Talk, Look, Point, Reach, Wave, Take, Give, Put}

// Gesture tells whether a deed is laid over those of the whole body.
func (d Deed) Gesture() bool {
	switch d {
	case Talk, Look, Point, Reach, Wave, Take, Give, Put:
		return true
	}
	return false
}

// Goes tells whether a deed goes along a path.
func (d Deed) Goes() bool { return d == Walk || d == Run }

// Contact returns the frame at which a hand takes, gives or puts a thing.
func (a Action) Contact() float64 { return float64(a.In+a.Out) / 2 }

// Assembly is one version of the cut.
type Assembly struct {
	Name       string `json:"name"`
	Target     int    `json:"target,omitempty"`     // the running time that is aimed at, in frames
	ShotTarget int    `json:"shotTarget,omitempty"` // the length of a shot that is aimed at, in frames
	Cues       Clock  `json:"cues,omitempty"`       // the clock whose cues it follows instead of its shots
	Fixed      bool   `json:"fixed,omitempty"`      // its markers, sounds and spare shots stay where they are when later shots move
	Order      int    `json:"order,omitempty"`      // among the assemblies of the scene
}

// Lane holds shots of an assembly: the main lane plays, spare lanes keep shots
// aside. Those of a locked lane stay as and where they are.
type Lane struct {
	Assembly string `json:"assembly"`
	Main     bool   `json:"main,omitempty"`
	Name     string `json:"name"`
	Order    int    `json:"order,omitempty"`  // among the spare lanes
	Locked   bool   `json:"locked,omitempty"` // its shots stay as they are
}

// Plays says what a shot shows.
type Plays string

// What a shot shows: its camera's picture, its boards, a card, or footage.
const (
	PlaysCamera  Plays = ""
	PlaysBoard   Plays = "board"
	PlaysCard    Plays = "card"
	PlaysFootage Plays = "footage"
)

// Shot shows [ScreenIn, ScreenOut) of screen time, beginning at StoryIn of story
// time: story = StoryIn + (screen − ScreenIn)·Speed. A speed of 0 freezes the
// frame at StoryIn. Head and tail are handle frames of the story beyond both
// ends. Join says how the shot before becomes this one; nil is a cut.
type Shot struct {
	Lane      string     `json:"lane"`
	Number    string     `json:"number"`
	Name      string     `json:"name,omitempty"`
	Camera    string     `json:"camera"`
	Plays     Plays      `json:"plays,omitempty" jsonschema:"enum=board,enum=card,enum=footage"`
	Card      string     `json:"card,omitempty"`
	Footage   string     `json:"footage,omitempty"`
	FootageIn float64    `json:"footageIn,omitempty"` // the frame of the footage at ScreenIn
	ScreenIn  int        `json:"screenIn"`
	ScreenOut int        `json:"screenOut"`
	StoryIn   float64    `json:"storyIn"`
	Speed     float64    `json:"speed"`
	Head      int        `json:"head,omitempty"`
	Tail      int        `json:"tail,omitempty"`
	Join      *Join      `json:"join,omitempty"`
	Locked    bool       `json:"locked,omitempty"` // nothing but its place on the screen clock changes
	Notes     string     `json:"notes,omitempty"`
	Status    ShotStatus `json:"status,omitempty" jsonschema:"enum=idea,enum=blocked,enum=agreed"`

	// The light of the shot alone: stops on top of the scene's, a filter on top of the
	// scene's, and the distance of the haze and the hour of the sun's clock instead of
	// the scene's. What is left out is as in the scene.
	Exposure float64 `json:"exposure,omitempty"`
	Tint     string  `json:"tint,omitempty"`
	Haze     float64 `json:"haze,omitempty"` // metres
	Hour     float64 `json:"hour,omitempty"` // 24 is midnight

	Formats *ShotFormats `json:"formats,omitempty"` // how it is seen in formats; shots are compared whole, so there is no map in them
}

// Lit tells whether a shot has a light of its own.
func (s *Shot) Lit() bool { return s.Exposure != 0 || s.Tint != "" || s.Haze != 0 || s.Hour != 0 }

// MaxExposure is the most stops by which pictures are made brighter or darker.
const MaxExposure = 6

// ShotFormats is how a shot is seen in formats, by the format's id.
type ShotFormats map[string]ShotFrame

// Framed returns how a shot is seen in formats. The caller does not change it.
func (s *Shot) Framed() ShotFormats {
	if s.Formats == nil {
		return nil
	}
	return *s.Formats
}

// Frame makes a shot seen so in formats.
func (s *Shot) Frame(f ShotFormats) {
	s.Formats = nil
	if len(f) > 0 {
		s.Formats = &f
	}
}

// Cameras yields the cameras that a shot needs, each once: its own, and those that it has
// in formats. A shot that is seen through none has "" among them.
func (s *Shot) Cameras(yield func(id string) bool) {
	if !yield(s.Camera) || s.Formats == nil {
		return
	}
	seen := map[string]bool{s.Camera: true, "": true}
	for _, format := range slices.Sorted(maps.Keys(s.Framed())) {
		if id := s.Framed()[format].Camera; !seen[id] {
			seen[id] = true
			if !yield(id) {
				return
			}
		}
	}
}

// ShotStatus says how far a shot is.
type ShotStatus string

// The statuses.
const (
	StatusIdea    ShotStatus = "idea"
	StatusBlocked ShotStatus = "blocked"
	StatusAgreed  ShotStatus = "agreed"
)

// JoinKind names a join.
type JoinKind string

// The joins besides the cut: a dissolve mixes both shots; a dip fades into a
// colour and out of it; in a travel the camera moves from the first shot's pose
// and lens to the second's.
const (
	Dissolve JoinKind = "dissolve"
	Dip      JoinKind = "dip"
	Travels  JoinKind = "travel"
)

// Join is how one shot becomes the next, over Before frames of screen time
// before the seam and After frames after it.
type Join struct {
	Kind   JoinKind   `json:"kind" jsonschema:"enum=dissolve,enum=dip,enum=travel"`
	Before int        `json:"before"`
	After  int        `json:"after"`
	Color  string     `json:"color,omitempty"` // of a dip
	Ease   curve.Ease `json:"ease,omitempty" jsonschema:"enum=even,enum=soft"`
	Rest   int        `json:"rest,omitempty"` // of a travel: frames for which it stays half way
}

// Frames returns the whole length of a join.
func (j Join) Frames() int { return j.Before + j.After }

// Way returns how far a travel has come, 0 to 1, when a share of its frames has gone by.
// One that rests goes the first half of its way before it and the second half after it, in
// as many frames each; at least a frame of each is left.
func (j Join) Way(share float64) float64 {
	if j.Rest <= 0 || j.Frames() < 3 {
		return curve.Blend(j.Ease, share)
	}
	half := float64(j.Frames()-min(j.Rest, j.Frames()-2)) / 2
	gone := share * float64(j.Frames())
	first := curve.Blend(j.Ease, min(1, gone/half))
	second := curve.Blend(j.Ease, max(0, min(1, (gone-(float64(j.Frames())-half))/half)))
	return (first + second) / 2
}

// Screen returns the shot's range of screen time.
func (s Shot) Screen() timing.Range { return timing.Range{In: s.ScreenIn, Out: s.ScreenOut} }

// StoryAt returns the story frame at a screen frame.
func (s Shot) StoryAt(screen float64) float64 {
	return s.StoryIn + (screen-float64(s.ScreenIn))*s.Speed
}

// ScreenAt returns the screen frame at a story frame, the inverse of StoryAt. A
// frozen shot shows its one frame from its start on and no other.
func (s Shot) ScreenAt(story float64) float64 {
	if s.Speed == 0 {
		if story == s.StoryIn {
			return float64(s.ScreenIn)
		}
		return math.Inf(1)
	}
	return float64(s.ScreenIn) + (story-s.StoryIn)/s.Speed
}

// StoryOut returns the story frame after the last one shown.
func (s Shot) StoryOut() float64 { return s.StoryAt(float64(s.ScreenOut)) }

// FootageAt returns the frame of its footage at a screen frame.
func (s Shot) FootageAt(screen float64) float64 {
	return s.FootageIn + (screen-float64(s.ScreenIn))*s.Speed
}

// Clock names one of the two clocks.
type Clock string

// The two clocks.
const (
	StoryClock  Clock = "story"
	ScreenClock Clock = "screen"
)

// Marker is a named, coloured frame on either clock. On the screen clock it
// belongs to an assembly. With a camera it is a cue. Frames is its length; 0
// marks a single frame.
type Marker struct {
	Assembly string `json:"assembly,omitempty"`
	Clock    Clock  `json:"clock" jsonschema:"enum=story,enum=screen"`
	Frame    int    `json:"frame"`
	Frames   int    `json:"frames,omitempty"`
	Name     string `json:"name"`
	Note     string `json:"note,omitempty"`
	Color    string `json:"color"`
	Camera   string `json:"camera,omitempty"`
}

// Line is a line of dialogue over [In, Out) of story time.
type Line struct {
	Cast    string `json:"cast"`
	Text    string `json:"text"`
	In      int    `json:"in"`
	Out     int    `json:"out"`
	Gesture bool   `json:"gesture,omitempty"` // the speaker talks with the hands
}

// Format is a delivered picture shape in pixels.
type Format struct {
	Name    string `json:"name"`
	Width   int    `json:"width"`
	Height  int    `json:"height"`
	Deliver bool   `json:"deliver,omitempty"` // besides the one that is worked in
}

// Shapes are the picture shapes that are offered.
var Shapes = []Format{
	{Name: "wide 16:9", Width: 1920, Height: 1080}, {Name: "scope 2.39:1", Width: 2048, Height: 858},
	{Name: "square 1:1", Width: 1080, Height: 1080}, {Name: "tall 9:16", Width: 1080, Height: 1920},
}

// Aspect returns width divided by height.
func (f Format) Aspect() float64 { return float64(f.Width) / float64(f.Height) }
