"""The server: a REST API over the stores, server-sent notices, and the built page."""
