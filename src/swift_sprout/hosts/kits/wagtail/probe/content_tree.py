"""Takes and puts a module's content on a Wagtail host: its records, and its pages with their place in the tree.

A page is known by its translation key, which is the same wherever it goes, and stands below an address of a site.
Pictures and documents go with the content, and are known again by what is in them.
"""

import re

import content

#  what every page has that its editors say
PAGE_FIELDS = (
    "title",
    "slug",
    "seo_title",
    "show_in_menus",
    "search_description",
    "go_live_at",
    "expire_at",
    "first_published_at",
)
_LINKED = re.compile(r"<(?:a|embed)\b[^>]*>")
_WORDS = re.compile(r'\b(linktype|embedtype|id|key)="([^"]*)"')


class PageContent(content.Content):
    def start(self):
        super().start()
        from wagtail.models import Page

        self.page_model = Page

    def is_page(self, model):
        return issubclass(model, self.page_model)

    # -- what an item is known by --------------------------------------------------------------------------------

    def known_by(self, model):
        return "translation_key" if self.is_page(model) else super().known_by(model)

    def keys(self, model):
        if self.is_page(model):
            pages = model._base_manager.select_related("locale").order_by("path")
            first = self.language()
            return {
                page.pk: str(page.translation_key)
                + ("" if page.locale.language_code == first else f" {page.locale.language_code}")
                for page in pages
            }
        return super().keys(model)

    def language(self):
        from django.conf import settings

        return settings.LANGUAGE_CODE

    def pointer(self, target):
        library = self.library_of(type(target))
        if library:
            return {library: target.title, **self.file_taken(target.file)}
        if isinstance(target, self.page_model):
            target = target.specific
        return super().pointer(target)

    def library_of(self, model):
        from wagtail.documents import get_document_model
        from wagtail.images import get_image_model

        return {get_image_model(): "image", get_document_model(): "document"}.get(model, "")

    def target(self, model, pointer):
        library = next((one for one in ("image", "document") if one in pointer), "")
        if not library:
            found = super().target(model, pointer)
            return found.page_ptr if model is self.page_model else found
        return self.in_library(library, pointer)

    def in_library(self, library, pointer):
        """Return the picture or document that has the content of a taken file; made where there is none."""
        import hashlib
        import os

        from django.core.files import File
        from django.utils.text import slugify
        from wagtail.documents import get_document_model
        from wagtail.images import get_image_model

        model = get_image_model() if library == "image" else get_document_model()
        with self.opened(pointer["file"]) as handle:
            told = hashlib.sha1(handle.read()).hexdigest()
            found = model.objects.filter(file_hash=told, title=pointer[library]).first()
            if found is None:
                handle.seek(0)
                ending = os.path.splitext(pointer["file"])[1]
                name = (slugify(pointer[library]) or library) + ending
                found = model(title=pointer[library], file=File(handle, name))
                found._set_file_hash()
                found.save()
            return found

    # -- values that point at things by numbers inside -----------------------------------------------------------

    def value(self, field, record):
        from wagtail.fields import RichTextField, StreamField

        if isinstance(field, StreamField):
            pieces = field.value_from_object(record).get_prep_value()
            return self.walked(field.stream_block, pieces, self.taken_piece)
        if isinstance(field, RichTextField):
            return self.rewritten(field.value_from_object(record), self.taken_link)
        return super().value(field, record)

    def read_value(self, field, value):
        from wagtail.fields import RichTextField, StreamField

        if isinstance(field, StreamField):
            pieces = self.walked(field.stream_block, value, self.put_piece)
            return field.stream_block.to_python(pieces)
        if isinstance(field, RichTextField):
            return self.rewritten(value, self.put_link)
        return super().read_value(field, value)

    def walked(self, block, value, change):
        """Return the plain data of a block with each thing that is chosen in it changed."""
        from wagtail import blocks

        if value is None:
            return None
        if isinstance(block, blocks.StreamBlock):
            known = block.child_blocks
            return [
                {**one, "value": self.walked(known[one["type"]], one["value"], change)}
                for one in value
                if one["type"] in known
            ]
        if isinstance(block, blocks.ListBlock):
            return [
                {**one, "value": self.walked(block.child_block, one["value"], change)}
                if isinstance(one, dict) and "value" in one
                else self.walked(block.child_block, one, change)
                for one in value
            ]
        if isinstance(block, blocks.StructBlock):
            known = block.child_blocks
            return {
                name: self.walked(known[name], one, change) if name in known else one for name, one in value.items()
            }
        if isinstance(block, blocks.RichTextBlock):
            return self.rewritten(value, self.taken_link if change == self.taken_piece else self.put_link)
        if isinstance(block, blocks.ChooserBlock):
            return change(block, value)
        return value

    def taken_piece(self, block, number):
        model = block.model_class if hasattr(block, "model_class") else block.target_model
        found = model._base_manager.filter(pk=number).first()
        return None if found is None else self.pointer(found)

    def put_piece(self, block, pointer):
        model = block.model_class if hasattr(block, "model_class") else block.target_model
        return self.target(model, pointer).pk

    def rewritten(self, text, change):
        """Return rich text in which each link to a page, picture or document is changed."""

        def one(found):
            words = dict(_WORDS.findall(found.group(0)))
            kind = words.get("linktype") or words.get("embedtype")
            if kind not in ("page", "image", "document"):
                return found.group(0)
            return change(found.group(0), kind, words)

        return _LINKED.sub(one, text) if text else text

    def model_of(self, kind):
        from wagtail.documents import get_document_model
        from wagtail.images import get_image_model

        return {"page": self.page_model, "image": get_image_model(), "document": get_document_model()}[kind]

    def taken_link(self, tag, kind, words):
        import html
        import json

        found = self.model_of(kind)._base_manager.filter(pk=words.get("id") or 0).first()
        if found is None:
            return tag
        key = html.escape(json.dumps(self.pointer(found), ensure_ascii=False))
        return tag.replace(f'id="{words["id"]}"', f'key="{key}"')

    def put_link(self, tag, kind, words):
        import html
        import json

        if "key" not in words:
            return tag
        pointer = json.loads(html.unescape(words["key"]))
        return tag.replace(f'key="{words["key"]}"', f'id="{self.target(self.model_of(kind), pointer).pk}"')

    # -- pages ---------------------------------------------------------------------------------------------------

    def fields(self, model):
        if not self.is_page(model):
            return super().fields(model)
        own = [model._meta.get_field(name) for name in PAGE_FIELDS]
        inherited = {one.name for one in self.page_model._meta.get_fields()}
        more = [one for one in model._meta.concrete_fields if one.name not in inherited and not one.primary_key]
        return [*own, *more, *model._meta.local_many_to_many]

    def told(self, record):
        found = super().told(record)
        if isinstance(record, self.page_model) and record.pk:
            parent = record.get_parent()
            mine = [one.pk for one in parent.get_children() if self.owns(one.specific_class)]
            found |= {"below": self.address(parent), "position": mine.index(record.pk) + 1, "live": record.live}
            if record.live and record.has_unpublished_changes:
                draft = record.get_latest_revision_as_object()
                found["draft"] = {
                    field.name: self.value(field, draft)
                    for field in self.fields(type(record))
                    if not field.many_to_many and field.name not in ("first_published_at",)
                }
        return found

    def owns(self, model):
        return model is not None and model._meta.app_label == self.config.label

    def address(self, page):
        """Return where a page stands: its path below the root of its site, with that site unless it is the default."""
        from wagtail.models import Site

        sites = sorted(Site.objects.all(), key=lambda one: (not one.is_default_site, one.hostname))
        for site in sites:
            if page.path.startswith(site.root_page.path):
                path = "/" + page.url_path[len(site.root_page.url_path) :]
                return path if site.is_default_site else f"//{site.hostname}{path}"
        return f"tree:{page.url_path}"

    def at(self, address):
        """Return the page at an address; raises Missing."""
        from wagtail.models import Site

        if address.startswith("tree:"):
            found = self.page_model.objects.filter(url_path=address[5:]).first()
        else:
            host, path = ("", address) if not address.startswith("//") else address[2:].split("/", 1)
            sites = Site.objects.filter(hostname=host) if host else Site.objects.filter(is_default_site=True)
            site = sites.first()
            if site is None:
                raise content.Missing(f"there is no site {host}".rstrip())
            found = self.page_model.objects.filter(url_path=site.root_page.url_path + path.lstrip("/")).first()
        if found is None:
            raise content.Missing(f"there is no page at {address}")
        return found.specific

    def put_one(self, model, item, without):
        if not self.is_page(model):
            return super().put_one(model, item, without)
        from wagtail.models import Locale

        number = self.known(model).get(item["key"])
        parent = self.at(item["below"]) if number is None else None
        there = None
        if parent is not None:  # made here before, such as when the module was settled: it is the same page
            there = model.objects.child_of(parent).filter(slug=item["slug"]).first()
            number = there.pk if there is not None else None
        page = model._base_manager.get(pk=number) if number is not None else model()
        before = self.told(page) if number is not None else None
        wanted = {name: value for name, value in item.items() if name not in ("key", "position")}
        if there is None and before is not None and before.get("draft") == item.get("draft"):
            if all(before.get(name) == value for name, value in wanted.items()):
                return self.count(model, "same")
        parent = parent or self.at(item["below"])
        key, _, language = item["key"].partition(" ")
        if there is not None:
            page.translation_key = key
        lists = self.set_fields(page, item, without)
        page.live = item["live"]
        if number is None:
            page.translation_key = key
            page.locale = Locale.objects.filter(language_code=language or self.language()).first() or parent.locale
            parent.add_child(instance=page)
        elif before["below"] != item["below"]:
            page.save()
            page.move(parent, pos="last-child")
            page = model._base_manager.get(pk=page.pk)
        else:
            page.save()
        for name, targets in lists.items():
            getattr(page, name).set(targets)
        revision = page.save_revision()
        if item["live"]:
            revision.publish()
            model._base_manager.filter(pk=page.pk).update(first_published_at=page.first_published_at)
        if "draft" in item:
            page = model._base_manager.get(pk=page.pk)
            self.set_fields(page, item["draft"], without)
            page.save_revision()
        return self.count(model, "made" if number is None else "changed")

    def put(self):
        found = super().put()
        self.order()
        return found

    def order(self):
        """Bring the module's pages below each parent into the order that the content says."""
        wanted = {}
        for model, items in self.read():
            for item in items if self.is_page(model) else ():
                number = self.known(model).get(item["key"])
                if number is not None:
                    wanted.setdefault(item["below"], []).append((item["position"], number))
        for below, pages in wanted.items():
            parent = self.at(below)
            numbers = [number for _, number in sorted(pages)]
            there = [one.pk for one in parent.get_children() if one.pk in numbers]
            if there != numbers:
                for number in numbers:
                    self.page_model.objects.get(pk=number).move(self.at(below), pos="last-child")


def main():
    content.main(PageContent)
