"""Plain values below everything: money and currencies, half-hours, faults, words."""
