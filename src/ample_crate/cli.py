"""The command line: facts, check, plan and deliver without a database; demo, serve and worker with
one.
"""

from __future__ import annotations

import argparse
import json
import shutil
import sys
import time
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from . import batching, comparing, ending, given, learning, routes, trying
from .core.errors import AmpleError
from .core.facts.properties import lookup, split_track
from .core.finding import Finding
from .core.ledger import ledger, overall
from .core.planning import programme
from .core.planning.ready import seconds_of
from .core.planning.request import delivered
from .core.planning.route import plan_route
from .core.specs.spec import Spec
from .given import Given
from .handover import bag, report, sidecars
from .media import folders, ops
from .store import library
from .terminal import Line
from .work.deliver import as_item, plan_or_refuse, run_route

Document = dict[str, Any]
Outcome = tuple[int, Document]
OTHERS = (
    ("--sound", "another file whose sound goes along"),
    ("--over", "a still that transparency is laid over"),
)
EXIT = {"meets": 0, "advice": 0, "breaks": 1, "unproven": 2}


def main(arguments: list[str] | None = None) -> int:
    """Run one command; give its exit code."""
    parser = _parser()
    args = parser.parse_args(arguments)
    return ending.code_of(
        lambda: _run(args),
        as_json=getattr(args, "json", False),
        stoppable=args.run is not _service,
    )


def _run(args: argparse.Namespace) -> int:
    given.require_text(args)
    return int(args.run(args))


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="ample", description="Plan, make, prove and hand over deliverables to a written spec."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    facts = commands.add_parser("facts", help="measure a file and print what is known of it")
    facts.add_argument(
        "--headers", action="store_true", help="read the headers only, without decoding"
    )
    facts.add_argument(
        "--everything",
        action="store_true",
        help="measure all there is: black, silence, cadence, levels, flashes and more",
    )
    facts.set_defaults(run=_each, one=_facts)
    check = commands.add_parser(
        "check", help="judge a file against a spec (exit 0 meets, 1 breaks, 2 could not be judged)"
    )
    check.add_argument("--spec", required=True, metavar="ID|PATH")
    check.add_argument(
        "--master", type=Path, help="the master, for requirements that look back at it"
    )
    check.set_defaults(run=_each, one=_check)
    plan = commands.add_parser(
        "plan", help="tell route, size and time without making anything (exit 1 where it cannot be)"
    )
    plan.set_defaults(run=_each, one=_plan)
    plan.add_argument(
        "--hard",
        action="store_true",
        help="code some seconds of it by several quantisers, and tell what quality a rate buys",
    )
    deliver = commands.add_parser(
        "deliver", help="plan, run, measure, and write the deliverable and its report"
    )
    deliver.add_argument("--out", required=True, type=Path, metavar="DIR")
    compare = commands.add_parser(
        "compare",
        help="tell how near a finished file stays to its master, taken through the route's steps",
    )
    compare.add_argument("master", type=Path, metavar="MASTER", help="what it was made of")
    compare.add_argument("file", type=Path, metavar="FILE", help="the finished file")
    compare.set_defaults(run=comparing.run)
    trial = commands.add_parser(
        "trial", help="try codecs on the same pictures: time, size, rate, quality, cost of decoding"
    )
    trying.add_to(trial)
    batch = commands.add_parser(
        "batch", help="deliver the lines of a sheet, two at a time; goes on where it stopped"
    )
    batching.add_to(batch)
    orders = commands.add_parser("orders", help="work an order through, and print what it asks")
    orders.add_argument("do", choices=["run"], help="work it through")
    orders.add_argument("file", type=Path, metavar="FILE", help="the order, in YAML or JSON")
    orders.add_argument(
        "--once",
        action="store_true",
        required=True,
        help="end when its folder is worked off; 'serve' works on orders for good",
    )
    orders.add_argument("--workers", type=int, default=1, help="how many encode (1)")
    orders.add_argument("--json", action="store_true", help="print one JSON document")
    orders.set_defaults(run=_orders)
    for command in (plan, deliver, compare):
        command.add_argument("--spec", required=True, metavar="ID|PATH")
        command.add_argument(
            "--choose",
            action="append",
            default=[],
            metavar="PROPERTY=VALUE",
            help="a value in the room the spec leaves; name.FIELD=TEXT for a field of its name",
        )
        for option, told in OTHERS:
            command.add_argument(option, type=Path, metavar="FILE", help=told)
        command.add_argument(
            "--range",
            metavar="IN-OUT[,IN-OUT]",
            help="what of the master is taken, by timecode or frame; several are joined",
        )
    deliver.set_defaults(run=_each, one=_deliver)
    deliver.add_argument(
        "--force",
        action="store_true",
        help="replace a file of the deliverable's name that is there already",
    )
    for command in (facts, check, plan, deliver):
        command.add_argument(
            "files",
            type=Path,
            nargs="+",
            metavar="FILE",
            help="a file, or a folder or pattern of numbered images",
        )
    for command in (facts, check, plan, deliver, compare, trial):
        command.add_argument("--rate", metavar="FPS", help="frames a second of numbered images")
        command.add_argument("--json", action="store_true", help="print one JSON document")
    for name, text in (
        ("demo", "load the demo and serve it"),
        ("serve", "serve the application"),
        ("worker", "run one worker"),
        ("openapi", "print the OpenAPI document"),
        ("schema", "print the JSON Schema of a spec file"),
        ("order-schema", "print the JSON Schema of an order"),
        ("properties", "print the list of properties"),
    ):
        command = commands.add_parser(name, help=text)
        command.set_defaults(run=_service, name=name)
        if name in {"demo", "serve"}:
            command.add_argument("--port", type=int, default=8714)
            command.add_argument("--workers", type=int, default=1)
        if name == "worker":
            command.add_argument(
                "--database", metavar="URL", help="address of the database, on another machine"
            )
    return parser


def _service(args: argparse.Namespace) -> int:
    # Imported here, so that facts, check and deliver start without web or database.
    from . import service

    return service.run(args)


def _orders(args: argparse.Namespace) -> int:
    from . import ordering

    return ordering.run(args)


def _print(document: Document) -> None:
    print(json.dumps(document, indent=2, ensure_ascii=False))


def _each(args: argparse.Namespace) -> int:
    """Do one command to everything that is given; what goes wrong with one keeps no other back."""
    documents: list[Document] = []
    worst = 0
    with ExitStack() as held:
        every = given.taken(args.files, args.rate, held)
        for one in every:
            if len(every) > 1 and not args.json:
                print(f"{one.name}:")
            try:
                code, document = args.one(args, one)
            except AmpleError as error:
                if len(every) == 1:
                    raise
                print(f"ample: {one.name}: {error.sentence()}", file=sys.stderr)
                code, document = 2, {"error": error.as_json()}
            worst = max(worst, code)
            documents.append({"file": one.name, "exit": code, **document})
    if args.json and len(documents) == 1:
        _print(document)
    elif args.json:
        _print({"files": documents})
    return worst


def _facts(args: argparse.Namespace, one: Given) -> Outcome:
    found = (
        ops.Measured(ops.read_facts(one.path), 0.0, [])
        if args.headers
        else given.measured(one, args.json, "everything" if args.everything else "ledger")
    )
    facts = found.facts
    document: Document = {"facts": facts.as_json()}
    if args.everything:
        document["events"] = [e.as_json() for e in found.events]
    if args.json:
        return 0, document
    for key, fact in facts.items():
        base, track = split_track(key)
        prop = lookup(base)
        number = f" (track {track})" if track > 1 else ""
        said = f"   ! header says {prop.kind.show(fact.declared)}" if facts.contradicts(key) else ""
        print(
            f"{prop.group:8} {prop.label + number:30} {prop.kind.show(fact.value):28} "
            f"{fact.provenance}{said}"
        )
    for event in found.events:
        print(
            f"{event.kind:8} {float(event.start):10.3f} s to {float(event.end):10.3f} s  "
            f"{event.what}"
        )
    return 0, document


def _judgement(spec: Spec, findings: list[Finding]) -> Document:
    keys = ("property", "asked", "found", "verdict", "why")
    return {
        "spec": spec.id,
        "verdict": overall(findings),
        "findings": [{k: f.as_json()[k] for k in keys} for f in findings],
        "unjudged": _unjudged(spec),
    }


def _unjudged(spec: Spec) -> list[str]:
    """Say what a single file cannot be judged on: what is asked of a crate or a week."""
    return [
        f"{test.prop.label}: {test.requirement.sentence()}" for test in spec.tests if test.of_crate
    ]


def _say_unjudged(spec: Spec) -> None:
    for text in _unjudged(spec):
        print(f"[unjudged] {text} One file alone does not tell.")


def _check(args: argparse.Namespace, one: Given) -> Outcome:
    spec = library.find(args.spec)
    master = None
    if args.master:
        with ExitStack() as held:
            beside = given.one(args.master, args.rate, held)
            master = programme.of(given.measured(beside, args.json).facts)
    measured = given.measured(one, args.json)
    # A file that leans on a flag to be shown upright is held to stand by itself.
    spec = programme.asked_of(spec, measured.facts)
    findings = ledger(measured.facts, spec, master)
    verdict = overall(findings)
    if not args.json:
        routes.rows(findings)
        _say_unjudged(spec)
        print(f"\n{one.name}: {verdict} ({spec.id}, version {spec.version})")
    return EXIT[verdict], _judgement(spec, findings)


def _plan(args: argparse.Namespace, one: Given) -> Outcome:
    spec, choices = library.find(args.spec), given.choices(args)
    master = given.measured(one, args.json).facts
    item = given.item(args, master)
    route = plan_route(master, spec, choices, one.name, item)
    findings = ledger(route.facts, spec, delivered(master, item, choices))
    plan = route.plan
    time = None if plan is None else seconds_of(plan, route.size)
    document = routes.document(route, time)
    document |= _judgement(spec, findings if plan is not None else [])
    code = EXIT["breaks"] if plan is None else 0
    if args.hard and plan is not None:
        document["hard"] = learning.document(args, one, plan)
    if args.json:
        return code, document
    routes.say(route, sys.stdout)
    if plan is None or time is None:
        print(f"\n{one.name} cannot be delivered to {spec.id} this way.")
        return code, document
    routes.rows([f for f in findings if f.verdict == "breaks"])
    print(f"\n{routes.outcome(route, plan, time)}")
    if "hard" in document:
        learning.say(document["hard"])
    return code, document


def _deliver(args: argparse.Namespace, one: Given) -> Outcome:
    began = time.monotonic()
    spec = library.find(args.spec)
    choices = given.choices(args)
    _make_folder(args.out)
    line = Line()
    try:
        master = ops.measure(one.path, None if args.json else line).facts
        item = given.item(args, master)
        route, plan = plan_or_refuse(master, spec, choices, one.name, item)
        line.done()
        if not args.json:
            routes.say(route, sys.stderr)
        seen = delivered(master, item, choices)
        for name in (plan.outcome, *(file.name for file in plan.captions)):
            _require_free(args.out / name, args.force)
        made = run_route(
            given.inputs(args, one),
            seen,
            spec,
            route,
            args.out,
            ops.Control(None if args.json else line),
        )
    finally:
        line.done()
    files = folders.files_of(made.path)
    lying = made.path if files == [made.path] else files[0].parent
    document = {
        "deliverable": str(lying),
        "facts": made.facts.as_json(),
        **_judgement(spec, made.findings),
        "steps": [s.model_dump() for s in route.steps],
        "cautions": [c.model_dump() for c in route.cautions],
        "notes": made.notes,
        "seconds": round(time.monotonic() - began, 3),
    }
    asked = programme.asked_of(spec, seen)
    judged = report.Judged(lying.name, asked, seen, made.facts, route, made.findings)
    entry = report.entry(judged)
    captions = [file.name for file in plan.captions]
    document["beside"] = captions + _lay_beside(as_item(made.path, entry), lying, spec)
    html = report.page(f"{lying.name} for {spec.title}", [entry])
    report.write_whole(lying.with_name(f"{lying.name}.ledger.html"), html)
    report.write_whole(lying.with_name(f"{lying.name}.ledger.json"), json.dumps(document, indent=2))
    if lying != made.path:
        # Whoever is given the folder needs no description of it.
        shutil.rmtree(made.path.parent)
    if not args.json:
        routes.rows(made.findings)
        _say_unjudged(spec)
        for note in made.notes:
            print(f"  note: {note}")
        print(f"\n{lying}: {made.verdict}, {document['seconds']} s")
    return EXIT[made.verdict], document


def _make_folder(folder: Path) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise AmpleError(
            f"The folder {folder} cannot be made: {error.strerror}.", "Name another with --out."
        ) from None


def _require_free(final: Path, force: bool) -> None:
    """Make sure that no file of somebody else's is written over."""
    if final.exists() and not force:
        raise AmpleError(
            f"{final} is there already.", "Take another folder, or replace it with --force."
        )


def _lay_beside(item: bag.Item, lying: Path, spec: Spec) -> list[str]:
    """Write the small files that the spec wants beside the deliverable; give their names."""
    small = sidecars.make(spec.delivery.sidecars, [item], spec.title)
    for one in small:
        report.write_whole(lying.with_name(one.name), one.text)
    return [one.name for one in small]


if __name__ == "__main__":
    sys.exit(main())
