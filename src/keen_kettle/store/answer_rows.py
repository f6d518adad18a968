"""A clip's answer as bytes: landmarks, measures and findings, each in its own type again when read."""

import base64
import json
import zlib
from enum import Enum
from functools import lru_cache
from typing import Any, get_args, get_origin

import numpy as np
from cattrs import Converter
from cattrs.errors import BaseValidationError
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn, override

from keen_kettle.core.analysis import Answer
from keen_kettle.core.motion import BodyMotion

__all__ = ["pack_answer", "unpack_answer"]


def pack_answer(answer: Answer) -> bytes:
    """An answer as compressed JSON."""
    written = json.dumps(_converter().unstructure(answer), separators=(",", ":"))
    return zlib.compress(written.encode())


def unpack_answer(data: bytes) -> Answer | None:
    """The answer from its bytes; None where they are damaged (it can be made again)."""
    try:
        return _converter().structure(json.loads(zlib.decompress(data)), Answer)
    except (zlib.error, ValueError, KeyError, TypeError, BaseValidationError):
        return None


@lru_cache
def _converter() -> Converter:
    """Arrays go as their bytes; whatever else there is, by the types of its fields."""
    made = Converter()
    made.register_unstructure_hook_func(_is_array, _array_out)
    made.register_structure_hook_func(_is_array, lambda value, _type: _array_in(value))
    made.register_unstructure_hook(np.generic, lambda value: value.item())
    made.register_unstructure_hook(Enum, lambda value: value.value)
    made.register_unstructure_hook_func(_by_pairs, lambda value: list(value.items()))
    made.register_structure_hook_func(
        _by_pairs,
        lambda value, kind: {
            tuple(key): made.structure(one, get_args(kind)[1]) for key, one in value
        },
    )
    forget = override(omit=True)  # what it has worked out from itself
    made.register_unstructure_hook(
        BodyMotion, make_dict_unstructure_fn(BodyMotion, made, _kept=forget)
    )
    made.register_structure_hook(BodyMotion, make_dict_structure_fn(BodyMotion, made, _kept=forget))
    return made


def _is_array(kind: Any) -> bool:
    return kind is np.ndarray or get_origin(kind) is np.ndarray


def _by_pairs(kind: Any) -> bool:
    """A dict that is keyed by pairs, which JSON does not have."""
    return get_origin(kind) is dict and get_origin(get_args(kind)[0]) is tuple


def _array_out(values: np.ndarray[Any, Any]) -> dict[str, Any]:
    data = base64.b64encode(np.ascontiguousarray(values).tobytes()).decode()
    return {"dtype": str(values.dtype), "shape": values.shape, "data": data}


def _array_in(written: dict[str, Any]) -> np.ndarray[Any, Any]:
    flat = np.frombuffer(base64.b64decode(written["data"]), written["dtype"])
    return flat.reshape(written["shape"]).copy()
