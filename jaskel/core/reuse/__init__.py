"""Reuse: what of an episode can be told again. Chapters, highlights, clips, titles and a summary are only proposed."""
