"""The launch: stages, another night, let go, closed, begun anew."""
