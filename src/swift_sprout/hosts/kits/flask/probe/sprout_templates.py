"""What the application's templates ask for: each is read as the application itself does."""

import os
import re
import threading

from sprout_inside import one_letter_off

ENDINGS = (".html", ".htm", ".xml", ".txt")
#  what a template says of another one by its name: the name, and the rest of the tag
DRAWS = re.compile(r"""\{%-?\s*(?:extends|include|import|from)\s+["']([^"']+)["']([^%]*)%\}""")
LINKS = re.compile(r"""url_for\(\s*["']([^"']*)["']""")
BLOCKS = re.compile(r"\{%-?\s*block\s+(\w+)")
EXTENDS = re.compile(r"""\{%-?\s*extends\s+["']([^"']+)["']\s*-?%\}""")
LEAST_LETTERS = 4  # of shorter names many differ by one letter and mean something else
HERE = threading.local()


class Templates:
    """The templates of an application in some folders.

    folders    -- by module where its templates may lie; those of the application itself under an empty name
    blueprints -- the module of each blueprint
    """

    def __init__(self, app, folders, blueprints):
        self.app, self.folders, self.blueprints = app, folders, blueprints
        self.layouts = {}  # by name: its blocks, and what it extends

    def wrong(self):
        """Return what is wrong with them, each with module, file and line."""
        found, seen = [], set()
        for module, folder in sorted(self.folders.items(), key=lambda one: -len(one[1])):  # those that lie deeper first
            for path, name in self.files(folder):
                if path not in seen:
                    seen.add(path)
                    found += [{"module": module, "file": path, **one} for one in self.wrong_in(path, name, module)]
        return found

    def files(self, folder):
        """Yield the templates below a folder, each with the name that the application knows it by."""
        for where, folders, names in os.walk(folder):
            folders[:] = sorted(one for one in folders if one[0] != "." and one != "node_modules")
            for name in sorted(names):
                path = os.path.join(where, name)
                if f"{os.sep}templates{os.sep}" in path and name.endswith(ENDINGS):
                    yield path, path.partition(f"{os.sep}templates{os.sep}")[2].replace(os.sep, "/")

    def wrong_in(self, path, name, module):
        """Yield what is wrong with one template; what is read here is there when its page is drawn."""
        from jinja2 import TemplateNotFound, TemplateSyntaxError

        try:
            with open(path, encoding="utf-8") as handle:
                source = handle.read()
            self.app.jinja_env.get_template(name)
        except TemplateSyntaxError as error:
            if error.filename in (None, path):
                yield {"line": error.lineno, "wrong": "syntax", "what": error.message or ""}
                return
        except TemplateNotFound:
            return  # of a folder that is none of the application's
        except (OSError, UnicodeError):
            return
        for found in DRAWS.finditer(source):
            if "ignore missing" not in found[2] and not self.has(found[1]):
                yield {"line": source.count("\n", 0, found.start()) + 1, "wrong": "template", "what": found[1]}
        if self.may_be_wrong(source, module):  # a syntax tree costs as much as all else that is done here
            tree = self.app.jinja_env.parse(source, None, path)
            yield from self.links(tree, module)
            yield from self.blocks(tree)

    def may_be_wrong(self, source, module):
        """False for a template whose links and blocks are all known by their words alone."""
        own = [name for name, package in self.blueprints.items() if package == module]
        for endpoint in LINKS.findall(source):
            full = own[0] + endpoint if endpoint.startswith(".") and own else endpoint
            if full not in self.app.view_functions or full.endswith("static"):
                return True
        extends = EXTENDS.search(source)
        known = self.known_in(extends[1]) if extends else None
        return extends is not None and (known is None or not set(BLOCKS.findall(source)) <= known)

    def known_in(self, name):
        """Return the blocks of a layout and of all above it; None where that cannot be told."""
        known, seen = set(), set()
        while name is not None and name not in seen:
            seen.add(name)
            if name not in self.layouts:
                self.layouts[name] = self.layout(name)
            if self.layouts[name] is None:
                return None
            blocks, name = self.layouts[name]
            known |= blocks
        return known if name is None else None

    def has(self, name):
        """True where the application has a template of a name."""
        from jinja2 import TemplateNotFound, TemplateSyntaxError

        try:
            self.app.jinja_env.get_template(name)
        except TemplateNotFound as error:
            return error.name != name
        except TemplateSyntaxError:
            return True  # told of that template itself
        return True

    def links(self, tree, module):
        """Yield the addresses that a template asks for by name and that no route has, and files that are not there.

        A name that begins with a dot is one of the blueprint that draws the template: of one of the module's own.
        """
        from jinja2 import nodes

        own = [name for name, package in self.blueprints.items() if package == module]
        for call in tree.find_all(nodes.Call):
            named = call.args[0] if call.args else None
            if not (
                isinstance(call.node, nodes.Name) and call.node.name == "url_for" and isinstance(named, nodes.Const)
            ):
                continue
            endpoint = named.value
            if not isinstance(endpoint, str) or (endpoint.startswith(".") and not own):
                continue
            if endpoint.startswith("."):
                there = [name + endpoint for name in own if name + endpoint in self.app.view_functions]
                endpoint = there[0] if there else own[0] + endpoint
            if endpoint not in self.app.view_functions:
                yield {"line": call.lineno, "wrong": "endpoint", "what": endpoint}
            elif endpoint.rpartition(".")[2] == "static":
                owner = self.app.blueprints.get(endpoint.rpartition(".")[0], self.app)
                files = [one.value for one in call.kwargs if one.key == "filename"]
                for file in files:
                    if isinstance(file, nodes.Const) and owner.static_folder:
                        if not os.path.exists(os.path.join(owner.static_folder, str(file.value))):
                            yield {"line": call.lineno, "wrong": "static", "what": str(file.value)}

    def blocks(self, tree):
        """Yield the blocks that a template fills and that none of its layouts has: nothing of them is drawn."""
        from jinja2 import nodes

        layout = layout_of(tree)
        known = self.known_in(layout) if isinstance(layout, str) else None
        for block in tree.body if known is not None else ():
            if isinstance(block, nodes.Block) and block.name not in known:
                yield {"line": block.lineno, "wrong": "block", "what": block.name, "among": sorted(known)}

    def layout(self, name):
        """Return the blocks of a template, and the name of what it extends; None where that cannot be told."""
        from jinja2 import TemplateError

        env = self.app.jinja_env
        try:
            source, _, _ = env.loader.get_source(env, name)
        except (TemplateError, OSError, UnicodeError):
            return None
        extends = EXTENDS.search(source)
        if extends is None and "extends" in source:
            return None
        return set(BLOCKS.findall(source)), extends[1] if extends else None


def layout_of(tree):
    """Return the name of the template that one extends; None for none, and something else where that is worked out."""
    from jinja2 import nodes

    extends = next(tree.find_all(nodes.Extends), None)
    if extends is None:
        return None
    return extends.template.value if isinstance(extends.template, nodes.Const) else extends


def note_missing(app, missing):
    """From now on note in ``missing``, by address, what templates show and are not given where a near name is there."""
    from flask import before_render_template, request
    from jinja2.utils import missing as nothing

    def given(_sender, template, context, **_):
        HERE.given = set(context) | set(app.jinja_env.globals)

    def note(undefined):
        held, name = undefined._undefined_obj, undefined._undefined_name
        plain = not isinstance(name, str) or len(name) < LEAST_LETTERS
        if plain or (isinstance(held, dict) and not held):
            return
        near = sorted(one for one in there_in(held) if isinstance(one, str) and one_letter_off(name, one))
        of_words = {f"{name}s", name.removesuffix("s")} if held is nothing else set()
        if near and not of_words & set(near):
            missing.setdefault(request.path, []).append(
                {"name": name, "near": near[0], "of": "" if held is nothing else type(held).__name__}
            )

    def noted(undefined):
        try:
            note(undefined)
        except Exception:  # what only looks on changes nothing of the page
            pass

    class Noted(app.jinja_env.undefined):
        __slots__ = ()

        def __str__(self):
            noted(self)
            return super().__str__()

        def __iter__(self):
            noted(self)
            return super().__iter__()

        def __len__(self):
            noted(self)
            return super().__len__()

    before_render_template.connect(given, app, weak=False)
    app.jinja_env.undefined = Noted


def there_in(held):
    """Return the names that there are where one was looked for."""
    from jinja2.utils import missing

    if held is missing:
        return getattr(HERE, "given", set())
    try:
        return set(held.keys()) if hasattr(held, "keys") else {one for one in dir(held) if one[0] != "_"}
    except Exception:
        return set()  # of an object that does not tell what it has; the page goes on as it would
