import { type Context, defineUseCase } from '../context/index.ts';
import { getSetting } from '../database/index.ts';

/** The first month of the office's financial year, 1 to 12; January unless it is set. */
export async function financialYearMonth({ db }: Pick<Context, 'db'>): Promise<number> {
	return Number((await getSetting(db, 'financial-year-month')) ?? 1);
}

/** The use cases of this file. */
export const financialYearUseCases = [
	defineUseCase({
		name: 'financialYearMonth',
		thread: 'reader',
		right: 'oversight',
		run: financialYearMonth
	})
] as const;
