import os


class Config:
    SECRET_KEY = os.environ.get("QUAY_KEY", "only for trying out")
    MOST_VISITORS = 40
