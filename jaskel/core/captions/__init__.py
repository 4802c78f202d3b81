"""Captions of the programme: which words stand on the screen when, and in which lines."""
