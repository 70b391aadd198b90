"""Pages: routes parse, call and render; templates hold the HTML; drawings come from a tested geometry."""
