"""Reads messages with Python's standard library, as a second opinion.

Standard input: paths, one a line. Standard output: one JSON object a line.
"""
import email
import email.policy
import email.utils
import json
import sys


def read(path):
    with open(path, 'rb') as file:
        message = email.message_from_bytes(file.read(), policy=email.policy.compat32)
    modern = email.message_from_bytes(open(path, 'rb').read(), policy=email.policy.default)

    def header(name):
        try:
            value = modern[name]
            return None if value is None else str(value)
        except Exception:  # the modern policy raises on some broken headers
            return None

    date = message['date']
    try:
        parsed = email.utils.parsedate_tz(str(date)) if date is not None else None
        sent = None if parsed is None else email.utils.mktime_tz(parsed)
    except Exception:
        sent = None
    name, address = email.utils.parseaddr(str(message['from'])) if message['from'] is not None else ('', '')
    return {
        'path': path,
        'subject': header('subject'),
        'address': address,
        'date': None if date is None else str(date),
        'sent': sent,
        'messageId': None if message['message-id'] is None else str(message['message-id']).strip(),
        'type': message.get_content_type(),
    }


for line in sys.stdin:
    print(json.dumps(read(line.rstrip('\n'))))
