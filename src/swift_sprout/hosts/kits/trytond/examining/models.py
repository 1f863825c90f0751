"""All models of a host with their fields, as the files of its modules say, mixed as the host mixes them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..reading.code import CodeField
    from ..reading.shared import ModelClass
    from ..view import HostView

ALWAYS = frozenset({"id", "rec_name", "create_uid", "create_date", "write_uid", "write_date", "xml_id", "_timestamp"})
_PLAIN = frozenset(
    {
        "ModelSQL",
        "ModelView",
        "ModelStorage",
        "Model",
        "ModelSingleton",
        "Wizard",
        "Report",
        "Router",
        "Workflow",
        "object",
    }
)
_BRINGS = {"DeactivableMixin": ("active",)}


class KnownModel:
    """One model: its fields, the module that brings it; ``open`` when it may have more fields than its files show."""

    def __init__(self, owner: str) -> None:
        self.owner = owner
        self.fields: dict[str, CodeField | None] = dict.fromkeys(ALWAYS)
        self.methods: set[str] = set()
        self.open = False

    def mix(self, model: ModelClass) -> None:
        """Take in the fields of a class of this model."""
        self.fields.update(model.fields)
        self.methods |= model.methods
        for base in model.bases:
            name = base.rpartition(".")[2]
            if name in _BRINGS:
                self.fields.update(dict.fromkeys(_BRINGS[name]))
            elif name not in _PLAIN:
                self.open = True  # a mixin whose fields are said elsewhere, or made by a call
        self.open = self.open or model.called


class KnownModels:
    """The models of all modules that are there, by name.

    complete -- False where a class that is registered has a name that only the running host knows, and it was not
                asked: what no file brings may be there then
    """

    def __init__(self, view: HostView, brought: Mapping[str, Sequence[tuple[str, str]]] | None) -> None:
        self.by_name: dict[str, KnownModel] = {}
        self.wizards: set[str] = set()
        names = view.order + [name for name in view.by_name if name not in view.order]
        for name in names:
            for one in view.by_name[name].shared.models:
                if one.sort == "wizard":
                    self.wizards.add(one.model)
                if one.sort in ("wizard", "report", "router"):
                    continue
                known = self.by_name.get(one.model)
                if known is None:
                    known = self.by_name[one.model] = KnownModel(name if not one.extends else "")
                elif not known.owner and not one.extends:
                    known.owner = name
                known.mix(one)
        untold = [name for name in names if view.by_name[name].shared.names_untold]
        self.complete = all(name in (brought or {}) for name in untold)
        for name in untold:
            for sort, model in (brought or {}).get(name, ()):
                if sort == "wizard":
                    self.wizards.add(model)
                elif sort == "model" and model not in self.by_name:
                    self.by_name[model] = KnownModel(name)
        if untold:  # what the code names may be any model, and have fields that no file shows
            for known in self.by_name.values():
                known.open = True

    def owned(self) -> dict[str, KnownModel]:
        """Return the models that some module brings, not only extends."""
        return {name: known for name, known in self.by_name.items() if known.owner}


def known_models(view: HostView, brought: Mapping[str, Sequence[tuple[str, str]]] | None = None) -> KnownModels:
    """Return the models of a host, read once.

    brought -- what each module brought to the running host, as pairs of sort and name; None where it was not asked
    """
    if view.known_models is None:
        view.known_models = KnownModels(view, brought)
    return view.known_models
