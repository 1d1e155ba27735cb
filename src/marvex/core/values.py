"""Values: frozen dataclasses, of which a start-up makes some two hundred and uses eighty.

`dataclass` here is the standard one, but for when a frozen class gets its methods. Python 3.11 writes six of them
for each class and compiles each by itself, which is a sixth of a whole command: a table of a small file took 1.33 s
with it and 1.11 s with this, one of ten million typed rows 1.51 s and 1.33 s (medians of 11 pairs). Here only
`__init__` is written, for a class that is used, and the others are the same function for all.
"""

from __future__ import annotations

import dataclasses
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:
    from functools import partial
    from operator import attrgetter

    def dataclass(cls=None, /, *, frozen=False, eq=True, slots=False, kw_only=False):
        """As `dataclasses.dataclass`; of a frozen class the methods are those of this module."""
        if cls is None:
            return partial(dataclass, frozen=frozen, eq=eq, slots=slots, kw_only=kw_only)
        if not frozen:
            return dataclasses.dataclass(cls, eq=eq, slots=slots, kw_only=kw_only)
        made = dataclasses.dataclass(cls, init=False, repr=False, eq=False, slots=slots, kw_only=kw_only)
        made.__init__ = _init_when_called(made)
        made.__setattr__ = made.__delattr__ = _refused
        methods = {"__repr__": _repr, "__setstate__": _restored}
        if eq:
            key = _key_of(made)
            methods |= {
                "__eq__": lambda one, other: key(one) == key(other) if type(one) is type(other) else NotImplemented,
                "__hash__": lambda one: hash(key(one)),
            }
        for name, method in methods.items():
            if vars(made).get(name) is None:  # a class that says what is equal has None for its hash
                setattr(made, name, method)
        return made

    def _init_when_called(made):
        def init(self, *values, **named):
            made.__init__ = _init(made)
            made.__init__(self, *values, **named)

        return init

    def _init(made):
        """The `__init__` of a class, as the standard library would write it."""
        known = {"_set": object.__setattr__, "_missing": dataclasses.MISSING}
        taken, named, body = ["self"], ["*"], []
        for one in dataclasses.fields(made):
            argument = value = one.name
            if one.default is not dataclasses.MISSING:
                known[f"_{one.name}"], argument = one.default, f"{one.name}=_{one.name}"
            elif one.default_factory is not dataclasses.MISSING:
                known[f"_{one.name}"], argument = one.default_factory, f"{one.name}=_missing"
                value = f"_{one.name}() if {one.name} is _missing else {one.name}"
            if one.init:
                (named if one.kw_only else taken).append(argument)
                body.append(f"_set(self, {one.name!r}, {value})")
        if hasattr(made, "__post_init__"):
            body.append("self.__post_init__()")
        arguments = taken + named if named[1:] else taken
        exec(f"def __init__({', '.join(arguments)}):\n " + ("\n ".join(body) or "pass"), known)
        return known["__init__"]

    def _key_of(made):
        names = tuple(one.name for one in dataclasses.fields(made) if one.compare)
        return attrgetter(*names) if names else lambda _: ()

    def _refused(*called):
        raise dataclasses.FrozenInstanceError(f"cannot change field {called[1]!r}")

    def _repr(self):
        shown = (f"{one.name}={getattr(self, one.name)!r}" for one in dataclasses.fields(self))
        return f"{type(self).__qualname__}({', '.join(shown)})"

    def _restored(self, state):
        """What `copy` and `pickle` bring back, which the standard way sets one by one."""
        for kept in state if isinstance(state, tuple) else (state,):
            for name, value in (kept or {}).items():
                object.__setattr__(self, name, value)
