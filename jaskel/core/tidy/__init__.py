"""What the machine proposes to take out, for a person to judge. Each kind of finding has a module."""
