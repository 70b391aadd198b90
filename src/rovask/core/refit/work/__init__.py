"""The work: jobs, tasks, ties, hours logged."""
