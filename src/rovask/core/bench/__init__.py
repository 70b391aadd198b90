"""The bench: calculators of the trade, each with its formula, source, units and range."""
