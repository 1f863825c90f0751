from django.core.management.base import BaseCommand
from signalbook.models import Interest


class Command(BaseCommand):
    help = "Forgets what nobody looked at"

    def add_arguments(self, parser):
        parser.add_argument("--below", type=int, default=1)

    def handle(self, *args, **options):
        Interest.objects.filter(views__lt=options["below"]).delete()
