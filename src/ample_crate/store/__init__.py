"""What is kept: SQLAlchemy models, migrations, queries, and the database cluster itself."""
