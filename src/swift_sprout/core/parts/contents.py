"""What a module brings beside code: settings, sample data, translations and assets."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, fits, parse_field, spell_field, value_remedy
from ..nearest import did_you_mean, nearest
from .commerce import product_kind, products_against
from .kinds import Contradiction, Kind, no_record
from .lines import read_line

if TYPE_CHECKING:
    from ..brief import Brief
    from .records import Record

#  types whose values are no plain text
NOT_PLAIN = ("file", "image", "document", "content")
NOT_SAID_IN_ROWS = ("uuid", "json", "many", "duration", *NOT_PLAIN)
_LANGUAGE = re.compile(r"[a-z]{2,3}(-[a-z0-9]{2,8})*\Z")
_ASSET = re.compile(r"[a-z0-9][a-z0-9_-]*\.(css|js|svg)\Z")


class Setting(NamedTuple):
    """A value that an administrator changes without code; said as a field, with a default."""

    field: Field

    @property
    def key(self) -> str:
        """What tells it from other settings."""
        return self.field.name


class Sample(NamedTuple):
    """Rows to begin with; ``by`` is the field by which a row is known again, so that loading twice makes no doubles.

    ``record`` names a record or a kind of product. A relation's value is that of the target's own ``by`` field.
    """

    record: str
    by: str
    rows: tuple[tuple[tuple[str, str], ...], ...]

    @property
    def key(self) -> str:
        """What tells it from other sample data."""
        return self.record


class Translation(NamedTuple):
    """A language, as BCP 47 spells it in lower case, and what texts of the module are in it."""

    language: str
    texts: tuple[tuple[str, str], ...] = ()

    @property
    def key(self) -> str:
        """What tells it from other translations."""
        return self.language


class Asset(NamedTuple):
    """A file that the module's pages load: a style sheet, a script or a picture."""

    file: str

    @property
    def key(self) -> str:
        """What tells it from other assets."""
        return self.file

    @property
    def sort(self) -> str:
        """Its ending: ``css``, ``js`` or ``svg``."""
        return self.file.rpartition(".")[2]


def _make_setting(entry: dict[str, Any]) -> Setting:
    field = parse_field(entry["field"])
    if field.is_relation or field.type in NOT_PLAIN:
        raise WrongUse("setting-type", f"The setting {field.name!r} cannot be of that type.", "Choose a plain type.")
    if field.unique:
        raise WrongUse("setting-type", f"The setting {field.name!r} is there once anyway.", "Leave out unique.")
    if not field.optional and field.default is None and field.type != "yes/no":
        raise WrongUse(
            "setting-default", f"The setting {field.name!r} has no default.", "Say default …, or make it optional."
        )
    return Setting(field)


def _make_sample(entry: dict[str, Any]) -> Sample:
    rows = entry.get("rows", [])
    keys = {key for row in rows for key in row}
    return Sample(
        entry["record"],
        entry.get("by", ""),
        tuple(tuple((key, _text(row[key])) for key in row) for row in rows) if keys else (),
    )


def _text(value: Any) -> str:
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


def sample_key(sample: Sample, record: Record) -> str:
    """Return the field by which rows are known again: the one said, the first unique one, or the first text."""
    unique = next((field.name for field in record.fields if field.unique), "")
    return sample.by or unique or record.title_field.name


def _sample_data(sample: Sample) -> dict[str, Any]:
    data: dict[str, Any] = {"record": sample.record}
    if sample.by:
        data["by"] = sample.by
    return data | {"rows": [dict(row) for row in sample.rows]}


def _sample_against(sample: Sample, brief: Brief) -> Iterator[Contradiction]:
    kind = product_kind(brief, sample.record)
    if kind is not None:
        yield from products_against(sample, kind)
        return
    yield from no_record(brief, "record", sample.record, "sample data")
    record = brief.record(sample.record)
    if record is None:
        return
    names = [field.name for field in record.fields]
    if sample.by and sample.by not in names:
        yield Contradiction("by", f"{sample.by!r} is no field of {record.name.title}", did_you_mean(sample.by, names))
        return
    by = sample_key(sample, record)
    seen: set[str] = set()
    for number, row in enumerate(sample.rows, 1):
        values = dict(row)
        #  a misspelled name is told once, as what it is
        meant = {nearest(name, names) for name in values if name not in names}
        if by not in values and by not in meant:
            yield Contradiction(
                "rows", f"row {number} of {sample.record} has no {by!r}", f"Add {by}: the row is known by it."
            )
        elif by in values and values[by] in seen:
            yield Contradiction("rows", f"two rows of {sample.record} have the {by} {values[by]!r}", "Change one.")
        seen.add(values.get(by, ""))
        for field in record.fields:
            needed = not field.optional and field.default is None and field.type not in ("many", "yes/no")
            if needed and field.name not in values and field.name != by and field.name not in meant:
                yield Contradiction(
                    "rows", f"row {number} of {sample.record} has no {field.name!r}", "Add a value for it."
                )
        for name, value in row:
            yield from _value_against(sample, number, record, name, value)


def _value_against(sample: Sample, number: int, record: Record, name: str, value: str) -> Iterator[Contradiction]:
    field = record.field(name)
    if field is None:
        known = [one.name for one in record.fields]
        yield Contradiction(
            "rows", f"row {number} of {sample.record} has the unknown field {name!r}", did_you_mean(name, known)
        )
    elif field.type in NOT_SAID_IN_ROWS or field.target == "user" or "." in field.target:
        yield Contradiction(
            "rows", f"row {number}: sample data cannot hold {name!r}, of type {field.type}", "Leave it out."
        )
    elif not field.is_relation and not fits(field, value):
        yield Contradiction(
            "rows", f"row {number}: {name} of type {field.type} cannot be {value!r}", value_remedy(field)
        )


def _make_translation(entry: dict[str, Any]) -> Translation:
    language = entry["language"].strip().lower().replace("_", "-")
    if not _LANGUAGE.match(language):
        raise WrongUse("translation-language", f"{language!r} is no language code.", "Write it as de, fr or pt-br.")
    return Translation(language, tuple(sorted(entry.get("texts", {}).items())))


def _translation_data(translation: Translation) -> dict[str, Any]:
    data: dict[str, Any] = {"language": translation.language}
    return data | ({"texts": dict(translation.texts)} if translation.texts else {})


def _make_asset(entry: dict[str, Any]) -> Asset:
    name = entry["file"].strip()
    if not _ASSET.match(name):
        raise WrongUse(
            "asset-name",
            f"An asset cannot be named {name!r}.",
            "Use lower-case letters and end it in .css, .js or .svg.",
        )
    return Asset(name)


_SETTING = {"field": "text"}
_SAMPLE = {"record": "text", "by": "text", "rows": "rows"}
_TRANSLATION = {"language": "text", "texts": "table"}
_ASSET_SHAPE = {"file": "text"}

MAKES = {
    "setting": Kind(
        "setting",
        _SETTING,
        ("field",),
        _make_setting,
        lambda setting: {"field": spell_field(setting.field)},
        lambda setting, brief: (),
        'season_open: yes/no, default yes, help "Whether berths can be booked"',
        lambda text: {"field": text},
    ),
    "sample": Kind(
        "sample",
        _SAMPLE,
        ("record",),
        _make_sample,
        _sample_data,
        _sample_against,
        'Berth, rows "name=A1; depth_m=4.5", rows "name=A2; depth_m=3"',
        lambda text: read_line("sample", "record", "", _SAMPLE, text),
    ),
    "translation": Kind(
        "translation",
        _TRANSLATION,
        ("language",),
        _make_translation,
        _translation_data,
        lambda translation, brief: (),
        "de, texts Berth=Liegeplatz",
        lambda text: read_line("translation", "language", "", _TRANSLATION, text),
    ),
    "asset": Kind(
        "asset",
        _ASSET_SHAPE,
        ("file",),
        _make_asset,
        lambda asset: {"file": asset.file},
        lambda asset, brief: (),
        "berths.css",
        lambda text: read_line("asset", "file", "", _ASSET_SHAPE, text),
    ),
}
