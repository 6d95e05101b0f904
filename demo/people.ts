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

/** A list that writes again and again. */
export interface DemoList {
	from: Person;
	listId: string;
	title: string;
	topics: string[];
	/** Days between two issues. */
	every: number;
	oneClick: boolean;
}

export const lists: DemoList[] = [
	{
		from: person('Harbour Times', 'news@mail.harbourtimes.example'),
		listId: 'weekly.harbourtimes.example',
		title: 'Harbour Times weekly',
		topics: ['Quay fees compared', 'Shore power in small ports', 'Who dredges the sound?', 'Ticket machines that last'],
		every: 7,
		oneClick: true
	},
	{
		from: person('Deck & Engine Deals', 'deals@deckandengine.example'),
		listId: 'deals.deckandengine.example',
		title: 'Deck & Engine deals',
		topics: ['Mooring lines 30 % off', 'Impellers: buy two', 'Last chance: winter covers', 'New: silent bilge pumps'],
		every: 4,
		oneClick: true
	},
	{
		from: person('Tidewatch', 'bulletin@tidewatch.example'),
		listId: 'bulletin.tidewatch.example',
		title: 'Tide and weather bulletin',
		topics: [
			'Gale warning, north-west 8',
			'Spring tide this weekend',
			'Fog patches until noon',
			'Calm, light southerly'
		],
		every: 5,
		oneClick: false
	},
	{
		from: person('Island Chamber of Trade', 'rundbrief@inselkammer.example'),
		listId: 'rundbrief.inselkammer.example',
		title: 'Rundbrief der Inselkammer',
		topics: ['Saisonstart und Fährzeiten', 'Förderung für Kleinbetriebe', 'Neue Regeln für Frachtpapiere'],
		every: 21,
		oneClick: false
	},
	{
		from: person('Crewlist Discussion', 'crew-talk@lists.seafarers.example'),
		listId: 'crew-talk.lists.seafarers.example',
		title: '[crew-talk]',
		topics: ['Rest hours on short routes', 'Which survival suits?', 'Training day swap', 'Radio log on paper'],
		every: 3,
		oneClick: false
	}
];
