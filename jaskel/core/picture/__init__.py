"""What is seen while somebody speaks: framings, shots that follow the voices, and crops."""
