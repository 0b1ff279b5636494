"""Specs are written here too: where a version comes from, and when it changed."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("spec", "document", type_=sa.JSON(), postgresql_using="document::json")
    op.add_column("spec", sa.Column("origin", sa.String(), nullable=False, server_default="file"))
    op.add_column(
        "spec",
        sa.Column(
            "changed_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()
        ),
    )


def downgrade() -> None:
    op.alter_column(
        "spec", "document", type_=postgresql.JSONB(), postgresql_using="document::jsonb"
    )
    op.drop_column("spec", "changed_at")
    op.drop_column("spec", "origin")
