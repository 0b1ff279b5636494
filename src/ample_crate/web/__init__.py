"""The JSON API and the built front end."""
