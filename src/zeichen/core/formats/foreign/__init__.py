"""SVG from elsewhere: its style rules, frames, copies, clips, pens and paints, down to shapes of one colour each."""
