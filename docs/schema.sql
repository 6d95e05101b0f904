-- The data file as the migrations make it, table by table. Generated: "npm run test:unit -- schema -u" writes it anew, and the
-- test src/lib/server/database/schema.test.ts holds it against a real one.

CREATE TABLE access_grant (
	id INTEGER PRIMARY KEY,
	person_id INTEGER REFERENCES person (id),
	group_id INTEGER REFERENCES person_group (id),
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	folder_id INTEGER REFERENCES folder (id),
	may_find INTEGER NOT NULL CHECK (may_find IN (0, 1)),
	may_restore INTEGER NOT NULL CHECK (may_restore IN (0, 1)),
	until TEXT,
	given_at TEXT NOT NULL,
	given_by TEXT NOT NULL,
	ended_at TEXT,
	CHECK ((person_id IS NULL) <> (group_id IS NULL)),
	CHECK (may_find + may_restore > 0)
	) STRICT;
CREATE INDEX access_grant_by_group ON access_grant (group_id);
CREATE INDEX access_grant_by_person ON access_grant (person_id);

CREATE TABLE awaited (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	item_id INTEGER NOT NULL,
	behind_item_id INTEGER NOT NULL,
	because TEXT NOT NULL,
	since TEXT NOT NULL,
	until TEXT,
	made_by TEXT NOT NULL,
	ended_on TEXT,
	ended_by TEXT CHECK (ended_by IN ('answer', 'day', 'person')),
	answer_item_id INTEGER,
	docket_id INTEGER
	) STRICT;
CREATE INDEX awaited_open ON awaited (mailbox_id) WHERE ended_on IS NULL;

CREATE TABLE awaited_item (
	awaited_id INTEGER NOT NULL REFERENCES awaited (id),
	item_id INTEGER NOT NULL,
	PRIMARY KEY (awaited_id, item_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX awaited_item_by_item ON awaited_item (item_id);

CREATE TABLE certificate (
	id INTEGER PRIMARY KEY,
	docket_id INTEGER NOT NULL UNIQUE,
	mailbox TEXT NOT NULL,
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL
	, decided_by TEXT NOT NULL DEFAULT '', sha256 TEXT, reach TEXT NOT NULL DEFAULT '') STRICT;

CREATE TABLE certificate_item (
	certificate_id INTEGER NOT NULL REFERENCES certificate (id),
	item_id INTEGER NOT NULL,
	sha256 BLOB NOT NULL,
	bytes INTEGER NOT NULL,
	received_on TEXT,
	content_gone INTEGER NOT NULL, due_on TEXT, series_id INTEGER, version INTEGER, terms TEXT NOT NULL DEFAULT '', sender TEXT NOT NULL DEFAULT '', subject TEXT NOT NULL DEFAULT '', binned_on TEXT,
	PRIMARY KEY (certificate_id, item_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE class_quota (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	class INTEGER NOT NULL REFERENCES record_class (id),
	bytes INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, class)
	) STRICT, WITHOUT ROWID;

CREATE TABLE content (
	id INTEGER PRIMARY KEY,
	sha256 BLOB NOT NULL UNIQUE CHECK (length(sha256) = 32),
	raw_bytes INTEGER NOT NULL,
	stored_bytes INTEGER NOT NULL,
	codec TEXT NOT NULL CHECK (codec IN ('identity', 'brotli')),
	data BLOB NOT NULL
	) STRICT;

CREATE TABLE content_part (
	content_id INTEGER NOT NULL REFERENCES content (id),
	position INTEGER NOT NULL,
	part_id INTEGER NOT NULL REFERENCES content (id),
	start INTEGER NOT NULL,
	line_length INTEGER NOT NULL,
	line_break TEXT NOT NULL CHECK (line_break IN ('', char(10), char(13, 10))),
	PRIMARY KEY (content_id, position)
	) STRICT, WITHOUT ROWID;
CREATE INDEX content_part_by_part ON content_part (part_id);

CREATE TABLE correspondent (
	id INTEGER PRIMARY KEY,
	address TEXT NOT NULL UNIQUE,
	name TEXT NOT NULL,
	organisation_id INTEGER NOT NULL REFERENCES organisation (id)
	) STRICT;

CREATE TABLE desk_decision (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	person_id INTEGER,
	item_id INTEGER NOT NULL,
	correspondent_id INTEGER NOT NULL,
	decision TEXT NOT NULL,
	options TEXT NOT NULL,
	docket_id INTEGER NOT NULL,
	decided_at TEXT NOT NULL
	) STRICT;
CREATE INDEX desk_decision_by_person ON desk_decision (person_id, mailbox_id);
CREATE INDEX desk_decision_by_sender ON desk_decision (mailbox_id, correspondent_id);

CREATE TABLE digest (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	day TEXT NOT NULL,
	message_id TEXT NOT NULL UNIQUE,
	made_at TEXT NOT NULL,
	docket_id INTEGER,
	UNIQUE (mailbox_id, day)
	) STRICT;

CREATE TABLE digest_item (
	digest_id INTEGER NOT NULL REFERENCES digest (id),
	position INTEGER NOT NULL,
	item_id INTEGER NOT NULL,
	PRIMARY KEY (digest_id, position)
	) STRICT, WITHOUT ROWID;
CREATE INDEX digest_item_by_item ON digest_item (item_id);

CREATE TABLE digest_list (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	list_id INTEGER NOT NULL REFERENCES list (id),
	since TEXT NOT NULL,
	line_id INTEGER,
	PRIMARY KEY (mailbox_id, list_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE docket (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL CHECK (state IN ('drafted', 'carrying-out', 'carried-out', 'taking-back', 'taken-back', 'dropped')),
	drafted_at TEXT NOT NULL,
	drafted_by TEXT NOT NULL,
	carried_out_at TEXT,
	carried_out_by TEXT,
	taken_back_at TEXT,
	taken_back_by TEXT,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	progress_item_id INTEGER NOT NULL DEFAULT 0,
	taken_back_messages INTEGER NOT NULL DEFAULT 0
	, name TEXT NOT NULL DEFAULT '', progress_position INTEGER NOT NULL DEFAULT 1, by_itself TEXT NOT NULL DEFAULT '', approved_at TEXT, approved_by TEXT, drafted_by_id INTEGER REFERENCES person (id), carried_out_by_id INTEGER REFERENCES person (id), taken_back_by_id INTEGER REFERENCES person (id), approved_by_id INTEGER REFERENCES person (id), archive_levels TEXT NOT NULL DEFAULT '["folder"]') STRICT;
CREATE INDEX docket_by_mailbox ON docket (mailbox_id, state, id);

CREATE TABLE docket_changer (
	docket_id INTEGER NOT NULL REFERENCES docket (id),
	person_id INTEGER REFERENCES person (id),
	name TEXT NOT NULL,
	PRIMARY KEY (docket_id, name)
	) STRICT, WITHOUT ROWID;

CREATE TABLE docket_item (
	line_id INTEGER NOT NULL,
	item_id INTEGER NOT NULL,
	from_state TEXT NOT NULL,
	from_folder_id INTEGER NOT NULL,
	from_origin_folder_id INTEGER,
	from_binned_on TEXT,
	from_docket_id INTEGER,
	from_value INTEGER,
	to_folder_id INTEGER NOT NULL,
	to_origin_folder_id INTEGER, done INTEGER NOT NULL DEFAULT 0,
	PRIMARY KEY (line_id, item_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE docket_line (
	id INTEGER PRIMARY KEY,
	docket_id INTEGER NOT NULL REFERENCES docket (id),
	position INTEGER NOT NULL,
	scope TEXT NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	folders INTEGER NOT NULL,
	oldest TEXT,
	newest TEXT,
	"left" TEXT NOT NULL, decision TEXT NOT NULL DEFAULT 'archive', options TEXT NOT NULL DEFAULT '{}', conflicts TEXT NOT NULL DEFAULT '[]', elsewhere INTEGER NOT NULL DEFAULT 0, done_messages INTEGER NOT NULL DEFAULT 0, done_bytes INTEGER NOT NULL DEFAULT 0, flagged INTEGER NOT NULL DEFAULT 0,
	UNIQUE (docket_id, position)
	) STRICT;

CREATE TABLE due_weight (
	mailbox_id INTEGER NOT NULL,
	due_on TEXT NOT NULL,
	due_action TEXT NOT NULL,
	retention_id INTEGER NOT NULL,
	folder_id INTEGER NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, due_action, retention_id, folder_id, due_on)
	) STRICT, WITHOUT ROWID;

CREATE TABLE entry_link (
	hash BLOB PRIMARY KEY,
	person_id INTEGER REFERENCES person (id),
	expires_at INTEGER NOT NULL
	) STRICT, WITHOUT ROWID;

CREATE TABLE failed_attempt (key TEXT PRIMARY KEY, failures INTEGER NOT NULL, last_at INTEGER NOT NULL) STRICT, WITHOUT ROWID;

CREATE VIRTUAL TABLE file_names USING fts5(
	names, content = '', detail = full, tokenize = 'trigram case_sensitive 0 remove_diacritics 1'
	);

CREATE TABLE file_text (
	message_id INTEGER PRIMARY KEY REFERENCES message (id),
	outcome TEXT NOT NULL,
	text BLOB
	) STRICT;

CREATE TABLE folder (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	tree TEXT NOT NULL CHECK (tree IN ('mailbox', 'archive')),
	parent_id INTEGER REFERENCES folder (id),
	name TEXT NOT NULL,
	name_key TEXT NOT NULL,
	path TEXT NOT NULL,
	role TEXT CHECK (role IN ('inbox', 'sent', 'drafts', 'junk', 'trash', 'archive')),
	removed_at TEXT
	, retention_id INTEGER REFERENCES retention (id), class INTEGER, closed_on TEXT, never_archived INTEGER NOT NULL DEFAULT 0 CHECK (never_archived IN (0, 1))) STRICT;
CREATE UNIQUE INDEX folder_by_name ON folder (mailbox_id, tree, ifnull(parent_id, 0), name_key);

CREATE TABLE freed (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	day TEXT NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, day)
	) STRICT, WITHOUT ROWID;

CREATE TABLE group_member (
	group_id INTEGER NOT NULL REFERENCES person_group (id),
	person_id INTEGER NOT NULL REFERENCES person (id),
	PRIMARY KEY (group_id, person_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX group_member_by_person ON group_member (person_id);

CREATE TABLE hold (
	id INTEGER PRIMARY KEY,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL,
	because TEXT NOT NULL,
	asked_by TEXT NOT NULL,
	scope TEXT NOT NULL,
	placed_on TEXT NOT NULL,
	placed_by TEXT NOT NULL,
	released_on TEXT,
	released_by TEXT,
	released_because TEXT
	) STRICT;
CREATE UNIQUE INDEX hold_by_name ON hold (name_key) WHERE released_on IS NULL;

CREATE TABLE hold_item (
	item_id INTEGER NOT NULL,
	hold_id INTEGER NOT NULL REFERENCES hold (id),
	PRIMARY KEY (item_id, hold_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX hold_item_by_hold ON hold_item (hold_id);

CREATE TABLE import (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	source TEXT NOT NULL,
	path TEXT NOT NULL,
	folder TEXT NOT NULL,
	fingerprint TEXT NOT NULL,
	process INTEGER NOT NULL,
	next_file INTEGER NOT NULL DEFAULT 0,
	next_offset INTEGER NOT NULL DEFAULT 0,
	state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped')),
	began_at TEXT NOT NULL,
	ended_at TEXT,
	"read" INTEGER NOT NULL DEFAULT 0,
	added INTEGER NOT NULL DEFAULT 0,
	already INTEGER NOT NULL DEFAULT 0,
	unreadable INTEGER NOT NULL DEFAULT 0,
	bytes INTEGER NOT NULL DEFAULT 0
	) STRICT;

CREATE TABLE import_oddity (
	id INTEGER PRIMARY KEY,
	import_id INTEGER NOT NULL REFERENCES import (id),
	content_id INTEGER REFERENCES content (id),
	place TEXT NOT NULL,
	reason TEXT NOT NULL
	) STRICT;
CREATE INDEX import_oddity_by_content ON import_oddity (content_id);
CREATE INDEX import_oddity_by_import ON import_oddity (import_id);

CREATE TABLE item (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	message_id INTEGER NOT NULL REFERENCES message (id),
	state TEXT NOT NULL CHECK (state IN ('live', 'archived', 'binned', 'destroyed')),
	folder_id INTEGER NOT NULL REFERENCES folder (id),
	origin_folder_id INTEGER REFERENCES folder (id),
	imported_folder_id INTEGER NOT NULL REFERENCES folder (id),
	received_at INTEGER,
	received_on TEXT,
	date_in_doubt INTEGER NOT NULL CHECK (date_in_doubt IN (0, 1)),
	bytes INTEGER NOT NULL,
	seen INTEGER CHECK (seen IN (0, 1)),
	answered INTEGER NOT NULL DEFAULT 0,
	flagged INTEGER NOT NULL DEFAULT 0,
	draft INTEGER NOT NULL DEFAULT 0,
	attachments INTEGER NOT NULL DEFAULT 0,
	attachment_kinds INTEGER NOT NULL DEFAULT 0,
	correspondent_id INTEGER NOT NULL REFERENCES correspondent (id),
	organisation_id INTEGER NOT NULL REFERENCES organisation (id),
	binned_on TEXT,
	docket_id INTEGER
	, list_id INTEGER REFERENCES list (id), mail_kind INTEGER NOT NULL DEFAULT 0, addressed INTEGER NOT NULL DEFAULT 0, thread_id INTEGER, reference_set INTEGER, answered_on TEXT, kept INTEGER NOT NULL DEFAULT 0, pause_id INTEGER REFERENCES pause (id), own_class INTEGER, own_retention_id INTEGER REFERENCES retention (id), class INTEGER NOT NULL DEFAULT 1, retention_id INTEGER, due_on TEXT, due_action TEXT, due_folder_id INTEGER, never_archived INTEGER NOT NULL DEFAULT 0 CHECK (never_archived IN (0, 1)), for_digest INTEGER NOT NULL DEFAULT 0 CHECK (for_digest IN (0, 1)), importance INTEGER NOT NULL DEFAULT 0 CHECK (importance IN (-1, 0, 1)), row_sum INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE TRIGGER item_added AFTER INSERT ON item BEGIN UPDATE item SET row_sum = 10007 * CASE new.state WHEN 'live' THEN 1 WHEN 'archived' THEN 2 WHEN 'binned' THEN 3 WHEN 'destroyed' THEN 4 ELSE -99 END + 11241 * CASE new.due_action WHEN 'archive' THEN 1 WHEN 'destroy' THEN 2 WHEN 'review' THEN 3 ELSE -99 END + 12475 * ifnull(CAST(replace(new.received_on, '-', '') AS INTEGER), -99) + 13709 * ifnull(CAST(replace(new.binned_on, '-', '') AS INTEGER), -99) + 14943 * ifnull(CAST(replace(new.answered_on, '-', '') AS INTEGER), -99) + 16177 * ifnull(CAST(replace(new.due_on, '-', '') AS INTEGER), -99) + 17411 * ifnull(CAST(new.folder_id AS INTEGER), -99) + 18645 * ifnull(CAST(new.origin_folder_id AS INTEGER), -99) + 19879 * ifnull(CAST(new.docket_id AS INTEGER), -99) + 21113 * ifnull(CAST(new.class AS INTEGER), -99) + 22347 * ifnull(CAST(new.retention_id AS INTEGER), -99) + 23581 * ifnull(CAST(new.due_folder_id AS INTEGER), -99) + 24815 * ifnull(CAST(new.own_class AS INTEGER), -99) + 26049 * ifnull(CAST(new.own_retention_id AS INTEGER), -99) + 27283 * ifnull(CAST(new.seen AS INTEGER), -99) + 28517 * ifnull(CAST(new.answered AS INTEGER), -99) + 29751 * ifnull(CAST(new.flagged AS INTEGER), -99) + 30985 * ifnull(CAST(new.draft AS INTEGER), -99) + 32219 * ifnull(CAST(new.kept AS INTEGER), -99) + 33453 * ifnull(CAST(new.pause_id AS INTEGER), -99) + 34687 * ifnull(CAST(new.never_archived AS INTEGER), -99) + 35921 * ifnull(CAST(new.for_digest AS INTEGER), -99) + 37155 * ifnull(CAST(new.importance AS INTEGER), -99) + 38389 * ifnull(CAST(new.mailbox_id AS INTEGER), -99) + 39623 * ifnull(CAST(new.message_id AS INTEGER), -99) + 40857 * ifnull(CAST(new.imported_folder_id AS INTEGER), -99) + 42091 * ifnull(CAST(new.received_at AS INTEGER), -99) + 43325 * ifnull(CAST(new.date_in_doubt AS INTEGER), -99) + 44559 * ifnull(CAST(new.bytes AS INTEGER), -99) + 45793 * ifnull(CAST(new.attachments AS INTEGER), -99) + 47027 * ifnull(CAST(new.attachment_kinds AS INTEGER), -99) + 48261 * ifnull(CAST(new.correspondent_id AS INTEGER), -99) + 49495 * ifnull(CAST(new.organisation_id AS INTEGER), -99) + 50729 * ifnull(CAST(new.list_id AS INTEGER), -99) + 51963 * ifnull(CAST(new.mail_kind AS INTEGER), -99) + 53197 * ifnull(CAST(new.addressed AS INTEGER), -99) + 54431 * ifnull(CAST(new.thread_id AS INTEGER), -99) + 55665 * ifnull(CAST(new.reference_set AS INTEGER), -99) WHERE id = new.id; END;
CREATE INDEX item_answered ON item (mailbox_id, organisation_id, state, answered_on, correspondent_id, list_id, folder_id, received_on, date_in_doubt, bytes, seen, mail_kind, attachment_kinds, addressed)
	WHERE answered_on IS NOT NULL;
CREATE INDEX item_by_class ON item (class, mailbox_id, bytes) WHERE class > 1;
CREATE INDEX item_by_date ON item (mailbox_id, state, received_on, folder_id, date_in_doubt, bytes, kept, mail_kind, attachment_kinds, addressed);
CREATE INDEX item_by_day ON item (mailbox_id, received_on, received_at);
CREATE INDEX item_by_due ON item (mailbox_id, due_action, due_on) WHERE due_on IS NOT NULL;
CREATE UNIQUE INDEX item_by_import ON item (imported_folder_id, message_id);
CREATE INDEX item_by_list ON item (mailbox_id, list_id, date_in_doubt, received_on, seen, correspondent_id)
	 WHERE list_id IS NOT NULL;
CREATE INDEX item_by_message ON item (message_id);
CREATE INDEX item_by_organisation ON item (mailbox_id, organisation_id, state, received_on, bytes, seen, answered_on, date_in_doubt, correspondent_id);
CREATE INDEX item_by_origin ON item (origin_folder_id) WHERE origin_folder_id IS NOT NULL;
CREATE INDEX item_by_own_class ON item (own_class) WHERE own_class IS NOT NULL;
CREATE INDEX item_by_own_retention ON item (own_retention_id) WHERE own_retention_id IS NOT NULL;
CREATE INDEX item_by_reference_set ON item (reference_set);
CREATE INDEX item_by_size ON item (mailbox_id, bytes) WHERE bytes >= 100000;
CREATE INDEX item_by_thread ON item (thread_id, mailbox_id, state, bytes, seen, addressed);
CREATE INDEX item_for_digest ON item (mailbox_id) WHERE for_digest = 1;
CREATE INDEX item_in_bin ON item (mailbox_id, binned_on) WHERE state = 'binned';
CREATE INDEX item_in_folder ON item (folder_id, state, received_on, received_at, bytes, message_id, attachments, flagged, seen, mail_kind, importance);
CREATE INDEX item_kept ON item (mailbox_id) WHERE kept = 1;
CREATE INDEX item_never_archived ON item (mailbox_id) WHERE never_archived = 1;
CREATE INDEX item_not_threaded ON item (mailbox_id) WHERE thread_id IS NULL;
CREATE INDEX item_paused ON item (mailbox_id, pause_id) WHERE pause_id IS NOT NULL;
CREATE INDEX item_unread ON item (mailbox_id, state, received_on, date_in_doubt, bytes) WHERE seen = 0;

CREATE VIEW item_now AS SELECT id, 10007 * CASE item.state WHEN 'live' THEN 1 WHEN 'archived' THEN 2 WHEN 'binned' THEN 3 WHEN 'destroyed' THEN 4 ELSE -99 END + 11241 * CASE item.due_action WHEN 'archive' THEN 1 WHEN 'destroy' THEN 2 WHEN 'review' THEN 3 ELSE -99 END + 12475 * ifnull(CAST(replace(item.received_on, '-', '') AS INTEGER), -99) + 13709 * ifnull(CAST(replace(item.binned_on, '-', '') AS INTEGER), -99) + 14943 * ifnull(CAST(replace(item.answered_on, '-', '') AS INTEGER), -99) + 16177 * ifnull(CAST(replace(item.due_on, '-', '') AS INTEGER), -99) + 17411 * ifnull(CAST(item.folder_id AS INTEGER), -99) + 18645 * ifnull(CAST(item.origin_folder_id AS INTEGER), -99) + 19879 * ifnull(CAST(item.docket_id AS INTEGER), -99) + 21113 * ifnull(CAST(item.class AS INTEGER), -99) + 22347 * ifnull(CAST(item.retention_id AS INTEGER), -99) + 23581 * ifnull(CAST(item.due_folder_id AS INTEGER), -99) + 24815 * ifnull(CAST(item.own_class AS INTEGER), -99) + 26049 * ifnull(CAST(item.own_retention_id AS INTEGER), -99) + 27283 * ifnull(CAST(item.seen AS INTEGER), -99) + 28517 * ifnull(CAST(item.answered AS INTEGER), -99) + 29751 * ifnull(CAST(item.flagged AS INTEGER), -99) + 30985 * ifnull(CAST(item.draft AS INTEGER), -99) + 32219 * ifnull(CAST(item.kept AS INTEGER), -99) + 33453 * ifnull(CAST(item.pause_id AS INTEGER), -99) + 34687 * ifnull(CAST(item.never_archived AS INTEGER), -99) + 35921 * ifnull(CAST(item.for_digest AS INTEGER), -99) + 37155 * ifnull(CAST(item.importance AS INTEGER), -99) + 38389 * ifnull(CAST(item.mailbox_id AS INTEGER), -99) + 39623 * ifnull(CAST(item.message_id AS INTEGER), -99) + 40857 * ifnull(CAST(item.imported_folder_id AS INTEGER), -99) + 42091 * ifnull(CAST(item.received_at AS INTEGER), -99) + 43325 * ifnull(CAST(item.date_in_doubt AS INTEGER), -99) + 44559 * ifnull(CAST(item.bytes AS INTEGER), -99) + 45793 * ifnull(CAST(item.attachments AS INTEGER), -99) + 47027 * ifnull(CAST(item.attachment_kinds AS INTEGER), -99) + 48261 * ifnull(CAST(item.correspondent_id AS INTEGER), -99) + 49495 * ifnull(CAST(item.organisation_id AS INTEGER), -99) + 50729 * ifnull(CAST(item.list_id AS INTEGER), -99) + 51963 * ifnull(CAST(item.mail_kind AS INTEGER), -99) + 53197 * ifnull(CAST(item.addressed AS INTEGER), -99) + 54431 * ifnull(CAST(item.thread_id AS INTEGER), -99) + 55665 * ifnull(CAST(item.reference_set AS INTEGER), -99) AS sum FROM item;

CREATE TABLE item_tag (
	item_id INTEGER NOT NULL REFERENCES item (id),
	tag_id INTEGER NOT NULL REFERENCES tag (id),
	PRIMARY KEY (item_id, tag_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX item_tag_by_tag ON item_tag (tag_id, item_id);

CREATE TABLE job (
	id INTEGER PRIMARY KEY,
	use_case TEXT NOT NULL,
	input TEXT NOT NULL,
	label TEXT NOT NULL,
	who TEXT NOT NULL,
	state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'stopped')),
	result TEXT,
	error TEXT,
	attempts INTEGER NOT NULL DEFAULT 0,
	began_at TEXT NOT NULL,
	ended_at TEXT,
	noticed_at TEXT
	, person_id INTEGER REFERENCES person (id), about TEXT, is_begun INTEGER NOT NULL DEFAULT 1) STRICT;
CREATE INDEX job_by_state ON job (state, id);

CREATE TABLE keep_line (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	text TEXT NOT NULL,
	decision TEXT NOT NULL,
	options TEXT NOT NULL,
	made_by TEXT NOT NULL,
	made_at TEXT NOT NULL,
	UNIQUE (mailbox_id, text, decision)
	) STRICT;

CREATE TABLE leaving (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	list_id INTEGER NOT NULL REFERENCES list (id),
	line_id INTEGER NOT NULL,
	way TEXT NOT NULL,
	target TEXT NOT NULL,
	state TEXT NOT NULL,
	asked_on TEXT NOT NULL,
	who TEXT NOT NULL,
	sender INTEGER,
	answered_at TEXT,
	answer TEXT NOT NULL DEFAULT ''
	) STRICT;
CREATE INDEX leaving_by_line ON leaving (line_id);
CREATE INDEX leaving_by_list ON leaving (mailbox_id, list_id, id);
CREATE INDEX leaving_to_do ON leaving (state) WHERE state IN ('waiting', 'sending');

CREATE TABLE ledger (
	number INTEGER PRIMARY KEY,
	at TEXT NOT NULL,
	who TEXT NOT NULL,
	action TEXT NOT NULL,
	details TEXT NOT NULL,
	previous TEXT NOT NULL CHECK (length(previous) = 64),
	hash TEXT NOT NULL UNIQUE CHECK (length(hash) = 64)
	, person INTEGER) STRICT;
CREATE TRIGGER ledger_is_not_changed BEFORE UPDATE ON ledger
	BEGIN SELECT RAISE(ABORT, 'the ledger is not changed'); END;
CREATE TRIGGER ledger_is_not_shortened BEFORE DELETE ON ledger
	BEGIN SELECT RAISE(ABORT, 'the ledger is not shortened'); END;

CREATE TABLE list (id INTEGER PRIMARY KEY, identifier TEXT NOT NULL UNIQUE, name TEXT NOT NULL, organisation TEXT NOT NULL DEFAULT '') STRICT;

CREATE TABLE list_look (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	person TEXT NOT NULL,
	looked_on TEXT NOT NULL,
	PRIMARY KEY (mailbox_id, person)
	) STRICT, WITHOUT ROWID;

CREATE TABLE look (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	item_id INTEGER NOT NULL,
	who TEXT NOT NULL,
	what TEXT NOT NULL,
	"on" TEXT NOT NULL,
	at TEXT NOT NULL,
	UNIQUE (item_id, who, what, "on")
	) STRICT;
CREATE INDEX look_by_mailbox ON look (mailbox_id, id);

CREATE TABLE mailbox (
	id INTEGER PRIMARY KEY,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL UNIQUE,
	quota_bytes INTEGER,
	bin_days INTEGER NOT NULL DEFAULT 30,
	made_at TEXT NOT NULL
	, archives INTEGER NOT NULL DEFAULT 1, addresses TEXT NOT NULL DEFAULT '[]', inbox_aim INTEGER NOT NULL DEFAULT 25, empties_bin INTEGER NOT NULL DEFAULT 0, confirm_above INTEGER NOT NULL DEFAULT 100, written_to_item INTEGER NOT NULL DEFAULT 0, junk_days INTEGER NOT NULL DEFAULT 14, clears_junk INTEGER NOT NULL DEFAULT 0, digest_every TEXT NOT NULL DEFAULT 'day', digest_folder TEXT NOT NULL DEFAULT 'Digests', retention_id INTEGER REFERENCES retention (id), retention_settings INTEGER NOT NULL DEFAULT 0, retention_applied INTEGER NOT NULL DEFAULT 0, retains TEXT NOT NULL DEFAULT 'off', retains_every INTEGER NOT NULL DEFAULT 1, retained_on TEXT, owner_id INTEGER REFERENCES person (id), archive_levels TEXT NOT NULL DEFAULT '["folder"]', owner_tidies INTEGER NOT NULL DEFAULT 0, signature TEXT NOT NULL DEFAULT '', returns_answered INTEGER NOT NULL DEFAULT 0 CHECK (returns_answered IN (0, 1)), returned_through INTEGER NOT NULL DEFAULT 0) STRICT;

CREATE TABLE message (
	id INTEGER PRIMARY KEY,
	content_id INTEGER NOT NULL UNIQUE REFERENCES content (id),
	message_id TEXT NOT NULL,
	reference_ids TEXT NOT NULL,
	subject TEXT NOT NULL,
	from_name TEXT NOT NULL,
	from_address TEXT NOT NULL,
	recipients TEXT NOT NULL,
	sent_at INTEGER,
	list_id TEXT NOT NULL,
	importance INTEGER NOT NULL,
	attachments TEXT NOT NULL
	, base_subject TEXT NOT NULL DEFAULT '', is_reply INTEGER NOT NULL DEFAULT 0, to_addresses TEXT NOT NULL DEFAULT '', cc_addresses TEXT NOT NULL DEFAULT '', traits INTEGER NOT NULL DEFAULT 0, expires_at INTEGER, event_ends_on TEXT, body_hash BLOB, text_length INTEGER NOT NULL DEFAULT 0, reading INTEGER NOT NULL DEFAULT 0, leave_ways INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE TRIGGER message_added AFTER INSERT ON message BEGIN
	INSERT OR REPLACE INTO message_sum (message_id, sum) VALUES (new.id, row_sum(new.content_id, new.message_id, new.reference_ids, new.subject, new.from_name, new.from_address, new.recipients, new.sent_at, new.list_id, new.importance, new.attachments, new.base_subject, new.is_reply, new.to_addresses, new.cc_addresses, new.traits, new.expires_at, new.event_ends_on, new.body_hash, new.text_length, new.reading, new.leave_ways));
	END;
CREATE INDEX message_by_list ON message (list_id) WHERE list_id <> '';
CREATE INDEX message_by_message_id ON message (message_id);
CREATE TRIGGER message_changed AFTER UPDATE ON message BEGIN
	UPDATE message_sum SET sum = sum + row_sum(new.content_id, new.message_id, new.reference_ids, new.subject, new.from_name, new.from_address, new.recipients, new.sent_at, new.list_id, new.importance, new.attachments, new.base_subject, new.is_reply, new.to_addresses, new.cc_addresses, new.traits, new.expires_at, new.event_ends_on, new.body_hash, new.text_length, new.reading, new.leave_ways) - row_sum(old.content_id, old.message_id, old.reference_ids, old.subject, old.from_name, old.from_address, old.recipients, old.sent_at, old.list_id, old.importance, old.attachments, old.base_subject, old.is_reply, old.to_addresses, old.cc_addresses, old.traits, old.expires_at, old.event_ends_on, old.body_hash, old.text_length, old.reading, old.leave_ways) WHERE message_id = new.id;
	END;
CREATE INDEX message_read_before_lists ON message (reading) WHERE reading < 2;
CREATE TRIGGER message_removed AFTER DELETE ON message BEGIN DELETE FROM message_sum WHERE message_id = old.id; END;
CREATE INDEX message_sort_keys ON message (id, base_subject, from_address);
CREATE INDEX message_with_files ON message (id) WHERE attachments <> '[]';

CREATE VIEW message_now AS SELECT id, row_sum(message.content_id, message.message_id, message.reference_ids, message.subject, message.from_name, message.from_address, message.recipients, message.sent_at, message.list_id, message.importance, message.attachments, message.base_subject, message.is_reply, message.to_addresses, message.cc_addresses, message.traits, message.expires_at, message.event_ends_on, message.body_hash, message.text_length, message.reading, message.leave_ways) AS sum FROM message;

CREATE TABLE message_sum (message_id INTEGER PRIMARY KEY, sum INTEGER NOT NULL) STRICT;

CREATE TABLE named_retention (
	name_key TEXT PRIMARY KEY,
	name TEXT NOT NULL,
	retention_id INTEGER REFERENCES retention (id),
	class INTEGER
	) STRICT, WITHOUT ROWID;

CREATE TABLE organisation (id INTEGER PRIMARY KEY, domain TEXT NOT NULL UNIQUE) STRICT;

CREATE TABLE outbox (
	id INTEGER PRIMARY KEY,
	source_id INTEGER NOT NULL REFERENCES source (id),
	item_id INTEGER NOT NULL,
	docket_id INTEGER,
	places INTEGER NOT NULL CHECK (places IN (0, 1)),
	noted_at TEXT NOT NULL,
	changes INTEGER NOT NULL DEFAULT 1,
	tries INTEGER NOT NULL DEFAULT 0,
	trouble TEXT,
	UNIQUE (source_id, item_id)
	) STRICT;
CREATE INDEX outbox_by_docket ON outbox (docket_id);
CREATE INDEX outbox_by_item ON outbox (item_id);

CREATE TABLE outgoing (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	kind TEXT NOT NULL CHECK (kind IN ('new', 'reply', 'reply-all', 'forward')),
	original_item_id INTEGER,
	from_address TEXT NOT NULL,
	to_addresses TEXT NOT NULL,
	cc_addresses TEXT NOT NULL,
	subject TEXT NOT NULL,
	text TEXT NOT NULL,
	in_reply_to TEXT NOT NULL,
	reference_ids TEXT NOT NULL,
	attaches_original INTEGER NOT NULL CHECK (attaches_original IN (0, 1)),
	filing TEXT NOT NULL,
	message_id TEXT NOT NULL,
	state TEXT NOT NULL CHECK (state IN ('draft', 'waiting', 'sending', 'failed', 'sent', 'discarded')),
	send_at TEXT,
	tried_at TEXT,
	sent_at TEXT,
	said TEXT NOT NULL DEFAULT '',
	is_filed INTEGER NOT NULL DEFAULT 0,
	sent_item_id INTEGER,
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	person_id INTEGER
	) STRICT;
CREATE INDEX outgoing_not_filed ON outgoing (id) WHERE state = 'sent' AND is_filed = 0;
CREATE INDEX outgoing_open ON outgoing (mailbox_id, state) WHERE state NOT IN ('sent', 'discarded');

CREATE TABLE pause (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	folder_id INTEGER REFERENCES folder (id),
	until TEXT NOT NULL,
	because TEXT NOT NULL,
	made_by TEXT NOT NULL,
	made_at TEXT NOT NULL,
	ended_at TEXT
	) STRICT;
CREATE INDEX pause_by_mailbox ON pause (mailbox_id, until);

CREATE TABLE person (
	id INTEGER PRIMARY KEY,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL UNIQUE,
	address TEXT NOT NULL,
	address_key TEXT NOT NULL UNIQUE,
	role TEXT NOT NULL CHECK (role IN ('administrator', 'auditor', 'colleague')),
	password TEXT,
	code_secret TEXT,
	code_step INTEGER NOT NULL DEFAULT 0,
	made_at TEXT NOT NULL,
	ended_at TEXT
	, at_once INTEGER) STRICT;

CREATE TABLE person_group (id INTEGER PRIMARY KEY, name TEXT NOT NULL, name_key TEXT NOT NULL UNIQUE) STRICT;

CREATE TABLE pile (
	folder_id INTEGER PRIMARY KEY REFERENCES folder (id),
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL
	) STRICT;
CREATE INDEX pile_by_mailbox ON pile (mailbox_id);

CREATE TABLE pile_item (
	item_id INTEGER PRIMARY KEY,
	folder_id INTEGER NOT NULL REFERENCES pile (folder_id),
	because TEXT NOT NULL,
	until TEXT,
	put_on TEXT NOT NULL,
	put_by TEXT NOT NULL
	) STRICT;
CREATE INDEX pile_item_by_folder ON pile_item (folder_id);
CREATE INDEX pile_item_by_until ON pile_item (until) WHERE until IS NOT NULL;

CREATE TABLE proposal_item (
	mailbox_id INTEGER NOT NULL,
	kind TEXT NOT NULL,
	item_id INTEGER NOT NULL,
	better_item_id INTEGER,
	reason TEXT NOT NULL,
	PRIMARY KEY (mailbox_id, kind, item_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE proposal_run (mailbox_id INTEGER PRIMARY KEY, ran_at TEXT NOT NULL) STRICT;

CREATE TABLE record_class (
	id INTEGER PRIMARY KEY,
	word TEXT NOT NULL UNIQUE,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL,
	letter TEXT NOT NULL,
	is_protected INTEGER NOT NULL CHECK (is_protected IN (0, 1)),
	quota_bytes INTEGER,
	retention_id INTEGER REFERENCES retention (id),
	removed_at TEXT
	) STRICT;

CREATE TABLE recovery_code (
	person_id INTEGER NOT NULL REFERENCES person (id),
	hash BLOB NOT NULL,
	PRIMARY KEY (person_id, hash)
	) STRICT, WITHOUT ROWID;

CREATE TABLE reference (
	mailbox_id INTEGER NOT NULL,
	id_hash INTEGER NOT NULL,
	set_id INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, id_hash)
	) STRICT, WITHOUT ROWID;
CREATE INDEX reference_by_set ON reference (set_id);

CREATE TABLE request (
	id INTEGER PRIMARY KEY,
	person_id INTEGER NOT NULL REFERENCES person (id),
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	wish TEXT NOT NULL CHECK (wish IN ('restore', 'reach', 'keep')),
	folder_id INTEGER REFERENCES folder (id),
	because TEXT NOT NULL,
	made_at TEXT NOT NULL,
	state TEXT NOT NULL CHECK (state IN ('open', 'granted', 'in-part', 'declined')),
	word TEXT NOT NULL DEFAULT '',
	restored INTEGER NOT NULL DEFAULT 0,
	answered_at TEXT,
	answered_by TEXT,
	noticed_at TEXT
	, folder_name TEXT) STRICT;
CREATE INDEX request_by_person ON request (person_id, id);
CREATE INDEX request_by_state ON request (state, id);

CREATE TABLE request_item (
	request_id INTEGER NOT NULL REFERENCES request (id),
	item_id INTEGER NOT NULL,
	PRIMARY KEY (request_id, item_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE retention (
	id INTEGER PRIMARY KEY,
	series_id INTEGER UNIQUE REFERENCES series (id),
	terms TEXT UNIQUE,
	CHECK ((series_id IS NULL) <> (terms IS NULL))
	) STRICT;

CREATE TABLE review (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	until TEXT NOT NULL,
	because TEXT NOT NULL,
	asked_by TEXT NOT NULL,
	asked_on TEXT NOT NULL,
	answered_on TEXT,
	ended_on TEXT
	) STRICT;
CREATE INDEX review_by_mailbox ON review (mailbox_id);

CREATE TABLE review_item (
	review_id INTEGER NOT NULL REFERENCES review (id),
	item_id INTEGER NOT NULL,
	due_on TEXT,
	due_action TEXT,
	PRIMARY KEY (review_id, item_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX review_item_by_item ON review_item (item_id);

CREATE TABLE rule (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	position INTEGER NOT NULL,
	name TEXT NOT NULL,
	query TEXT NOT NULL,
	stay TEXT NOT NULL,
	decision TEXT NOT NULL,
	options TEXT NOT NULL,
	since TEXT,
	until TEXT,
	is_on INTEGER NOT NULL CHECK (is_on IN (0, 1)),
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	removed_at TEXT
	, thread_item_id INTEGER) STRICT;
CREATE INDEX rule_by_mailbox ON rule (mailbox_id, position);

CREATE TABLE rule_item (
	rule_id INTEGER NOT NULL REFERENCES rule (id),
	item_id INTEGER NOT NULL,
	run_id INTEGER NOT NULL,
	why TEXT NOT NULL CHECK (why IN ('all', 'newest', 'older', 'heavier')),
	PRIMARY KEY (rule_id, item_id)
	) STRICT, WITHOUT ROWID;
CREATE INDEX rule_item_by_item ON rule_item (item_id);
CREATE INDEX rule_item_by_run ON rule_item (run_id);

CREATE TABLE rule_run (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	on_day TEXT NOT NULL,
	docket_id INTEGER
	) STRICT;
CREATE INDEX rule_run_by_mailbox ON rule_run (mailbox_id);

CREATE TABLE saved_search (
	id INTEGER PRIMARY KEY,
	person_id INTEGER NOT NULL REFERENCES person (id),
	name TEXT NOT NULL,
	question TEXT NOT NULL,
	UNIQUE (person_id, name)
	) STRICT;

CREATE TABLE sender_mark (
	id INTEGER PRIMARY KEY,
	verdict TEXT NOT NULL,
	kind TEXT NOT NULL,
	value TEXT NOT NULL,
	made_by TEXT NOT NULL,
	made_at TEXT NOT NULL,
	UNIQUE (kind, value)
	) STRICT;

CREATE TABLE series (id INTEGER PRIMARY KEY, code TEXT NOT NULL, code_key TEXT NOT NULL UNIQUE, removed_at TEXT) STRICT;

CREATE TABLE series_version (
	series_id INTEGER NOT NULL REFERENCES series (id),
	version INTEGER NOT NULL,
	title TEXT NOT NULL,
	description TEXT NOT NULL,
	terms TEXT NOT NULL,
	authority TEXT NOT NULL,
	owner TEXT NOT NULL,
	since TEXT NOT NULL,
	because TEXT NOT NULL,
	made_by TEXT NOT NULL,
	PRIMARY KEY (series_id, version)
	) STRICT, WITHOUT ROWID;

CREATE TABLE session (
	id INTEGER PRIMARY KEY,
	hash BLOB NOT NULL UNIQUE,
	person_id INTEGER NOT NULL REFERENCES person (id),
	stage TEXT NOT NULL CHECK (stage IN ('code', 'code-wanted', 'whole')),
	began_at INTEGER NOT NULL,
	seen_at INTEGER NOT NULL,
	device TEXT NOT NULL
	) STRICT;
CREATE INDEX session_by_person ON session (person_id);

CREATE TABLE setting (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;

CREATE TABLE slip (
	id INTEGER PRIMARY KEY,
	who TEXT NOT NULL,
	docket_id INTEGER NOT NULL REFERENCES docket (id), person_id INTEGER REFERENCES person (id),
	UNIQUE (who, docket_id)
	) STRICT;
CREATE INDEX slip_by_person ON slip (person_id);

CREATE TABLE source (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL UNIQUE REFERENCES mailbox (id),
	host TEXT NOT NULL,
	port INTEGER NOT NULL,
	tls TEXT NOT NULL CHECK (tls IN ('implicit', 'starttls', 'none')),
	certificate TEXT,
	user TEXT NOT NULL,
	auth TEXT NOT NULL CHECK (auth IN ('password', 'token')),
	secret BLOB NOT NULL,
	left_out TEXT NOT NULL,
	made_at TEXT NOT NULL,
	made_by TEXT NOT NULL,
	passed_at TEXT,
	tried_at TEXT,
	error TEXT,
	quota_used INTEGER,
	quota_limit INTEGER
	, writes INTEGER NOT NULL DEFAULT 0 CHECK (writes IN (0, 1)), archive_on TEXT NOT NULL DEFAULT 'kovrel' CHECK (archive_on IN ('kovrel', 'server')), fetch_first TEXT NOT NULL DEFAULT 'newest' CHECK (fetch_first IN ('newest', 'heaviest')), bytes_a_second INTEGER, connections INTEGER NOT NULL DEFAULT 2, root TEXT NOT NULL DEFAULT '', script_says TEXT, is_restored INTEGER NOT NULL DEFAULT 0 CHECK (is_restored IN (0, 1)), disconnected_at TEXT) STRICT;

CREATE TABLE source_ahead (
	source_folder_id INTEGER NOT NULL REFERENCES source_folder (id),
	uid INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	received_at INTEGER,
	received_on TEXT,
	address TEXT NOT NULL,
	name TEXT NOT NULL,
	organisation TEXT NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (source_folder_id, uid)
	) STRICT, WITHOUT ROWID;
CREATE INDEX source_ahead_weight ON source_ahead (source_folder_id, bytes, unread);

CREATE TABLE source_folder (
	id INTEGER PRIMARY KEY,
	source_id INTEGER NOT NULL REFERENCES source (id),
	path TEXT NOT NULL,
	folder_id INTEGER NOT NULL REFERENCES folder (id),
	uid_validity TEXT NOT NULL,
	uid_next INTEGER NOT NULL,
	messages INTEGER NOT NULL,
	modseq TEXT, path_here TEXT NOT NULL DEFAULT '',
	UNIQUE (source_id, path)
	) STRICT;

CREATE TABLE source_gone (
	item_id INTEGER PRIMARY KEY,
	source_id INTEGER NOT NULL REFERENCES source (id)
	) STRICT;

CREATE TABLE source_item (
	source_folder_id INTEGER NOT NULL REFERENCES source_folder (id),
	uid INTEGER NOT NULL,
	item_id INTEGER NOT NULL,
	flags INTEGER NOT NULL,
	keywords TEXT NOT NULL, internal_date INTEGER, removal_begun INTEGER NOT NULL DEFAULT 0 CHECK (removal_begun IN (0, 1)),
	PRIMARY KEY (source_folder_id, uid)
	) STRICT, WITHOUT ROWID;
CREATE INDEX source_item_by_item ON source_item (item_id);
CREATE INDEX source_item_removal_begun ON source_item (source_folder_id, uid) WHERE removal_begun = 1;

CREATE TABLE source_removed (
	item_id INTEGER PRIMARY KEY,
	source_id INTEGER NOT NULL REFERENCES source (id),
	internal_date INTEGER
	) STRICT;

CREATE TABLE tag (
	id INTEGER PRIMARY KEY,
	name TEXT NOT NULL,
	name_key TEXT NOT NULL UNIQUE,
	colour TEXT NOT NULL,
	hidden INTEGER NOT NULL DEFAULT 0
	) STRICT;

CREATE TABLE thread (
	id INTEGER PRIMARY KEY,
	mailbox_id INTEGER NOT NULL,
	subject TEXT NOT NULL
	, title TEXT NOT NULL DEFAULT '', loose INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE INDEX thread_by_subject ON thread (mailbox_id, subject) WHERE subject <> '';

CREATE TABLE weight_by_correspondent (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL,
	correspondent_id INTEGER NOT NULL REFERENCES correspondent (id),
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, state, correspondent_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE weight_by_form (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL,
	size_band INTEGER NOT NULL,
	attachment_kinds INTEGER NOT NULL,
	mail_kind INTEGER NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, state, size_band, attachment_kinds, mail_kind)
	) STRICT, WITHOUT ROWID;

CREATE TABLE weight_by_list (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL,
	list_id INTEGER NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, state, list_id)
	) STRICT, WITHOUT ROWID;

CREATE TABLE weight_by_month (
	mailbox_id INTEGER NOT NULL REFERENCES mailbox (id),
	state TEXT NOT NULL,
	folder_id INTEGER NOT NULL REFERENCES folder (id),
	month TEXT NOT NULL,
	messages INTEGER NOT NULL,
	bytes INTEGER NOT NULL,
	unread INTEGER NOT NULL,
	PRIMARY KEY (mailbox_id, state, folder_id, month)
	) STRICT, WITHOUT ROWID;

CREATE VIRTUAL TABLE word_list USING fts5vocab('words', 'row');

CREATE VIRTUAL TABLE words USING fts5(
	subject, sender, recipients, copied, text, quoted, files,
	content = '', tokenize = 'unicode61 remove_diacritics 2'
	);

CREATE TABLE written_to (address TEXT PRIMARY KEY, organisation TEXT NOT NULL) STRICT, WITHOUT ROWID;
CREATE INDEX written_to_organisation ON written_to (organisation);
