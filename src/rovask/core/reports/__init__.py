"""Reports of a refit: hand-over, a trade’s sheet, the closing account, the log line by line."""
