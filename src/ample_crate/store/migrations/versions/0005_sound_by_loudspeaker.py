"""Plans say which tracks are taken and how their channels are mixed; those of old runs are brought
to that form.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

UNFINISHED = ("queued", "running", "stopping")
ERROR = {
    "code": "refused",
    "what": "The application was brought up to date before this run ended.",
    "way_out": "Run it again.",
}


def upgrade() -> None:
    connection = op.get_bind()
    for id, state, route in connection.execute(sa.text("select id, state, route from run")).all():
        plan = route.get("plan")
        if plan is None:
            continue
        for operation in plan["operations"]:
            operation.pop("alternate", None)
        sound = plan["sound"]
        if sound is not None and "mix" in sound:
            kept = {key: sound[key] for key in ("codec", "sample_rate", "layout", "bit_rate")}
            silent, folded = sound["mix"] == "silence", sound["mix"] == "fold"
            plan["sound"] = kept | {"tracks": [] if silent else [1], "gains": [], "limited": folded}
        values = {"id": id, "route": json.dumps(route)}
        connection.execute(
            sa.text("update run set route = cast(:route as jsonb) where id = :id"), values
        )
        if state in UNFINISHED:
            failed = sa.text(
                "update run set state = 'failed', error = cast(:error as jsonb) where id = :id"
            )
            connection.execute(failed, {"id": id, "error": json.dumps(ERROR)})


def downgrade() -> None:
    raise NotImplementedError("Plans that mix by loudspeaker cannot be told in the old form.")
