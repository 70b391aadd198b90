"""The planner: compile a refit, find windows, make a plan, check it, read the verdict off it."""
