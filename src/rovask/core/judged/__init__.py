"""Edits that need a judgement: what is ordered, paid, ticked or begun anew asks a reading first."""
