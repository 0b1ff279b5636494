"""Orders stand, and what arrives under them goes by itself."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None
NOW = sa.func.now()


def _at(name: str) -> sa.Column:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=NOW)


def upgrade() -> None:
    op.create_table(
        "standing_order",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("on", sa.Boolean, nullable=False, server_default="false"),
        sa.Column("since", sa.DateTime(timezone=True)),
        _at("created_at"),
    )
    order = sa.ForeignKey("standing_order.id", ondelete="CASCADE")
    op.create_table(
        "order_item",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("order_id", sa.String, order, nullable=False, index=True),
        sa.Column(
            "master_id",
            sa.Integer,
            sa.ForeignKey("master.id", ondelete="SET NULL"),
            index=True,
        ),
        sa.Column(
            "crate_id", sa.Integer, sa.ForeignKey("crate.id", ondelete="SET NULL"), index=True
        ),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("sha256", sa.String, index=True),
        sa.Column("state", sa.String, nullable=False, index=True),
        sa.Column("question", JSONB),
        sa.Column("agreed", JSONB, nullable=False),
        sa.Column("said", sa.String, nullable=False),
        _at("arrived_at"),
        _at("changed_at"),
        sa.UniqueConstraint("order_id", "master_id", name="uq_order_item_order_id"),
    )
    op.create_table(
        "order_event",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "order_id",
            sa.String,
            sa.ForeignKey("standing_order.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("item_id", sa.Integer, sa.ForeignKey("order_item.id", ondelete="CASCADE")),
        _at("at"),
        sa.Column("what", sa.String, nullable=False),
    )


def downgrade() -> None:
    for name in ("order_event", "order_item", "standing_order"):
        op.drop_table(name)
