/*
 * The tables of the data file, for Knex's builder: a column that is not there does not compile. Generated:
 * "npm run test:unit -- schema -u" writes it anew, and schema.test.ts holds it against a real data file.
 */
import type { Knex } from 'knex';
import type { Decision } from '../../../core/docket/decisions.ts';
import type { Action } from '../../../core/ledger/line.ts';
import type { DigestRhythm } from '../../../core/lists/digest.ts';
import type { AttemptState } from '../../../core/lists/standing.ts';
import type { WayKind } from '../../../core/lists/ways.ts';

/** A new row: columns with a default or NULL may be omitted. */
type NewRow<Row, Optional extends keyof Row> = Omit<Row, Optional> & Partial<Pick<Row, Optional>>;
type Table<Row, Optional extends keyof Row> = Knex.CompositeTableType<Row, NewRow<Row, Optional>>;

interface AccessGrant {
	id: number;
	person_id: number | null;
	group_id: number | null;
	mailbox_id: number;
	folder_id: number | null;
	may_find: number;
	may_restore: number;
	until: string | null;
	given_at: string;
	given_by: string;
	ended_at: string | null;
}

interface Awaited {
	id: number;
	mailbox_id: number;
	item_id: number;
	behind_item_id: number;
	because: string;
	since: string;
	until: string | null;
	made_by: string;
	ended_on: string | null;
	ended_by: 'answer' | 'day' | 'person' | null;
	answer_item_id: number | null;
	docket_id: number | null;
}

interface AwaitedItem {
	awaited_id: number;
	item_id: number;
}

interface Certificate {
	id: number;
	docket_id: number;
	mailbox: string;
	made_at: string;
	made_by: string;
	messages: number;
	bytes: number;
	decided_by: string;
	sha256: string | null;
	reach: string;
}

interface CertificateItem {
	certificate_id: number;
	item_id: number;
	sha256: Buffer;
	bytes: number;
	received_on: string | null;
	content_gone: number;
	due_on: string | null;
	series_id: number | null;
	version: number | null;
	terms: string;
	sender: string;
	subject: string;
	binned_on: string | null;
}

interface ClassQuota {
	mailbox_id: number;
	class: number;
	bytes: number;
}

interface Content {
	id: number;
	sha256: Buffer;
	raw_bytes: number;
	stored_bytes: number;
	codec: 'identity' | 'brotli';
	data: Buffer;
}

interface ContentPart {
	content_id: number;
	position: number;
	part_id: number;
	start: number;
	line_length: number;
	line_break: string;
}

interface Correspondent {
	id: number;
	address: string;
	name: string;
	organisation_id: number;
}

interface DeskDecision {
	id: number;
	mailbox_id: number;
	person_id: number | null;
	item_id: number;
	correspondent_id: number;
	decision: string;
	options: string;
	docket_id: number;
	decided_at: string;
}

interface Digest {
	id: number;
	mailbox_id: number;
	day: string;
	message_id: string;
	made_at: string;
	docket_id: number | null;
}

interface DigestItem {
	digest_id: number;
	position: number;
	item_id: number;
}

interface DigestList {
	mailbox_id: number;
	list_id: number;
	since: string;
	line_id: number | null;
}

interface Docket {
	id: number;
	mailbox_id: number;
	state: 'drafted' | 'carrying-out' | 'carried-out' | 'taking-back' | 'taken-back' | 'dropped';
	drafted_at: string;
	drafted_by: string;
	carried_out_at: string | null;
	carried_out_by: string | null;
	taken_back_at: string | null;
	taken_back_by: string | null;
	messages: number;
	bytes: number;
	progress_item_id: number;
	taken_back_messages: number;
	name: string;
	progress_position: number;
	by_itself: string;
	approved_at: string | null;
	approved_by: string | null;
	drafted_by_id: number | null;
	carried_out_by_id: number | null;
	taken_back_by_id: number | null;
	approved_by_id: number | null;
	archive_levels: string;
}

interface DocketChanger {
	docket_id: number;
	person_id: number | null;
	name: string;
}

interface DocketItem {
	line_id: number;
	item_id: number;
	from_state: string;
	from_folder_id: number;
	from_origin_folder_id: number | null;
	from_binned_on: string | null;
	from_docket_id: number | null;
	from_value: number | null;
	to_folder_id: number;
	to_origin_folder_id: number | null;
	done: number;
}

interface DocketLine {
	id: number;
	docket_id: number;
	position: number;
	scope: string;
	messages: number;
	bytes: number;
	folders: number;
	oldest: string | null;
	newest: string | null;
	left: string;
	decision: Decision;
	options: string;
	conflicts: string;
	elsewhere: number;
	done_messages: number;
	done_bytes: number;
	flagged: number;
}

interface DueWeight {
	mailbox_id: number;
	due_on: string;
	due_action: string;
	retention_id: number;
	folder_id: number;
	messages: number;
	bytes: number;
}

interface EntryLink {
	hash: Buffer;
	person_id: number | null;
	expires_at: number;
}

interface FailedAttempt {
	key: string;
	failures: number;
	last_at: number;
}

interface FileText {
	message_id: number;
	outcome: string;
	text: Buffer | null;
}

interface Folder {
	id: number;
	mailbox_id: number;
	tree: 'mailbox' | 'archive';
	parent_id: number | null;
	name: string;
	name_key: string;
	path: string;
	role: 'inbox' | 'sent' | 'drafts' | 'junk' | 'trash' | 'archive' | null;
	removed_at: string | null;
	retention_id: number | null;
	class: number | null;
	closed_on: string | null;
	never_archived: number;
}

interface Freed {
	mailbox_id: number;
	day: string;
	messages: number;
	bytes: number;
}

interface GroupMember {
	group_id: number;
	person_id: number;
}

interface Hold {
	id: number;
	name: string;
	name_key: string;
	because: string;
	asked_by: string;
	scope: string;
	placed_on: string;
	placed_by: string;
	released_on: string | null;
	released_by: string | null;
	released_because: string | null;
}

interface HoldItem {
	item_id: number;
	hold_id: number;
}

interface Import {
	id: number;
	mailbox_id: number;
	source: string;
	path: string;
	folder: string;
	fingerprint: string;
	process: number;
	next_file: number;
	next_offset: number;
	state: 'running' | 'done' | 'stopped';
	began_at: string;
	ended_at: string | null;
	read: number;
	added: number;
	already: number;
	unreadable: number;
	bytes: number;
}

interface ImportOddity {
	id: number;
	import_id: number;
	content_id: number | null;
	place: string;
	reason: string;
}

interface Item {
	id: number;
	mailbox_id: number;
	message_id: number;
	state: 'live' | 'archived' | 'binned' | 'destroyed';
	folder_id: number;
	origin_folder_id: number | null;
	imported_folder_id: number;
	received_at: number | null;
	received_on: string | null;
	date_in_doubt: number;
	bytes: number;
	seen: number | null;
	answered: number;
	flagged: number;
	draft: number;
	attachments: number;
	attachment_kinds: number;
	correspondent_id: number;
	organisation_id: number;
	binned_on: string | null;
	docket_id: number | null;
	list_id: number | null;
	mail_kind: number;
	addressed: number;
	thread_id: number | null;
	reference_set: number | null;
	answered_on: string | null;
	kept: number;
	pause_id: number | null;
	own_class: number | null;
	own_retention_id: number | null;
	class: number;
	retention_id: number | null;
	due_on: string | null;
	due_action: string | null;
	due_folder_id: number | null;
	never_archived: number;
	for_digest: number;
	importance: number;
	row_sum: number;
}

interface ItemTag {
	item_id: number;
	tag_id: number;
}

interface Job {
	id: number;
	use_case: string;
	input: string;
	label: string;
	who: string;
	state: 'running' | 'done' | 'failed' | 'stopped';
	result: string | null;
	error: string | null;
	attempts: number;
	began_at: string;
	ended_at: string | null;
	noticed_at: string | null;
	person_id: number | null;
	about: string | null;
	is_begun: number;
}

interface KeepLine {
	id: number;
	mailbox_id: number;
	text: string;
	decision: Decision;
	options: string;
	made_by: string;
	made_at: string;
}

interface Leaving {
	id: number;
	mailbox_id: number;
	list_id: number;
	line_id: number;
	way: WayKind;
	target: string;
	state: AttemptState;
	asked_on: string;
	who: string;
	sender: number | null;
	answered_at: string | null;
	answer: string;
}

interface Ledger {
	number: number;
	at: string;
	who: string;
	action: Action;
	details: string;
	previous: string;
	hash: string;
	person: number | null;
}

interface List {
	id: number;
	identifier: string;
	name: string;
	organisation: string;
}

interface ListLook {
	mailbox_id: number;
	person: string;
	looked_on: string;
}

interface Look {
	id: number;
	mailbox_id: number;
	item_id: number;
	who: string;
	what: string;
	on: string;
	at: string;
}

interface Mailbox {
	id: number;
	name: string;
	name_key: string;
	quota_bytes: number | null;
	bin_days: number;
	made_at: string;
	archives: number;
	addresses: string;
	inbox_aim: number;
	empties_bin: number;
	confirm_above: number;
	written_to_item: number;
	junk_days: number;
	clears_junk: number;
	digest_every: DigestRhythm;
	digest_folder: string;
	retention_id: number | null;
	retention_settings: number;
	retention_applied: number;
	retains: 'off' | 'ask' | 'do';
	retains_every: number;
	retained_on: string | null;
	owner_id: number | null;
	archive_levels: string;
	owner_tidies: number;
	signature: string;
	returns_answered: number;
	returned_through: number;
}

interface Message {
	id: number;
	content_id: number;
	message_id: string;
	reference_ids: string;
	subject: string;
	from_name: string;
	from_address: string;
	recipients: string;
	sent_at: number | null;
	list_id: string;
	importance: number;
	attachments: string;
	base_subject: string;
	is_reply: number;
	to_addresses: string;
	cc_addresses: string;
	traits: number;
	expires_at: number | null;
	event_ends_on: string | null;
	body_hash: Buffer | null;
	text_length: number;
	reading: number;
	leave_ways: number;
}

interface MessageSum {
	message_id: number;
	sum: number;
}

interface NamedRetention {
	name_key: string;
	name: string;
	retention_id: number | null;
	class: number | null;
}

interface Organisation {
	id: number;
	domain: string;
}

interface Outbox {
	id: number;
	source_id: number;
	item_id: number;
	docket_id: number | null;
	places: number;
	noted_at: string;
	changes: number;
	tries: number;
	trouble: string | null;
}

interface Outgoing {
	id: number;
	mailbox_id: number;
	kind: 'new' | 'reply' | 'reply-all' | 'forward';
	original_item_id: number | null;
	from_address: string;
	to_addresses: string;
	cc_addresses: string;
	subject: string;
	text: string;
	in_reply_to: string;
	reference_ids: string;
	attaches_original: number;
	filing: string;
	message_id: string;
	state: 'draft' | 'waiting' | 'sending' | 'failed' | 'sent' | 'discarded';
	send_at: string | null;
	tried_at: string | null;
	sent_at: string | null;
	said: string;
	is_filed: number;
	sent_item_id: number | null;
	made_at: string;
	made_by: string;
	person_id: number | null;
}

interface Pause {
	id: number;
	mailbox_id: number;
	folder_id: number | null;
	until: string;
	because: string;
	made_by: string;
	made_at: string;
	ended_at: string | null;
}

interface Person {
	id: number;
	name: string;
	name_key: string;
	address: string;
	address_key: string;
	role: 'administrator' | 'auditor' | 'colleague';
	password: string | null;
	code_secret: string | null;
	code_step: number;
	made_at: string;
	ended_at: string | null;
	at_once: number | null;
}

interface PersonGroup {
	id: number;
	name: string;
	name_key: string;
}

interface Pile {
	folder_id: number;
	mailbox_id: number;
	made_at: string;
	made_by: string;
}

interface PileItem {
	item_id: number;
	folder_id: number;
	because: string;
	until: string | null;
	put_on: string;
	put_by: string;
}

interface ProposalItem {
	mailbox_id: number;
	kind: string;
	item_id: number;
	better_item_id: number | null;
	reason: string;
}

interface ProposalRun {
	mailbox_id: number;
	ran_at: string;
}

interface RecordClass {
	id: number;
	word: string;
	name: string;
	name_key: string;
	letter: string;
	is_protected: number;
	quota_bytes: number | null;
	retention_id: number | null;
	removed_at: string | null;
}

interface RecoveryCode {
	person_id: number;
	hash: Buffer;
}

interface Reference {
	mailbox_id: number;
	id_hash: number;
	set_id: number;
}

interface Request {
	id: number;
	person_id: number;
	mailbox_id: number;
	wish: 'restore' | 'reach' | 'keep';
	folder_id: number | null;
	because: string;
	made_at: string;
	state: 'open' | 'granted' | 'in-part' | 'declined';
	word: string;
	restored: number;
	answered_at: string | null;
	answered_by: string | null;
	noticed_at: string | null;
	folder_name: string | null;
}

interface RequestItem {
	request_id: number;
	item_id: number;
}

interface Retention {
	id: number;
	series_id: number | null;
	terms: string | null;
}

interface Review {
	id: number;
	mailbox_id: number;
	until: string;
	because: string;
	asked_by: string;
	asked_on: string;
	answered_on: string | null;
	ended_on: string | null;
}

interface ReviewItem {
	review_id: number;
	item_id: number;
	due_on: string | null;
	due_action: string | null;
}

interface Rule {
	id: number;
	mailbox_id: number;
	position: number;
	name: string;
	query: string;
	stay: string;
	decision: string;
	options: string;
	since: string | null;
	until: string | null;
	is_on: number;
	made_at: string;
	made_by: string;
	removed_at: string | null;
	thread_item_id: number | null;
}

interface RuleItem {
	rule_id: number;
	item_id: number;
	run_id: number;
	why: 'all' | 'newest' | 'older' | 'heavier';
}

interface RuleRun {
	id: number;
	mailbox_id: number;
	on_day: string;
	docket_id: number | null;
}

interface SavedSearch {
	id: number;
	person_id: number;
	name: string;
	question: string;
}

interface SenderMark {
	id: number;
	verdict: string;
	kind: string;
	value: string;
	made_by: string;
	made_at: string;
}

interface Series {
	id: number;
	code: string;
	code_key: string;
	removed_at: string | null;
}

interface SeriesVersion {
	series_id: number;
	version: number;
	title: string;
	description: string;
	terms: string;
	authority: string;
	owner: string;
	since: string;
	because: string;
	made_by: string;
}

interface Session {
	id: number;
	hash: Buffer;
	person_id: number;
	stage: 'code' | 'code-wanted' | 'whole';
	began_at: number;
	seen_at: number;
	device: string;
}

interface Setting {
	key: string;
	value: string;
}

interface Slip {
	id: number;
	who: string;
	docket_id: number;
	person_id: number | null;
}

interface Source {
	id: number;
	mailbox_id: number;
	host: string;
	port: number;
	tls: 'implicit' | 'starttls' | 'none';
	certificate: string | null;
	user: string;
	auth: 'password' | 'token';
	secret: Buffer;
	left_out: string;
	made_at: string;
	made_by: string;
	passed_at: string | null;
	tried_at: string | null;
	error: string | null;
	quota_used: number | null;
	quota_limit: number | null;
	writes: number;
	archive_on: 'kovrel' | 'server';
	fetch_first: 'newest' | 'heaviest';
	bytes_a_second: number | null;
	connections: number;
	root: string;
	script_says: string | null;
	is_restored: number;
	disconnected_at: string | null;
}

interface SourceAhead {
	source_folder_id: number;
	uid: number;
	bytes: number;
	received_at: number | null;
	received_on: string | null;
	address: string;
	name: string;
	organisation: string;
	unread: number;
}

interface SourceFolder {
	id: number;
	source_id: number;
	path: string;
	folder_id: number;
	uid_validity: string;
	uid_next: number;
	messages: number;
	modseq: string | null;
	path_here: string;
}

interface SourceGone {
	item_id: number;
	source_id: number;
}

interface SourceItem {
	source_folder_id: number;
	uid: number;
	item_id: number;
	flags: number;
	keywords: string;
	internal_date: number | null;
	removal_begun: number;
}

interface SourceRemoved {
	item_id: number;
	source_id: number;
	internal_date: number | null;
}

interface Tag {
	id: number;
	name: string;
	name_key: string;
	colour: string;
	hidden: number;
}

interface Thread {
	id: number;
	mailbox_id: number;
	subject: string;
	title: string;
	loose: number;
}

interface WeightByCorrespondent {
	mailbox_id: number;
	state: string;
	correspondent_id: number;
	messages: number;
	bytes: number;
	unread: number;
}

interface WeightByForm {
	mailbox_id: number;
	state: string;
	size_band: number;
	attachment_kinds: number;
	mail_kind: number;
	messages: number;
	bytes: number;
	unread: number;
}

interface WeightByList {
	mailbox_id: number;
	state: string;
	list_id: number;
	messages: number;
	bytes: number;
	unread: number;
}

interface WeightByMonth {
	mailbox_id: number;
	state: string;
	folder_id: number;
	month: string;
	messages: number;
	bytes: number;
	unread: number;
}

interface WrittenTo {
	address: string;
	organisation: string;
}

declare module 'knex/types/tables.js' {
	interface Tables {
		access_grant: Table<AccessGrant, 'id' | 'person_id' | 'group_id' | 'folder_id' | 'until' | 'ended_at'>;
		awaited: Table<Awaited, 'id' | 'until' | 'ended_on' | 'ended_by' | 'answer_item_id' | 'docket_id'>;
		awaited_item: Table<AwaitedItem, never>;
		certificate: Table<Certificate, 'id' | 'decided_by' | 'sha256' | 'reach'>;
		certificate_item: Table<
			CertificateItem,
			'received_on' | 'due_on' | 'series_id' | 'version' | 'terms' | 'sender' | 'subject' | 'binned_on'
		>;
		class_quota: Table<ClassQuota, never>;
		content: Table<Content, 'id'>;
		content_part: Table<ContentPart, never>;
		correspondent: Table<Correspondent, 'id'>;
		desk_decision: Table<DeskDecision, 'id' | 'person_id'>;
		digest: Table<Digest, 'id' | 'docket_id'>;
		digest_item: Table<DigestItem, never>;
		digest_list: Table<DigestList, 'line_id'>;
		docket: Table<
			Docket,
			| 'id'
			| 'carried_out_at'
			| 'carried_out_by'
			| 'taken_back_at'
			| 'taken_back_by'
			| 'progress_item_id'
			| 'taken_back_messages'
			| 'name'
			| 'progress_position'
			| 'by_itself'
			| 'approved_at'
			| 'approved_by'
			| 'drafted_by_id'
			| 'carried_out_by_id'
			| 'taken_back_by_id'
			| 'approved_by_id'
			| 'archive_levels'
		>;
		docket_changer: Table<DocketChanger, 'person_id'>;
		docket_item: Table<
			DocketItem,
			'from_origin_folder_id' | 'from_binned_on' | 'from_docket_id' | 'from_value' | 'to_origin_folder_id' | 'done'
		>;
		docket_line: Table<
			DocketLine,
			| 'id'
			| 'oldest'
			| 'newest'
			| 'decision'
			| 'options'
			| 'conflicts'
			| 'elsewhere'
			| 'done_messages'
			| 'done_bytes'
			| 'flagged'
		>;
		due_weight: Table<DueWeight, never>;
		entry_link: Table<EntryLink, 'person_id'>;
		failed_attempt: Table<FailedAttempt, never>;
		file_text: Table<FileText, 'message_id' | 'text'>;
		folder: Table<
			Folder,
			'id' | 'parent_id' | 'role' | 'removed_at' | 'retention_id' | 'class' | 'closed_on' | 'never_archived'
		>;
		freed: Table<Freed, never>;
		group_member: Table<GroupMember, never>;
		hold: Table<Hold, 'id' | 'released_on' | 'released_by' | 'released_because'>;
		hold_item: Table<HoldItem, never>;
		import: Table<
			Import,
			'id' | 'next_file' | 'next_offset' | 'ended_at' | 'read' | 'added' | 'already' | 'unreadable' | 'bytes'
		>;
		import_oddity: Table<ImportOddity, 'id' | 'content_id'>;
		item: Table<
			Item,
			| 'id'
			| 'origin_folder_id'
			| 'received_at'
			| 'received_on'
			| 'seen'
			| 'answered'
			| 'flagged'
			| 'draft'
			| 'attachments'
			| 'attachment_kinds'
			| 'binned_on'
			| 'docket_id'
			| 'list_id'
			| 'mail_kind'
			| 'addressed'
			| 'thread_id'
			| 'reference_set'
			| 'answered_on'
			| 'kept'
			| 'pause_id'
			| 'own_class'
			| 'own_retention_id'
			| 'class'
			| 'retention_id'
			| 'due_on'
			| 'due_action'
			| 'due_folder_id'
			| 'never_archived'
			| 'for_digest'
			| 'importance'
			| 'row_sum'
		>;
		item_tag: Table<ItemTag, never>;
		job: Table<
			Job,
			'id' | 'result' | 'error' | 'attempts' | 'ended_at' | 'noticed_at' | 'person_id' | 'about' | 'is_begun'
		>;
		keep_line: Table<KeepLine, 'id'>;
		leaving: Table<Leaving, 'id' | 'sender' | 'answered_at' | 'answer'>;
		ledger: Table<Ledger, 'number' | 'person'>;
		list: Table<List, 'id' | 'organisation'>;
		list_look: Table<ListLook, never>;
		look: Table<Look, 'id'>;
		mailbox: Table<
			Mailbox,
			| 'id'
			| 'quota_bytes'
			| 'bin_days'
			| 'archives'
			| 'addresses'
			| 'inbox_aim'
			| 'empties_bin'
			| 'confirm_above'
			| 'written_to_item'
			| 'junk_days'
			| 'clears_junk'
			| 'digest_every'
			| 'digest_folder'
			| 'retention_id'
			| 'retention_settings'
			| 'retention_applied'
			| 'retains'
			| 'retains_every'
			| 'retained_on'
			| 'owner_id'
			| 'archive_levels'
			| 'owner_tidies'
			| 'signature'
			| 'returns_answered'
			| 'returned_through'
		>;
		message: Table<
			Message,
			| 'id'
			| 'sent_at'
			| 'base_subject'
			| 'is_reply'
			| 'to_addresses'
			| 'cc_addresses'
			| 'traits'
			| 'expires_at'
			| 'event_ends_on'
			| 'body_hash'
			| 'text_length'
			| 'reading'
			| 'leave_ways'
		>;
		message_sum: Table<MessageSum, 'message_id'>;
		named_retention: Table<NamedRetention, 'retention_id' | 'class'>;
		organisation: Table<Organisation, 'id'>;
		outbox: Table<Outbox, 'id' | 'docket_id' | 'changes' | 'tries' | 'trouble'>;
		outgoing: Table<
			Outgoing,
			| 'id'
			| 'original_item_id'
			| 'send_at'
			| 'tried_at'
			| 'sent_at'
			| 'said'
			| 'is_filed'
			| 'sent_item_id'
			| 'person_id'
		>;
		pause: Table<Pause, 'id' | 'folder_id' | 'ended_at'>;
		person: Table<Person, 'id' | 'password' | 'code_secret' | 'code_step' | 'ended_at' | 'at_once'>;
		person_group: Table<PersonGroup, 'id'>;
		pile: Table<Pile, 'folder_id'>;
		pile_item: Table<PileItem, 'item_id' | 'until'>;
		proposal_item: Table<ProposalItem, 'better_item_id'>;
		proposal_run: Table<ProposalRun, 'mailbox_id'>;
		record_class: Table<RecordClass, 'id' | 'quota_bytes' | 'retention_id' | 'removed_at'>;
		recovery_code: Table<RecoveryCode, never>;
		reference: Table<Reference, never>;
		request: Table<
			Request,
			'id' | 'folder_id' | 'word' | 'restored' | 'answered_at' | 'answered_by' | 'noticed_at' | 'folder_name'
		>;
		request_item: Table<RequestItem, never>;
		retention: Table<Retention, 'id' | 'series_id' | 'terms'>;
		review: Table<Review, 'id' | 'answered_on' | 'ended_on'>;
		review_item: Table<ReviewItem, 'due_on' | 'due_action'>;
		rule: Table<Rule, 'id' | 'since' | 'until' | 'removed_at' | 'thread_item_id'>;
		rule_item: Table<RuleItem, never>;
		rule_run: Table<RuleRun, 'id' | 'docket_id'>;
		saved_search: Table<SavedSearch, 'id'>;
		sender_mark: Table<SenderMark, 'id'>;
		series: Table<Series, 'id' | 'removed_at'>;
		series_version: Table<SeriesVersion, never>;
		session: Table<Session, 'id'>;
		setting: Table<Setting, never>;
		slip: Table<Slip, 'id' | 'person_id'>;
		source: Table<
			Source,
			| 'id'
			| 'certificate'
			| 'passed_at'
			| 'tried_at'
			| 'error'
			| 'quota_used'
			| 'quota_limit'
			| 'writes'
			| 'archive_on'
			| 'fetch_first'
			| 'bytes_a_second'
			| 'connections'
			| 'root'
			| 'script_says'
			| 'is_restored'
			| 'disconnected_at'
		>;
		source_ahead: Table<SourceAhead, 'received_at' | 'received_on'>;
		source_folder: Table<SourceFolder, 'id' | 'modseq' | 'path_here'>;
		source_gone: Table<SourceGone, 'item_id'>;
		source_item: Table<SourceItem, 'internal_date' | 'removal_begun'>;
		source_removed: Table<SourceRemoved, 'item_id' | 'internal_date'>;
		tag: Table<Tag, 'id' | 'hidden'>;
		thread: Table<Thread, 'id' | 'title' | 'loose'>;
		weight_by_correspondent: Table<WeightByCorrespondent, never>;
		weight_by_form: Table<WeightByForm, never>;
		weight_by_list: Table<WeightByList, never>;
		weight_by_month: Table<WeightByMonth, never>;
		written_to: Table<WrittenTo, never>;
	}
}
