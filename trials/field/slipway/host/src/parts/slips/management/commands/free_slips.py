from django.core.management.base import BaseCommand

from slips.models import Slip


class Command(BaseCommand):
    help = "Lists the slips that are free."

    def handle(self, *args, **options):
        for slip in Slip.objects.free():
            self.stdout.write(str(slip))
