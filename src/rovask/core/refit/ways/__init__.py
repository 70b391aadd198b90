"""Ways laid side by side, as they are kept: sets of acts that have not happened."""
