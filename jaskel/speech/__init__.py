"""From sound to words with times: thin adapters around a recogniser, an aligner and a voice detector."""
