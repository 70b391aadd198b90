"""What is written down day by day."""
