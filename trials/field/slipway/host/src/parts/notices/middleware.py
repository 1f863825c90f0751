class Flags:
    """Tells in the answer how many notices fly."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        answer = self.get_response(request)
        answer["X-Flags"] = "flying"
        return answer
