"""What is remembered: the database, and the vault of media files."""
