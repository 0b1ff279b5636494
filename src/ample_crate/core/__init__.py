"""The rules of the job. Pure: no I/O, clock, database, codec library or web."""
