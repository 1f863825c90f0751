"""Asks a running Django host about its modules, once for all of them, and serves it on loopback until let go.

Run by the host's interpreter in the host's folder. Reads JSON lines from standard input, first how to start, then, once
the host is up, which modules are meant:

    {"entry": "manage.py", "without": [], "without_urls": [], "scratch": "/tmp/…", "steps": ["pages", …]}
    {"modules": ["tide_board"]}

Writes JSON lines to its first output stream (see ``running/probe.py``); whatever the host prints goes to the error
stream. The host's databases are never opened for writing: an SQLite file is read once and copied to ``scratch``; on any
other database every request runs in a transaction that is rolled back.
"""

import functools
import json
import os
import re
import sys
import types
import uuid

from sprout_apart import copy_sqlite
from sprout_closer import (
    administration,
    broken_templates,
    differing_arguments,
    keeping_nothing,
    lacking_managers,
    misspelt_names,
    options_of_nothing,
)
from sprout_forms import Sending
from sprout_inside import Steps, absent_names, at_most, nobody_outside, say, secrets_in, told
from sprout_patterns import text_for
from sprout_reaching import reaches_out
from sprout_rows import LONGEST, MADE, fill, forget_rows, try_rows
from sprout_serving import Servers, unwrapped
from sprout_tables import columns_of_nothing

MANY_PAGES = 16  # for which a second server pays
MOST_HOST_PAGES = 12
UNDRAWN = "undrawn"  # beside the numbers of the requests
KEY = re.compile(r"pk|id|\w+_(?:pk|id)")  # names in addresses that stand for the key of a record
NO_PAGES = ("django.contrib.admin", "django.contrib.staticfiles", "django.views.static", "django.views.i18n")


class Ask(Steps):
    #  who holds just a permission is nothing else
    HOLDER = (("is_active", True),)
    BESIDE = ()  # but for rights that whoever is given another one has as well, on this kind of host
    #  what can be asked beside the pages, in copies of this process: at once, and when the addresses are loaded
    AT_ONCE = ("migrations", "rows", "rights")
    ASIDE = ("checks", "screens", "commands", "address_names", "broken_commands", "closer")

    def run(self):
        starting = ("entry", "settings", "databases", "setup")
        if all(self.step(name, getattr(self, name)) for name in starting):
            self.examine()
        self.finish()

    def examine(self):
        self.question.update(json.loads(sys.stdin.readline()))
        self.step("registry", self.registry)
        wanted = self.question["steps"]
        at_once = [name for name in self.AT_ONCE if name in wanted]
        aside = [name for name in self.ASIDE if name in wanted]
        if "pages" in wanted:
            first = self.in_copy(at_once)
            self.load_addresses()
            self.step("routes", self.routes)
            second = self.in_copy(aside)  # which has all that the addresses needed to be read
            self.begin_serving()
            self.step("server", self.server)
            say({"serving": self.answers})
            self.step("the steps done aside", lambda: first() and second())
        else:
            for name in (*at_once, *aside):
                self.step(name, getattr(self, name))
        if "person" in wanted:
            self.step("person", self.person)

    @property
    def scratch(self):
        """A folder for the files that something tried would keep."""
        return os.path.join(self.question["scratch"], "media")

    def load_addresses(self):
        """Load the table of addresses, which most of what follows rests on; why it fails, if it does, is told there."""
        from django.urls import get_resolver

        try:
            len(get_resolver().reverse_dict)
        except Exception:
            return

    def finish(self):
        say({"answers": self.answers})
        for line in sys.stdin:
            message = json.loads(line)
            wanted = message["ask"]
            self.question.update(message)
            self.step(wanted, getattr(self, wanted))
            say({wanted: self.answers.get(wanted) or {}})
        if "server" in self.answers:
            say({"log": {**self.servers.log(), UNDRAWN: self.undrawn()}})
        os._exit(0)

    # -- starting the host ---------------------------------------------------------------------------------------

    def entry(self):
        """Run the host's own entry script up to the point where it would take over."""
        sys.path[0] = self.root
        sys.argv = [self.question["entry"], "check"]
        import django

        try:
            self.run_entry(stand_in_for_management())
        except (ImportError, AttributeError):
            from django.core import management

            self.run_entry(management)
        return {
            "settings_module": os.environ.get("DJANGO_SETTINGS_MODULE"),
            "version": django.get_version(),
            "python": ".".join(str(number) for number in sys.version_info[:3]),
        }

    def run_entry(self, management):
        import runpy

        before = {name: sys.modules.get(name) for name in ("django.core.management",)}
        real = getattr(management, "execute_from_command_line", None)
        management.execute_from_command_line = lambda argv=None: None
        sys.modules["django.core.management"] = management
        try:
            runpy.run_path(os.path.join(self.root, self.question["entry"]), run_name="__main__")
        finally:
            management.execute_from_command_line = real
            for name, module in before.items():
                sys.modules.pop(name, None)
                if module is not None:
                    sys.modules[name] = module

    def settings(self):
        from django.conf import settings

        held = {name: getattr(settings, name, None) for name in dir(settings) if name.isupper()}
        self.answers["secrets"] = sorted(secrets_in(held))
        without = self.question.get("without") or []
        for name in self.question.get("without_urls") or []:
            stand_in = types.ModuleType(name)  # so that the other modules' addresses can still be read
            stand_in.urlpatterns = []
            stand_in.app_name = name.split(".")[-2]
            sys.modules[name] = stand_in
        if without:
            settings.INSTALLED_APPS = [app for app in settings.INSTALLED_APPS if app not in without]
        return {
            "installed": list(settings.INSTALLED_APPS),
            "root_urls": getattr(settings, "ROOT_URLCONF", None),
            "file": getattr(sys.modules.get(settings.SETTINGS_MODULE), "__file__", None),
            "debug": settings.DEBUG,
            "login": str(settings.LOGIN_URL),
        }

    def databases(self):
        """Put a copy in the place of every SQLite file, so that nothing is written to the host's own."""
        from django.conf import settings

        told_databases = {}
        scratch = self.question["scratch"]
        for alias, database in settings.DATABASES.items():
            engine = database.get("ENGINE", "")
            entry = {"engine": engine, "copied": False, "name": str(database.get("NAME", ""))}
            if engine.endswith("sqlite3"):
                name = str(database.get("NAME", ""))
                copy = os.path.join(scratch, f"{alias}.sqlite3")
                if self.question.get("copies"):
                    name = os.path.join(self.question["copies"], f"{alias}.sqlite3")
                if name != ":memory:" and "mode=memory" not in name:
                    entry["there"] = os.path.exists(name)
                    if entry["there"]:
                        copy_sqlite(name, copy)
                    database["NAME"] = copy
                entry["copied"] = True
            told_databases[alias] = entry
        settings.EMAIL_BACKEND = "django.core.mail.backends.locmem.EmailBackend"
        settings.SECURE_SSL_REDIRECT = False
        self.answers["refuses_all"] = not settings.DEBUG and not settings.ALLOWED_HOSTS
        settings.ALLOWED_HOSTS = [*settings.ALLOWED_HOSTS, "127.0.0.1"]
        for name, cache in list(settings.CACHES.items()):
            settings.CACHES[name] = {**cache, "BACKEND": "django.core.cache.backends.locmem.LocMemCache"}
            settings.CACHES[name].pop("OPTIONS", None)
        settings.MIDDLEWARE = [*settings.MIDDLEWARE, "sprout_serving.Witness"]
        return told_databases

    def setup(self):
        import django

        django.setup()
        return True

    # -- asking --------------------------------------------------------------------------------------------------

    def registry(self):
        from django.apps import apps

        return [
            {
                "name": config.name,
                "label": config.label,
                "title": str(config.verbose_name),
                "path": os.path.realpath(config.path),
                "config": f"{type(config).__module__}.{type(config).__name__}",
                "module_file": getattr(config.module, "__file__", None),
                "models": [
                    {
                        "name": model.__name__,
                        "module": model.__module__,
                        "table": model._meta.db_table,
                        "managed": model._meta.managed and not model._meta.proxy,
                        "title": str(model._meta.verbose_name),
                        "rights": rights_of(model._meta),
                    }
                    for model in config.get_models()
                ],
            }
            for config in apps.get_app_configs()
        ]

    def checks(self):
        from django.core import checks
        from django.utils import translation

        found = []
        screens = screens_made()
        with translation.override(None):
            for message in checks.run_checks():
                obj = screens.get(message.obj, message.obj) if isinstance(message.obj, type) else message.obj
                meta = getattr(obj, "_meta", None) or getattr(getattr(obj, "model", None), "_meta", None)
                owner = getattr(meta, "app_label", None) or ""
                module = obj if isinstance(obj, str) else getattr(obj, "__module__", None) or type(obj).__module__ or ""
                found.append(
                    {
                        "id": message.id or "",
                        "level": message.level,
                        "text": str(message.msg),
                        "hint": str(message.hint or ""),
                        "label": owner,
                        "module": module if isinstance(module, str) else "",
                        "object": str(obj)[:200] if obj is not None else "",
                    }
                )
        return found

    def migrations(self):
        from django.apps import apps
        from django.db import connection, router
        from django.db.migrations.autodetector import MigrationAutodetector
        from django.db.migrations.executor import MigrationExecutor
        from django.db.migrations.state import ProjectState
        from django.utils import translation

        with translation.override(None):
            executor = MigrationExecutor(connection)
            loader = executor.loader
            told_migrations = {
                "on_disk": sorted("{}.{}".format(*key) for key in loader.disk_migrations),
                "applied": sorted("{}.{}".format(*key) for key in loader.applied_migrations),
                "replaced": sorted(
                    "{}.{}".format(*key) for one in loader.disk_migrations.values() for key in one.replaces
                ),
                "unmigrated": sorted(loader.unmigrated_apps),
                "conflicts": {label: list(names) for label, names in loader.detect_conflicts().items()},
                "tables": connection.introspection.table_names(),
                "elsewhere": sorted(
                    model._meta.db_table for model in apps.get_models() if router.db_for_read(model) != "default"
                ),
            }
            if not told_migrations["conflicts"]:
                targets = loader.graph.leaf_nodes()
                plan = executor.migration_plan(targets)
                told_migrations["due"] = [f"{one.app_label}.{one.name}" for one, _ in plan]
            state = ProjectState.from_apps(apps)
            detector = MigrationAutodetector(loader.project_state(), state)
            changes = detector.changes(graph=loader.graph)
            told_migrations["drift"] = {
                label: [operation.describe() for one in found for operation in one.operations]
                for label, found in changes.items()
            }
        connection.close()
        return told_migrations

    def rows(self):
        """Count the rows of the asked modules' tables."""
        from django.apps import apps
        from django.db import connection

        counts = {}
        there = connection.introspection.table_names()
        for config in apps.get_app_configs():
            for model in config.get_models() if config.name in self.question["modules"] else ():
                if model._meta.db_table in there:
                    counts[model._meta.db_table] = model._base_manager.count()
        connection.close()
        return counts

    def rights(self):
        """Tell the groups and users of the host, with their rights on the asked modules' records."""
        from django.apps import apps

        if not apps.is_installed("django.contrib.auth"):
            return {}
        from django.contrib.auth import get_user_model
        from django.contrib.auth.models import Group, Permission
        from django.db import connection

        labels = [config.label for config in apps.get_app_configs() if config.name in self.question["modules"]]
        codenames = sorted(set(Permission.objects.values_list("codename", flat=True)))
        own = Permission.objects.filter(content_type__app_label__in=labels).select_related("content_type")
        spelled = {one.pk: f"{one.content_type.app_label}.{one.codename}" for one in own}
        groups = []
        for group in Group.objects.order_by("name").prefetch_related("permissions"):
            rights = [spelled[one.pk] for one in group.permissions.all() if one.pk in spelled]
            groups.append({"name": group.name, "rights": sorted(rights), "members": group.user_set.count()})
        users = []
        model = get_user_model()
        if hasattr(model, "user_permissions") and hasattr(model, "groups"):
            for user in model._default_manager.order_by("pk")[:200]:
                mine = [spelled[one.pk] for one in user.user_permissions.all() if one.pk in spelled]
                users.append(
                    {
                        "name": user.get_username(),
                        "active": user.is_active,
                        "staff": getattr(user, "is_staff", False),
                        "superuser": user.is_superuser,
                        "groups": sorted(group.name for group in user.groups.all()),
                        "rights": sorted(mine),
                    }
                )
        connection.close()
        return {"groups": groups, "users": users, "permissions": sorted(spelled.values()), "codenames": codenames}

    def people(self):
        """Make the people who will ask, in the copy only, and sign them in."""
        from django.apps import apps

        if not apps.is_installed("django.contrib.auth") or not apps.is_installed("django.contrib.sessions"):
            return {}
        if not self.answers["databases"].get("default", {}).get("copied"):
            return {}
        from django.contrib.auth import get_user_model
        from django.db import connection

        user_model = get_user_model()
        cookies = {}
        wanted = {
            "signed in": {"is_active": True},
            "staff": {"is_active": True, "is_staff": True},
            "superuser": {"is_active": True, "is_staff": True, "is_superuser": True},
        }
        wanted.update({f"holder of {one}": dict(self.HOLDER) for one in self.question.get("permissions", ())})
        for who, flags in wanted.items():
            values = {name: value for name, value in flags.items() if hasattr(user_model, name)}
            values[user_model.USERNAME_FIELD] = "sprout-probe-{}".format(who.replace(" ", "-"))
            user = user_model(**values)
            if hasattr(user, "set_unusable_password"):
                user.set_unusable_password()
            fill(user)
            user.save()
            if who.startswith("holder of "):
                for right in (who[len("holder of ") :], *self.BESIDE):
                    grant(user, right)
            cookies[who] = signed_in(user)
        connection.close()
        return cookies

    def screens(self):
        """Tell the address of every record's administration screen."""
        from django.contrib import admin
        from django.urls import NoReverseMatch, reverse

        found = {}
        for model in admin.site._registry:
            try:
                address = reverse(f"admin:{model._meta.app_label}_{model._meta.model_name}_changelist")
            except NoReverseMatch:
                continue
            found[f"{model._meta.app_label}.{model.__name__}"] = address
        return found

    def commands(self):
        """Tell which module each console command is taken from."""
        from django.core.management import get_commands

        return {name: str(owner) for name, owner in get_commands().items()}

    def person(self):
        """Tell what the person that the question is about is and holds, and sign them in, in the copy."""
        wanted = self.question["person"]
        if wanted == "visitor":
            return {"permissions": []}
        if wanted in ("signed in", "staff", "superuser"):
            cookies = self.people()
            flags = {"is_active": True, "is_staff": wanted != "signed in", "is_superuser": wanted == "superuser"}
            return {"cookie": cookies.get(wanted), "groups": [], "permissions": [], **flags}
        from django.contrib.auth import get_user_model
        from django.db import connection

        user_model = get_user_model()
        try:
            user = user_model._default_manager.get_by_natural_key(wanted)
        except user_model.DoesNotExist:
            names = user_model._default_manager.values_list(user_model.USERNAME_FIELD, flat=True)[:200]
            return {"unknown": True, "names": [str(name) for name in names]}
        told_person = {
            "groups": [str(group) for group in user.groups.all()] if hasattr(user, "groups") else [],
            "permissions": sorted(user.get_all_permissions()) if hasattr(user, "get_all_permissions") else [],
            "is_active": user.is_active,
            "is_staff": getattr(user, "is_staff", False),
            "is_superuser": getattr(user, "is_superuser", False),
            "cookie": signed_in(user),
        }
        connection.close()
        return told_person

    def routes(self):
        """Tell every address that leads to a controller of the asked modules, with a path that can be called."""
        from django.db import connection
        from django.urls import get_resolver

        found, of_host = [], []
        modules = {name: number for number, name in enumerate(self.question["modules"])}
        samples = Samples(self.answers["databases"].get("default", {}).get("copied", False))
        for route, pattern, namespaces in leaves(get_resolver(), (), ()):
            view = unwrapped(pattern.callback)
            module = getattr(view, "__module__", "") or ""
            owner = owner_of(module, modules)
            if owner is None:
                if len(of_host) < MOST_HOST_PAGES and is_page_of_host(route, pattern, namespaces, module):
                    of_host.append("/" + "".join(str(part) for part in route))
                continue
            entry = {
                "module": owner,
                "view": "{}.{}".format(module, getattr(view, "__qualname__", type(view).__name__)),
                "name": ":".join([*namespaces, pattern.name]) if pattern.name else "",
                "route": "/" + "".join(str(part) for part in route),
                "file": getattr(getattr(view, "__code__", None), "co_filename", None) or file_of(module),
                "line": line_of(view),
                "methods": sorted(
                    method.upper()
                    for method in getattr(view, "http_method_names", ["get"])
                    if isinstance(view, type) and hasattr(view, method)
                ),
            }
            try:
                entry["path"], entry["needs"] = samples.path(route, pattern, view)
                entry["guessed"], entry["made_up"] = samples.guessed, samples.made_up
            except Exception as error:
                entry["path"], entry["needs"] = None, f"{type(error).__name__}: {str(error)[:300]}"
            if entry["path"] is not None:
                entry["answers"] = self.resolved(entry["path"])
            found.append(entry)
        databases = self.answers["databases"]
        if "default" in databases and all(entry["copied"] for entry in databases.values()):
            self.step("tried", lambda: try_rows(modules, self.root, self.scratch))
        connection.close()
        self.answers["host_pages"] = of_host
        return found

    def forget_rows(self):
        """Take away the records that were made for the pages."""
        from django.db import connections

        forget_rows()
        connections.close_all()
        return {"done": True}

    def closer(self):
        """Tell what no page shows: names and arguments in classes, names of packages, the administration's screens."""
        asked = self.question["modules"]
        copied = all(entry["copied"] for entry in self.answers["databases"].values())
        screens = []  # they call code that may write
        if copied:
            with nobody_outside():
                screens = administration(self.root, asked, self.harmless())
        found = {
            "names": misspelt_names(asked),
            "arguments": differing_arguments(asked),
            "absent": absent_names(asked, self.root),
            "administration": screens,
            "managers": lacking_managers(asked),
            "unsaved": keeping_nothing(asked),
            "options": options_of_nothing(asked),
            "columns": columns_of_nothing(asked),
        }
        from django.db import connections

        connections.close_all()
        return found

    def forms(self):
        """Send the forms of some pages, on copies only; returns what is wrong with them."""
        if not all(entry["copied"] for entry in self.answers["databases"].values()):
            return {}
        modules = {name: number for number, name in enumerate(self.question["modules"])}
        owner = functools.partial(owner_of, modules=modules)
        sending = Sending(self.root, owner, self.harmless(), self.scratch)
        return {"wrong": sending.all(self.question["pages"])}

    def harmless(self):
        """Return the asked modules whose code reaches no files, programs or machines."""
        from django.apps import apps

        asked = set(self.question["modules"])
        return [one.name for one in apps.get_app_configs() if one.name in asked and not reaches_out(one.path)]

    def own_apps(self):
        """Return the names of the apps that lie in the host's own folder."""
        from django.apps import apps

        root = os.path.realpath(self.root) + os.sep
        own = [one for one in apps.get_app_configs() if os.path.realpath(one.path).startswith(root)]
        return [one.name for one in own if "site-packages" not in one.path]

    def all_is_harmless(self):
        """True where every database is a copy, and no code of the host's own reaches files, programs or machines."""
        from django.apps import apps

        own = set(self.own_apps())
        copied = all(entry["copied"] for entry in self.answers["databases"].values())
        return copied and not any(reaches_out(one.path) for one in apps.get_app_configs() if one.name in own)

    def undrawn(self):
        """Return what is wrong with templates that no page has drawn: those that one has were compiled for it."""
        drawn = {one["file"] for entry in self.servers.log().values() for one in entry["templates"]}
        try:
            return broken_templates(self.root, self.question["modules"], drawn)
        except Exception:
            return []  # an engine that cannot be made is told by the pages

    def address_names(self):
        """Return every name that the table of addresses knows, and what is loaded and set by then."""
        from django.conf import settings
        from django.urls import get_resolver

        found = set()

        def collect(resolver, above):
            found.update(above + name for name in resolver.reverse_dict if isinstance(name, str))
            for namespace, (_, inner) in resolver.namespace_dict.items():
                collect(inner, f"{above}{namespace}:")

        collect(get_resolver(), "")
        modules = {name: number for number, name in enumerate(self.question["modules"])}
        return {
            "redirects": redirects_to_nothing(),
            "names": sorted(found),
            "settings": [name for name in dir(settings) if name.isupper()],
            "loaded": sorted(name for name in sys.modules if owner_of(name, modules) is not None),
        }

    def broken_commands(self):
        """Return the console commands of the asked modules that cannot be loaded, each with its error."""
        from django.apps import apps
        from django.core.management import find_commands, load_command_class

        asked = set(self.question["modules"])
        found = []
        for config in apps.get_app_configs():
            for name in find_commands(os.path.join(config.path, "management")) if config.name in asked else ():
                try:
                    load_command_class(config.name, name)
                except BaseException as error:
                    if isinstance(error, KeyboardInterrupt):
                        raise
                    found.append({"module": config.name, "name": name, "error": told(error, self.root)})
        return found

    def resolved(self, path):
        from django.urls import Resolver404, resolve

        try:
            view = unwrapped(resolve(path).func)
        except Resolver404:
            return None
        return "{}.{}".format(getattr(view, "__module__", ""), getattr(view, "__qualname__", type(view).__name__))

    def server(self):
        """Serve the host on loopback; many pages by a copy of this process as well, on another core."""
        from django.core.servers.basehttp import get_internal_wsgi_application

        application = get_internal_wsgi_application()  # the one that the settings name, as the host's own server does
        copied = all(entry["copied"] for entry in self.answers["databases"].values())
        self.servers = Servers(application, self.root, roll_back=not copied)
        ports = [self.servers.start()]
        pages = sum(1 for route in self.answers.get("routes") or () if route["path"] is not None)
        if pages >= MANY_PAGES and knows_sessions_everywhere():
            ports.append(self.servers.start_in_copy())
        return {"port": ports[0], "ports": [port for port in ports if port]}


def knows_sessions_everywhere():
    """True when another process than the one that signed a person in knows it as well."""
    from django.conf import settings

    return settings.SESSION_ENGINE.rpartition(".")[2] in ("db", "cached_db", "signed_cookies", "file")


def signed_in(user):
    """Make a session for a user, in the copy, and return its cookie."""
    from importlib import import_module

    from django.conf import settings
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY

    session = import_module(settings.SESSION_ENGINE).SessionStore()
    session[SESSION_KEY] = str(user.pk)
    session[BACKEND_SESSION_KEY] = settings.AUTHENTICATION_BACKENDS[0]
    if hasattr(user, "get_session_auth_hash"):
        session[HASH_SESSION_KEY] = user.get_session_auth_hash()
    session.save()
    return f"{settings.SESSION_COOKIE_NAME}={session.session_key}"


def grant(user, permission):
    """Give a user just one permission, where it exists."""
    from django.contrib.auth.models import Permission

    label, _, codename = permission.partition(".")
    for found in Permission.objects.filter(content_type__app_label=label, codename=codename):
        user.user_permissions.add(found)


def stand_in_for_management():
    """Return a module in the place of ``django.core.management``, which costs much to import and is not needed."""
    return types.ModuleType("django.core.management")


def leaves(resolver, route, namespaces):
    """Yield (parts of the route, pattern, namespaces) of every pattern that ends in a controller."""
    for pattern in resolver.url_patterns:
        here = (*route, pattern.pattern)
        if hasattr(pattern, "url_patterns"):
            inner = (*namespaces, pattern.namespace) if pattern.namespace else namespaces
            yield from leaves(pattern, here, inner)
        else:
            yield here, pattern, namespaces


def is_page_of_host(route, pattern, namespaces, module):
    """True for an address of the host's own that has no parts that vary; those of the administration are none."""
    if namespaces or module.startswith(NO_PAGES) or getattr(pattern.callback, "admin_site", None) is not None:
        return False
    parts = [*route]
    plain = not any(part.converters or getattr(getattr(part, "regex", None), "groups", 0) for part in parts)
    methods = getattr(unwrapped(pattern.callback), "http_method_names", ["get"])
    return plain and "get" in methods and not any(letter in str(part) for part in parts for letter in "^$\\(*+?")


def rights_of(meta):
    """Return the permissions that a model brings, as ``label.codename``."""
    plain = [f"{verb}_{meta.model_name}" for verb in meta.default_permissions]
    named = [one[0] for one in meta.permissions if isinstance(one, (list, tuple)) and one]
    return [f"{meta.app_label}.{name}" for name in (*plain, *named)]


def owner_of(dotted, modules):
    """Return which of the asked modules a dotted name lies in, the first asked for of several; None for none."""
    found = []
    while dotted:
        if dotted in modules:
            found.append(dotted)
        dotted = dotted.rpartition(".")[0]
    return min(found, key=modules.get) if found else None


def file_of(module):
    return getattr(sys.modules.get(module), "__file__", None)


def line_of(view):
    import inspect

    code = getattr(view, "__code__", None)
    if code is not None:
        return code.co_firstlineno
    name = getattr(view, "__qualname__", "")
    line = class_lines(file_of(getattr(view, "__module__", ""))).get(name)
    if line is not None:
        return line
    try:
        return inspect.getsourcelines(view)[1]
    except (OSError, TypeError):
        return 0


@functools.cache
def class_lines(path):
    """Return the lines of the plain classes of a file: much quicker than asking for the source of each."""
    try:
        with open(path, encoding="utf-8") as handle:
            lines = handle.read().split("\n")
    except (OSError, TypeError, UnicodeDecodeError):
        return {}
    found = {}
    for number, line in enumerate(lines, 1):
        plain = re.match(r"class (\w+)", line)
        if plain and not (number > 1 and lines[number - 2].startswith(("@", ")"))):
            found[plain.group(1)] = None if plain.group(1) in found else number
    return found


class Samples:
    """Makes paths that can be called, from patterns with parameters, by a record for each where one is wanted."""

    def __init__(self, copied):
        self.copied = copied  # whether records may be made, because the database is a copy
        self.guessed = False  # whether the last path holds a value that no record stands behind
        self.made_up = False  # whether the record behind it was made for this

    def path(self, route, pattern, view):
        """Return (path, note); the note says which record stands for the parameters."""
        from django.urls.resolvers import RegexPattern

        values = {}
        note = ""
        self.made_up = False
        names = {name for part in route for name in names_of(part)}
        model = getattr(view, "model", None)
        if model is None and getattr(view, "queryset", None) is not None:
            model = view.queryset.model
        if names and model is not None:
            record = self.record(model)
            note = f"{model.__name__} {record.pk}"
            slug = getattr(view, "slug_field", "slug")
            keys = {getattr(view, "pk_url_kwarg", "pk"): record.pk, "id": record.pk}
            if hasattr(record, slug):
                keys[getattr(view, "slug_url_kwarg", "slug")] = getattr(record, slug)
            values = {name: keys[name] for name in names if name in keys}
            self.made_up = is_made(record)
        elif names:
            values = self.of_code(view, names)
        self.guessed = bool(names - set(values))
        pieces = []
        for part in route:
            if isinstance(part, RegexPattern):
                pattern = str(part._regex)  # it may be translated
                text = text_for(pattern, values)
                if text is None:
                    return None, "its address is a regular expression"
                varies = any(sign in pattern.strip("^$") for sign in "([*+?|\\")
                self.guessed |= varies and not (names and names <= set(values))
                pieces.append(text)
                continue
            text = str(part)
            for name, converter in getattr(part, "converters", {}).items():
                value = values.get(name, self.plain(converter))
                text = replaced(text, name, converter.to_url(value))
            pieces.append(text)
        return "/" + "".join(pieces), note

    def of_code(self, view, names):
        """Return values for an address from a record of the model that the controller's code asks for by them."""
        for model in models_used(view):
            fields = {field.name for field in model._meta.concrete_fields}
            keys = {one: one if one in fields else "pk" for one in names if one in fields or KEY.fullmatch(one)}
            if set(keys) == names:
                record = self.record(model)
                self.made_up = is_made(record)
                found = {one: getattr(record, field) for one, field in keys.items()}
                return {one: value for one, value in found.items() if isinstance(value, (int, str, uuid.UUID))}
        return {}

    def plain(self, converter):
        return {"IntConverter": 1, "UUIDConverter": uuid.UUID(int=1)}.get(type(converter).__name__, "sample")

    def record(self, model):
        """Return a record of a type: one that is there, else one made in the copy."""
        record = model._default_manager.first()
        if record is None:
            if not self.copied:
                raise LookupError(f"there is no {model.__name__}, and none is made outside of a copy")
            record = model()
            fill(record)
            with at_most(LONGEST):
                record.save()
            MADE.append(record)
        return record


def names_of(part):
    """Return the names of what varies in a part of an address."""
    regex = getattr(part, "regex", None) if hasattr(part, "_regex") else None
    return [*getattr(part, "converters", {}), *(regex.groupindex if regex is not None else ())]


def is_made(record):
    return any(type(one) is type(record) and one.pk == record.pk for one in MADE)


def models_used(view):
    """Yield the models whose names stand in the code of a controller."""
    from django.db.models import Model

    functions = (
        [view] if hasattr(view, "__code__") else [one for one in vars(view).values() if hasattr(one, "__code__")]
    )
    for function in functions:
        known = function.__globals__
        for name in function.__code__.co_names:
            held = known.get(name)
            if isinstance(held, types.ModuleType):
                within = (getattr(held, one, None) for one in function.__code__.co_names)
                yield from (one for one in within if isinstance(one, type) and issubclass(one, Model))
            elif isinstance(held, type) and issubclass(held, Model):
                yield held


def replaced(text, name, value):
    return re.sub(rf"<(?:[^<>:]+:)?{re.escape(name)}>", lambda match: value, text)


def screens_made():
    """Return, for each screen of the administration that is made of options alone, the file where that is usual."""
    if "django.contrib.admin" not in sys.modules:
        return {}
    from django.contrib import admin

    return {
        type(screen): f"{model._meta.app_config.name}.admin"
        for site in list(admin.sites.all_sites)
        for model, screen in site._registry.items()
        if type(screen).__module__.startswith("django.")
    }


def redirects_to_nothing():
    """Return the settings of where people go after signing in or out that name no address."""
    from django.conf import settings
    from django.shortcuts import resolve_url
    from django.urls import NoReverseMatch

    found = []
    for name in ("LOGIN_REDIRECT_URL", "LOGOUT_REDIRECT_URL"):
        said = getattr(settings, name, None)
        if isinstance(said, str) and said and settings.is_overridden(name):
            try:
                resolve_url(said)
            except NoReverseMatch:
                found.append({"setting": name, "said": said})
    return found


def main(kind=Ask):
    sys.stdout = open(1, "w", encoding="utf-8", errors="replace", closefd=False)
    kind(json.loads(sys.stdin.readline())).run()
