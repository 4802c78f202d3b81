"""Figures anyone can measure: ``./run bench``."""
