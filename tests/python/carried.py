"""A second reading of "a later message carries an earlier one whole", by Python's `email` and `html.parser`.

Standard input: lines of JSON [earlier file, later file, how]. Standard output: one JSON line each: the first words of the
earlier message that the later one does not carry, or null.
"""
import email
import email.policy
import json
import re
import sys
from html.parser import HTMLParser


class Text(HTMLParser):
    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.words = []
        self.hidden = 0

    def handle_starttag(self, tag, attrs):
        self.hidden += tag in ('script', 'style', 'title')

    def handle_endtag(self, tag):
        self.hidden -= tag in ('script', 'style', 'title') and self.hidden > 0

    def handle_data(self, data):
        if not self.hidden:
            self.words.append(data)


def text_of(part):
    data = part.get_payload(decode=True) or b''
    try:
        text = data.decode(part.get_content_charset() or 'utf-8')
    except (LookupError, UnicodeDecodeError):
        text = data.decode('windows-1252', 'replace')
    if part.get_content_type() == 'text/html':
        reader = Text()
        reader.feed(text)
        text = ' '.join(reader.words)
    return text


def words_of(text):
    # quote marks, wrapping and all signs between words are left out: what is compared is what is said
    return re.findall(r'\w+', re.sub(r'(?m)^(?:[\s>|]|[A-Za-z]{1,3}>)+', '', text))


def texts(path):
    with open(path, 'rb') as file:
        data = file.read()
    if data.startswith(b'From '):
        data = data.partition(b'\n')[2]
    message = email.message_from_bytes(data)
    found = []
    for part in message.walk():
        if part.get_content_maintype() == 'text' and not part.get_filename():
            found.append(words_of(text_of(part)))
    return found


def missing(words, later):
    """The first words that do not follow each other in the later text, others in between allowed; None: all do."""
    at = 0
    for word in later:
        if at < len(words) and word == words[at]:
            at += 1
    return None if at == len(words) else words[at:at + 8]


for line in sys.stdin:
    earlier, later = json.loads(line)
    others = texts(later)
    answer = None
    for words in texts(earlier):
        lacks = [missing(words, other) for other in others] or [words[:8]]
        if all(lack is not None for lack in lacks):
            answer = lacks[0]
    print(json.dumps(answer))
