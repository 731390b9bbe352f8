"""What is kept: PostgreSQL through SQLAlchemy, migrations by Alembic."""
