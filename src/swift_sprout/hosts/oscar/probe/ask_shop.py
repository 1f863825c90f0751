import ask


class AskShop(ask.Ask):
    def shop(self):
        return {}


def main():
    ask.main(AskShop)
