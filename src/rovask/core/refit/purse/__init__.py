"""Money: budget lines, agreements, the ledger."""
