"""Routes, one module a screen."""
