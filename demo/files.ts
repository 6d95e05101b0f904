import { PNG } from 'pngjs';
import type { Dice } from './random.ts';

/** A file to be attached. */
export interface DemoFile {
	name: string;
	type: string;
	content: Buffer;
}

/* Sky, sea and grain: what matters is that it is a real picture of a real size. */
export function photograph(dice: Dice, name: string, width: number, height: number): DemoFile {
	const png = new PNG({ width, height, colorType: 2 });
	const horizon = Math.floor(height * (0.3 + 0.3 * dice.next()));
	const warm = dice.between(0, 60);
	for (let y = 0; y < height; y++)
		for (let x = 0; x < width; x++) {
			const at = (y * width + x) * 4;
			const grain = Math.floor(dice.next() * 26);
			const sky = y < horizon;
			png.data[at] = (sky ? 120 + warm : 20) + Math.floor((y / height) * 60) + grain;
			png.data[at + 1] = (sky ? 160 : 70) + Math.floor((y / height) * 40) + grain;
			png.data[at + 2] = (sky ? 200 - warm : 110) + grain;
			png.data[at + 3] = 255;
		}
	return { name, type: 'image/png', content: PNG.sync.write(png, { deflateLevel: 1, colorType: 2 }) };
}

/** A PDF of one page of text (ISO 32000-1, the smallest that readers open). */
export function pdf(name: string, lines: readonly string[]): DemoFile {
	const escaped = lines.map((line) => `(${line.replace(/[\\()]/g, '\\$&')}) Tj T*`).join('\n');
	const stream = `BT /F1 11 Tf 56 780 Td 16 TL\n${escaped}\nET`;
	const objects = [
		'<< /Type /Catalog /Pages 2 0 R >>',
		'<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
		'<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 5 0 R /Resources << /Font << /F1 4 0 R >> >> >>',
		'<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
		`<< /Length ${Buffer.byteLength(stream)} >>\nstream\n${stream}\nendstream`
	];
	let body = '%PDF-1.4\n';
	const offsets = objects.map((object, at) => {
		const offset = body.length;
		body += `${at + 1} 0 obj\n${object}\nendobj\n`;
		return offset;
	});
	const entries = offsets.map((offset) => `${String(offset).padStart(10, '0')} 00000 n \n`).join('');
	const table = `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${entries}`;
	return {
		name,
		type: 'application/pdf',
		content: Buffer.from(
			`${body}${table}trailer << /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${body.length}\n%%EOF\n`,
			'latin1'
		)
	};
}

/** A table as CSV (RFC 4180). */
export function csv(name: string, rows: readonly (readonly string[])[]): DemoFile {
	const text = rows
		.map((row) => row.map((cell) => (/[",\r\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)).join(','))
		.join('\r\n');
	return { name, type: 'text/csv', content: Buffer.from(`${text}\r\n`) };
}

/** An appointment (RFC 5545). */
export function appointment(name: string, summary: string, start: Date): DemoFile {
	const stamp = start.toISOString().replace(/[-:]|\.\d+/g, '');
	const lines = [
		'BEGIN:VCALENDAR',
		'VERSION:2.0',
		'PRODID:-//skerryline.example//berths//EN',
		'BEGIN:VEVENT',
		`UID:${stamp}@berths.example`,
		`DTSTAMP:${stamp}`,
		`DTSTART:${stamp}`,
		`SUMMARY:${summary}`,
		'END:VEVENT',
		'END:VCALENDAR',
		''
	];
	return { name, type: 'text/calendar', content: Buffer.from(lines.join('\r\n')) };
}
