"""Reads messages with Python's standard library, as a second opinion.

Standard input: paths, one a line. Standard output: one JSON object a line.
"""
import email
import email.header
import email.policy
import email.utils
import hashlib
import json
import sys


def parts(part):
    """The part and those in it; into attached messages, but not into what Python makes of delivery reports."""
    yield part
    if part.is_multipart():
        kind = part.get_content_type()
        encoded = str(part.get('content-transfer-encoding', '')).strip().lower() in ('base64', 'quoted-printable')
        if part.get_content_maintype() == 'message' and (kind != 'message/rfc822' or encoded):
            return
        for inner in part.get_payload():
            yield from parts(inner)


def leaf(part):
    if part.is_multipart():
        return {'type': part.get_content_type()}
    data = part.get_payload(decode=True)
    try:
        name = part.get_filename()
        name = None if name is None else str(email.header.make_header(email.header.decode_header(name)))
    except Exception:  # unknown charsets
        name = None
    return {
        'type': part.get_content_type(),
        'name': name,
        'encoding': str(part.get('content-transfer-encoding', '')).strip().lower(),
        'charset': part.get_content_charset(),
        'bytes': len(data),
        'sha256': hashlib.sha256(data).hexdigest(),
        'defects': [type(defect).__name__ for defect in part.defects],
        'text': text(part, data),
    }


def text(part, data):
    if part.get_content_type() != 'text/plain':
        return None
    charset = part.get_content_charset() or 'ascii'
    # the Encoding standard (WHATWG): the labels of ISO 8859-1 mean windows-1252
    charset = 'windows-1252' if charset in ('iso-8859-1', 'latin1') else charset
    try:
        return data.decode(charset)
    except (LookupError, UnicodeDecodeError):
        return None


def read(path):
    with open(path, 'rb') as file:
        data = file.read()
    message = email.message_from_bytes(data, policy=email.policy.compat32)
    modern = email.message_from_bytes(data, policy=email.policy.default)

    def header(name):
        try:
            value = modern[name]
            return None if value is None else str(value)
        except Exception:  # the modern policy raises on some broken headers
            return None

    def addresses(name):
        try:
            return [address for _, address in email.utils.getaddresses([str(value) for value in message.get_all(name, [])])]
        except Exception:
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
        'to': addresses('to'),
        'cc': addresses('cc'),
        'sent': sent,
        'messageId': None if message['message-id'] is None else str(message['message-id']).strip(),
        'parts': [leaf(part) for part in parts(message)],
    }


for line in sys.stdin:
    print(json.dumps(read(line.rstrip('\n'))))
