"""Splits and parses an mbox file with Python's `mailbox` and `email`, and does nothing with it: parse.py FILE [decode].

With `decode` the bodies are decoded too. Standard output: {messages, seconds, bytes}.
"""
import json
import mailbox
import sys
import time

decode = 'decode' in sys.argv[2:]
began = time.perf_counter()
messages = 0
size = 0
for message in mailbox.mbox(sys.argv[1], create=False):
    messages += 1
    for part in message.walk():
        if decode and not part.is_multipart():
            size += len(part.get_payload(decode=True) or b'')
print(json.dumps({'messages': messages, 'seconds': time.perf_counter() - began, 'bytes': size}))
