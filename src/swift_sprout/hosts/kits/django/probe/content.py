"""Takes the records of a module out of a Django host as plain data, and puts such data into one.

Run by the host's interpreter in the host's folder, with a folder in which the file ``question`` holds a JSON object:
{"entry": …, "copies": …, "module": …, "do": "take" or "put", "folder": …, "keep": false to take all back again}; the
file ``answer`` is written beside it. Uploaded files are copied to and from ``folder``/files. Nothing is known by its
number: records are known by a field that tells them apart, so that what is put into another database is the same there,
in whatever order.
"""

import hashlib
import json
import os
import sys

from sprout_inside import told

FORMAT = "swift-sprout/content/1"


class Missing(Exception):
    """Something that an item points at is not there."""


class Content:
    def __init__(self, question):
        self.question = question
        self.folder = question["folder"]
        self.counts = {}
        self.open = []
        self.keys_by_number = {}  # of each model, once they were asked for: there may be very many records

    # -- starting ------------------------------------------------------------------------------------------------

    def start(self):
        import ask

        ask.Ask({"entry": self.question["entry"], "scratch": self.folder, "steps": []}).entry()
        import django
        from django.conf import settings

        for alias, database in settings.DATABASES.items() if self.question["copies"] else ():
            database["NAME"] = os.path.join(self.question["copies"], f"{alias}.sqlite3")
        if not self.question["keep"]:  # what is uploaded is no part of the database, and would stay
            settings.MEDIA_ROOT = os.path.join(self.question["between"], "media")
        django.setup()
        from django.apps import apps

        self.config = next(one for one in apps.get_app_configs() if one.name == self.question["module"])

    def models(self):
        """Return the models whose records are the module's content, those that others point at first."""
        found = [one for one in self.config.get_models() if one._meta.managed and not one._meta.proxy]
        return sorted(found, key=lambda one: one.__name__)

    # -- what an item is known by --------------------------------------------------------------------------------

    def key_field(self, model):
        """Return the field by which records of a type are told apart: a unique one, else the first text."""
        fields = [one for one in model._meta.concrete_fields if not one.primary_key and not one.is_relation]
        texts = [one for one in fields if one.get_internal_type() in ("CharField", "SlugField", "TextField")]
        return next((one for one in fields if one.unique), (texts or fields or [model._meta.pk])[0])

    def keys(self, model):
        """Return the key of every record by its number; one of several with the same text has a count behind it."""
        if model not in self.keys_by_number:
            found = self.read_keys(model)
            self.keys_by_number[model] = found, {key: number for number, key in found.items()}
        return self.keys_by_number[model][0]

    def read_keys(self, model):
        field = self.key_field(model)
        seen, found = {}, {}
        for record in model._base_manager.order_by("pk").iterator(chunk_size=2000):
            text = field.value_to_string(record)
            seen[text] = seen.get(text, 0) + 1
            found[record.pk] = text if seen[text] == 1 else f"{text} ({seen[text]})"
        return found

    def known(self, model):
        found = self.keys(model)
        if model in self.keys_by_number:
            return self.keys_by_number[model][1]
        return {key: number for number, key in found.items()}

    def learn(self, model, record, key):
        """Keep in mind under which key a record that was made is known from now on."""
        if model in self.keys_by_number:
            by_number, by_key = self.keys_by_number[model]
            by_number[record.pk] = key
            by_key[key] = record.pk

    # -- taking --------------------------------------------------------------------------------------------------

    def take(self):
        """Return the files of the module's content: name, and what it holds."""
        files = {}
        for model in self.models():
            items = self.items_of(model)
            if items:
                self.counts[model.__name__] = len(items)
                files[f"{model.__name__}.json"] = {
                    "format": FORMAT,
                    "type": f"{model._meta.app_label}.{model.__name__}",
                    "known_by": self.known_by(model),
                    "items": items,
                }
        return files

    def known_by(self, model):
        return self.key_field(model).name

    def items_of(self, model):
        keys = self.keys(model)
        records = model._base_manager.order_by("pk")
        items = [{"key": keys[record.pk], **self.told(record)} for record in records]
        return sorted(items, key=lambda item: item["key"])

    def fields(self, model):
        """Return the fields that are content: no numbers, and nothing that the host sets by itself."""
        own = [one for one in model._meta.concrete_fields if not one.primary_key]
        own = [one for one in own if not getattr(one, "auto_now", False) and not getattr(one, "auto_now_add", False)]
        return [*own, *model._meta.local_many_to_many]

    def told(self, record):
        return {field.name: self.value(field, record) for field in self.fields(type(record))}

    def value(self, field, record):
        if field.many_to_many:
            return sorted((self.pointer(one) for one in getattr(record, field.name).all()), key=json.dumps)
        if field.is_relation:
            target = getattr(record, field.name)
            return None if target is None else self.pointer(target)
        value = field.value_from_object(record)
        if field.get_internal_type() in ("FileField", "ImageField"):
            return self.file_taken(getattr(record, field.name)) if value else None
        if value is None or isinstance(value, (bool, int, str)) or field.get_internal_type() == "JSONField":
            return value
        return field.value_to_string(record)

    def pointer(self, target):
        """Return what tells a record that another points at."""
        from django.contrib.auth import get_user_model

        if isinstance(target, get_user_model()):
            return {"user": target.get_username()}
        model = type(target)
        return {"record": f"{model._meta.app_label}.{model.__name__}", "key": self.keys(model)[target.pk]}

    def file_taken(self, file):
        """Copy an uploaded file, under a name that tells its content: what a host calls it is its own affair."""
        with file.open("rb") as handle:
            content = handle.read()
        name = hashlib.sha256(content).hexdigest()[:16] + os.path.splitext(file.name)[1].lower()
        os.makedirs(os.path.join(self.folder, "files"), exist_ok=True)
        with open(os.path.join(self.folder, "files", name), "wb") as handle:
            handle.write(content)
        return {"file": f"files/{name}"}

    # -- putting -------------------------------------------------------------------------------------------------

    def put(self):
        """Put all items in; those that point at what is not there yet wait until it is, whatever their order."""
        waiting = [(model, item) for model, items in self.read() for item in items]
        while waiting:
            left = []
            for model, item in waiting:
                try:
                    self.put_one(model, item, False)
                except Missing as missing:
                    left.append((model, item, str(missing)))
            if len(left) == len(waiting):
                for model, item, reason in left:
                    try:
                        self.put_one(model, item, True)
                    except Missing:
                        reason += "; it was left out"
                    self.open.append(f"{model.__name__} {item['key']}: {reason}")
                break
            waiting = [(model, item) for model, item, _ in left]
        return {}

    def read(self):
        by_name = {one.__name__: one for one in self.models()}
        for name in sorted(os.listdir(self.folder)):
            if not name.endswith(".json"):
                continue
            with open(os.path.join(self.folder, name), encoding="utf-8") as handle:
                data = json.load(handle)
            kind = str(data["type"]).rpartition(".")[2]
            if kind not in by_name:
                raise ValueError(f"{name}: the module has no type {kind}")
            yield by_name[kind], data["items"]

    def put_one(self, model, item, without):
        """Make or change one record; ``without`` leaves out what points at nothing, where that may be left out."""
        number = self.known(model).get(item["key"])
        record = model._base_manager.get(pk=number) if number is not None else model()
        before = self.told(record) if number is not None else None
        lists = self.set_fields(record, item, without)
        wanted = {name: value for name, value in item.items() if name != "key"}
        if before is not None and all(before.get(name) == value for name, value in wanted.items()):
            return self.count(model, "same")
        record.save()
        if number is None:
            self.learn(model, record, item["key"])
        for name, targets in lists.items():
            getattr(record, name).set(targets)
        return self.count(model, "made" if number is None else "changed")

    def set_fields(self, record, item, without):
        lists = {}
        for field in self.fields(type(record)):
            if field.name not in item:
                continue
            value = item[field.name]
            try:
                if field.many_to_many:
                    lists[field.name] = [self.target(field.related_model, one) for one in value]
                elif field.is_relation:
                    setattr(record, field.name, None if value is None else self.target(field.related_model, value))
                elif field.get_internal_type() in ("FileField", "ImageField"):
                    self.file_put(record, field, value)
                else:
                    setattr(record, field.name, self.read_value(field, value))
            except Missing:
                if not without or not (field.null or field.many_to_many):
                    raise
        return lists

    def read_value(self, field, value):
        return value if value is None else field.to_python(value)

    def target(self, model, pointer):
        """Return the record that a pointer tells; raises Missing."""
        from django.apps import apps
        from django.contrib.auth import get_user_model

        if "user" in pointer:
            users = get_user_model()
            found = users._default_manager.filter(**{users.USERNAME_FIELD: pointer["user"]}).first()
            if found is None:
                raise Missing(f"there is no user {pointer['user']}")
            return found
        model = apps.get_model(pointer["record"])
        number = self.known(model).get(pointer["key"])
        if number is None:
            raise Missing(f"there is no {model.__name__} {pointer['key']}")
        return model._base_manager.get(pk=number)

    def file_put(self, record, field, value):
        from django.core.files import File

        if value is None:
            setattr(record, field.name, "")
            return
        with self.opened(value["file"]) as handle:
            wanted = hashlib.sha256(handle.read()).hexdigest()
            kept = getattr(record, field.name)
            if kept:
                with kept.open("rb") as there:
                    if hashlib.sha256(there.read()).hexdigest() == wanted:
                        return
            handle.seek(0)
            getattr(record, field.name).save(os.path.basename(value["file"]), File(handle), save=False)

    def opened(self, name):
        """Open one of the taken files; raises ValueError for a name that leads elsewhere."""
        path = os.path.realpath(os.path.join(self.folder, name))
        if not path.startswith(os.path.realpath(self.folder) + os.sep):
            raise ValueError(f"{name} leads out of the content's folder")
        return open(path, "rb")

    def count(self, model, what):
        kept = self.counts.setdefault(model.__name__, {"made": 0, "changed": 0, "same": 0})
        kept[what] += 1

    # -- all of it -----------------------------------------------------------------------------------------------

    def run(self):
        try:
            self.start()
            from django.db import transaction

            with transaction.atomic():
                files = self.take() if self.question["do"] == "take" else self.put()
                #  whoever asked may have been ended meanwhile: nobody would know of what is kept then
                if not self.question["keep"] or os.getppid() != self.question["asked_by"]:
                    transaction.set_rollback(True)
        except Exception as error:
            return {"error": told(error, os.path.realpath(os.getcwd()))}
        return {"files": files, "counts": self.counts, "open": self.open}


def main(kind=Content):
    sys.path.insert(0, os.path.realpath(os.getcwd()))
    between = sys.argv[3]
    with open(os.path.join(between, "question"), encoding="utf-8") as handle:
        answer = kind(json.load(handle)).run()
    with open(os.path.join(between, "answer"), "w", encoding="utf-8") as handle:
        json.dump(answer, handle, default=str)
    os._exit(0)
