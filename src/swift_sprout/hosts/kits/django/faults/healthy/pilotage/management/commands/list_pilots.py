from django.core.management.base import BaseCommand

from ...models import Pilot


class Command(BaseCommand):
    help = "Lists the pilots, one a line."

    def handle(self, *args, **options):
        for pilot in Pilot.objects.all():
            self.stdout.write(str(pilot))
