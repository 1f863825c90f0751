from .models import FooterLine


def footer(request):
    return {"footer_lines": FooterLine.objects.all()}
