"""What no page shows: templates that are not drawn, names that nothing reads, lists and searches of the administration.

All of it is asked of the running host: templates are compiled by its own engines, classes are those that it has loaded,
and the administration works on the copies of the databases.
"""

import inspect
import os
import sys

from sprout_inside import one_letter_off, told

ENDINGS = (".html", ".txt", ".xml")
MOST_TEMPLATES = 3000
VARYING = {inspect.Parameter.VAR_POSITIONAL, inspect.Parameter.VAR_KEYWORD}
LEAST_LETTERS = 5  # of shorter names many differ by one letter and mean something else


def broken_templates(root, modules, drawn):
    """Return the templates in the host's own folders that its engines cannot compile, each with line and error.

    drawn -- the files of those that were drawn, and so are well
    """
    from django.template import engines
    from django.template.backends.django import DjangoTemplates

    found = []
    for engine in engines.all():
        if not isinstance(engine, DjangoTemplates):
            continue
        seen = 0
        in_apps = "app_directories" in str(engine.engine.loaders)  # also where the settings name loaders themselves
        for folder in engine.engine.dirs + (_folders_of(modules) if in_apps else []):
            for path, name in _files_in(str(folder), root):
                seen += path not in drawn
                if path not in drawn and seen <= MOST_TEMPLATES:
                    found += _compiled(engine.engine, path, name)
    return found


def _folders_of(modules):
    from django.apps import apps

    return [os.path.join(one.path, "templates") for one in apps.get_app_configs() if one.name in modules]


def _files_in(folder, root):
    if not os.path.realpath(folder).startswith(os.path.realpath(root) + os.sep):
        return
    for where, folders, names in os.walk(folder):
        folders[:] = sorted(one for one in folders if one[0] != ".")
        for name in sorted(names):
            if name.endswith(ENDINGS):
                path = os.path.join(where, name)
                yield path, os.path.relpath(path, folder).replace(os.sep, "/")


def _compiled(engine, path, name):
    from django.template import TemplateDoesNotExist, TemplateSyntaxError
    from django.template.base import Origin, Template
    from django.template.loader_tags import ExtendsNode

    try:
        with open(path, encoding=engine.file_charset) as handle:
            text = handle.read()
        template = Template(text, Origin(path, name), name, engine)
        for node in template.nodelist.get_nodes_by_type(ExtendsNode):
            parent = node.parent_name
            space = str(parent.var).partition("/")[0]
            if "/" in name and space == name.partition("/")[0] and not _is_of_host(space):
                continue  # laid over one of a package that this host does without
            if isinstance(parent.var, str) and not parent.filters and parent.var != name:
                try:
                    engine.find_template(parent.var)
                except TemplateDoesNotExist:
                    line = getattr(getattr(node, "token", None), "lineno", 1)
                    return [{"file": path, "name": name, "line": line, "kind": "absent", "text": parent.var}]
                except Exception:
                    return []  # the parent is at fault, and is told by itself
    except TemplateSyntaxError as error:
        line = getattr(getattr(error, "token", None), "lineno", 0)
        return [{"file": path, "name": name, "line": line, "kind": "broken", "text": str(error).split("\n")[0]}]
    except Exception:
        return []  # told by the rules on files, or by the page that draws it
    return []


def _is_of_host(label):
    from django.apps import apps

    return any(one.label == label for one in apps.get_app_configs())


def misspelt_names(modules):
    """Return the names in classes of modules that nothing reads, and that are nearly those that a base class reads.

    Bases are those of the host and of packages: what they have by a name of one letter more, less or other.
    """
    inside = tuple(f"{name}." for name in modules)
    return [one for held in _classes_of(inside) for one in _misspelt_in(held, inside)]


def _classes_of(inside):
    """Yield the classes that loaded code of modules defines, but for their migrations."""
    for name, module in list(sys.modules.items()):
        if ".migrations" not in name and _lies_in(name, inside):
            yield from (one for one in list(vars(module).values()) if isinstance(one, type) and one.__module__ == name)


def _lies_in(dotted, inside):
    return f"{dotted}.".startswith(inside)


def _misspelt_in(held, inside):
    from django.db.models import Model

    foreign = [base for base in held.__mro__[1:] if base is not object and not _lies_in(base.__module__, inside)]
    known = {name: base for base in reversed(foreign) for name in vars(base)}
    if not known:
        return []
    misspelt = _of_fields(held)
    inherited = {name for base in held.__mro__[1:] for name in vars(base)}
    found = []
    for name, near in misspelt.items():
        told = {"module": held.__module__, "class": held.__qualname__, "name": name, "near": near}
        found.append({**told, "base": f"its field {near.removeprefix('clean_')}"})
    for name, value in vars(held).items():
        special = name.startswith("__")
        if name in inherited or len(name) < LEAST_LETTERS or (name.startswith("_") and not special):
            continue
        if special and (name in dir(type) or hasattr(object, name)):
            continue
        if issubclass(held, Model) and not callable(value):
            continue  # its fields are the module's own
        near = sorted(one for one in known if one.startswith("_") == special and one_letter_off(name, one))
        if near and not any(one in vars(held) for one in near):
            base = known[near[0]]
            found.append(
                {
                    "module": held.__module__,
                    "class": held.__qualname__,
                    "name": name,
                    "near": near[0],
                    "base": base.__qualname__,
                }
            )
    return found


def _of_fields(held):
    """Return the methods that would clean a field of a form, but for a letter; by name, with what they should be."""
    from django.forms import BaseForm

    if not issubclass(held, BaseForm):
        return {}
    fields = getattr(held, "base_fields", {})
    found = {}
    for name in vars(held):
        field = name.removeprefix("clean_")
        near = [one for one in fields if one_letter_off(field, one) and f"clean_{one}" not in vars(held)]
        if name != field and field not in fields and near:
            found[name] = f"clean_{near[0]}"
    return found


def differing_arguments(modules):
    """Return the methods that cannot be called as the host calls them, by the arguments of the base class."""
    inside = tuple(f"{name}." for name in modules)
    return [one for held in _classes_of(inside) for one in _differing_in(held, inside)]


def _differing_in(held, inside):
    from django.db.models import Model

    found = []
    for name, method in vars(held).items():
        if name.startswith("_") or not inspect.isfunction(method):
            continue
        base = next((one for one in held.__mro__[1:] if name in vars(one)), None)
        theirs = vars(base)[name] if base is not None else None
        if not inspect.isfunction(theirs) or _lies_in(base.__module__, inside):
            continue
        own, other = (list(inspect.signature(one).parameters.values()) for one in (method, theirs))
        kinds = {one.kind for one in own}
        creates = issubclass(held, Model) and name == "save"
        if creates and inspect.Parameter.VAR_KEYWORD not in kinds and "force_insert" not in {one.name for one in own}:
            wanted = "objects.create() passes force_insert and using"
        elif kinds.isdisjoint(VARYING) and len(_by_place(own)) < len(_needed(other)):
            wanted = f"it is called with {', '.join(one.name for one in _needed(other)[1:])}"
        else:
            continue
        told = {"module": held.__module__, "class": held.__qualname__, "name": name, "base": base.__qualname__}
        found.append({**told, "own": f"({', '.join(map(str, own))})", "wanted": wanted})
    return found


def _by_place(parameters):
    return [one for one in parameters if one.kind in (one.POSITIONAL_ONLY, one.POSITIONAL_OR_KEYWORD)]


def _needed(parameters):
    return [one for one in _by_place(parameters) if one.default is one.empty]


def administration(root, modules, harmless):
    """Return what breaks where the administration lists and searches the records of modules, on copies only.

    harmless -- the modules whose code does nothing that cannot be taken back: only their actions are done
    """
    from django.apps import apps

    if not apps.is_installed("django.contrib.admin") or not apps.is_installed("django.contrib.auth"):
        return []
    from django.contrib import admin
    from django.contrib.auth import get_user_model
    from django.db import DatabaseError
    from django.test import RequestFactory

    def is_own_form(screen):
        """True where the form of a record is made by code, and not only of what the host's own checks look at."""
        named = vars(type(screen))
        code = [name for name, one in named.items() if callable(one) and hasattr(admin.ModelAdmin, name)]
        return bool(code or {"form", "inlines", "readonly_fields", "fieldsets", "fields"} & set(named))

    labels = {one.label for one in apps.get_app_configs() if one.name in modules}
    request = RequestFactory().get("/")
    request.user = get_user_model()(is_active=True)
    for flag in ("is_staff", "is_superuser"):
        if hasattr(request.user, flag):
            setattr(request.user, flag, True)
    furnish(request)
    found = []
    for site in list(admin.sites.all_sites):
        for model, screen in list(site._registry.items()):
            if model._meta.app_label not in labels:
                continue
            for what, ask in _ASKED:
                if ask is _opened and not is_own_form(screen):
                    continue
                if ask is _acted_on and not any(_lies_in(type(screen).__module__, (f"{one}.",)) for one in harmless):
                    continue
                try:
                    ask(screen, request)
                except DatabaseError:
                    continue  # its table is not there, which is told by itself
                except Exception as error:
                    found.append(
                        {
                            "what": what,
                            "record": model.__name__,
                            "screen": type(screen).__name__,
                            "module": type(screen).__module__,
                            "error": told(error, root),
                        }
                    )
    return found


def furnish(request):
    """Give a request what the host's middleware gives it: a session, and room for messages."""
    from django.contrib.messages.storage.cookie import CookieStorage
    from django.contrib.sessions.backends.base import SessionBase

    request.session = SessionBase()
    request._messages = CookieStorage(request)


def _searched(screen, request):
    if screen.get_search_fields(request):
        rows, _ = screen.get_search_results(request, screen.get_queryset(request), "sprout")
        rows.exists()


def _listed(screen, request):
    from django.contrib.admin.utils import lookup_field
    from django.core.exceptions import ObjectDoesNotExist

    row = screen.get_queryset(request).first()
    for name in screen.get_list_display(request):
        if name == "action_checkbox":
            continue
        try:
            lookup_field(name, row if row is not None else screen.model(), screen)
        except ObjectDoesNotExist:
            continue  # the host itself shows a dash there
        except Exception as error:
            if row is not None or _lacks(error, screen.model):
                raise


def _sorted(screen, request):
    """Sort the records by each column that says what it is sorted by."""
    from django.db.models import F

    for name in screen.get_list_display(request):
        column = getattr(screen, name, None) if isinstance(name, str) else name
        order = getattr(column, "admin_order_field", None)
        if isinstance(order, (str, F)):
            screen.get_queryset(request).order_by(order).first()


def _acted_on(screen, request):
    """Do what is done with chosen records, with none of them: what is named must be there, and ask for what is."""
    for name in screen.actions or ():
        action = screen.get_action(name)
        if action is None:
            raise AttributeError(f"there is no action {name}")
        if not callable(name):
            action[0](screen, request, screen.get_queryset(request).none())


def _opened(screen, request):
    """Make the form of one record, or of a new one, as its page would, with the records that stand below it."""
    row = screen.get_queryset(request).first()
    for ask in (screen.has_view_permission, screen.has_change_permission, screen.has_delete_permission):
        ask(request, row)
    kind = screen.get_form(request, row, change=row is not None)
    form = kind(instance=row) if row is not None else kind()
    str(form)
    screen.get_fieldsets(request, row)
    screen.get_prepopulated_fields(request, row)
    for kind, _ in screen.get_formsets_with_inlines(request, row):
        kind(instance=row if row is not None else screen.model())


_ASKED = (
    ("searched", _searched),
    ("listed", _listed),
    ("sorted", _sorted),
    ("changed by actions", _acted_on),
    ("opened", _opened),
)


def _lacks(error, model):
    """True for an error that says that records have no such attribute: it needs no row to be sure of that."""
    held = getattr(error, "obj", None)
    return isinstance(error, AttributeError) and isinstance(held, model) and not hasattr(model, error.name)


def lacking_managers(modules):
    """Return what the code asks of the managers of records, by ``Record.objects``, and they do not have."""
    import ast

    from django.db.models import Model

    inside = tuple(f"{name}." for name in modules)
    found = []
    for name, module in list(sys.modules.items()):
        file = getattr(module, "__file__", None) or ""
        if ".migrations" in name or not _lies_in(name, inside) or not file.endswith(".py"):
            continue
        try:
            with open(file, "rb") as handle:
                tree = ast.parse(handle.read())
        except (OSError, SyntaxError, ValueError):
            continue
        for node in ast.walk(tree):
            manager = node.value if isinstance(node, ast.Attribute) else None
            if not isinstance(manager, ast.Attribute) or not isinstance(manager.value, ast.Name):
                continue
            record = getattr(module, manager.value.id, None)
            if manager.attr != "objects" or not (isinstance(record, type) and issubclass(record, Model)):
                continue
            held = getattr(record, "objects", None)
            if held is not None and not hasattr(held, node.attr):
                told = {"module": name, "file": file, "line": node.lineno, "record": record.__name__}
                known = [one for one in dir(held) if one_letter_off(node.attr, one)]
                found.append({**told, "name": node.attr, "near": known[:1]})
    return found


KEEPING = {"save", "save_base", "bulk_create", "update", "create", "update_or_create"}


def keeping_nothing(modules):
    """Return the records whose ``save`` does not hand on to that of the host: nothing of them is kept."""
    import dis

    from django.apps import apps

    inside = tuple(f"{name}." for name in modules)
    found = []
    for model in apps.get_models():
        save = vars(model).get("save")
        if not inspect.isfunction(save) or not _lies_in(model.__module__, inside):
            continue
        names = set(save.__code__.co_names)
        raises = any(one.opname.startswith("RAISE") for one in dis.get_instructions(save))
        called = [one for name in names if inspect.isfunction(one := getattr(model, name, None))]
        said = names.union(*(one.__code__.co_names for one in called if _lies_in(one.__module__, inside)))
        if names and not said & KEEPING and not raises and model._meta.managed:
            found.append({"module": model.__module__, "record": model.__name__, "line": save.__code__.co_firstlineno})
    return found


def options_of_nothing(modules):
    """Return what forms of records say about fields that they nearly have: labels, widgets, help."""
    from django.forms.models import BaseModelForm

    inside = tuple(f"{name}." for name in modules)
    found = []
    for held in _classes_of(inside):
        if not issubclass(held, BaseModelForm):
            continue
        for option in ("widgets", "labels", "help_texts", "error_messages", "field_classes"):
            for name in getattr(held._meta, option, None) or ():
                near = [one for one in held.base_fields if one_letter_off(str(name), one)]
                if name not in held.base_fields and near:
                    told = {"module": held.__module__, "form": held.__qualname__, "option": option}
                    found.append({**told, "name": str(name), "near": near[0]})
    return found
