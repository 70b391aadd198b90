"""The Slip: our plan chart. A geometry that is tested on its own, drawn by a template."""
