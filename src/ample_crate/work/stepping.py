"""The next step of what arrived under an order."""

from __future__ import annotations

from datetime import UTC, datetime, time

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import BadValue
from ..core.planning import deciding
from ..core.planning.deciding import Question
from ..core.specs.order import Hours, StandingOrder
from ..core.units.values import read_bytes
from ..store.database import tell
from ..store.models import Crate, Master, Receipt
from ..store.places import Folders
from ..store.standing import OrderItem
from . import acts, carrying_over, crates, many, running, sealing, status, turns, worked_out
from .order_log import ask, log, told
from .usual import DueRule


class Step:
    """The next step of an item.

    Args:
        session: in which it is taken.
        folders: of the installation.
        order: as it is now.
        item: whose row is held.
    """

    def __init__(
        self, session: Session, folders: Folders, order: StandingOrder, item: OrderItem
    ) -> None:
        self._session, self._folders, self._item = session, folders, item
        self._order = order

    def take(self) -> bool:
        """Take it; say whether there may be another at once."""
        crate = self._item.crate
        if crate is not None:
            return self._of_crate(crate)
        return self._of_master()

    def _of_master(self) -> bool:
        item, master = self._item, self._item.master
        if master is None:
            return self._end("left out", "Its master was removed.")
        if master.state in ("failed", "changed"):
            error = master.error or {}
            said = deciding.trouble(error.get("what", ""), error.get("way_out", ""))
            return ask(self._session, item, said)
        if master.state != "ready":
            return False
        item.sha256 = master.sha256
        before = self._same_before()
        if before is not None:
            return self._end("same", f"Its bytes were delivered as {before.name} before.")
        if self._at_work() >= self._order.limits.at_once:
            return self._wait("It waits for others of the order.")
        item.crate = self._made(master)
        item.state = "works"
        self._log(f"Crate {item.crate.number} was made.")
        return True

    def _same_before(self) -> OrderItem | None:
        """Find an item of the same bytes that is delivered, or on its way."""
        item = self._item
        query = select(OrderItem).where(
            OrderItem.order_id == item.order_id,
            OrderItem.sha256 == item.sha256,
            OrderItem.id != item.id,
            OrderItem.crate_id.is_not(None),
            OrderItem.state != "left out",
        )
        return self._session.scalars(query.order_by(OrderItem.id).limit(1)).first()

    def _at_work(self) -> int:
        count = (
            select(func.count())
            .select_from(OrderItem)
            .join(OrderItem.crate)
            .where(
                OrderItem.order_id == self._item.order_id,
                OrderItem.state == "works",
                Crate.state.in_(("open", "sealing")),
            )
        )
        return int(self._session.scalar(count) or 0)

    def _made(self, master: Master) -> Crate:
        """Make a crate of a master, with what the order chooses.

        Raises:
            BadValue: something that it chooses cannot be chosen.
        """
        order, now = self._order, status.now()
        due = DueRule(**order.due.model_dump()).due(now)
        title = order.titled(master.name, now.date().isoformat())
        crate = many.make(self._session, many.Wanted(title, order.spec, due), self._folders)
        self._filled(crate, master)
        tell(self._session, "crate", crate.id)
        return crate

    def _filled(self, crate: Crate, master: Master) -> Crate:
        """Put a master into a crate, with what the order chooses; raises as `_made`."""
        order = self._order
        many.put_in(self._session, crate, [(master, None)])
        [one] = crate.deliverables
        left = carrying_over.take_over(order.choices, one).left if order.choices else []
        if left:
            raise BadValue(
                " ".join(f"{one.what}: {one.why}" for one in left),
                "Change the order, or make the crate by hand.",
            )
        if order.name.fields:
            # What a master's name does not tell stays empty, and is asked for.
            many.fill_names(order.name.filling(), [one])
        return crate

    def _of_crate(self, crate: Crate) -> bool:
        if crate.removed_at is not None:
            return self._end("left out", "Its crate was removed.")
        match crate.state:
            case "open":
                return self._of_open(crate)
            case "sealed":
                return self._of_sealed(crate)
            case "received":
                return self._received(crate)
            case "refused":
                return self._refused(crate)
        return False

    def _of_open(self, crate: Crate) -> bool:
        if crate.error is not None:
            said = deciding.trouble(crate.error["what"], crate.error["way_out"])
            return ask(self._session, self._item, said)
        made = status.item_statuses(crate)
        if any(one.going_on or one.deliverable.wanted_at is not None for one in made):
            return self._goes_on(made)
        asked = [one for item in made for one in self._questions(item, made)]
        if asked:
            return ask(self._session, self._item, asked[0])
        if any(one.open for one in made):
            return self._run(crate, made)
        return self._seal(crate, made)

    def _goes_on(self, made: list[status.ItemStatus]) -> bool:
        """Say whether it is being made, or its runs wait for the night, or are held."""
        by, now = turns.rules(self._session), status.now()
        runs = [one.run for one in made if one.run is not None and one.going_on]
        later = [one for one in runs if one.state == "queued" and turns.begin_of(one, by, now)]
        if runs and len(later) == len(runs):
            return self._wait("Its runs are held, or wait for the night.")
        self._item.state = "works"
        return False

    def _questions(self, one: status.ItemStatus, made: list[status.ItemStatus]) -> list[Question]:
        if one.route is None:
            if one.trouble is None:
                return []
            return [deciding.trouble(one.trouble.what, one.trouble.way_out)]
        rows = crates.ledger_rows(one, made, status.spec_of(one.deliverable.crate))
        options = worked_out.options_of(one)
        empty = [
            key
            for key, value in one.route.choices.items()
            if key.startswith(deciding.NAME) and not value
        ]
        return deciding.questions(
            self._order, one.route.cautions, rows, options, empty, self._item.agreed
        )

    def _run(self, crate: Crate, made: list[status.ItemStatus]) -> bool:
        if self._order.goes_to == "plan":
            return self._end("done", f"Crate {crate.number} is planned.")
        failed = [one.run for one in made if one.run is not None and one.run.state == "failed"]
        if failed:
            error = failed[0].error or {}
            said = deciding.trouble(error.get("what", ""), error.get("way_out", ""))
            return ask(self._session, self._item, said)
        running.run_all(self._session, crate)
        self._session.flush()
        ids = [run.id for one in crate.deliverables for run in one.runs if run.state == "queued"]
        night = self._order.makes == "at night"
        turns.change(self._session, ids, self._order.priority, night=night)
        self._log("It is being made.")
        return False

    def _seal(self, crate: Crate, made: list[status.ItemStatus]) -> bool:
        if self._order.goes_to == "run":
            return self._end("done", f"Crate {crate.number} is made and proved.")
        found = sealing.obstacles(crate, made)
        if found:
            said = deciding.trouble(" ".join(found), "Look at the crate's page.")
            return ask(self._session, self._item, said)
        acts.seal(self._session, crate)
        self._log("It is being sealed.")
        return False

    def _of_sealed(self, crate: Crate) -> bool:
        if self._order.goes_to == "seal":
            return self._end("done", f"Crate {crate.number} is sealed.")
        if crate.error is not None:
            said = deciding.trouble(crate.error["what"], crate.error["way_out"])
            return ask(self._session, self._item, said)
        now = status.now()
        if self._order.sends is not None and not within(self._order.sends, now):
            return self._wait(f"It waits for {self._order.sends.begins}.")
        if self._sent_enough(crate, now):
            return self._wait("As much as the order sends on a day was sent.")
        acts.hand_over(self._session, crate)
        self._item.state = "works"
        self._log("It is being handed over.")
        return False

    def _sent_enough(self, crate: Crate, now: datetime) -> bool:
        """Say whether what the order may send on a day is used up."""
        limits = self._order.limits
        since = datetime.combine(now.date(), time(), UTC)
        query = (
            select(func.count(), func.coalesce(func.sum(Receipt.sent_bytes), 0))
            .join(OrderItem, OrderItem.crate_id == Receipt.crate_id)
            .where(OrderItem.order_id == self._item.order_id, Receipt.created_at >= since)
        )
        count, sent = self._session.execute(query).one()
        if limits.a_day is not None and count >= limits.a_day:
            return True
        if limits.bytes_a_day is None:
            return False
        # One that is larger than a day's share by itself goes first on a day.
        return bool(sent and sent + (crate.bag_bytes or 0) > read_bytes(limits.bytes_a_day))

    def _received(self, crate: Crate) -> bool:
        newest = max(crate.receipts, key=lambda one: one.id, default=None)
        told = str(newest.document.get("message", "")) if newest is not None else ""
        return self._end("done", f"Crate {crate.number} was received. {told}".strip())

    def _refused(self, crate: Crate) -> bool:
        newest = max(crate.receipts, key=lambda one: one.id, default=None)
        told = str(newest.document.get("message", "")) if newest is not None else ""
        said = deciding.trouble(
            f"The recipient refused crate {crate.number}.", "Look at what they say.", told
        )
        return ask(self._session, self._item, said)

    def _end(self, state: str, said: str) -> bool:
        self._item.state, self._item.said, self._item.question = state, said, None
        self._log(said)
        return False

    def _wait(self, said: str) -> bool:
        """Have it wait for what time brings, or for others."""
        if self._item.said != said:
            self._item.state, self._item.said = "waits", said
            told(self._session, self._item.order_id)
        return False

    def _log(self, said: str) -> None:
        self._item.said = said
        log(self._session, self._item.order_id, f"{self._item.name}: {said}", self._item)
        told(self._session, self._item.order_id)


def within(hours: Hours, now: datetime) -> bool:
    """Say whether a time lies within some hours; those that begin and end at one time are all
    day.
    """
    night = turns.Night(begins=hours.begins, ends=hours.ends, zone=hours.zone)
    return night.begin(now) is None
