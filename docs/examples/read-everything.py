"""Reads all of it, by pages: every system, its log, and what loggers read, as JSON Lines on standard output.

    python3 read-everything.py http://127.0.0.1:4180 > everything.jsonl

For one file of everything, with pictures and schemas, take the archive instead: `GET /api/archive`.
"""
import json
import sys
import urllib.parse
import urllib.request

base = sys.argv[1]


def get(path, **query):
    query = urllib.parse.urlencode({key: value for key, value in query.items() if value is not None})
    with urllib.request.urlopen(f"{base}{path}?{query}", timeout=60) as answer:
        return json.load(answer)


def put(kind, value):
    print(json.dumps({"kind": kind, **value}, ensure_ascii=False))


for place in get("/api/places"):
    for part in ("people", "meters", "systems"):
        for card in place[part]:
            put("card", card)
    for system in place["systems"]:
        before = None
        while True:
            page = get(f"/api/systems/{system['id']}/log", limit=100, before=before)
            for thread in page["threads"]:
                put("entry", thread)
            before = page.get("next")
            if before is None:
                break
        since = None
        while True:
            page = get(f"/api/systems/{system['id']}/readings", limit=10000, **{"from": since})
            for reading in page["readings"]:
                put("reading", {"system": system["id"], **reading})
            since = page.get("next")
            if since is None:
                break
