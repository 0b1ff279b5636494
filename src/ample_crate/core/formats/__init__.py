"""What exists in the trade: codecs, wrappers, their levels and strings."""
