from django.shortcuts import render


def duty(request):
    return render(request, "pilotage/duty.html", {"title": "On duty"})
