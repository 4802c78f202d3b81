"""The rules of sound: chains of processors."""
