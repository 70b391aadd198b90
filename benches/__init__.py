"""Benches, and the seeded refits they and the tests measure by: beside the tests, not in what ships."""
