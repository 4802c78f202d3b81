"""Sound and picture: what a file holds, its decoded sound, and what is made of it. PyAV is used nowhere else."""
