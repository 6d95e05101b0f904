"""Writes the same messages in every form that mail is kept in, by Python's standard library.

make-mail.py FOLDER: one.eml, mail.mbox, mail.mbox.gz, tree/ (EML in folders), tree.zip, boxes/ (mbox files as folders),
maildir/ (Maildir with flags and Maildir++ folders).
"""
import gzip
import mailbox
import os
import shutil
import sys
import zipfile

out = sys.argv[1]
texts = {
    'Inbox': [('One', 'plain words\n'), ('Two', 'From the start\n\nof a line\n'), ('Three', 'Grüße\n')],
    'Projects/Slipway': [('Four', 'planks\n'), ('Five', 'no more\n')],
}


def message(subject, text):
    return (
        f'From: Tove <tove@skerryline.example>\nTo: office@skerryline.example\nSubject: {subject}\n'
        f'Date: Mon, 3 Feb 2020 10:00:00 +0000\nMessage-ID: <{subject.lower()}@x.example>\n'
        f'Content-Type: text/plain; charset=utf-8\n\n{text}'
    ).encode()


def write(path, data):
    os.makedirs(os.path.dirname(path), exist_ok=True)
    with open(path, 'wb') as file:
        file.write(data)


def write_mbox(path, messages):
    os.makedirs(os.path.dirname(path), exist_ok=True)
    box = mailbox.mbox(path)
    for data in messages:
        box.add(data)
    box.flush()
    box.close()


everything = [message(*entry) for entries in texts.values() for entry in entries]
write(os.path.join(out, 'one.eml'), everything[0])
write_mbox(os.path.join(out, 'mail.mbox'), everything)
with open(os.path.join(out, 'mail.mbox'), 'rb') as plain, gzip.open(os.path.join(out, 'mail.mbox.gz'), 'wb') as packed:
    shutil.copyfileobj(plain, packed)

for folder, entries in texts.items():
    for number, entry in enumerate(entries):
        write(os.path.join(out, 'tree', folder, f'{number}.eml'), message(*entry))
    write_mbox(os.path.join(out, 'boxes', f'{folder}.mbox'), [message(*entry) for entry in entries])
with zipfile.ZipFile(os.path.join(out, 'tree.zip'), 'w', zipfile.ZIP_DEFLATED) as packed:
    for directory, _, names in os.walk(os.path.join(out, 'tree')):
        for name in names:
            full = os.path.join(directory, name)
            packed.write(full, os.path.relpath(full, os.path.join(out, 'tree')))

maildir = mailbox.Maildir(os.path.join(out, 'maildir'), create=True)
slipway = maildir.add_folder('Projects.Slipway')
for box, entries, flags in ((maildir, texts['Inbox'], 'RS'), (slipway, texts['Projects/Slipway'], 'F')):
    for entry in entries:
        item = mailbox.MaildirMessage(message(*entry))
        item.set_subdir('cur')
        item.set_flags(flags)
        box.add(item)
