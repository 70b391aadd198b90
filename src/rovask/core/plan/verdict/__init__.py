"""The verdict of a plan: the launch, its chain, what collides, services out."""
