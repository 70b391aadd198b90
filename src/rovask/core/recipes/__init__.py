"""Recipes: the usual jobs of a refit as data, made into tasks, ties and parts for one boat."""
