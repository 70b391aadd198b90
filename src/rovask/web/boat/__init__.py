"""The Boat screen: her lines drawn from her own figures, her places on them, and how each stands."""
