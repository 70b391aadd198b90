"""Better plans with CP-SAT, and what collides."""
