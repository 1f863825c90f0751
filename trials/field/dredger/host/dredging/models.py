from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models
from django.urls import reverse
from django.utils.text import slugify

from .querysets import CampaignQuerySet


class Dated(models.Model):
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True


class Campaign(Dated):
    class Kind(models.TextChoices):
        BASIN = "basin", "Basin"
        CHANNEL = "channel", "Channel"

    title = models.CharField(max_length=80)
    slug = models.SlugField(unique=True, blank=True)
    kind = models.CharField(max_length=10, choices=Kind.choices, default=Kind.BASIN)
    begins = models.DateField()
    ends = models.DateField(null=True, blank=True)
    master = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="campaigns")
    crew = models.ManyToManyField(settings.AUTH_USER_MODEL, blank=True, related_name="crewed")

    objects = CampaignQuerySet.as_manager()

    class Meta:
        ordering = ["-begins", "title"]
        permissions = [("close_campaign", "Can close a campaign")]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(ends__isnull=True) | models.Q(ends__gte=models.F("begins")), name="campaign_ends_later"
            )
        ]

    def __str__(self):
        return self.title

    def get_absolute_url(self):
        return reverse("dredging:campaign", kwargs={"slug": self.slug})

    def clean(self):
        if self.ends and self.ends < self.begins:
            raise ValidationError({"ends": "It ends before it begins."})

    def save(self, *args, **kwargs):
        if not self.slug:
            self.slug = slugify(self.title)
        super().save(*args, **kwargs)

    @property
    def is_running(self):
        return self.ends is None


class Load(Dated):
    campaign = models.ForeignKey(Campaign, models.CASCADE, related_name="loads")
    tonnes = models.DecimalField(max_digits=8, decimal_places=1)
    dumped_at = models.CharField(max_length=60)

    class Meta:
        ordering = ["created"]
        indexes = [models.Index(fields=["campaign", "created"])]

    def __str__(self):
        return f"{self.tonnes} t"


class Summary(models.Model):
    campaign = models.OneToOneField(Campaign, models.CASCADE, primary_key=True, related_name="summary")
    tonnes = models.DecimalField(max_digits=10, decimal_places=1, default=0)
