"""Sealing crates, carrying them, and the recipients' stand-ins."""
