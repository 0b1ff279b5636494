"""Measuring: one pass over a file that decodes it whole, and what is watched for on the way."""
