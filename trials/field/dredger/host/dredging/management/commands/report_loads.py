from django.core.management.base import BaseCommand, CommandError

from dredging.models import Campaign


class Command(BaseCommand):
    help = "Lists what each campaign has moved."

    def add_arguments(self, parser):
        parser.add_argument("--since", default="")
        parser.add_argument("--kind", choices=Campaign.Kind.values)

    def handle(self, *args, since, kind, **options):
        found = Campaign.objects.with_totals()
        if kind:
            found = found.filter(kind=kind)
        if since and not since.isdigit():
            raise CommandError("--since is a year")
        for campaign in found:
            self.stdout.write(f"{campaign.title}: {campaign.tonnes or 0}")
