"""The trade and its computation: no I/O, no clock, no randomness that isn't handed in."""
