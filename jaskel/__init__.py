"""Jaskel: transcribe recorded speech, cut it by its transcript, and export the finished episode."""

__version__ = "0.1.0"
