"""What was worked out of crates and masters is kept, with the digest of what it depends on."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.add_column(
        "master",
        sa.Column(
            "facts_mark",
            sa.String(),
            sa.Computed("md5(facts::text || corrections::text)", persisted=True),
            nullable=False,
        ),
    )
    op.add_column(
        "run",
        sa.Column(
            "facts_mark",
            sa.String(),
            sa.Computed("md5(facts::text)", persisted=True),
            nullable=True,
        ),
    )
    op.create_table(
        "kept_crate",
        sa.Column("crate_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("floor", json, nullable=False),
        sa.Column("page", json, nullable=False),
        sa.ForeignKeyConstraint(
            ["crate_id"], ["crate.id"], name="fk_kept_crate_crate_id_crate", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("crate_id", name="pk_kept_crate"),
    )
    op.create_table(
        "kept_fits",
        sa.Column("master_id", sa.Integer(), nullable=False),
        sa.Column("document", json, nullable=False),
        sa.ForeignKeyConstraint(
            ["master_id"], ["master.id"], name="fk_kept_fits_master_id_master", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("master_id", name="pk_kept_fits"),
    )


def downgrade() -> None:
    op.drop_table("kept_fits")
    op.drop_table("kept_crate")
    op.drop_column("run", "facts_mark")
    op.drop_column("master", "facts_mark")
