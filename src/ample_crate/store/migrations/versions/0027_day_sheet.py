"""Runs have a turn, workers announce themselves, and rules say when runs wait."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None
COLUMNS = ("worker_id", "night", "held", "place", "priority")


def upgrade() -> None:
    op.create_table(
        "worker",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("machine", sa.String, nullable=False),
        sa.Column("place", sa.String, nullable=False),
        sa.Column("connection", sa.String, nullable=False),
        sa.Column("processors", sa.Integer, nullable=False),
        sa.Column("queues", JSONB, nullable=False),
        sa.Column("encoders", JSONB, nullable=False),
        sa.Column("room", sa.BigInteger, nullable=False),
        sa.Column("wanted", sa.String, nullable=False, server_default="working"),
        sa.Column("heard", sa.String, nullable=False, server_default="working"),
        sa.Column("resting", sa.Boolean, nullable=False, server_default="false"),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column(
            "seen_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()
        ),
        sa.UniqueConstraint("machine", "place", name="uq_worker_machine"),
    )
    op.create_table(
        "day_rules",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("document", JSONB, nullable=False),
    )
    op.execute("create sequence run_place")
    op.execute("select setval('run_place', (select coalesce(max(id), 0) + 1 from run))")
    op.add_column("run", sa.Column("place", sa.Integer))
    op.execute("update run set place = id")
    op.alter_column("run", "place", nullable=False, server_default=sa.text("nextval('run_place')"))
    op.add_column("run", sa.Column("priority", sa.Integer, nullable=False, server_default="0"))
    for name in ("held", "night"):
        op.add_column("run", sa.Column(name, sa.Boolean, nullable=False, server_default="false"))
    worker = sa.ForeignKey("worker.id", ondelete="SET NULL")
    op.add_column("run", sa.Column("worker_id", sa.Integer, worker))
    op.create_index("ix_run_worker_id", "run", ["worker_id"])
    # Those that were ordered before come in the same order still.
    op.execute(
        """
        do $$ begin
            if to_regclass('procrastinate_jobs') is not null then
                update procrastinate_jobs set priority = -(args->>'id')::int
                where task_name = 'ample:encode' and status = 'todo';
            end if;
        end $$
        """
    )


def downgrade() -> None:
    for name in COLUMNS:
        op.drop_column("run", name)
    op.execute("drop sequence run_place")
    op.drop_table("day_rules")
    op.drop_table("worker")
