"""What tells of proxies is called so."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


RENAMED = """
update tidying set document = document - '{0}' || jsonb_build_object('{1}', document->'{0}')
where document ? '{0}'
"""


def upgrade() -> None:
    op.alter_column("master", "play", new_column_name="proxy")
    op.execute(RENAMED.format("plays", "proxies"))


def downgrade() -> None:
    op.alter_column("master", "proxy", new_column_name="play")
    op.execute(RENAMED.format("proxies", "plays"))
