"""What was read, made and sealed is known by its bytes; crate numbers are never used twice."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.add_column("master", sa.Column("identity", sa.String(), nullable=True))
    # The mark that was kept there had no inode: such a master is known again by its checksum.
    op.execute("update master set card = card - 'identity'")
    op.add_column("crate", sa.Column("bag_digest", sa.String(), nullable=True))
    op.add_column("crate", sa.Column("bag_files", JSON, nullable=True))
    op.add_column("run", sa.Column("master_sha256", sa.String(), nullable=True))
    # What was made before is taken to be of the bytes that its master has now.
    op.execute(
        "update run set master_sha256 = master.sha256 from deliverable, master "
        "where run.deliverable_id = deliverable.id and deliverable.master_id = master.id"
    )
    op.execute("create sequence crate_number")
    op.execute(
        "select setval('crate_number', greatest(100, (select coalesce(max(number), 0) from crate)))"
    )


def downgrade() -> None:
    op.execute("drop sequence crate_number")
    op.drop_column("run", "master_sha256")
    op.drop_column("crate", "bag_files")
    op.drop_column("crate", "bag_digest")
    op.drop_column("master", "identity")
