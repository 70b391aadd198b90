"""What a refit is: its givens, its work, what is seen, and every change to it."""
