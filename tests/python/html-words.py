"""Reads messages with Python's email, and strips their HTML with Python's html.parser: the words of three letters and
more that a reader could see, or that lie in text anywhere outside of scripts, styles and comments."""
import email
import email.policy
import html.parser
import json
import re
import sys


class Stripper(html.parser.HTMLParser):
    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.texts = []
        self.silent = 0

    def handle_starttag(self, tag, attrs):
        if tag in ('script', 'style'):
            self.silent += 1

    def handle_endtag(self, tag):
        if tag in ('script', 'style') and self.silent:
            self.silent -= 1

    def handle_data(self, data):
        if not self.silent:
            self.texts.append(data)


for name in sys.stdin.read().split('\n'):
    with open(name, 'rb') as file:
        message = email.message_from_binary_file(file, policy=email.policy.compat32)
    found = []
    for part in message.walk():
        if part.get_content_type() != 'text/html' or part.get_content_disposition() == 'attachment':
            continue
        raw = part.get_payload(decode=True)
        if raw is None:
            continue
        # words of ASCII alone are compared, so that charsets do not matter
        stripper = Stripper()
        stripper.feed(raw.decode('latin-1'))
        stripper.close()
        found += re.findall(r'(?<![^\W_])[A-Za-z]{3,30}(?![^\W_])', ' '.join(stripper.texts))
    print(json.dumps(sorted(set(word.lower() for word in found))))
