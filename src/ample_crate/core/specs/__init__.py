"""What a recipient asks: specs, their rules, their reading and writing."""
