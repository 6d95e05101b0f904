import type { Component, Snippet } from 'svelte';
import type { LayoutLoad, LayoutServerData } from './$types';

/** What stands around a page for somebody who has signed in. */
type Frame = Component<{ data: LayoutServerData; children: Snippet }>;

async function frameFor({ person }: LayoutServerData): Promise<Frame | undefined> {
	if (!person) return undefined;
	if (person.role === 'colleague') return (await import('$lib/components/frames/FindFrame.svelte')).default;
	return (await import('$lib/components/frames/OfficeFrame.svelte')).default;
}

/** Loads the frame once somebody has signed in: it would be a third of what the first page loads. */
export const load: LayoutLoad = async ({ data }) => ({ ...data, Frame: await frameFor(data) });
