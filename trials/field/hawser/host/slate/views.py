from django.contrib.auth.decorators import login_required, permission_required
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST
from django.contrib.admin.views.decorators import staff_member_required

from .models import Slate


@staff_member_required
def desk(request):
    return render(request, "slate/desk.html", {"slates": Slate.objects.filter(wiped=None).select_related("order")})


@require_POST
@permission_required("slate.wipe_slate", raise_exception=True)
def wipe(request, pk):
    slate = get_object_or_404(Slate, pk=pk)
    slate.wiped = timezone.now()
    slate.save(update_fields=["wiped"])
    return redirect("slate:desk")


@login_required
def mine(request):
    return render(request, "slate/mine.html", {"slates": request.user.slates.filter(wiped__isnull=True)})
