"""The first plan, in milliseconds, and the repair of a plan after a change."""
