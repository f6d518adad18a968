"""`kettle prescribe`, `warmup`, `compose`: prescribing as JSON, without a window."""

import argparse
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field

from keen_kettle.commands.facts import Facts, PersonFact, answer, known_checks, read_facts
from keen_kettle.core.content import Content, load_content, load_teaching, read_library
from keen_kettle.core.content.rows import read_text
from keen_kettle.core.errors import ContentError
from keen_kettle.core.lifts import Derivative, Helper, by_their_names, parse_movement
from keen_kettle.core.plan import (
    BuildStep,
    Loading,
    PlateSet,
    best_for,
    build_up,
    complex_versions,
    load_complex,
    price_corrective,
)
from keen_kettle.core.prescribe import (
    AthleteFacts,
    Corrective,
    Ended,
    Sighting,
    cues_of,
    judge_first_rep,
    open_the_body,
    recommend,
)
from keen_kettle.core.prescribe.complexes import (
    SCHOOLS,
    Complex,
    Part,
    Wish,
    compose,
    mend,
    price_string,
    read_written,
    wanted_from_faults,
    why_not_own,
)
from keen_kettle.core.teach import Person

__all__ = ["add_words"]


def add_words(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    for name, work, help_text in (
        ("prescribe", _prescribe, "rank the correctives for an athlete, with loads and reasons"),
        ("warmup", _warm_up, "mobility, bar positions and the build-up to a working load"),
    ):
        words = commands.add_parser(name, help=help_text)
        words.add_argument(
            "--json", type=Path, required=True, metavar="FACTS.json", help="see docs/formats.md"
        )
        if name == "prescribe":
            _add_own(words)
        words.set_defaults(run=answer, work=work)
    words = commands.add_parser("compose", help="find the best complex, or check a written one")
    which = words.add_mutually_exclusive_group(required=True)
    which.add_argument("--json", type=Path, metavar="WISH.json", help="see docs/formats.md")
    which.add_argument("--text", help="as coaches write it: “power snatch + overhead squat”")
    _add_own(words)
    words.set_defaults(run=answer, work=_compose)


def _add_own(words: argparse.ArgumentParser) -> None:
    words.add_argument(
        "--own", type=Path, metavar="DRILLS.json", help="own drills, movements and complexes"
    )


class _PlatesFact(Facts):
    bar_kg: float = Field(default=20.0, gt=0, le=50)
    collars_kg: float = Field(default=0.0, ge=0, le=10)
    pairs: (
        tuple[tuple[Annotated[float, Field(gt=0, le=50)], Annotated[int, Field(ge=0, le=50)]], ...]
        | None
    ) = None

    def plates(self) -> PlateSet:
        if self.pairs is None:
            return PlateSet(self.bar_kg, self.collars_kg)
        return PlateSet(self.bar_kg, self.collars_kg, self.pairs)


Kilos = Annotated[float, Field(gt=0, le=1000)]
BestOf = Literal["snatch", "clean", "jerk"]
Bests = dict[BestOf, Kilos]


def _bests(kept: dict[BestOf, float]) -> dict[str, float]:
    return {str(lift): kilos for lift, kilos in kept.items()}


class _SightingFact(Facts):
    fault: str
    on: date
    family: Literal["", "snatch", "clean", "jerk"] = ""
    source: Literal["clip", "visit", "tag"] = "tag"
    severity: float = Field(default=1.0, ge=0, le=20)
    confidence: float = Field(default=0.8, ge=0, le=1)


class _EndedFact(Facts):
    drill: str
    fault: str
    outcome: Literal["improved", "unchanged", "gone", "worse"]
    on: date


class _PrescribeFile(Facts):
    schema_: Literal["keen-kettle-prescribe"] = Field(alias="schema")
    schema_version: Literal[1]
    today: date
    athlete: PersonFact
    trained: bool = False
    lift: str = "snatch"
    sightings: tuple[_SightingFact, ...] = ()
    answers: dict[str, str] = Field(default_factory=dict)
    ended: tuple[_EndedFact, ...] = ()
    bests_kg: Bests = Field(default_factory=dict)
    plates: _PlatesFact = _PlatesFact()
    minutes: int | None = Field(default=None, ge=1, le=240)


def _prescribe(words: argparse.Namespace) -> dict[str, Any]:
    facts = read_facts(words.json, _PrescribeFile)
    content, teaching = _content(words.own), load_teaching()
    person = facts.athlete.person()
    known_checks(person, teaching)
    sightings = [Sighting(**one.model_dump()) for one in facts.sightings]
    _known_faults([one.fault for one in sightings], content)
    _known_answers(facts.answers, content)
    made = recommend(
        sightings,
        _family(facts.lift),
        _athlete(person, facts.trained),
        content,
        facts.today,
        answers=facts.answers,
        minutes=facts.minutes,
        ended=[Ended(**one.model_dump()) for one in facts.ended],
    )

    def told(one: Corrective) -> dict[str, Any]:
        return _corrective(one, facts, person.school.get("cue", "outer"), content)

    return {
        "schema": "keen-kettle-prescription",
        "schema_version": 1,
        "causes": [
            {
                **{key: value for key, value in asdict(one).items() if key != "newest"},
                "weight": round(one.weight, 3),
                "says": one.says,
            }
            for one in made.causes
        ],
        "correctives": [told(one) for one in made.picks],
        "others": [told(one) for one in made.others],
        "ruled_out": [asdict(one) for one in made.refused],
        "question": made.question.model_dump() if made.question else None,
        "none": made.none,
    }


def _corrective(
    one: Corrective, facts: _PrescribeFile, cue: str, content: Content
) -> dict[str, Any]:
    drill = content.drills[one.drill]
    lift, best = best_for(one.family, _bests(facts.bests_kg))
    load = price_corrective(one, best, facts.plates.plates(), content).load
    return {
        **asdict(one),
        "dose": drill.dose,
        "cue": cues_of(drill, cue)[0],
        "cue_outer": drill.cue_outer,
        "cue_inner": drill.cue_inner,
        "why": drill.why,
        "cautions": [content.cautions[name].text for name in drill.cautions],
        "load": {
            "kind": load.kind,
            "kg": load.loading.total_kg if load.loading else None,
            "per_side_kg": load.loading.per_side_kg if load.loading else None,
            "of": lift,
            "share": round(load.share, 3) if load.share is not None else None,
            "why_not": load.why_not,
            "heavier_than_meant": load.heavier_than_meant,
        },
    }


def _athlete(person: Person, trained: bool) -> AthleteFacts:
    return AthleteFacts(
        person.cautions,
        person.equipment,
        trained,
        frozenset(name for name, one in person.checks.items() if one.state == "not yet"),
        person.state_of("back-cleared") == "pass",
    )


def _family(lift: str) -> str:
    movement = parse_movement(lift)
    return movement.family if isinstance(movement, Derivative) else "clean"


def _known_faults(names: list[str], content: Content) -> None:
    for name in names:
        if name not in content.faults:
            raise ContentError(f"There is no fault “{name}” in the catalogue.")


def _known_answers(answers: dict[str, str], content: Content) -> None:
    for fault, said in answers.items():
        split = content.splits.get(fault)
        if split is None:
            known = ", ".join(content.splits)
            raise ContentError(f"“{fault}” has no splitting question. Those that have: {known}.")
        if said not in {one.id for one in split.answer}:
            known = ", ".join(one.id for one in split.answer)
            raise ContentError(f"“{fault}” has no answer “{said}”. There are: {known}.")


class _WarmUpFile(Facts):
    schema_: Literal["keen-kettle-warm-up"] = Field(alias="schema")
    schema_version: Literal[1]
    athlete: PersonFact
    lift: str
    working_kg: float | None = Field(default=None, gt=0, le=600)
    plates: _PlatesFact = _PlatesFact()
    minutes: float = Field(default=8, ge=1, le=60)
    steps: int | None = Field(default=None, ge=3, le=6)
    faults: dict[str, Annotated[float, Field(ge=0, le=100)]] = Field(default_factory=dict)
    first_rep_failed: tuple[str, ...] | None = None


def _warm_up(words: argparse.Namespace) -> dict[str, Any]:
    facts = read_facts(words.json, _WarmUpFile)
    content, teaching = load_content(), load_teaching()
    person = facts.athlete.person()
    known_checks(person, teaching)
    _known_faults(list(facts.faults), content)
    movement = parse_movement(facts.lift)
    opening = open_the_body(
        *(_family(facts.lift), person, int(60 * facts.minutes), content, teaching),
        facts.faults,
    )
    answer_: dict[str, Any] = {
        "schema": "keen-kettle-opening",
        "schema_version": 1,
        "mobility": [asdict(one) for one in opening.mobility],
        "bar": [asdict(one) for one in opening.bar],
        "seconds": opening.seconds,
        "left_out": [{"name": name, "why": why} for name, why in opening.left_out],
        "build_up": None,
        "first_rep": None,
    }
    kilos = facts.working_kg
    if facts.first_rep_failed is not None:
        first = judge_first_rep(movement, facts.first_rep_failed)
        kilos = kilos * first.load_share if kilos is not None else None
        answer_["first_rep"] = {
            "passed": first.passed,
            "load_share": first.load_share,
            "lift": first.instead.name,
            "says": first.says,
        }
    if kilos is not None:
        steps = build_up(kilos, facts.plates.plates(), facts.steps)
        answer_["build_up"] = [_step(one) for one in steps]
    return answer_


def _step(one: BuildStep) -> dict[str, Any]:
    return {**_loading(one.loading), "reps": one.reps, "changes_per_side": one.changes}


def _loading(one: Loading) -> dict[str, Any]:
    return {"kg": one.total_kg, "per_side_kg": one.per_side_kg}


class _WishFile(Facts):
    schema_: Literal["keen-kettle-wish"] = Field(alias="schema")
    schema_version: Literal[1]
    lift: str
    athlete: PersonFact = PersonFact()
    trained: bool = False
    qualities: dict[str, Annotated[float, Field(ge=0, le=100)]] = Field(default_factory=dict)
    faults: dict[str, Annotated[float, Field(ge=0, le=100)]] = Field(default_factory=dict)
    fewest: int = Field(default=3, ge=2, le=6)
    most: int = Field(default=6, ge=2, le=6)
    reps: int = Field(default=8, ge=2, le=20)
    overhead: int = Field(default=3, ge=0, le=6)
    school: str = ""
    blocks: bool = False
    without: tuple[str, ...] = ()
    only: tuple[str, ...] = ()
    bests_kg: Bests = Field(default_factory=dict)
    plates: _PlatesFact = _PlatesFact()


def _compose(words: argparse.Namespace) -> dict[str, Any]:
    content = _content(words.own)
    if words.json is None:
        return _written(words.text, content)
    return _composed(words.json, content)


def _content(own: Path | None) -> Content:
    """The shipped content, with the coach's own from a drill file.

    Raises
    ------
    ContentError
        The file cannot be read, or something in it cannot stand beside what is shipped.
    """
    content = load_content()
    if own is None:
        return content
    library = read_library(read_text(own), own.name)
    known: dict[str, Helper] = {}
    for one in library.movements:
        said = why_not_own(one, content.qualities, known)
        if said:
            raise ContentError(f"{own.name}, “{one.name}”: {said}")
        known |= by_their_names([one.as_movement()])
    return content.with_own(library.drills, list(dict.fromkeys(known.values())))


def _written(text: str, content: Content) -> dict[str, Any]:
    read = read_written(text, content.own_movements)
    mended = None if read.legal else mend(read)
    priced = price_string(read.movements, read.reps, {}) if read.legal else None
    best = priced
    if best is None and mended is not None:
        best = price_string(mended.movements, mended.reps, {})
    lightest = price_string(read.movements, read.reps, {})
    weakest = lightest.parts[lightest.weakest]
    return {
        "schema": "keen-kettle-written-complex",
        "schema_version": 1,
        "legal": read.legal,
        "parts": list(read.names),
        "reps": list(read.reps),
        "joints": [one.says if one.legal else None for one in lightest.joints],
        "problems": [asdict(one) for one in read.problems],
        "mended": list(mended.names) if mended is not None else None,
        "mended_joints": [one.says for one in best.joints] if mended and best else None,
        "weakest": weakest.name,
        "weakest_limit": {"of": weakest.priced_by, "share": weakest.limit},
        "seconds": round(lightest.set_s),
    }


def _composed(path: Path, content: Content) -> dict[str, Any]:
    facts, teaching = read_facts(path, _WishFile), load_teaching()
    person = facts.athlete.person()
    known_checks(person, teaching)
    _can_be_wished(facts, content)
    wish = _wish(facts, person, content)
    made = compose(wish, teaching, content.qualities)
    return {
        "schema": "keen-kettle-complex",
        "schema_version": 1,
        "lift": made.lift,
        "lift_says": made.lift_says,
        "wanted": wish.wanted,
        "best": _complex(made.best, facts, person) if made.best is not None else None,
        "alternatives": [_complex(one, facts, person) for one in made.alternatives],
        "ruled_out": [asdict(one) for one in made.ruled_out],
        "untested": made.untested,
        "notes": made.notes,
        "why_none": made.why_none,
    }


def _can_be_wished(facts: _WishFile, content: Content) -> None:
    _known_faults(list(facts.faults), content)
    for name in facts.qualities:
        if name not in content.qualities:
            known = ", ".join(content.qualities)
            raise ContentError(f"There is no quality “{name}”. There are: {known}.")
    if facts.school and facts.school not in SCHOOLS:
        raise ContentError(f"There is no school “{facts.school}”. There are: {', '.join(SCHOOLS)}.")
    if facts.fewest > facts.most:
        raise ContentError("“fewest” is more than “most”: the complex would have no length.")


def _wish(facts: _WishFile, person: Person, content: Content) -> Wish:
    wanted = dict(wanted_from_faults(facts.faults, content.qualities))
    for name, weight in facts.qualities.items():
        wanted[name] = wanted.get(name, 0.0) + weight
    own = content.own_movements
    return Wish(
        parse_movement(facts.lift),
        wanted,
        person,
        *(facts.fewest, facts.most, facts.reps, facts.overhead, facts.school, facts.blocks),
        frozenset(parse_movement(name, own).name for name in facts.without),
        frozenset(parse_movement(name, own).name for name in facts.only),
        tuple(dict.fromkeys(own.values())),
    )


def _part(one: Part) -> dict[str, Any]:
    return {
        "name": one.name,
        "reps": one.reps,
        "trains": one.trains,
        "priced_by": one.priced_by,
        "limit": one.limit,
    }


def _complex(one: Complex, facts: _WishFile, person: Person) -> dict[str, Any]:
    movements = [part.movement for part in one.parts]
    load = load_complex(
        *(one, _bests(facts.bests_kg), facts.plates.plates()),
        trained=facts.trained,
        beginner=person.beginner,
        bar=movements[0].implement == "barbell",
    )
    return {
        "text": one.says,
        "school": one.school,
        "parts": [_part(part) for part in one.parts],
        "joints": [joint.says for joint in one.joints],
        "covers": one.covers,
        "misses": one.misses,
        "value": one.value,
        "moves": one.moves,
        "difficulty": one.difficulty,
        "reps": one.reps,
        "seconds": round(one.set_s),
        "weakest": one.parts[load.weakest].name,
        "load": {
            **(_loading(load.loading) if load.loading else {"kg": None, "per_side_kg": None}),
            "share_of_weakest": round(load.share, 3) if load.share is not None else None,
            "why_not": load.why_not,
        },
        "versions": complex_versions(one, movements),
    }
