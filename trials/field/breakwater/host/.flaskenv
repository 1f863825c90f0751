FLASK_APP=harbour.py
