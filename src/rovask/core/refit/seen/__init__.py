"""What is seen, not known, parked, off the boat or decided."""
