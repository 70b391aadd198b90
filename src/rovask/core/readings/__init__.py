"""What follows from the facts of a refit alone: stock, commitments, open days, curing, acceptance, order, prices."""
