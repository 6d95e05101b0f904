"""Reads CSV with Python's `csv` (RFC 4180, its default dialect): read-csv.py < CSV. Standard output: its rows as JSON."""
import csv
import io
import json
import sys

csv.field_size_limit(10_000_000)
print(json.dumps(list(csv.reader(io.StringIO(sys.stdin.buffer.read().decode('utf-8'), newline='')))))
