"""From facts, a spec and choices to a route."""
