"""Quality over time through the API: ordered, shown, stopped, refused."""
