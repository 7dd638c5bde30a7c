package session

import "proscen/core/questions"

// Lasting returns how long from a story frame on a camera shows a subject as it does
// there: up to the end of the shot of the cut in which it does, or, in none, of the story.
func (s *Session) Lasting(camera, subject string, frame float64) questions.Lasting {
	to := float64(s.Doc.Settings.Story.Out)
	for _, e := range s.Program().Shots() {
		if e.Camera == camera && e.StoryIn <= frame && frame < e.StoryOut() {
			to = e.StoryOut()
			break
		}
	}
	return s.Lasts(camera, subject, frame, max(to, frame+1))
}
