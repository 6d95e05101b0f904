import type { ParamMatcher } from '@sveltejs/kit';

export const match = ((text) => /^\d{1,15}$/.test(text)) satisfies ParamMatcher;
