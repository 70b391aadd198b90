"""What a plan says: verdict, why, what moved, what would help, by when to look."""
