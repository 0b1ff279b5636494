"""Rules in words: what is asked, as a table cell and as a plain sentence."""

from __future__ import annotations

from ..facts.properties import lookup, split_track
from .rules import Ask, limits


def asked(ask: Ask) -> str:
    """Say what a requirement asks, in the trade's units, as a table cell."""
    prop, rule = lookup(ask.property), ask.rule
    show = prop.kind.show
    values = [show(v) for v in limits(ask)]
    tolerance = f" ± {rule.tolerance}" if rule.tolerance else ""
    match rule.operator:
        case "is":
            return values[0] + tolerance
        case "one_of":
            return (
                f"{', '.join(values[:-1])} or {values[-1]}" if len(values) > 1 else values[0]
            ) + tolerance
        case "at_least":
            return f"at least {values[0]}{tolerance}"
        case "at_most":
            return f"at most {values[0]}{tolerance}"
        case "between":
            return f"{values[0]} to {values[1]}{tolerance}"
        case "matches":
            return rule.words or f"fits {rule.matches}"
        case "present":
            return "present" if rule.present else "absent"
        case _:
            return (
                "as the master" if rule.same_as == "master" else "one value over the crate"
            ) + tolerance


def sentence(ask: Ask, verb: str, when: Ask | None = None, part: str = "", note: str = "") -> str:
    """Say a rule as a plain sentence.

    Args:
        ask: the rule and its property.
        verb: "must" or "should".
        when: the condition under which it counts.
        part: the alternative that it is a part of.
        note: what the recipient's engineer would add.
    """
    said = _plain(ask, verb)
    if when is not None:
        said = f"Where {_clause(when)}: {said[0].lower()}{said[1:]}"
    if part:
        said = f"{said} ({part})"
    return f"{said}. {note}".strip()


def _plain(ask: Ask, verb: str) -> str:
    prop, rule = lookup(ask.property), ask.rule
    phrase, said_of = prop.phrase, asked(ask)
    if prop.together and rule.operator == "between" and rule.tolerance is None:
        least, most = limits(ask)
        if least == -most:  # type: ignore[operator]
            phrase, said_of = prop.together, prop.kind.show(most)
    track = f"Of sound track {split_track(ask.property)[1]}: " if "@" in ask.property else ""
    if phrase and rule.operator not in {"present", "same_as"}:
        if prop.kind.name == "flag" and limits(ask) == (False,):
            verb += " not"
        said = phrase.format(verb=verb, asked=said_of)
        return f"{track}{said[0].lower()}{said[1:]}" if track else said
    plain = prop.group in prop.label or prop.group in {"file", "motion", "delivery"}
    subject = f"The {prop.label}" if plain else f"The {prop.group}'s {prop.label}"
    if track:
        subject = f"{track}the {prop.label}"
    match rule.operator:
        case "present":
            tail = "be stated" if rule.present else "not be stated"
        case "same_as":
            tail = (
                "stay as it is in the master"
                if rule.same_as == "master"
                else "be the same for every item of the crate"
            )
            tail += f" (± {rule.tolerance})" if rule.tolerance else ""
        case "matches":
            tail = f"be {rule.words}" if rule.words else f"fit the pattern {rule.matches}"
        case _:
            tail = f"be {asked(ask)}"
    return f"{subject} {verb} {tail}"


def _clause(ask: Ask) -> str:
    prop = lookup(ask.property)
    if prop.kind.name == "flag":
        return f"there is {'' if limits(ask) == (True,) else 'no '}{prop.label}"
    verb = "is" if ask.rule.operator not in {"present"} else "is stated as"
    return f"the {prop.label} {verb} {asked(ask)}"
