"""What breaks programs like this one, made up anew each time from a seed: files, texts, requests and command lines."""
