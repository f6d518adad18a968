"""Complexes: movements strung together without putting the load down, found, read and mended."""

from keen_kettle.core.prescribe.complexes.compose import (
    Complex,
    Composed,
    Part,
    RuledOut,
    Wish,
    compose,
    joints_of,
    obstacles_with,
    price_string,
    wanted_from_faults,
)
from keen_kettle.core.prescribe.complexes.joints import Act, Joint, State, joint, states_of
from keen_kettle.core.prescribe.complexes.library import (
    SCHOOLS,
    Member,
    library,
    member_of,
    qualities_of,
)
from keen_kettle.core.prescribe.complexes.own import why_not_own
from keen_kettle.core.prescribe.complexes.shares import share_of
from keen_kettle.core.prescribe.complexes.written import (
    Problem,
    Written,
    mend,
    problems_of,
    read_part,
    read_written,
)

__all__ = [
    "SCHOOLS",
    "Act",
    "Complex",
    "Composed",
    "Joint",
    "Member",
    "Part",
    "Problem",
    "RuledOut",
    "State",
    "Wish",
    "Written",
    "compose",
    "joint",
    "joints_of",
    "library",
    "member_of",
    "mend",
    "obstacles_with",
    "price_string",
    "problems_of",
    "qualities_of",
    "read_part",
    "read_written",
    "share_of",
    "states_of",
    "wanted_from_faults",
    "why_not_own",
]
