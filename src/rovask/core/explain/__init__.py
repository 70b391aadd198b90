"""What a plan says and what would change it: why, what moved, what would help, by when to look."""
