import type { Person } from './compose.ts';

/* The island ferry operator Skerry Line and those it writes with. Nobody here exists. */

const person = (name: string, address: string): Person => ({ name, address });

export const office = person('Harbour Office', 'office@skerryline.example');
export const tove = person('Tove Marstrand', 'tove.marstrand@skerryline.example');

export const workshop = person('Workshop', 'workshop@skerryline.example');
export const desk = person('Passenger Desk', 'desk@skerryline.example');

export const colleagues = [
	person('Aldo Ferrini', 'aldo.ferrini@skerryline.example'),
	person('Birgit Søndergård', 'birgit.sondergard@skerryline.example'),
	person('Caelan Rhys', 'caelan.rhys@skerryline.example'),
	person('Dagny Ås', 'dagny.as@skerryline.example'),
	person('Emre Yıldız', 'emre.yildiz@skerryline.example'),
	person('Fiona MacAskill', 'fiona.macaskill@skerryline.example')
];

export const suppliers = [
	person('Northfuel Accounts', 'accounts@northfuel.example'),
	person('Northfuel Dispatch', 'dispatch@bunkering.northfuel.example'),
	person('Anchor & Rope Chandlery', 'orders@anchorandrope.example'),
	person('Kjell Brattli', 'kjell.brattli@slipworks.example'),
	person('Mireille Kerouac', 'm.kerouac@chantier-goeland.example'),
	person('Holm Paint Works', 'billing@holmpaint.example'),
	person('Northfuel Orders', 'orders@shop.northfuel.example'),
	person('Brightline Electrics', 'rechnung@brightline-electrics.example')
];

export const charterers = [
	person('Sound & Skerry Weddings', 'hello@soundandskerry.example'),
	person('Vesterøy Brass Band', 'kasserer@vesteroybrass.example'),
	person('Institute of Island Birds', 'field@islandbirds.example'),
	person('Harbour Film Unit', 'production@harbourfilm.example')
];

export const authorities = [
	person('Vessel Inspection', 'inspection@seasafety.example'),
	person('Harbour Master Vesterøy', 'harbourmaster@vesteroy-port.example'),
	person('Insurance Desk', 'claims@mutualhull.example')
];

export const passengers = [
	person('Ragnhild Eide', 'ragnhild.eide@postbox.example'),
	person('José Ángel Núñez', 'joseangel@correo.example'),
	person('Élodie Lefèvre', 'elodie.lefevre@courriel.example'),
	person('Jürgen Größl', 'j.groessl@brief.example'),
	person('Мария Белова', 'm.belova@pochta.example'),
	person('田中 花子', 'hanako.tanaka@tegami.example'),
	person('Oona Kettunen', 'oona@postbox.example'),
	person('Piotr Żółkiewski', 'piotr.zolkiewski@poczta.example')
];

/** What a list does when it is asked to let go. */
type Manner = 'obeys' | 'slow' | 'fails' | 'redirects' | 'ignores' | 'hangs';

/** A list that writes again and again. */
export interface DemoList {
	from: Person;
	listId: string;
	title: string;
	topics: string[];
	/** Days between two issues. */
	every: number;
	/** How it can be left: by a request, a mail or a link in its header, or only by its footer. */
	offers: ('one-click' | 'mail' | 'link' | 'footer')[];
	manner: Manner;
	/** In what words its footer offers to leave. */
	footer: string;
	/** Whether somebody at the office has written to them. */
	known: boolean;
}

const FOOTERS = {
	en: 'To leave this list:',
	de: 'Rundbrief abbestellen:',
	fr: 'Pour vous désabonner :',
	es: 'Para darse de baja:'
};

type Told = Partial<Omit<DemoList, 'from' | 'listId' | 'title' | 'topics' | 'footer'>> & {
	language?: keyof typeof FOOTERS;
};

/* Most lists can be left by a mail or a link, obey, and are of somebody one knows. */
function list(from: Person, label: string, title: string, topics: string[], told: Told = {}): DemoList {
	const domain = from.address.split('@')[1]?.split('.').slice(-2).join('.') ?? '';
	const { language = 'en', ...rest } = told;
	return {
		from,
		listId: `${label}.${domain}`,
		title,
		topics,
		every: 14,
		offers: ['mail', 'link'],
		manner: 'obeys',
		footer: FOOTERS[language],
		known: true,
		...rest
	};
}

/** Those that write a lot, for years. */
export const lists: DemoList[] = [
	list(
		person('Harbour Times', 'news@mail.harbourtimes.example'),
		'weekly',
		'Harbour Times weekly',
		['Quay fees compared', 'Shore power in small ports', 'Who dredges the sound?', 'Ticket machines that last'],
		{ every: 7, offers: ['one-click', 'mail', 'link'] }
	),
	list(
		person('Deck & Engine Deals', 'deals@deckandengine.example'),
		'deals',
		'Deck & Engine deals',
		['Mooring lines 30 % off', 'Impellers: buy two', 'Last chance: winter covers', 'New: silent bilge pumps'],
		{ every: 4, offers: ['one-click', 'mail', 'link'], manner: 'ignores', known: false }
	),
	list(
		person('Tidewatch', 'bulletin@tidewatch.example'),
		'bulletin',
		'Tide and weather bulletin',
		['Gale warning, north-west 8', 'Spring tide this weekend', 'Fog patches until noon', 'Calm, light southerly'],
		{ every: 5 }
	),
	list(
		person('Island Chamber of Trade', 'rundbrief@inselkammer.example'),
		'rundbrief',
		'Rundbrief der Inselkammer',
		['Saisonstart und Fährzeiten', 'Förderung für Kleinbetriebe', 'Neue Regeln für Frachtpapiere'],
		{ every: 21, language: 'de', manner: 'slow' }
	),
	list(
		person('Crewlist Discussion', 'crew-talk@lists.seafarers.example'),
		'crew-talk.lists',
		'[crew-talk]',
		['Rest hours on short routes', 'Which survival suits?', 'Training day swap', 'Radio log on paper'],
		{ every: 3, offers: ['mail'] }
	)
];

/** Those that have come to write as well, as they do. */
export const smallerLists: DemoList[] = [
	list(
		person('Northfuel Price Letter', 'prices@northfuel.example'),
		'prices',
		'Northfuel price letter',
		['Gas oil this week', 'Winter blends from October', 'Bunker slots at the east quay'],
		{ every: 7, offers: ['one-click', 'link'] }
	),
	list(
		person('Northfuel Club', 'club@news.northfuel.example'),
		'club',
		'Northfuel Club',
		['Your points', 'Mugs for early bookers', 'Win a day at sea'],
		{ every: 10, offers: ['one-click', 'link'], manner: 'slow' }
	),
	list(
		person('Anchor & Rope Offers', 'offers@anchorandrope.example'),
		'offers',
		'Anchor & Rope offers',
		['Shackles by the dozen', 'Fender week', 'Clear-out: old stock'],
		{ every: 6, offers: ['one-click', 'mail', 'link'] }
	),
	list(
		person('Holm Paint Works News', 'news@holmpaint.example'),
		'news',
		'Holm Paint news',
		['Antifouling explained', 'Hull blue is back', 'Open day at the works'],
		{ every: 21, offers: ['mail'] }
	),
	list(
		person('Brightline Electrics', 'newsletter@brightline-electrics.example'),
		'newsletter',
		'Brightline Newsletter',
		['LED an Deck', 'Ladegeräte im Vergleich', 'Messe im Frühjahr'],
		{ every: 28, offers: ['footer'], language: 'de' }
	),
	list(
		person('Chantier du Goéland', 'lettre@chantier-goeland.example'),
		'lettre',
		'La lettre du chantier',
		['Places d’hivernage', 'Nouvelle cale', 'Portes ouvertes'],
		{ every: 30, offers: ['footer'], language: 'fr' }
	),
	list(
		person('Slipworks Bulletin', 'bulletin@slipworks.example'),
		'bulletin',
		'Slipworks bulletin',
		['Slip times in spring', 'New cradle tested', 'Welding course'],
		{ every: 30, offers: ['link'], manner: 'fails' }
	),
	list(
		person('Mutual Hull Circular', 'circular@mutualhull.example'),
		'circulars',
		'Mutual Hull circulars',
		['Deductibles from January', 'Loss statistics', 'Reporting near misses'],
		{ every: 40, offers: ['mail'] }
	),
	list(
		person('Vesterøy Port Notices', 'notices@vesteroy-port.example'),
		'notices',
		'Notices to harbour users',
		['Berth 4 closed', 'Crane inspection', 'Quay lights renewed'],
		{ every: 9, offers: ['mail', 'link'] }
	),
	list(
		person('Ticketry', 'hello@ticketry.example'),
		'product',
		'Ticketry product news',
		['Scan faster', 'Refunds in one step', 'What is new in spring'],
		{ every: 8, offers: ['one-click', 'link'], manner: 'fails', known: false }
	),
	list(
		person('Ticketry Academy', 'academy@learn.ticketry.example'),
		'academy',
		'Ticketry Academy',
		['Three tips for queues', 'Webinar on Thursday', 'Your certificate awaits'],
		{ every: 12, offers: ['one-click', 'link'], manner: 'redirects', known: false }
	),
	list(
		person('Office Chairs Direct', 'sale@chairsdirect.example'),
		'sale',
		'Chairs Direct sale',
		['Sit better', 'Ends tonight', 'Last chance, really'],
		{ every: 5, offers: ['link'], known: false }
	),
	list(
		person('Prize Draw Office', 'winner@lucky-draw.example'),
		'draw',
		'Prize draw',
		['You may have won', 'Your voucher waits', 'Claim by Friday'],
		{ every: 6, offers: ['footer'], known: false }
	),
	list(
		person('Boletín del Puerto', 'boletin@puertonorte.example'),
		'boletin',
		'Boletín del Puerto Norte',
		['Tarifas de verano', 'Jornada de puertas abiertas', 'Nuevo muelle'],
		{ every: 30, offers: ['footer'], language: 'es', known: false }
	),
	list(
		person('Ferry Operators Forum', 'forum@ferryforum.example'),
		'members',
		'Ferry Operators Forum',
		['Minutes of the spring meeting', 'Position on emissions', 'Call for speakers'],
		{ every: 20, offers: ['mail', 'link'] }
	),
	list(
		person('Seafood Weekly', 'weekly@seafood-weekly.example'),
		'weekly',
		'Seafood Weekly',
		['Prices at the auction', 'Three recipes', 'A visit to the smokehouse'],
		{ every: 7, offers: ['one-click', 'mail', 'link'], manner: 'hangs' }
	),
	list(
		person('Island Events', 'tips@islandevents.example'),
		'tips',
		'Island events',
		['This weekend', 'Folk festival dates', 'Lantern walk'],
		{ every: 7, offers: ['one-click', 'link'] }
	),
	list(
		person('Payroll Bureau', 'info@payrollbureau.example'),
		'info',
		'Payroll Bureau info',
		['New tables', 'Holiday pay', 'Deadline on the tenth'],
		{ every: 30, offers: ['mail'] }
	)
];
