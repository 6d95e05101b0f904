import type { Progress } from '$lib/server/context/index.ts';

/** Everything but results goes to standard error. */
export function say(text: string): void {
	process.stderr.write(`${text.replaceAll('\u00a0', ' ')}\n`);
}

/** Writes a result for a person, or one JSON document with `--json`. A person's has plain spaces: it is searched with other tools. */
export function print(result: unknown, asJson: boolean, lines: readonly string[]): void {
	const text = asJson ? JSON.stringify(result, undefined, 2) : lines.join('\n').replaceAll('\u00a0', ' ');
	process.stdout.write(`${text}\n`);
}

/** Shows progress in one line of a terminal; silent if standard error is no terminal. */
export function progressLine(): { report(progress: Progress): void; end(): void } {
	if (!process.stderr.isTTY) return { report: () => {}, end: () => {} };
	return {
		report: ({ done, total, note }) => {
			const share = total ? ` (${Math.floor((100 * done) / total)} %)` : '';
			process.stderr.write(`\r\u001b[K${note}${share}`);
		},
		end: () => process.stderr.write('\r\u001b[K')
	};
}

/** Asks for a word that is not shown while it is typed. @returns undefined where nobody sits at a terminal, or after Control-C */
export async function askSecretly(question: string): Promise<string | undefined> {
	const { stdin } = process;
	if (!stdin.isTTY) return undefined;
	process.stderr.write(question);
	stdin.setRawMode(true);
	let typed = '';
	try {
		for await (const bytes of stdin)
			for (const letter of String(bytes)) {
				if (letter === '\r' || letter === '\n') return typed;
				if (letter === '\u0003') return undefined;
				typed = letter === '\u007f' ? typed.slice(0, -1) : typed + letter;
			}
		return typed;
	} finally {
		stdin.setRawMode(false);
		process.stderr.write('\n');
	}
}

/** A table as text: the first column is aligned to the left, the others to the right. */
export function table(rows: readonly (readonly string[])[]): string[] {
	const widths = (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => [...(row[column] ?? '')].length)));
	return rows.map((row) =>
		row
			.map((cell, column) => {
				const padding = ' '.repeat((widths[column] ?? 0) - [...cell].length);
				return column === 0 ? cell + padding : padding + cell;
			})
			.join('  ')
			.trimEnd()
	);
}
