/**
 * What somebody at the ferry operator has set before the demo begins: commands of the terminal, in their order. The periods
 * are those of the example schedule; nothing is switched on.
 */
export const OFFICE_STEPS: readonly (readonly string[])[] = [
	['schedule', 'import', '--starter'],
	[...['retain', 'Fuel and chandlery', '--mailbox', 'Harbour office'], ...['--series', 'FIN-01', '--class', 'record']],
	[...['retain', 'Complaints', '--mailbox', 'Harbour office'], ...['--series', 'CMP-01', '--class', 'record']],
	['retain', 'Newsletters', '--mailbox', 'Harbour office', '--period', 'P2Y'],
	['retain', 'Berths', 'Vessels', '--mailbox', 'Harbour office', '--series', 'GEN-02'],
	['retain', 'Drafts', '--named', '--class', 'working', '--period', 'P1Y'],
	[...['retain', '--default', '--mailbox', 'Harbour office', '--period', 'P5Y'], ...['--disposition', 'archive']],
	['retain', 'Invoices', '--mailbox', 'Workshop', '--series', 'FIN-01', '--class', 'record'],
	['retain', 'Inspections', '--mailbox', 'Workshop', '--series', 'LEG-01'],
	['retain', 'Lost property', '--mailbox', 'Passenger desk', '--period', 'P6M', '--disposition', 'review'],
	[
		...['hold', 'add', 'Terne claim', '--because', 'The insurer asks for everything about the Terne'],
		...['--from', 'Berglund Solicitors', '--query', 'terne']
	]
];
