"""The errors that are shown to people, in one small tree.

ProductError says what is wrong and what to do about it ├── NotFound it does not exist, or you may not see it ├── NotAllowed
you may see it, but not change it ├── Invalid a request that makes no sense; `field` names the part ├── Conflict someone
else changed the same; `fields` name what ├── Busy too many requests are waiting; nothing is wrong ├── TooMany done too
often; the request itself is fine └── FileRefused a file that cannot be loaded; `problems` say where
"""

from dataclasses import dataclass, field
from typing import Any


class ProductError(Exception):
    def __init__(self, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy

    def __reduce__(self) -> tuple[Any, ...]:
        # Lets errors of every kind survive pickling between processes.
        return _again, (type(self), self.args, self.__dict__)


def _again(kind: type[ProductError], args: tuple[Any, ...], current: dict[str, Any]) -> ProductError:
    error = kind.__new__(kind, *args)
    error.__dict__.update(current)
    return error


class NotFound(ProductError):
    pass


class NotAllowed(ProductError):
    pass


class Invalid(ProductError):
    def __init__(self, message: str, remedy: str = "", field: str = "") -> None:
        super().__init__(message, remedy)
        self.field = field


class Busy(ProductError):
    pass


class TooMany(ProductError):
    pass


class Conflict(ProductError):
    def __init__(self, message: str, remedy: str, fields: list[str]) -> None:
        super().__init__(message, remedy)
        self.fields = fields


@dataclass(frozen=True)
class Problem:
    """A problem at one place of a file. `line` counts from 1 with the header; `column` is its name in the file."""

    line: int | None
    column: str
    value: str
    message: str
    remedy: str

    def __str__(self) -> str:
        place = f"line {self.line}" if self.line else "the file"
        column = f", column “{self.column}”" if self.column else ""
        value = f" (“{self.value}”)" if self.value else ""
        return f"{place}{column}: {self.message}{value}. {self.remedy}"


@dataclass(frozen=True)
class Refusals:
    """The problems of a file: the first ones, and how many there are of each kind."""

    first: list[Problem] = field(default_factory=list)
    counts: dict[str, int] = field(default_factory=dict)
    rows: int = 0


class FileRefused(ProductError):
    def __init__(self, name: str, refusals: Refusals) -> None:
        count = refusals.rows or len(refusals.first)
        super().__init__(
            f"{name} was refused; nothing was loaded: {count:,} {'rows have' if count != 1 else 'row has'} a problem."
            if refusals.rows
            else f"{name} was refused; nothing was loaded."
        )
        self.refusals = refusals
