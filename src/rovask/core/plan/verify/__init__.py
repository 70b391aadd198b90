"""The verifier: every rule again, apart from the planner."""
