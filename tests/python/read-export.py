"""Reads an export with Python's `mailbox`, `email` and `csv`: read-export.py FORMAT FOLDER.

Standard output: one JSON object {messages: [{folder, subject, sha256, flags}], index: [[…]]}. From an mbox, `From ` lines are
unquoted one level, which Python's own reader does not do.
"""
import csv
import email
import hashlib
import json
import mailbox
import os
import re
import sys

kind, root = sys.argv[1:]
messages = []


def take(folder, data, subject, flags=''):
    messages.append({'folder': folder, 'subject': str(subject), 'sha256': hashlib.sha256(data).hexdigest(), 'flags': flags})


if kind == 'mbox':
    for directory, _, names in os.walk(root):
        for name in names:
            if not name.endswith('.mbox'):
                continue
            box = mailbox.mbox(os.path.join(directory, name))
            folder = os.path.relpath(os.path.join(directory, name), root)[: -len('.mbox')]
            for key in box.keys():
                data = re.sub(rb'(?m)^>(>*From )', rb'\1', box.get_bytes(key))
                take(folder, data, box[key]['subject'])
elif kind == 'eml':
    for directory, _, names in os.walk(root):
        for name in names:
            if name.endswith('.eml'):
                with open(os.path.join(directory, name), 'rb') as file:
                    data = file.read()
                take(os.path.relpath(directory, root), data, email.message_from_bytes(data)['subject'])
else:
    box = mailbox.Maildir(root, create=False)
    for folder, inner in [('Inbox', box)] + [(name.replace('.', '/'), box.get_folder(name)) for name in box.list_folders()]:
        for key in inner.keys():
            message = inner.get_message(key)
            take(folder, inner.get_bytes(key), message['subject'], message.get_flags())

with open(os.path.join(root, 'index.csv'), newline='') as file:
    index = list(csv.reader(file))
print(json.dumps({'messages': messages, 'index': index}))
