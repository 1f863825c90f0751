ENTRY = {
    "label": "Pilotage",
    "icon": "fas fa-ship",
    "children": [
        {"label": "Pilots", "url_name": "pilotage:pilot-list"},
    ],
}
