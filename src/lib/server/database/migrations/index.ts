import type { Knex } from 'knex';
import * as mailboxes from './001_mailboxes_and_messages.ts';
import * as words from './002_words.ts';
import * as dockets from './003_dockets.ts';
import * as ledger from './004_ledger.ts';
import * as jobs from './005_imports_and_jobs.ts';
import * as sharedParts from './006_shared_parts.ts';
import * as archiveLayout from './007_archive_layout.ts';
import * as weights from './008_weights.ts';
import * as search from './009_search.ts';
import * as tags from './010_tags.ts';
import * as lots from './011_lots.ts';
import * as lists from './012_lists.ts';
import * as holds from './013_holds.ts';
import * as retention from './014_retention.ts';
import * as people from './015_people.ts';
import * as indexWrites from './016_index_writes.ts';
import * as indexMerges from './017_index_merges.ts';
import * as countedOnce from './018_counted_once.ts';
import * as slips from './019_slips.ts';
import * as protectedItems from './020_protected_items.ts';
import * as binnedOnCertificates from './021_binned_on_certificates.ts';
import * as proposalsAnew from './022_proposals_anew.ts';
import * as peopleByNumber from './023_people_by_number.ts';
import * as folderPages from './024_folder_pages.ts';
import * as neverArchived from './025_never_archived.ts';
import * as conversations from './026_conversations.ts';
import * as atOnce from './027_at_once.ts';
import * as archiveLevels from './028_archive_levels.ts';
import * as owners from './029_owners.ts';
import * as classes from './030_classes.ts';
import * as rules from './031_rules.ts';
import * as desk from './032_desk.ts';
import * as piles from './033_piles.ts';
import * as sheetOrders from './034_sheet_orders.ts';
import * as writing from './035_writing.ts';
import * as travel from './036_travel.ts';
import * as countedInFolders from './037_counted_in_folders.ts';
import * as sources from './038_sources.ts';
import * as outbox from './039_outbox.ts';
import * as rowSums from './040_row_sums.ts';
import * as wishedFolders from './041_wished_folders.ts';
import * as mailAhead from './042_mail_ahead.ts';
import * as scriptOnServer from './043_script_on_server.ts';
import * as orderOfDays from './044_order_of_days.ts';
import * as lotsOfAllMail from './045_lots_of_all_mail.ts';
import * as smallStatistics from './046_small_statistics.ts';
import * as removalsBegun from './047_removals_begun.ts';
import * as sourcesAfterRestore from './048_sources_after_restore.ts';
import * as disconnectedSources from './049_disconnected_sources.ts';
import * as lotsByAddressed from './050_lots_by_addressed.ts';

interface Migration {
	up(knex: Knex): Promise<void>;
	down(knex: Knex): Promise<void>;
}

/* knex_migrations stores these names: never rename or edit a migration that has landed; add a new one. */
const all: Record<string, Migration> = {
	'001_mailboxes_and_messages': mailboxes,
	'002_words': words,
	'003_dockets': dockets,
	'004_ledger': ledger,
	'005_imports_and_jobs': jobs,
	'006_shared_parts': sharedParts,
	'007_archive_layout': archiveLayout,
	'008_weights': weights,
	'009_search': search,
	'010_tags': tags,
	'011_lots': lots,
	'012_lists': lists,
	'013_holds': holds,
	'014_retention': retention,
	'015_people': people,
	'016_index_writes': indexWrites,
	'017_index_merges': indexMerges,
	'018_counted_once': countedOnce,
	'019_slips': slips,
	'020_protected_items': protectedItems,
	'021_binned_on_certificates': binnedOnCertificates,
	'022_proposals_anew': proposalsAnew,
	'023_people_by_number': peopleByNumber,
	'024_folder_pages': folderPages,
	'025_never_archived': neverArchived,
	'026_conversations': conversations,
	'027_at_once': atOnce,
	'028_archive_levels': archiveLevels,
	'029_owners': owners,
	'030_classes': classes,
	'031_rules': rules,
	'032_desk': desk,
	'033_piles': piles,
	'034_sheet_orders': sheetOrders,
	'035_writing': writing,
	'036_travel': travel,
	'037_counted_in_folders': countedInFolders,
	'038_sources': sources,
	'039_outbox': outbox,
	'040_row_sums': rowSums,
	'041_wished_folders': wishedFolders,
	'042_mail_ahead': mailAhead,
	'043_script_on_server': scriptOnServer,
	'044_order_of_days': orderOfDays,
	'045_lots_of_all_mail': lotsOfAllMail,
	'046_small_statistics': smallStatistics,
	'047_removals_begun': removalsBegun,
	'048_sources_after_restore': sourcesAfterRestore,
	'049_disconnected_sources': disconnectedSources,
	'050_lots_by_addressed': lotsByAddressed
};

/** Static imports, so that the bundler includes the migrations: there is no folder to read. */
export const migrationSource: Knex.MigrationSource<string> = {
	getMigrations: async () => Object.keys(all),
	getMigrationName: (name) => name,
	getMigration: async (name) => all[name] as Migration
};
