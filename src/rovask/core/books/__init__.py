"""Parts and money."""
