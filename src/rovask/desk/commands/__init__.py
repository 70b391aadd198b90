"""What people can do, by what it is done to."""
