"""The demo: an invented house with an invented programme, and media generated for it."""
