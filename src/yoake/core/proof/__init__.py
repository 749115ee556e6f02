"""Evidence: tests on two sides, gates of stages, and the recorded state that may only shrink."""
