"""Small simulated outside services, so that Jaskel can be tried and tested without any."""
