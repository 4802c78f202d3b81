"""The demo world: the show Ropewalk, its recordings, and the script that makes them."""
