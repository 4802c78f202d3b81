"""Captions as files, as a track of a film, and on its picture."""
