"""The library of recipes: one TOML file each, and what they share in _common.toml. See docs/recipes.md."""
